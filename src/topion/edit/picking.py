"""What a lasso picks: what lies in an area, and what is alike."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

import numpy as np

from topion.brushes.kind import all_brushes
from topion.edit.picked import entry_of
from topion.edit.pieces import Pick
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.grid.flood import flood_box
from topion.model.curve import Curve
from topion.model.layer import Layer
from topion.model.piece import Piece
from topion.model.prefab import Thing, standing_cell, standing_cells
from topion.model.project import Project
from topion.model.room import Room
from topion.things.broken import broken
from topion.things.field import Sows
from topion.things.ground import WIDEST_BODY, Ground, body_cells
from topion.weaving.pieces import covers, pieces_at
from topion.weaving.settle import shown_materials

Option = Literal["lasso", "box", "alike", "prefab", "class", "brush", "broken"]
OPTIONS: dict[Option, str] = {
    "lasso": "a way drawn round it",
    "box": "a box",
    "alike": "connected cells alike",
    "prefab": "all of that prefab",
    "class": "all of that class",
    "brush": "all of that brush",
    "broken": "all that break a rule",
}
_NEAR_CURVE = 0.6  # cells from the middle of a cell to a curve in it
_MOSTLY = 0.5  # of the cells of a piece that must lie in a lasso


def can_be_picked(layer: Layer) -> bool:
    """Whether what lies in a layer is picked with many others; one by one also where it is
    locked, so that it is said."""
    return layer.info.shown and not layer.info.locked


def entries_in(project: Project, room: Room, area: Area) -> tuple[Pick, ...]:
    """Things that stand in the area, and pieces that lie in it for the most part."""
    found = []
    for layer_id, layer in room.drawn():
        if not can_be_picked(layer):
            continue
        numbers, at = layer.positions()
        if len(numbers):
            inside = area.holds(standing_cells(at[:, -room.info.axes :]))
            found += [Pick(layer_id, n) for n in numbers[inside].tolist()]
        held = layer.table("held")
        if held:
            cells = standing_cells(np.array([t.at[-room.info.axes :] for t in held.values()]))
            inside = area.holds(cells).tolist()
            found += [Pick(layer_id, n) for n, ok in zip(held, inside, strict=True) if ok]
        found += [Pick(layer_id, n) for n, curve in layer.curves.items()
                  if _runs_in(room, curve, area)]  # fmt: skip
        for number, piece in layer.pieces_in(area.box) if layer.pieces else ():
            if _lies_mostly_in(project, piece, area):
                found.append(Pick(layer_id, number))
    return tuple(found)


def _runs_in(room: Room, curve: Curve, area: Area) -> bool:
    """Whether more than half of a curve runs in an area."""
    at = np.floor(curve.line.samples(0.5) + 0.5).astype(np.intp)
    if curve.on_ground and curve.axes == 3:
        return bool(area.in_plan(2).holds(at[:, -2:]).mean() > _MOSTLY)
    return bool(area.holds(at).mean() > _MOSTLY)


def _lies_mostly_in(project: Project, piece: Piece, area: Area) -> bool:
    own = covers(project, piece, piece.touched)
    return bool(np.count_nonzero(own & area.within(piece.touched)) >= max(1, own.sum() * _MOSTLY))


def entries_at(project: Project, room: Room, cell: tuple[int, ...]) -> Iterator[Pick]:
    """Things whose body meets the cell and pieces that lie there, uppermost first."""
    column = Box(cell[-2:], (cell[-2] + 1, cell[-1] + 1))
    for layer_id, layer in reversed(room.drawn()):
        if not layer.info.shown:
            continue
        if layer.pieces:
            yield from (Pick(layer_id, number) for number, _ in pieces_at(project, layer, cell))
        for number, thing in layer.table("held").items():
            if cell in _body(project, room, thing):
                yield Pick(layer_id, number)
        near = layer.things_near(column, WIDEST_BODY)
        for number in sorted(near, reverse=True):
            if cell in _body(project, room, near[number]):
                yield Pick(layer_id, number)


def curves_at(layer: Layer, cell: tuple[int, ...]) -> list[int]:
    """Numbers of the curves of a layer that pass through the cell, or its column where they lie on
    the ground; the latest first."""
    found = []
    for number, curve in reversed(layer.curves.items()):
        box = curve.touched
        if not all(lo <= v < hi for lo, v, hi in zip(box.lo, cell[-2:], box.hi, strict=True)):
            continue
        goal = cell if curve.axes == len(cell) == 3 and not curve.on_ground else cell[-2:]
        if curve.line.nearest(goal)[1] <= _NEAR_CURVE:
            found.append(number)
    return found


def _body(project: Project, room: Room, thing: Thing) -> list[tuple[int, ...]]:
    prefab, axes = project.prefabs.get(thing.prefab), room.info.axes
    return body_cells(prefab, thing, axes) if prefab else [standing_cell(thing, axes)]


# --- alike --------------------------------------------------------------------------------


def connected_alike(
    project: Project, room: Room, layer_id: str, cell: tuple[int, ...]
) -> Area | None:
    """The cells connected to that one which show the same material in a layer of cells; None
    where nothing shows, and outside the room."""
    layer = room.layers.get(layer_id)
    if layer is None or not layer.info.traits.shows or not room.box.holds(np.array([cell]))[0]:
        return None
    materials = shown_materials(project, layer)
    return Area(*flood_box(materials, cell)) if materials[cell] else None


def all_alike(project: Project, room: Room, option: Option, pick: Pick) -> tuple[Pick, ...]:
    """All things and pieces of shown layers that are like one of them: of its prefab, of the class
    of that, or laid by the same brush."""
    entry = entry_of(room, pick)
    if entry is None:
        return ()
    wanted = _kind(project, option, entry)
    return tuple(
        Pick(layer_id, number)
        for layer_id, layer in room.drawn() if can_be_picked(layer)
        for table in layer.tables.values()
        for number, other in table.items()
        if wanted and _kind(project, option, other) == wanted
    )  # fmt: skip


def _kind(project: Project, option: Option, entry: Thing | Piece | Curve) -> object:
    """What things or pieces that are alike have in common; nothing for those that are not."""
    if isinstance(entry, Piece | Curve):
        return entry.brush if option in ("brush", "prefab") else None
    if option == "class":
        prefab = project.prefabs.get(entry.prefab)
        return prefab.class_name if prefab else ""
    if option == "brush":
        return brush_of_prefab(project, entry.prefab) or entry.prefab
    return entry.prefab


def brush_of_prefab(project: Project, prefab: str) -> str:
    """The first brush that places it one by one."""
    for brush in all_brushes(project).values():
        if prefab in brush.places() and not isinstance(brush, Sows):
            return brush.name
    return ""


def all_broken(project: Project, room: Room) -> tuple[Pick, ...]:
    """All things of shown layers that break a rule where they stand."""
    ground = Ground(project, room)
    keys = sorted({ground.standing.keys[row] for row, _ in broken(ground)})
    return tuple(Pick(*key) for key in keys if can_be_picked(room.layers[key[0]]))
