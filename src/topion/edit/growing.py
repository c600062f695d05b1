"""Strokes past the edge of a room that may grow: the room is made as large as they need."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from topion.brushes.kind import BrushKind
from topion.brushes.marks import Marks, Place
from topion.edit.rooms import resize_room
from topion.errors import TopionError
from topion.grid.boxes import Box
from topion.model.edit import Edit, joined, written

Step = tuple[int, ...]


def planned(brush: BrushKind, place: Place, marks: Marks) -> Edit:
    """What the brush plans, in a room that grows as far as that reaches, if it may."""
    size = wanted(brush, place, marks)
    if size is None:
        return brush.plan(place, marks)
    box, shift = size
    scratch = place.project.scratch(place.project.rooms.copy())
    scratch.rooms[place.room_name] = place.room.frozen()
    try:
        grown = resize_room(place.project, place.room_name, box.shape, shift)
    except TopionError as problem:
        return Edit(brush.name, (), brush.colour, (str(problem),))
    for _ in written(scratch, [grown]):
        pass
    edit = brush.plan(replace(place, project=scratch), shifted(marks, shift))
    if not edit:
        return edit
    found = joined(edit.label, (grown, edit), edit.colour)
    return replace(found, refused=edit.refused, notes=edit.notes)


def wanted(brush: BrushKind, place: Place, marks: Marks) -> tuple[Box, Step] | None:
    """The room as large as the stroke reaches, and where its first cell comes to lie; None where
    it is large enough, or may not grow."""
    room = place.room
    if not room.info.grows or brush.lifts or not len(marks.cells):
        return None
    reach = brush.reach(place.project, marks)
    if marks.within is not None:
        reach = reach.clipped(marks.within.box)
    box = room.box.union(reach)
    if not reach.size or box == room.box:
        return None
    return box, tuple(-v for v in box.lo)


def shifted(marks: Marks, by: Step) -> Marks:
    """The same marks so many cells on."""
    step = np.array(by, np.intp)

    def move(cells: np.ndarray) -> np.ndarray:
        return cells + step[-cells.shape[1] :]

    return replace(
        marks,
        cells=move(marks.cells),
        path=None if marks.path is None else move(marks.path),
        parts=tuple(move(part) for part in marks.parts),
        knots=tuple(move(knots) for knots in marks.knots),
        within=None if marks.within is None else marks.within.shifted(by),
    )
