"""A project open with its journal, as a window has it, but without one."""

from __future__ import annotations

from pathlib import Path

import topion
from topion.edit.journal import Journal
from topion.edit.journals import journals_of
from topion.edit.resume import Kept, Resumed
from topion.formats.files import marks_of, state_of
from topion.scripting import ProjectHandle, RoomHandle


def state(folder: Path) -> str:
    return state_of((name, mark.digest) for name, mark in marks_of(folder, {}).items())


def about(handle: ProjectHandle) -> dict[str, str]:
    place = str(handle.folder.resolve()) if handle.folder else ""
    return {"id": handle.data.id, "name": handle.name, "folder": place, "base": "", "promised": ""}


class Run:
    """A project open with its journal, as a window has it; a crash is never closing it."""

    def __init__(self, folder: Path, place: Path) -> None:
        self.handle = topion.open(folder)
        self.journal = Journal(self.handle.history, about(self.handle), place)
        now = state(folder)
        earlier = journals_of(self.handle.data.id, folder.resolve(), place)
        fits = next(((k, at) for k in earlier if (at := k.place_of(now)) is not None), None)
        self.left: Kept | None = None if fits else next(iter(earlier), None)
        self.resumed: Resumed | None = None
        if fits:
            self.resumed = self.journal.resume(*fits, now)
        else:
            self.journal.begin(now)

    @property
    def room(self) -> RoomHandle:
        return self.handle.room("Yard")

    def strokes(self) -> None:
        self.room.lay("Water", box=((1, 1), (5, 5)))
        self.room.lay("Lamp", cells=[(8, 8)])
        self.room.lay("Reeds", box=((6, 6), (11, 11)))

    def save(self, *, confirmed: bool = True) -> None:
        """A save; unless it is confirmed, the run is killed right after the files are in place."""
        promised: list[str] = []
        mark = self.journal.mark()

        def promise(found: str) -> None:
            promised.append(found)
            self.journal.promise(mark, found, str(self.handle.folder))

        saving = self.handle.saving()
        saving.write(promise=promise)
        if confirmed:
            self.handle.saved(saving)
            self.journal.saved(mark, promised[0], about(self.handle))
