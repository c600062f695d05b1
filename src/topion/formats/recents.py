"""Projects that were open before: where they lie, and how they are now."""

from __future__ import annotations

import json
import os
import time
from contextlib import suppress
from dataclasses import asdict, dataclass, field, replace
from itertools import islice
from pathlib import Path
from uuid import uuid4

from topion.edit.journals import journals_of
from topion.edit.lock import PathLock
from topion.errors import TopionError
from topion.formats.files import INDEX
from topion.formats.folder import read_project
from topion.formats.overviews import Shelved, library_print, room_print
from topion.grid.arrays import Rgba
from topion.logbook import state_home
from topion.model.plain import from_plain
from topion.model.project import Project
from topion.render.overview import overview
from topion.render.solid_scene import solid_bands

MOST = 60  # that are remembered
LARGE_PX, SMALL_PX = 480, 160  # of the pictures of a card
_MOST_SMALL = 3
_MOST_ASKED = 4  # rooms whose kind is looked at


@dataclass(frozen=True)
class Recent:
    """path : of its folder.  room : in which was worked last.  when : in seconds since 1970.

    voxel : how many of its first rooms are voxel rooms.
    """

    path: str
    name: str
    room: str = ""
    rooms: int = 0
    voxel: int = 0
    when: float = 0.0

    @property
    def folder(self) -> Path:
        return Path(self.path)

    def told(self) -> str:
        """How many rooms it has."""
        if self.voxel == self.rooms == 1:
            return "1 voxel room"
        return f"{self.rooms} room{'s' * (self.rooms != 1)}"


@dataclass(frozen=True, eq=False)
class Look:
    """A project as it is now.  there : whether its folder is.  unsaved : strokes of its journal.

    in_use : another window has it open.  picture : of its room; small : of others.  problem : why
    it cannot be read.
    """

    recent: Recent
    there: bool = True
    unsaved: int = 0
    in_use: bool = False
    picture: Rgba | None = None
    small: tuple[Rgba, ...] = field(default=())
    problem: str = ""


def _file() -> Path:
    return state_home() / "recents.json"


def recents() -> list[Recent]:
    """All that are remembered, the last used first; what is no sound entry is passed over."""
    try:
        found = json.loads(_file().read_text(encoding="utf-8"))
    except (OSError, ValueError, RecursionError):
        return []
    known = []
    for entry in found if isinstance(found, list) else []:
        with suppress(TopionError):
            one: Recent = from_plain(Recent, entry)
            if os.path.isabs(one.path):
                known.append(one)
    return sorted(known, key=lambda one: -one.when)


def remember(recent: Recent) -> None:
    """It was used now; where that cannot be written, it is forgotten."""
    used = replace(recent, path=str(Path(recent.path).resolve()), when=recent.when or time.time())
    _write([used, *(one for one in recents() if one.path != used.path)])


def forget(path: str) -> None:
    """Speak of it no longer; its folder stays."""
    _write([one for one in recents() if one.path != path])


def moved(old: str, new: Path) -> None:
    """It lies elsewhere now."""
    _write([replace(one, path=str(new.resolve())) if one.path == old else one for one in recents()])


def _write(known: list[Recent]) -> None:
    path = _file()
    aside = path.with_name(f".{uuid4().hex[:12]}")
    with suppress(OSError):
        path.parent.mkdir(parents=True, exist_ok=True)
        text = json.dumps([asdict(one) for one in known[:MOST]], ensure_ascii=False, indent=1)
        aside.write_text(text + "\n", encoding="utf-8")
        os.replace(aside, path)
    with suppress(OSError):
        aside.unlink(missing_ok=True)


def recent_of(project: Project, folder: Path, room: str) -> Recent:
    """What is remembered of a project that is open."""
    voxel = 0
    for name in islice(project.rooms, _MOST_ASKED):  # each may have to be read
        with suppress(TopionError):
            voxel += project.rooms.info(name).axes == 3
    return Recent(str(folder), project.name, room, len(project.rooms), voxel)


def look_at(recent: Recent) -> Look:
    """Read what is to be told and shown of a project; slow, for threads."""
    folder = recent.folder
    if not (folder / INDEX).is_file():
        return Look(recent, there=False)
    try:
        project = read_project(folder)
    except (TopionError, OSError) as problem:
        return Look(recent, problem=str(problem))
    lock = PathLock(folder)
    in_use = not lock.take()
    lock.release()
    known = recent_of(project, folder, recent.room if recent.room in project.rooms else "")
    if not known.room:
        known = replace(known, room=next(iter(project.rooms), ""))
    unsaved = max((kept.unsaved() for kept in journals_of(project.id, folder)), default=0)
    others = [name for name in project.rooms if name != known.room][:_MOST_SMALL]
    shelf, library = Shelved(project), library_print(project)
    picture = _picture(project, shelf, library, known.room, LARGE_PX)
    small = (_picture(project, shelf, library, name, SMALL_PX) for name in others)
    return Look(replace(known, when=recent.when), True, unsaved, in_use, picture,
                tuple(one for one in small if one is not None))  # fmt: skip


def _picture(
    project: Project, shelf: Shelved, library: str | None, room: str, longest: int
) -> Rgba | None:
    """A room from above, kept on disk for the next time; None where it cannot be read."""
    if room not in project.rooms:
        return None
    key = (library, room_print(project, room), room, longest, "home")
    found = shelf.read(*key)
    if found is None:
        with suppress(TopionError, OSError):
            shown = project.rooms.passing(room)
            if shown.info.axes == 3:  # from a corner, where heights are seen
                found = solid_bands(project, shown, size=(longest * 3 // 4, longest)).whole()
            else:
                found = overview(project, shown, longest)
            shelf.write(found, *key)
    return found
