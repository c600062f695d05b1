"""The command line: the same core, without a window.

Exit codes: 0 done or clean, 1 findings, 2 something could not be read, written or understood.
"""

from __future__ import annotations

import argparse
import io
import json
import os
import sys
from collections.abc import Callable, Iterator, Sequence
from typing import Any, NoReturn, TypeAlias

from topion import __version__
from topion.errors import TopionError, one_sentence
from topion.parsing import number, pair, place, sizes, whole


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command; returns its exit code and never shows a traceback for bad input."""
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # its threads cost more than they give
    for stream in (sys.stdout, sys.stderr):  # names of files need not be text
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")
    parser = _parser()
    try:
        args = parser.parse_args(argv)
        if not hasattr(args, "run"):
            parser.print_help()
            return 2
        return int(args.run(args) or 0)
    except TopionError as problem:
        print(f"topion: {problem}", file=sys.stderr)
    except OSError as problem:
        sentence = one_sentence(f"{problem.filename or 'file'}: {problem.strerror or problem}")
        print(f"topion: {sentence}", file=sys.stderr)
    except MemoryError:
        print("topion: there is not enough memory for this", file=sys.stderr)
    except KeyboardInterrupt:
        print("topion: stopped", file=sys.stderr)
    except Exception as problem:  # nobody foresaw it: one sentence, and the trace in the log
        from topion.logbook import noted

        print(f"topion: {noted(problem)}", file=sys.stderr)
    return 2


class _Parser(argparse.ArgumentParser):
    """Says what is wrong in one sentence, as everything else does."""

    def __init__(self, *args: Any, **settings: Any) -> None:
        settings.setdefault("allow_abbrev", False)
        super().__init__(*args, **settings)

    def error(self, message: str) -> NoReturn:
        """Raises TopionError."""
        raise TopionError(f"{message.rstrip('.')}; {self.prog} --help tells what can be said")


_Commands: TypeAlias = "argparse._SubParsersAction[_Parser]"
_Run: TypeAlias = Callable[[argparse.Namespace], int | None]


def _parser() -> _Parser:
    parser = _Parser(
        prog="topion", description="Paint rooms and maps with tile sets and rule-based brushes."
    )
    parser.add_argument("--version", action="version", version=f"topion {__version__}")
    commands = parser.add_subparsers(title="commands", metavar="COMMAND")
    _add_new(commands)
    _add_import(commands)
    check = _command(commands, "check", _check,
                     "List the findings of the survey: 0 clean, 1 findings.")  # fmt: skip
    check.add_argument("project", type=place)
    check.add_argument("--json", action="store_true", help="findings as JSON")
    check.add_argument("--all", action="store_true", help="also those that were accepted")
    _add_render(commands)
    _add_export(commands)
    _add_walk(commands)
    _add_window(commands)
    schema = _command(commands, "schema", _schema, "Print the JSON Schema of a bundle.")
    schema.add_argument("-o", "--out", type=place, default=None)
    return parser


def _command(commands: _Commands, name: str, run: _Run, text: str, brief: str = "") -> _Parser:
    """A command of its own.  brief : what the list of commands says, where that is shorter."""
    made = commands.add_parser(name, help=brief or text, description=text)
    made.add_argument("--version", action="version", version=f"topion {__version__}")
    made.set_defaults(run=run)
    return made


def _add_new(commands: _Commands) -> None:
    new = _command(commands, "new", _new, "Make a new project folder with one room.")
    new.add_argument("project", type=place)
    new.add_argument("--name", default="", help="its name (default: the folder's)")
    new.add_argument("--room", default="Room 1", help="name of the first room")
    new.add_argument(
        "--size",
        default="64x40",
        help="of that room in cells, WIDTHxHEIGHT, or WIDTHxHEIGHTxLEVELS for a voxel room",
    )
    new.add_argument("--cell", type=whole, default=16, help="cell size in px")


def _add_import(commands: _Commands) -> None:
    bring = _command(commands, "import", _no_kind, "Bring files into a project.")
    kinds = bring.add_subparsers(title="kinds", metavar="KIND")
    sheet = _command(kinds, "sheet", _import_sheet, "Bring in a sheet.", "a tile sheet (PNG)")
    sheet.add_argument("project", type=place)
    sheet.add_argument("sheet", type=place)
    sheet.add_argument("--tile", default="", help="WIDTHxHEIGHT in px (default: found by itself)")
    sheet.add_argument("--drawings", action="store_true",
                       help="cut round each drawing that lies by itself")  # fmt: skip
    sheet.add_argument("--margin", type=whole, help="px round the sheet")
    sheet.add_argument("--spacing", type=whole, help="px between tiles")
    sheet.add_argument("--name", default="", help="of the tile set (default: the file's)")

    mesh = _command(kinds, "mesh", _import_mesh, "Bring in a mesh as voxels.",
                    "a mesh (OBJ, PLY, STL, glTF) as voxels")  # fmt: skip
    mesh.add_argument("project", type=place)
    mesh.add_argument("mesh", type=place)
    mesh.add_argument("--name", required=True, help="of the prefab, block or room")
    mesh.add_argument("--size", type=whole, required=True, help="voxels along its longest side")
    mesh.add_argument("--into", choices=("prefab", "block", "room"), default="prefab")
    up = "the axis that points up (default: y, but z for PLY and STL)"
    mesh.add_argument("--up", choices=("y", "z"), default=None, help=up)

    stamp = _command(kinds, "stamp", _import_stamp, "Bring something in as a stamp.",
                     "a mesh, an array, slices, heights or a room as a stamp")  # fmt: skip
    stamp.add_argument("project", type=place)
    stamp.add_argument("file", type=place,
                       help="a mesh, an .npy array, a grey PNG, a folder of PNG slices, or with "
                            "--room another project")  # fmt: skip
    stamp.add_argument("--name", required=True, help="of the card")
    stamp.add_argument("--size", type=whole, default=32, help="of a mesh: cells along it")
    stamp.add_argument("--levels", type=whole, default=16, help="of heights: what white stands for")
    stamp.add_argument("--material", default="", help="that all of it is made of")
    stamp.add_argument("--room", default="", help="of the other project")
    _add_looks(kinds)


def _add_looks(kinds: _Commands) -> None:
    """What rooms are worn in."""
    palette = _command(kinds, "palette", _import_palette, "Bring in the colours of a GPL file.",
                       "the colours of a GPL palette file")  # fmt: skip
    palette.add_argument("project", type=place)
    palette.add_argument("file", type=place)

    tints = _command(kinds, "tints", _import_tints, "Bring in a tint map from text rows.",
                     "a tint map of a room from text rows")  # fmt: skip
    tints.add_argument("project", type=place)
    tints.add_argument("room")
    tints.add_argument("file", type=place)
    tints.add_argument("--name", default="", help="of the map (default: as the file says)")

    theme = _command(kinds, "theme", _import_theme, "Bring in another sheet for a tile set.",
                     "another sheet for the slots of a tile set")  # fmt: skip
    theme.add_argument("project", type=place)
    theme.add_argument("tileset")
    theme.add_argument("sheet", type=place)
    theme.add_argument("--theme", required=True, metavar="NAME", help="the theme it belongs to")


def _add_render(commands: _Commands) -> None:
    render = _command(commands, "render", _render, "Write a room as a PNG picture.")
    render.add_argument("project", type=place)
    render.add_argument("room")
    render.add_argument("-o", "--out", type=place, required=True, metavar="OUT.png")
    render.add_argument("--scale", type=number, help="1 (the default) is the room's cell size")
    render.add_argument("--layer", default=None, help="only this layer of a flat room")
    render.add_argument("--view", help="of a voxel room: a corner, top, south, east or north")
    render.add_argument("--px", help="of a voxel room: WIDTHxHEIGHT of the picture")
    render.add_argument("--perspective", action="store_true", help="of a voxel room")
    render.add_argument("--theme", metavar="NAME", help="worn in that theme; '' for the first")
    render.add_argument("--tint", metavar="NAME", help="worn in that tint map; '' for none")


class _ExportKinds:
    """The names of all export formats, loaded when somebody asks for them."""

    def __iter__(self) -> Iterator[str]:
        from topion.formats.exports import EXPORTS

        return iter(EXPORTS)

    def __contains__(self, kind: object) -> bool:
        return kind in list(self)


def _add_export(commands: _Commands) -> None:
    export = _command(commands, "export", _export, "Write rooms in a format of other programs.")
    export.add_argument("project", type=place)
    export.add_argument("room", nargs="?", default=None, help="one room (default: all)")
    export.add_argument("--to", choices=_ExportKinds(), required=True, metavar="FORMAT",
                        help="one of %(choices)s")  # fmt: skip
    export.add_argument("-o", "--out", type=place, required=True, metavar="DIR")
    export.add_argument("--scale", type=number, help="of PNG pictures (default: 1)")


def _add_walk(commands: _Commands) -> None:
    walk = _command(commands, "walk", _walk, "Play a recorded walk again: 0 if it ends as it did, "
                    "1 if not, 2 if it cannot be read.  With --reach: where the figure gets, 1 if "
                    "no way to some place was found.")  # fmt: skip
    walk.add_argument("project", type=place)
    walk.add_argument("room", help="in which the walk begins")
    walk.add_argument("--reach", action="store_true", help="search where the figure can get")
    walk.add_argument("--out", type=place, default=None, metavar="DIR",
                      help="with --reach: write the way to each place as a recording")  # fmt: skip
    walk.add_argument("--replay", type=place, default=None, metavar="FILE",
                      help="a recording, as in the folder recordings of a project")  # fmt: skip
    walk.add_argument("--json", action="store_true", help="every tick, or each place, as JSON")


def _add_window(commands: _Commands) -> None:
    open_ = _command(commands, "open", _open, "Open a project in the window.")
    open_.add_argument("project", type=place, nargs="?", default=None)

    demo = _command(commands, "demo", _demo,
                    "Open the demo; without a display, play it and write pictures.")  # fmt: skip
    demo.add_argument("--out", type=place, default=None, metavar="DIR", help="where to write")
    demo.add_argument("--play", action="store_true", help="play it even if there is a display")


def _new(args: argparse.Namespace) -> None:
    from topion import scripting

    size = sizes(args.size, "the size")
    handle = scripting.new(None, args.name or scripting.name_of(args.project))
    handle.add_room(args.room, size, args.cell)
    if args.project.exists() and (not args.project.is_dir() or any(args.project.iterdir())):
        raise TopionError(f"{args.project} is there already and not empty")
    handle.save(args.project)
    told = " × ".join(str(side) for side in (size[-1], size[-2], *size[:-2]))
    print(f"made {args.project} with the room {args.room}, {told} cells")


def _no_kind(args: argparse.Namespace) -> None:
    raise TopionError(
        "say what to import: topion import sheet, mesh, stamp, palette, tints or theme …"
    )


def _import_sheet(args: argparse.Namespace) -> None:
    from topion import scripting
    from topion.formats.sheet import count_slots, drawings_cut
    from topion.model.tileset import Cut
    from topion.pictures.png import read_png_file

    if args.drawings and (args.tile or args.margin is not None or args.spacing is not None):
        raise TopionError("--drawings leaves no room for a tile size, a margin or a spacing")
    if not args.tile and (args.margin is not None or args.spacing is not None):
        raise TopionError("a margin or a spacing needs a tile size: --tile WIDTHxHEIGHT")
    cut = None
    if args.tile:
        cut = Cut(pair(args.tile, "the tile size"), args.margin or 0, args.spacing or 0)
    if args.drawings:
        cut = drawings_cut(read_png_file(args.sheet).rgba, args.sheet.name)
    handle = scripting.open(args.project)
    tileset = handle.add_sheet(args.sheet, args.name, cut)
    count = count_slots(tileset.sheet.rgba, tileset.cut)
    handle.save()
    height, width = tileset.cut.tile
    of = "up to " if tileset.cut.rects else ""
    print(
        f"brought in {tileset.name}: {count.slots} slots of {of}{width} × {height} px, "
        f"{count.empty} empty ones skipped, {count.equal} equal to an earlier one"
    )


def _import_mesh(args: argparse.Namespace) -> None:
    from topion import scripting

    handle = scripting.open(args.project)
    model = handle.import_mesh(args.mesh, args.name, args.size, args.into, up=args.up)
    handle.save()
    depth, height, width = model.size
    filled = int((model.cells > 0).sum())
    print(
        f"brought in {args.name} as a {args.into}: {width} × {height} × {depth} voxels, "
        f"{filled:,} filled, {len(model.palette)} colours"
    )


def _import_stamp(args: argparse.Namespace) -> None:
    from topion import scripting

    handle = scripting.open(args.project)
    brush = handle.import_stamp(args.file, args.name, size=args.size, levels=args.levels,
                                material=args.material, room=args.room)  # fmt: skip
    handle.save()
    told = dict(brush.facts()).get("Holds", "")
    print(f"brought in {args.name}, {brush.summary()}: {told}")


def _import_palette(args: argparse.Namespace) -> None:
    from topion import scripting

    handle = scripting.open(args.project)
    count = handle.import_palette(args.file)
    handle.save()
    print(f"brought in {count} colour{'s' if count != 1 else ''} from {args.file.name}")


def _import_tints(args: argparse.Namespace) -> None:
    from topion import scripting

    handle = scripting.open(args.project)
    name = handle.room(args.room).import_tints(args.file, args.name)
    handle.save()
    print(f"brought in the tint map {name} of {args.room}")


def _import_theme(args: argparse.Namespace) -> None:
    from topion import scripting

    handle = scripting.open(args.project)
    missing = handle.import_theme(args.tileset, args.sheet, args.theme)
    handle.save()
    print(f"brought in the theme {args.theme} for {args.tileset}")
    if missing:
        more = f" and {len(missing) - 8} more" if len(missing) > 8 else ""
        print(f"{len(missing)} slots stay as in the first: {', '.join(missing[:8])}{more}")


def _check(args: argparse.Namespace) -> int:
    from topion.formats.folder import read_project
    from topion.survey import survey
    from topion.survey.judging import judged

    project = read_project(args.project)
    every = judged(project, survey(project))
    open_ = [one for one in every if not one.word]
    if args.json:
        from topion.model.plain import to_plain

        shown = every if args.all else open_
        plain = [{**to_plain(one.finding), **({"accepted": one.word} if one.word else {})}
                 for one in shown]  # fmt: skip
        print(json.dumps(plain, ensure_ascii=False, indent=1))
        return 1 if open_ else 0
    for one in every if args.all else open_:
        print(one.finding.text() + (f" accepted: {one.word}" if one.word else ""))
    more = len(every) - len(open_)
    off = project.shelf("unasked")
    told = [f"{len(open_)} finding{'s' if len(open_) != 1 else ''}"]
    told += [f"{more} accepted"] * bool(more)
    told += [f"off: {', '.join(f'{name} ({o.reason})' for name, o in off.items())}"] * bool(off)
    print(", ".join(told))
    return 1 if open_ else 0


def _check_for_kind(args: argparse.Namespace, is_solid: bool) -> None:
    """Raises TopionError for options that the other kind of room has."""
    others = {"--layer": args.layer} if is_solid else {
        "--view": args.view, "--px": args.px, "--perspective": args.perspective or None
    }  # fmt: skip
    for option, value in others.items():
        if value is not None:
            kind, other = ("voxel", "flat") if is_solid else ("flat", "voxel")
            raise TopionError(f"{option} is for {other} rooms, but {args.room} is a {kind} room")
    if args.px is not None and args.scale is not None:
        raise TopionError("--px and --scale both say how large the picture is; say one of them")


def _render(args: argparse.Namespace) -> None:
    from topion import scripting
    from topion.formats.out import check_out, write_out
    from topion.render.scene import room_bands
    from topion.render.solid_scene import solid_bands
    from topion.render.wear import worn

    check_out(args.out)
    scale = 1.0 if args.scale is None else args.scale
    room = scripting.open(args.project).room(args.room)
    _check_for_kind(args, room.data.info.axes == 3)
    shown = worn(room.project.data, room.data, args.theme, args.tint)
    if room.data.info.axes == 3:
        size = pair(args.px, "the picture's size") if args.px is not None else None
        bands = solid_bands(
            room.project.data,
            shown,
            view="south-east" if args.view is None else args.view,
            size=size,
            scale=scale,
            perspective=args.perspective,
        )
    else:
        layer_id = room.data.id_of(args.layer) if args.layer is not None else None
        bands = room_bands(room.project.data, shown, scale, layer_id)
    write_out(args.out, bands.png())
    print(f"wrote {args.out}, {bands.width} × {bands.height} px")


def _export(args: argparse.Namespace) -> None:
    from topion import scripting
    from topion.formats.exports import EXPORTS, export_files
    from topion.formats.out import write_out

    if args.scale is not None and not EXPORTS[args.to].scales:
        raise TopionError(f"--scale is for pictures, but {args.to} has no size")

    project = scripting.open(args.project).data
    rooms = (args.room,) if args.room is not None else tuple(project.rooms)
    for name in rooms:
        project.room(name)
    args.out.mkdir(parents=True, exist_ok=True)
    names = set()
    scale = 1.0 if args.scale is None else args.scale
    for name, data in export_files(project, rooms, args.to, scale):
        write_out(args.out / name, data)
        names.add(name)
    print(f"wrote {len(names)} file{'s' if len(names) != 1 else ''} to {args.out}")


def _walk(args: argparse.Namespace) -> int:
    from topion.cli_walk import walk

    return walk(args)


def _open(args: argparse.Namespace) -> int:
    from topion.view.app import run

    if args.project is not None and not args.project.exists():
        raise TopionError(f"{args.project} is missing")
    return run(args.project)


def _demo(args: argparse.Namespace) -> int:
    from topion.view.demo import open_or_play

    return open_or_play(args.out, args.play)


def _schema(args: argparse.Namespace) -> None:
    from topion.formats.bundle import schema
    from topion.formats.out import write_out

    text = json.dumps(schema(), indent=1, ensure_ascii=False) + "\n"
    if args.out:
        write_out(args.out, text.encode())
    else:
        print(text, end="")


if __name__ == "__main__":
    sys.exit(main())
