"""Pieces and points of curves, arranged like things: each is stood in for by a thing of no prefab.

What is arranged of them is their place: of a piece its first corner, in whole cells.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

from topion.edit.curves import changed, curve_of
from topion.edit.picked import entry_of
from topion.edit.pieces import Pick, moved
from topion.model.edit import Edit, joined, written
from topion.model.piece import Piece
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.model.room import Room

PIECE, POINT = "", " "  # the prefabs of what stands in, which no prefab is called


def stand_ins(
    room: Room, entries: Iterable[Pick], curve: Pick | None, points: Iterable[int]
) -> dict[Pick, Thing]:
    """What stands in for the picked pieces, and for points of a curve.

    A point goes by the layer of its curve, and by -1 less its number.
    """
    found: dict[Pick, Thing] = {}
    for pick in entries:
        piece = entry_of(room, pick)
        if isinstance(piece, Piece):
            *level, y, x = piece.box.lo
            found[pick] = Thing(PIECE, float(y), float(x), z=float(level[0]) if level else 0.0)
    if curve is not None:
        known = curve_of(room, curve).points
        for number in points:
            if 0 <= number < len(known):
                *high, down, across = known[number].at
                height = high[0] if high else 0.0
                found[Pick(curve.layer, -1 - number)] = Thing(POINT, down, across, z=height)
    return found


def stands_in(thing: Thing) -> bool:
    """Whether a thing stands in for something else."""
    return thing.prefab in (PIECE, POINT)


def put_back(
    project: Project, room_name: str, after: Mapping[Pick, Thing], curve: Pick | None
) -> list[Edit]:
    """Edits that bring the pieces and points where what stands in for them came, one upon the
    other; a piece may not leave its room."""
    edits: list[Edit] = []
    scratch = project.scratch(project.rooms.copy())
    scratch.rooms[room_name] = project.room(room_name).frozen()
    for pick, thing in after.items():
        if thing.prefab != PIECE:
            continue
        piece = entry_of(scratch.room(room_name), pick)
        if isinstance(piece, Piece):
            goal = tuple(round(v) for v in thing.at[-piece.axes :])
            by = tuple(a - b for a, b in zip(goal, piece.box.lo, strict=True))
            if any(by):
                edits += list(written(scratch, [moved(scratch, room_name, [pick], by)]))
    points = {-1 - pick.number: thing for pick, thing in after.items() if thing.prefab == POINT}
    if curve is not None and points:
        old = curve_of(scratch.room(room_name), curve)
        new = list(old.points)
        for number, thing in points.items():
            if number < len(new):
                at = tuple(round(v, 4) for v in thing.at[-old.axes :])
                new[number] = replace(new[number], at=at)
        made = replace(old, points=tuple(new))
        edits.append(changed(scratch, room_name, curve, made, "Arrange points"))
    return [joined("Arrange", edits)] if edits else []
