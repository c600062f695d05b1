"""What both sides of a merge changed, until somebody says whose version stays."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

import numpy as np

from topion.edit.conflicts import Open, box_of, open_conflicts, settled
from topion.model.conflict import CellsConflict, Conflict, EntryConflict, ItemConflict, Side
from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.room import Room
from topion.model.shelves import SHELVES
from topion.survey.check import LibraryCheck, RoomCheck
from topion.survey.finding import Finding

NAME = "both changed"
_ABOUT = "what two people changed at the same time, after their work was put together"
_SIDES: tuple[Side, Side] = ("ours", "theirs")


def sentence_of(project: Project, open_: Open) -> str:
    """What a conflict is, and what stands."""
    conflict = open_.conflict
    stands = "theirs" if conflict.side == "ours" else "ours"
    if getattr(conflict, "gone", False):
        return f"{conflict.side} took away {_whole(project, open_)}, but {stands} changed it"
    return f"both changed {_told(project, open_)}{_of(project, open_)}; {stands} stands"


def _told(project: Project, open_: Open) -> str:
    """What both changed; a thing by the name of its prefab."""
    conflict, told = open_.conflict, open_.conflict.told()
    if isinstance(conflict, EntryConflict) and conflict.table in ("things", "held"):
        layer = project.room(open_.room).layers.get(conflict.layer)
        entry = layer.table(conflict.table).get(conflict.number) if layer is not None else None
        if entry is not None:
            return told.replace("thing", entry.prefab)
    return told


def _whole(project: Project, open_: Open) -> str:
    conflict = open_.conflict
    if isinstance(conflict, ItemConflict):
        return f"{_word(conflict)} {conflict.item}"
    if isinstance(conflict, EntryConflict):
        return _told(project, open_)
    if not conflict.layer:
        return "the room"
    return f"layer {_layer_name(project, open_.room, conflict.layer)}"


def _of(project: Project, open_: Open) -> str:
    conflict = open_.conflict
    if isinstance(conflict, ItemConflict):
        return f" of {_word(conflict)} {conflict.item}" if conflict.item else " of the project"
    if isinstance(conflict, CellsConflict | EntryConflict):
        return f" in {_layer_name(project, open_.room, conflict.layer)}"
    if conflict.layer:
        return f" {_layer_name(project, open_.room, conflict.layer)}"
    return ""


def _word(conflict: ItemConflict) -> str:
    return SHELVES[conflict.shelf].word if conflict.shelf in SHELVES else conflict.shelf


def _layer_name(project: Project, room: str, layer_id: str) -> str:
    layer = project.room(room).layers.get(layer_id)
    return layer.info.name if layer is not None else layer_id


def _cell_of(room: Room, conflict: Conflict) -> tuple[int, ...] | None:
    """A cell to jump to."""
    box = box_of(room, conflict)
    if box is None:
        return None
    lo = box.lo
    if isinstance(conflict, CellsConflict):
        first = np.argwhere(conflict.cells.cells)[0]
        lo = tuple(int(a + b) for a, b in zip(lo, first, strict=True))
    cell = tuple(min(max(v, 0), side - 1)
                 for v, side in zip(lo, room.info.size[-len(lo) :], strict=True))  # fmt: skip
    return (0, *cell) if room.info.axes > len(cell) else cell


class BothChanged(RoomCheck):
    """In a room."""

    name: ClassVar[str] = NAME
    about: ClassVar[str] = _ABOUT
    choices: ClassVar[tuple[str, ...]] = _SIDES

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        for open_ in open_conflicts_of(room):
            conflict = open_.conflict
            thing = getattr(conflict, "number", None)
            entry = getattr(conflict, "table", "")
            yield Finding(
                NAME, sentence_of(project, open_), room.info.name, conflict.layer,  # type: ignore[union-attr]
                _cell_of(room, conflict),  # type: ignore[arg-type]
                thing=thing if entry == "things" else None,
                piece=thing if entry in ("pieces", "curves") else None,
            )  # fmt: skip

    def fix(self, project: Project, finding: Finding, choice: str = "") -> Edit | None:
        for open_ in open_conflicts(project, finding.room):
            if sentence_of(project, open_) == finding.sentence:
                conflict = open_.conflict
                room = project.room(finding.room)
                if _cell_of(room, conflict) == finding.cell:  # type: ignore[arg-type]
                    return settled(project, open_, "ours" if choice == "ours" else "theirs")
        return None


def open_conflicts_of(room: Room) -> Iterator[Open]:
    """Those of a room, wherever it comes from."""
    return (Open(room.info.name, one) for one in room.conflicts)


class BothChangedInLibrary(LibraryCheck):
    """In the library, or in the tables of the project."""

    name: ClassVar[str] = NAME
    about: ClassVar[str] = _ABOUT
    reads: ClassVar[tuple[str, ...]] = ("conflicts",)
    choices: ClassVar[tuple[str, ...]] = _SIDES

    def findings(self, project: Project) -> Iterator[Finding]:
        for open_ in open_conflicts(project):
            yield Finding(NAME, sentence_of(project, open_))

    def fix(self, project: Project, finding: Finding, choice: str = "") -> Edit | None:
        for open_ in open_conflicts(project):
            if sentence_of(project, open_) == finding.sentence:
                return settled(project, open_, "ours" if choice == "ours" else "theirs")
        return None
