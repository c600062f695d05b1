"""Laying materials: the one way in which brushes change cells of tiles or blocks.

Neighbours whose tile depends on what was laid are woven again in the same record.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from topion.brushes.looms import AnyLoom, loom_for, woven_layers
from topion.grid.arrays import BEYOND, CellList, MaterialIds, TileIds
from topion.grid.boxes import Box
from topion.grid.lines import widened
from topion.grid.orient import composed_turns
from topion.model.brush import Brush, Marks, Place, Setting
from topion.model.edit import Edit, Record, cells_changed
from topion.model.project import Project
from topion.model.room import Layer, Room
from topion.weaving.block_loom import looks_of
from topion.weaving.loom import neighbours

NIB = Setting("nib", "Nib", "number", 1, 9, 1, "c", hint="How many cells wide a drag or line lays")
SEED = Setting("seed", "Roll", "seed", hint="Which variants fall where; the dice rolls anew")
_DENSE = 4  # a window is woven whole if it holds at most so many times the cells marked


def marked_cells(place: Place, marks: Marks, nib: int = 1) -> CellList:
    """The marked cells inside the room, widened by the nib where the pointer drew them."""
    drawn = marks.path is not None
    cells = widened(marks.cells, nib, across=marks.across) if drawn else marks.cells
    inside = place.room.box.holds(cells)
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
    """The record that lays cells and weaves what depends on them; empty if nothing changes."""
    layer = place.room.layers[layer_id]
    shape = place.room.info.size
    if not len(laid.flat):
        return ()
    loom = loom_for(place.project, layer)
    cells = np.stack(np.unravel_index(laid.flat, shape), axis=1)
    box = Box.of_cells(cells).grown(loom.reach).clipped(place.room.box)
    if box.size <= _DENSE * len(laid.flat) + 4096:
        flat, materials, woven = _woven_window(loom, layer, box, cells, laid)
    else:
        flat, materials, woven = _woven_cells(loom, layer, cells, laid)
    return _record(place, layer_id, loom, laid, flat, materials, woven)


def _woven_window(
    loom: AnyLoom, layer: Layer, box: Box, cells: CellList, laid: Laid
) -> tuple[NDArray[np.intp], MaterialIds, TileIds]:
    """Weave the whole of `box` as it would be after laying."""
    material = layer.planes["material"]
    outer = box.grown(loom.rim)
    window = np.full(outer.shape, BEYOND, np.uint16)
    known = outer.clipped(Box.of_shape(material.shape))
    inner = tuple(slice(a - o, b - o) for a, b, o in zip(known.lo, known.hi, outer.lo, strict=True))
    window[inner] = material[known.slices]
    window[tuple((cells - outer.lo).T)] = laid.materials
    woven = loom.padded(window, box.lo, rim=known != outer)
    flat = np.zeros((), np.intp)
    for lo, hi, side in zip(box.lo, box.hi, material.shape, strict=True):
        flat = flat[..., None] * side + np.arange(lo, hi, dtype=np.intp)
    middle = (slice(loom.rim, -loom.rim),) * material.ndim
    return flat.reshape(-1), window[middle].reshape(-1), woven.reshape(-1)


def _woven_cells(
    loom: AnyLoom, layer: Layer, cells: CellList, laid: Laid
) -> tuple[NDArray[np.intp], MaterialIds, TileIds]:
    """Weave only the laid cells and those around them, wherever they lie."""
    material = layer.planes["material"]
    offsets = loom.offsets
    near = (cells[:, None] + offsets).reshape(-1, material.ndim)
    near = near[Box.of_shape(material.shape).holds(near)]
    flat = np.unique(np.ravel_multi_index(tuple(near.T), material.shape)).astype(np.intp)
    at = np.stack(np.unravel_index(flat, material.shape), axis=1)
    around = neighbours(material, at, offsets)
    pitch = np.cumprod((1, *material.shape[:0:-1]))[::-1]
    asked = flat[:, None] + offsets @ pitch
    place = np.searchsorted(laid.flat, asked).clip(0, len(laid.flat) - 1)
    hit = (laid.flat[place] == asked) & (around != BEYOND)
    around = np.where(hit, laid.materials[place], around)
    return flat, around[:, around.shape[1] // 2], loom.around(around, at)


def _record(
    place: Place,
    layer_id: str,
    loom: AnyLoom,
    laid: Laid,
    flat: NDArray[np.intp],
    materials: MaterialIds,
    woven: TileIds,
) -> tuple[Record, ...]:
    layer = place.room.layers[layer_id]
    before = {name: plane.reshape(-1)[flat] for name, plane in layer.planes.items()}
    pinned = before["pinned"].copy()
    whole = len(flat) == len(laid.flat)  # as for a box or a flood that fills the room
    at = slice(None) if whole else np.searchsorted(flat, laid.flat)
    pinned[at] = 0 if laid.tiles is None else 1
    tiles = np.where(pinned, loom.tiles(before), woven)
    if laid.tiles is not None:
        tiles[at] = laid.tiles
    after = {"material": materials, **loom.planes(tiles), "pinned": pinned}
    return cells_changed(
        place.room_name, layer_id, tuple(place.room.info.size), flat, before, after
    )


def rewoven(project: Project, after: Project) -> Iterator[Record]:
    """Records that bring every room in line with the rule books of `after`."""
    for room in project.rooms.values():
        for layer_id, layer in woven_layers(room):
            loom = loom_for(after, layer)
            woven = loom.planes(loom.whole(layer.planes["material"]))
            free = layer.planes["pinned"] == 0
            differs = np.zeros(free.shape, bool)
            for name, plane in woven.items():
                differs |= plane != layer.planes[name]
            flat = np.flatnonzero(differs & free)
            yield from cells_changed(
                room.info.name,
                layer_id,
                tuple(room.info.size),
                flat,
                {name: layer.planes[name].reshape(-1)[flat] for name in woven},
                {name: plane.reshape(-1)[flat] for name, plane in woven.items()},
            )


def plan_material(brush: Brush, place: Place, marks: Marks, turn: int = 0) -> Edit:
    """Lay the brush's own material over the marked cells.

    turn : of 24; blocks that are laid turned are pinned, so that their cells keep it.
    """
    layer_id, layer = place.cells_layer(brush.layer)
    if layer.info.locked:
        return locked_edit(brush, layer)
    if not lays_here(brush, place.room):
        return misfit_edit(brush, place.room)
    cells = marked_cells(place, marks, getattr(brush, "nib", 1))
    material = place.project.material_id(brush.material)
    laid = Laid.of_cells(cells, place.room.info.size, material)
    if turn and len(cells):
        at = np.stack(np.unravel_index(laid.flat, place.room.info.size), axis=1)
        laid = replace(laid, tiles=turned_looks(loom_for(place.project, layer), at, material, turn))
    return Edit(brush.name, lay(place, layer_id, laid), brush.colour)


def turned_looks(loom: AnyLoom, cells: CellList, material: int, turn: int) -> TileIds:
    """(n,) what a material shows among its like in each cell, turned."""
    around = np.full((len(cells), len(loom.offsets)), material, np.uint16)
    looks = loom.planes(loom.around(around, cells))
    return looks_of(looks["block"], composed_turns()[looks["turn"], turn])


def locked_edit(brush: Brush, layer: Layer) -> Edit:
    """What a brush plans on a locked layer: nothing, and it says so."""
    return Edit(brush.name, (), brush.colour, (f"layer {layer.info.name} is locked",))


def lays_here(brush: Brush, room: Room) -> bool:
    """Whether what the brush lays, tiles or blocks, is what the room is made of."""
    if getattr(brush, "axes", room.info.axes) != room.info.axes:
        return False
    blocks = lays_blocks(brush)
    return blocks is None or blocks == (room.info.cells_kind == "blocks")


def lays_blocks(brush: Brush) -> bool | None:
    """Whether what the brush lays are blocks or tiles, by the first of them; None for neither."""
    book = brush.book() if hasattr(brush, "book") else None
    used = book.tiles_used() if book is not None else iter(brush.tiles_used())
    first = next(used, None)
    return None if first is None else bool(first.is_block)


def misfit_edit(brush: Brush, room: Room) -> Edit:
    """What a brush plans in a room of the other kind: nothing, and it says so."""
    made = room.info.cells_kind
    other = "tiles" if made == "blocks" else "blocks"
    reason = f"it works with {other}, and {room.info.name} is made of {made}"
    return Edit(brush.name, (), brush.colour, (reason,))
