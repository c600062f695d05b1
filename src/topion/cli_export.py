"""The command line: exports, once or after each save, and packed projects."""

from __future__ import annotations

import argparse
import time
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from topion.cli_parser import Commands, command
from topion.errors import TopionError
from topion.parsing import number, place

if TYPE_CHECKING:
    from topion.formats.out import Contents
    from topion.model.project import Project

_LOOK_S = 0.4  # between two looks at a folder that is watched


class _ExportKinds:
    """The names of all export formats, loaded when somebody asks for them."""

    def __iter__(self) -> Iterator[str]:
        from topion.formats.exports import EXPORTS

        return iter(EXPORTS)

    def __contains__(self, kind: object) -> bool:
        return kind in list(self)


def add_export(commands: Commands) -> None:
    """The command `export`."""
    export = command(commands, "export", _export, "Write rooms in a format of other programs.")
    export.add_argument("project", type=place)
    export.add_argument("room", nargs="?", default=None, help="one room (default: all)")
    what = export.add_mutually_exclusive_group(required=True)
    what.add_argument("--to", choices=_ExportKinds(), metavar="FORMAT",
                      help="one of %(choices)s")  # fmt: skip
    what.add_argument("--all", action="store_true",
                      help="in all of them, each in a folder of its own")  # fmt: skip
    export.add_argument("-o", "--out", type=place, required=True, metavar="DIR")
    export.add_argument("--scale", type=number, help="of PNG pictures (default: 1)")
    export.add_argument("--legend", default="", metavar="FILE",
                        help="of text: what symbols stand for (default: a legend of the project "
                             "that says all of it, else one made for it)")  # fmt: skip
    export.add_argument("--watch", action="store_true",
                        help="again after each save, what was changed, until Ctrl+C")  # fmt: skip


def add_packing(commands: Commands) -> None:
    """The commands `pack` and `unpack`."""
    pack = command(commands, "pack", _pack, "Write a project as one packed file (zip).")
    pack.add_argument("project", type=place)
    pack.add_argument("-o", "--out", type=place, default=None, metavar="FILE",
                      help="default: beside the folder, NAME.topion.zip")  # fmt: skip
    unpack = command(commands, "unpack", _unpack,
                     "Make a project folder of a packed file or of a JSON bundle.")  # fmt: skip
    unpack.add_argument("file", type=place)
    unpack.add_argument("-o", "--out", type=place, default=None, metavar="DIR",
                        help="the new folder (default: beside the file)")  # fmt: skip


def _export(args: argparse.Namespace) -> None:
    from topion.formats.exports import EXPORTS

    if args.scale is not None and (args.all or not EXPORTS[args.to].scales):
        raise TopionError(f"--scale is for pictures, but {args.to or '--all'} has no size")
    if args.legend and args.to not in (None, "text"):
        raise TopionError(f"--legend is for text, but {args.to} is none")
    if not args.watch:
        _export_once(args, None)
        return
    from topion.formats.watching import saves_of

    for changed in saves_of(args.project, lambda: time.sleep(_LOOK_S)):
        try:
            _export_once(args, changed)
        except TopionError as problem:  # it may be sound again after the next save
            print(f"topion: {problem}", flush=True)


def _export_once(args: argparse.Namespace, changed: frozenset[str] | None) -> None:
    """changed : only these rooms; None for all."""
    from topion import scripting
    from topion.formats.out import write_out

    project = scripting.open(args.project).data
    asked = (args.room,) if args.room is not None else tuple(project.rooms)
    for name in asked:
        project.room(name) if args.room is not None else None
    rooms = tuple(name for name in asked if changed is None or name in changed)
    args.out.mkdir(parents=True, exist_ok=True)
    names = set()
    for name, data in _files(args, project, rooms):
        path = args.out / name
        path.parent.mkdir(parents=True, exist_ok=True)
        write_out(path, data)
        names.add(name)
    print(f"wrote {len(names)} file{'s' * (len(names) != 1)} to {args.out}", flush=True)


def _files(
    args: argparse.Namespace, project: Project, rooms: tuple[str, ...]
) -> Iterator[tuple[str, Contents]]:
    from topion.formats.exports import EXPORTS, export_all, export_files

    if args.legend:
        _use_legend(project, rooms, args.legend)
    if args.all:
        return export_all(project, rooms)
    kind = EXPORTS[args.to]
    if kind.whole and args.room is None:
        rooms = tuple(project.rooms)
    elif args.watch:  # a room that this format cannot hold is no reason to stop
        rooms = tuple(name for name in rooms if kind.suits(project, name))
    if args.watch and not rooms:
        return iter(())
    return export_files(project, rooms, args.to, 1.0 if args.scale is None else args.scale)


def _use_legend(project: Project, rooms: tuple[str, ...], named: str) -> None:
    """Text is written by this legend alone.  Raises BadValue for a cell that it cannot say."""
    from topion.formats.symbols.legend_files import legend_named
    from topion.formats.symbols.text_out import room_text

    legend = legend_named(named, project)
    for name in rooms:
        room = project.rooms.passing(name)
        if room.info.axes == 2:
            room_text(project, room, legend)
    project.shelf("legends").clear()
    project.shelf("legends")[legend.name] = legend


def _pack(args: argparse.Namespace) -> None:
    from topion.formats.packing import pack

    folder: Path = args.project.resolve()
    path = args.out or folder.with_name(f"{folder.name}.zip")
    pack(args.project, path)
    print(f"packed {args.project} into {path}, {path.stat().st_size:,} bytes")


def _unpack(args: argparse.Namespace) -> None:
    from topion.formats.packing import unpack

    print(f"unpacked {args.file} into {unpack(args.file, args.out)}")
