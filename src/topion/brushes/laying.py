"""Laying materials: the one way in which brushes change cells of tiles or blocks.

A record holds what was decided: materials, and tiles laid by hand.  What shows follows from
that; see `topion.weaving.settle`.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated

import numpy as np
from numpy.typing import NDArray

from topion.brushes.kind import BrushKind, Nibbed, Setting, lays_here
from topion.brushes.marks import Marks, Place
from topion.grid.arrays import CellList, MaterialIds, TileIds
from topion.grid.boxes import Box
from topion.grid.lines import widened
from topion.grid.orient import composed_turns
from topion.model.edit import Edit, Record
from topion.model.layer import Layer
from topion.model.records import cells_changed
from topion.model.solid import TURN_MASK
from topion.model.typed import between
from topion.weaving.looms import AnyLoom, loom_for
from topion.weaving.pieces import covers_cells

Nib = Annotated[int, between(1, 99, "cells")]
NIB = Setting("nib", "Nib", "number", 1, 9, 1, "c", hint="How many cells wide a drag or line lays")
SEED = Setting("seed", "Roll", "seed", hint="Which variants fall where; the dice rolls anew")


def marked_cells(place: Place, marks: Marks, nib: int = 1) -> CellList:
    """The marked cells inside the room, widened by the nib where the pointer drew them."""
    drawn = marks.path is not None
    cells = widened(marks.cells, nib, across=marks.across) if drawn else marks.cells
    inside = place.room.box.holds(cells)
    if marks.within is not None:
        inside &= marks.within.holds(cells)
    return cells if inside.all() else cells[inside]


@dataclass(frozen=True, eq=False)
class Laid:
    """What to lay.  flat : (n,) rising flat cells; materials : (n,).

    tiles : (n,) tiles to pin there, or None to let the rules choose.
    """

    flat: NDArray[np.intp]
    materials: MaterialIds
    tiles: TileIds | None = None

    @classmethod
    def of_cells(cls, cells: CellList, shape: tuple[int, ...], material: int) -> Laid:
        flat = rising(np.asarray(np.ravel_multi_index(tuple(cells.T), shape), np.intp))
        return cls(flat, np.full(len(flat), material, np.uint16))


def rising(flat: NDArray[np.intp]) -> NDArray[np.intp]:
    """Sorted, unless it is already."""
    return flat if (flat[1:] > flat[:-1]).all() else np.sort(flat)


def lay(place: Place, layer_id: str, laid: Laid) -> tuple[Record, ...]:
    """The record that lays cells; empty if nothing changes.  An inlay stays on the same ground."""
    layer = place.room.layers[layer_id]
    if not len(laid.flat):
        return ()
    pinned = np.zeros(len(laid.flat), np.uint16) if laid.tiles is None else laid.tiles
    after = {"material": laid.materials, "pinned": pinned}
    if layer.planes.get("inlay") is not None:  # another ground takes it away
        inlay = layer.plane("inlay").reshape(-1)[laid.flat]
        same = layer.plane("material").reshape(-1)[laid.flat] == laid.materials
        after["inlay"] = np.where(same, inlay, 0).astype(np.uint16)
    before = {name: layer.plane(name).reshape(-1)[laid.flat] for name in after}
    return cells_changed(place.room_name, layer_id, layer.size, laid.flat, before, after)


def plan_material(brush: BrushKind, place: Place, marks: Marks, turn: int = 0) -> Edit:
    """Lay the brush's own material over the marked cells.

    turn : of 24; blocks that are laid turned are pinned, so that their cells keep it.
    """
    layer_id, layer = place.cells_layer(brush.layer)
    refused = refusal(brush, place, layer)
    if refused is not None:
        return refused
    cells = marked_cells(place, marks, brush.nib if isinstance(brush, Nibbed) else 1)
    material = place.project.material_id(brush.material)
    laid = Laid.of_cells(cells, place.room.info.size, material)
    if turn and len(cells):
        first = layer.from_origin((0,) * len(layer.size))
        at = np.stack(np.unravel_index(laid.flat, place.room.info.size), axis=1)
        laid = replace(
            laid, tiles=turned_tiles(loom_for(place.project, layer), at, material, turn, first)
        )
    records = lay(place, layer_id, laid)
    return Edit(brush.name, records, brush.colour, notes=beneath(place, layer, cells))


def beneath(place: Place, layer: Layer, cells: CellList) -> tuple[str, ...]:
    """What to say of cells that are laid under pieces; nothing where there are none."""
    names: dict[str, None] = {}
    for _, piece in reversed(layer.pieces_in(Box.of_cells(cells))) if len(cells) else ():
        if piece.brush not in names and covers_cells(place.project, piece, cells).any():
            names[piece.brush] = None
    return (f"beneath {' and '.join(names)}",) if names else ()


def turned_tiles(
    loom: AnyLoom, cells: CellList, material: int, turn: int, first: tuple[int, ...] = (0,)
) -> TileIds:
    """(n,) what a material shows among its like in each cell, turned.

    first : the first cell of the room, as chance counts it.
    """
    around = np.full((len(cells), len(loom.offsets)), material, np.uint16)
    tiles = loom.around(around, cells + np.array(first, np.intp))
    turns = composed_turns()[tiles & TURN_MASK, turn].astype(np.uint16)
    return np.asarray(tiles & ~np.uint16(TURN_MASK) | turns)


def refusal(brush: BrushKind, place: Place, layer: Layer | None) -> Edit | None:
    """What a brush plans where it may not lay: nothing, and it says so; None where it may.

    layer : the one it lays on, where that is one.
    """
    reason, made = "", place.room.info.cells_kind
    if not lays_here(brush, place.room):
        other = "tiles" if made == "blocks" else "blocks"
        reason = f"it works with {other}, and {place.room_name} is made of {made}"
    elif layer is not None and layer.info.locked:
        reason = f"layer {layer.info.name} is locked"
    return Edit(brush.name, (), brush.colour, (reason,)) if reason else None
