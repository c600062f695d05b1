"""The command line: the same core, without a window.

Exit codes: 0 done or clean, 1 findings, 2 something could not be read, written or understood.
"""

from __future__ import annotations

import argparse
import io
import json
import os
import sys
from collections.abc import Sequence

from topion import __version__
from topion.cli_export import add_export, add_packing
from topion.cli_extensions import add_extensions
from topion.cli_import import add_import
from topion.cli_parser import Commands, Parser, command
from topion.cli_team import add_git, add_git_diff, add_team, is_plain
from topion.errors import TopionError, one_sentence
from topion.grid.told import several
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
        if args.run not in (_open, _demo) and not is_plain(args):  # the window is seen first
            from topion.extending import load_extensions

            load_extensions()
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


def _parser() -> Parser:
    parser = Parser(
        prog="topion", description="Paint rooms and maps with tile sets and rule-based brushes."
    )
    parser.add_argument("--version", action="version", version=f"topion {__version__}")
    commands = parser.add_subparsers(title="commands", metavar="COMMAND")
    _add_new(commands)
    add_import(commands)
    check = command(commands, "check", _check,
                     "List the findings of the survey: 0 clean, 1 findings.")  # fmt: skip
    check.add_argument("project", type=place)
    check.add_argument("--json", action="store_true", help="findings as JSON")
    check.add_argument("--all", action="store_true", help="also those that were accepted")
    _add_render(commands)
    add_export(commands)
    add_packing(commands)
    add_team(commands)
    add_git(commands)
    add_git_diff(commands)
    add_extensions(commands)
    _add_walk(commands)
    _add_window(commands)
    schema = command(commands, "schema", _schema, "Print the JSON Schema of a bundle.")
    schema.add_argument("-o", "--out", type=place, default=None)
    return parser


def told_commands() -> list[tuple[str, str]]:
    """(name, what it does) of every command, as `topion --help` says it."""
    groups = (action for action in _parser()._actions
              if isinstance(action, argparse._SubParsersAction))  # fmt: skip
    return [(one.dest, str(one.help)) for group in groups for one in group._choices_actions]


def command_parsers() -> list[tuple[str, argparse.ArgumentParser]]:
    """(name, its parser) of every command."""
    groups = (action for action in _parser()._actions
              if isinstance(action, argparse._SubParsersAction))  # fmt: skip
    return [(name, parser) for group in groups for name, parser in group.choices.items()]


def _add_new(commands: Commands) -> None:
    new = command(commands, "new", _new, "Make a new project folder with one room.")
    new.add_argument("project", type=place)
    new.add_argument("--name", default="", help="its name (default: the folder's)")
    new.add_argument("--room", default="Room 1", help="name of the first room")
    new.add_argument(
        "--size",
        default="64x40",
        help="of that room in cells, WIDTHxHEIGHT, or WIDTHxHEIGHTxLEVELS for a voxel room",
    )
    new.add_argument("--cell", type=whole, default=16, help="cell size in px")
    new.add_argument("--seen", choices=("top", "side"), default="top", help="of a flat room")
    begins = new.add_mutually_exclusive_group()
    begins.add_argument("--kit", action="store_true",
                        help="with the blockout kit: plain tiles and blocks")  # fmt: skip
    begins.add_argument("--library", type=place, default=None, metavar="PROJECT",
                        help="with the library of another project")  # fmt: skip
    begins.add_argument("--sheet", type=place, default=None, metavar="PNG",
                        help="with a tile sheet, cut, and brushes of it")  # fmt: skip


def _add_render(commands: Commands) -> None:
    render = command(commands, "render", _render, "Write a room as a PNG picture.")
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


def _add_walk(commands: Commands) -> None:
    walk = command(commands, "walk", _walk, "Play a recorded walk again: 0 if it ends as it did, "
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


def _add_window(commands: Commands) -> None:
    open_ = command(commands, "open", _open, "Open a project in the window.")
    open_.add_argument("project", type=place, nargs="?", default=None)

    demo = command(commands, "demo", _demo,
                    "Open the demo; without a display, play it and write pictures.")  # fmt: skip
    demo.add_argument("--out", type=place, default=None, metavar="DIR", help="where to write")
    demo.add_argument("--play", action="store_true", help="play it even if there is a display")


def _new(args: argparse.Namespace) -> None:
    from topion import scripting
    from topion.edit.proposed import told_of
    from topion.kit.blockout import FirstRoom
    from topion.kit.starting import Beginning, begun, of_sheet

    size = sizes(args.size, "the size")
    name = args.name or scripting.name_of(args.project)
    first = FirstRoom(args.room, size, args.seen, args.cell)
    said = ""
    if args.sheet is not None:
        handle, names = of_sheet(args.sheet, name=name, first=first)
        said = f", brushes of {args.sheet.name}: {told_of(handle.data, names)}"
    else:
        beginning: Beginning = "kit" if args.kit else "library" if args.library else "empty"
        handle = begun(beginning, name, first, args.library)
    if args.project.exists() and (not args.project.is_dir() or any(args.project.iterdir())):
        raise TopionError(f"{args.project} is there already and not empty")
    handle.save(args.project)
    told = " × ".join(str(side) for side in (size[-1], size[-2], *size[:-2]))
    print(f"made {args.project} with the room {args.room}, {told} cells{said}")


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
    told = [several(len(open_), "finding")]
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
