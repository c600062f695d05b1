"""How a new project begins: empty, with the kit, with another one's library, or with a sheet."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Literal

from topion.edit.history import History
from topion.edit.proposed import sheet_with_brushes
from topion.errors import BadFile
from topion.formats.folder import read_project
from topion.formats.sheet import propose_cut, tileset_from
from topion.kit.blockout import FirstRoom, blockout
from topion.model.project import Project
from topion.model.rooms import Rooms
from topion.model.shelves import shelves
from topion.model.tileset import Cut
from topion.pictures.png import read_png_file
from topion.scripting import ProjectHandle, new

Beginning = Literal["empty", "kit", "library"]
_OF_ROOMS = ("recordings", "placements", "accepted", "unasked")  # shelves that speak of rooms


def begun(
    beginning: Beginning, name: str, first: FirstRoom, other: Path | None = None
) -> ProjectHandle:
    """A project with one room, in which nobody has painted.  other : whose library it has.

    Raises BadFile for another one that cannot be read, and BadValue for a room that cannot be.
    """
    if beginning == "kit":
        return blockout(name, first)
    if beginning == "library" and other is not None:
        handle = with_library_of(read_project(other), name)
    else:
        handle = new(None, name)
    handle.add_room(first.name, first.size, first.cell_px, seen=first.seen)
    handle.history = History(handle.data)
    return handle


def with_library_of(other: Project, name: str) -> ProjectHandle:
    """A project without rooms that has the whole library of another one."""
    library = {shelf.name: dict(other.shelf(shelf.name)) for shelf in shelves()
               if shelf.name not in _OF_ROOMS}  # fmt: skip
    data = replace(other, name=name, id="", rooms=Rooms(), library=library, derived={})
    return ProjectHandle(data)


def of_sheet(
    path: Path, cut: Cut | None = None, *, name: str = "", first: FirstRoom | None = None
) -> tuple[ProjectHandle, list[str]]:
    """A project that begins with a tile sheet: cut, with the brushes it is likely made for, and a
    room to lay them in; and the names of the brushes.

    first : the room; with cells as large as the tiles unless given.  Raises BadFile for a picture
    in which nothing repeats.
    """
    picture = read_png_file(path)
    chosen = cut or propose_cut(picture.rgba)
    if chosen is None:
        raise BadFile(path.name, "shows no tiles that repeat; say how large they are")
    tileset = tileset_from(picture, path.stem, chosen, path.name)
    handle = new(None, name or path.stem)
    edit, names = sheet_with_brushes(handle.data, tileset)
    handle.history.apply(edit)
    room = first or FirstRoom(seen="top", cell_px=min(tileset.cut.tile))
    handle.add_room(room.name, room.size, room.cell_px, seen=room.seen)
    handle.history = History(handle.data)
    return handle, names
