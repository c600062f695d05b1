"""Laying materials: the one way in which brushes change cells of a tile layer.

Neighbours whose tile depends on what was laid are woven again in the same record.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import BEYOND, CellList, MaterialIds, TileIds
from topion.grid.boxes import Box
from topion.grid.lines import widened
from topion.grid.neighbours import window_offsets
from topion.model.brush import Brush, Marks, Place, Setting
from topion.model.edit import Edit, Record, cells_changed
from topion.model.project import Project
from topion.model.room import Layer
from topion.model.tileset import TileRef
from topion.weaving.loom import Loom, neighbourhoods
from topion.weaving.rules import RuleBook

NIB = Setting("nib", "Nib", "number", 1, 9, 1, "c", hint="How many cells wide a drag or line lays")
SEED = Setting("seed", "Roll", "seed", hint="Which variants fall where; the dice rolls anew")
_DENSE = 4  # a window is woven whole if it holds at most so many times the cells marked


def loom_of(project: Project) -> Loom:
    """The compiled rule books of the project; made anew after one of them changed."""
    cached = project.derived.get("loom")
    if cached is not None and cached[0] == project.library_revision:
        loom: Loom = cached[2]
        return loom
    books: dict[str, RuleBook] = {}
    seeds: dict[str, int] = {}
    for brush in project.brushes.values():
        if brush.material and hasattr(brush, "book"):
            books[brush.material] = brush.book()
            seeds[brush.material] = getattr(brush, "seed", 0)
    made_of = (project.materials, project.tiles, books, seeds)
    if cached is not None and cached[1] == made_of:  # something else of the library changed
        loom = cached[2]
    else:
        ids = {ref: number for number, ref in enumerate(project.tiles, 1)}
        loom = Loom(project.materials, books, seeds, ids)
    project.derived["loom"] = (project.library_revision, made_of, loom)
    return loom


def tile_id(project: Project, ref: TileRef) -> int:
    """The number of a tile in cells, 0 if the project does not know it."""
    key = ("tile ids", project.library_revision)
    ids = project.derived.get("tile ids")
    if ids is None or ids[0] != key:
        ids = (key, {known: number for number, known in enumerate(project.tiles, 1)})
        project.derived["tile ids"] = ids
    return int(ids[1].get(ref, 0))


def marked_cells(place: Place, marks: Marks, nib: int = 1) -> CellList:
    """The marked cells inside the room, widened by the nib where the pointer drew them."""
    cells = widened(marks.cells, nib) if marks.path is not None else marks.cells
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
    loom = loom_of(place.project)
    cells = np.stack(np.unravel_index(laid.flat, shape), axis=1)
    box = Box.of_cells(cells).grown(loom.reach).clipped(place.room.box)
    if box.size <= _DENSE * len(laid.flat) + 4096:
        flat, materials, woven = _woven_window(loom, layer, box, cells, laid)
    else:
        flat, materials, woven = _woven_cells(loom, layer, laid)
    return _record(place, layer_id, layer, laid, flat, materials, woven)


def _woven_window(
    loom: Loom, layer: Layer, box: Box, cells: CellList, laid: Laid
) -> tuple[NDArray[np.intp], MaterialIds, TileIds]:
    """Weave the whole of `box` as it would be after laying."""
    material = layer.planes["material"]
    outer = box.grown(2)
    window = np.full(outer.shape, BEYOND, np.uint16)
    known = outer.clipped(Box.of_shape(material.shape))
    inner = tuple(slice(a - o, b - o) for a, b, o in zip(known.lo, known.hi, outer.lo, strict=True))
    window[inner] = material[known.slices]
    window[tuple((cells - outer.lo).T)] = laid.materials
    woven = loom.padded(window, (box.lo[0], box.lo[1]), rim=known != outer)
    rows = np.arange(box.lo[0], box.hi[0], dtype=np.intp) * material.shape[1]
    flat = (rows[:, None] + np.arange(box.lo[1], box.hi[1])).reshape(-1)
    return flat, window[2:-2, 2:-2].reshape(-1), woven.reshape(-1)


def _woven_cells(
    loom: Loom, layer: Layer, laid: Laid
) -> tuple[NDArray[np.intp], MaterialIds, TileIds]:
    """Weave only the laid cells and those around them, wherever they lie."""
    material = layer.planes["material"]
    height, width = material.shape
    ys, xs = np.divmod(laid.flat, width)
    offsets = window_offsets(loom.reach)
    near_y, near_x = ys[:, None] + offsets[:, 0], xs[:, None] + offsets[:, 1]
    inside = (near_y >= 0) & (near_y < height) & (near_x >= 0) & (near_x < width)
    flat = np.unique((near_y * width + near_x)[inside])
    around, ys, xs = neighbourhoods(material, flat, loom.reach)
    near = flat[:, None] + offsets[:, 0] * width + offsets[:, 1]
    at = np.searchsorted(laid.flat, near).clip(0, len(laid.flat) - 1)
    hit = (laid.flat[at] == near) & (around != BEYOND)
    around = np.where(hit, laid.materials[at], around)
    middle = around.shape[1] // 2
    return flat, around[:, middle], loom.around(around, ys, xs)


def _record(
    place: Place,
    layer_id: str,
    layer: Layer,
    laid: Laid,
    flat: NDArray[np.intp],
    materials: MaterialIds,
    woven: TileIds,
) -> tuple[Record, ...]:
    before = {name: plane.reshape(-1)[flat] for name, plane in layer.planes.items()}
    pinned = before["pinned"].copy()
    whole = len(flat) == len(laid.flat)  # as for a box or a flood that fills the room
    at = slice(None) if whole else np.searchsorted(flat, laid.flat)
    pinned[at] = 0 if laid.tiles is None else 1
    tiles = np.where(pinned, before["tile"], woven)
    if laid.tiles is not None:
        tiles[at] = laid.tiles
    after = {"material": materials, "tile": tiles, "pinned": pinned}
    return cells_changed(
        place.room_name, layer_id, tuple(place.room.info.size), flat, before, after
    )


def rewoven(project: Project, fresh: Loom) -> Iterator[Record]:
    """Records that bring every tile layer of every room in line with another loom."""
    for room in project.rooms.values():
        for layer_id, layer in room.bottom_up("tiles"):
            tile, pinned = layer.planes["tile"], layer.planes["pinned"]
            woven = np.where(pinned, tile, fresh.whole(layer.planes["material"]))
            flat = np.flatnonzero(woven != tile)
            yield from cells_changed(
                room.info.name,
                layer_id,
                tuple(room.info.size),
                flat,
                {"tile": tile.reshape(-1)[flat]},
                {"tile": woven.reshape(-1)[flat]},
            )


def plan_material(brush: Brush, place: Place, marks: Marks) -> Edit:
    """Lay the brush's own material over the marked cells."""
    layer_id, layer = place.layer_for("tiles", brush.layer)
    if layer.info.locked:
        return locked_edit(brush, layer)
    cells = marked_cells(place, marks, getattr(brush, "nib", 1))
    material = place.project.material_id(brush.material)
    laid = Laid.of_cells(cells, place.room.info.size, material)
    return Edit(brush.name, lay(place, layer_id, laid), brush.colour)


def locked_edit(brush: Brush, layer: Layer) -> Edit:
    """What a brush plans on a locked layer: nothing, and it says so."""
    return Edit(brush.name, (), brush.colour, (f"layer {layer.info.name} is locked",))
