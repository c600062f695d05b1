"""From what is stored to what shows: the one function that settles a box of a layer.

Nothing is settled before somebody looks: a write marks what it may have changed, another rule
book all of the layers woven by it, and whoever asks for the tiles of a box gets them settled.
So a change of the library costs nothing for rooms that nobody sees.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import BEYOND, CellList, MaterialIds, TileIds
from topion.grid.boxes import Box
from topion.model.layer import BLOCK_SIDES, Layer, Shown
from topion.model.project import Project
from topion.model.room import Room
from topion.model.solid import TURN_BITS, TURN_MASK
from topion.model.tileset import TileRef
from topion.weaving.inlays import with_inlays
from topion.weaving.loom import neighbours
from topion.weaving.looms import AnyLoom, MadeOf, loom_for, made_of
from topion.weaving.pieces import laid_over

_MOSTLY = 0.5  # a share of stale blocks from which all of a box is woven at once


@dataclass(frozen=True, eq=False)
class Settled:
    """What shows in a box.  material : None where it is what is painted.  over : tiles of
    inlays; None where there are none."""

    tile: TileIds
    material: MaterialIds | None = None
    over: TileIds | None = None


def settled(project: Project, loom: AnyLoom, layer: Layer, box: Box) -> Settled:
    """What shows in the cells of `box`, as it follows from what the layer stores.

    Pure: reads stored planes and pieces only.  box : inside the room.
    """
    whole = Box.of_shape(layer.size)
    outer = box.grown(loom.rim)
    known = outer.clipped(whole)
    over = laid_over(project, layer, known)
    first = layer.from_origin(box.lo)
    material = layer.plane("material")[known.slices] if over is None else over.material
    if known == outer:
        tile = loom.padded(material, first, rim=False)
    else:
        window = np.full(outer.shape, BEYOND, np.uint16)
        window[known.slices_from(outer.lo)] = material
        tile = loom.padded(window, first)
    inlaid = None
    if layer.planes.get("inlay") is not None:
        inlay = layer.plane("inlay")[known.slices]
        inlaid = with_inlays(loom, material, inlay, known, box, tile, first)
    if layer.planes.get("pinned") is not None:
        fixed = layer.plane("pinned")[box.slices]
        tile = np.where(fixed, fixed, tile)
    if over is None:
        return Settled(tile, None, inlaid)
    inner = box.slices_from(known.lo)
    tile = np.where(over.covered[inner], over.tile[inner], tile)
    if inlaid is not None:
        inlaid = np.where(over.covered[inner], 0, inlaid).astype(np.uint16)
    return Settled(tile, material[inner], inlaid)


def shown_tiles(project: Project, layer: Layer, box: Box | None = None) -> TileIds:
    """What shows in the cells of `box`, or of all the layer: a tile id, or a block and its turn
    (see TURN_BITS), 0 for nothing.  A view, to be read before the next change.

    Raises KeyError for layers in which nothing is woven.
    """
    if not layer.info.traits.shows:
        raise KeyError(layer.info.kind)
    box = _inside(layer, box)
    return _settled_in(project, layer, box).tile[box.slices]


def shown_materials(project: Project, layer: Layer, box: Box | None = None) -> MaterialIds:
    """The materials that show in the cells of `box`, or of all the layer: of the nearest piece,
    or what is painted.  A view, to be read before the next change."""
    box = _inside(layer, box)
    if not layer.pieces:
        painted: MaterialIds = layer.plane("material")[box.slices]
        return painted
    material = _settled_in(project, layer, box).material
    assert material is not None
    return material[box.slices]


def shown_over(project: Project, layer: Layer, box: Box) -> TileIds | None:
    """The tiles of inlays in the cells of `box`, to be drawn over what shows; None for none."""
    if layer.planes.get("inlay") is None:
        return None
    box = _inside(layer, box)
    over = _settled_in(project, layer, box).over
    return None if over is None else over[box.slices]


def _inside(layer: Layer, box: Box | None) -> Box:
    whole = Box.of_shape(layer.size)
    return whole if box is None else box.clipped(whole)


def _settled_in(project: Project, layer: Layer, box: Box) -> Shown:
    """What the layer shows, settled at least in `box`."""
    made = made_of(project, layer.info.kind)
    shown = layer.shown
    if shown is None or not made.weaves_like(shown.by):
        shown = layer.shown = _settled_elsewhere(layer, made) or Shown.nothing(layer.size, made)
    if not shown.settled or _lacks(layer, shown):
        shown = layer.own_shown() or shown
        _settle(project, layer, shown, box)
    return shown


def shown_at(project: Project, layer: Layer, cells: CellList) -> TileIds:
    """(n,) what shows in (n, axes) single cells; what lies between them is not settled."""
    shown, made = layer.shown, made_of(project, layer.info.kind)
    if shown is not None and shown.settled and made.weaves_like(shown.by):
        return np.asarray(shown.tile[tuple(cells.T)])
    if layer.pieces:
        at = tuple((cells - np.array(Box.of_cells(cells).lo)).T)
        return np.asarray(shown_tiles(project, layer, Box.of_cells(cells))[at])
    loom = loom_for(project, layer)
    counted = cells + np.array(layer.from_origin((0,) * cells.shape[1]), np.intp)
    woven = loom.around(neighbours(layer.plane("material"), cells, loom.offsets), counted)
    pinned = layer.planes.get("pinned")
    if pinned is None:
        return woven
    fixed = pinned[tuple(cells.T)]
    return np.where(fixed, fixed, woven)


def filled(project: Project, layer: Layer) -> NDArray[np.bool_]:
    """The cells of all the layer in which something shows.

    Nothing is settled for that where rule books lay something whatever lies around.
    """
    if layer.pieces:
        return np.asarray(shown_tiles(project, layer) > 0)
    sure, material = loom_for(project, layer).sure, layer.plane("material")
    pinned = layer.planes.get("pinned")
    known = sure.copy()
    known[0] = True  # of no material: nothing shows
    if not known.take(material).all():
        return np.asarray(shown_tiles(project, layer) > 0)
    shows = sure.take(material)
    return shows if pinned is None else shows | (pinned > 0)


def _settled_elsewhere(layer: Layer, made: MadeOf) -> Shown | None:
    """What a frozen copy of the layer shows, if a thread settled all of that meanwhile."""
    for other in layer.readers():
        shown = other.shown
        if shown is None or other.revision != layer.revision:
            continue
        if shown.settled and made.weaves_like(shown.by):
            return shown
    return None


def _settle(project: Project, layer: Layer, shown: Shown, box: Box) -> None:
    """Bring what shows in `box` in line with what is stored; writes into `shown`."""
    whole, loom = Box.of_shape(layer.size), loom_for(project, layer)
    if layer.pieces and shown.material is None:  # what was settled before has none over it
        shown.material = np.array(layer.plane("material"))
    if layer.planes.get("inlay") is not None and shown.over is None:
        shown.over = np.zeros(layer.size, np.uint16)
    left = []
    for pending in shown.pending:
        near = pending.grown(loom.reach).clipped(whole)
        if near.meets(box):
            _put(shown, near, settled(project, loom, layer, near), layer)
        else:
            left.append(pending)
    shown.pending = left
    for part in _stale_parts(shown, box):
        _put(shown, part, settled(project, loom, layer, part), layer)
    shown.settle()


def _put(shown: Shown, box: Box, found: Settled, layer: Layer) -> None:
    shown.tile[box.slices] = found.tile
    if shown.material is not None:
        painted = layer.plane("material")[box.slices]
        shown.material[box.slices] = painted if found.material is None else found.material
    if shown.over is not None:
        shown.over[box.slices] = 0 if found.over is None else found.over


def _lacks(layer: Layer, shown: Shown) -> bool:
    """Whether it has no room yet for what pieces or inlays show."""
    inlaid = layer.planes.get("inlay") is not None
    return bool(layer.pieces and shown.material is None) or (inlaid and shown.over is None)


def _stale_parts(shown: Shown, box: Box) -> Iterator[Box]:
    """Boxes that hold all stale blocks that meet `box`; those blocks count as settled then."""
    if not box.size:
        return
    side = BLOCK_SIDES[len(box.lo)]
    whole = Box.of_shape(shown.tile.shape)
    lo = tuple(a // side for a in box.lo)
    blocks = Box(lo, tuple(-(-b // side) for b in box.hi))
    stale = shown.stale[blocks.slices]
    count = np.count_nonzero(stale)
    if not count:
        return
    if count > _MOSTLY * stale.size:
        parts = [Box.of_shape(stale.shape)]
    else:
        parts = list(_runs(stale))
    for part in parts:
        first = tuple((a + o) * side for a, o in zip(part.lo, lo, strict=True))
        last = tuple((b + o) * side for b, o in zip(part.hi, lo, strict=True))
        yield Box(first, last).clipped(whole)
    stale[...] = False


def _runs(stale: NDArray[np.bool_]) -> Iterator[Box]:
    """Boxes one block thick that hold all that is stale."""
    edges = np.diff(stale.astype(np.int8), axis=-1, prepend=0, append=0)
    starts, ends = np.argwhere(edges > 0).tolist(), np.argwhere(edges < 0).tolist()
    for (*row, first), (*_, last) in zip(starts, ends, strict=True):
        yield Box((*row, first), (*(v + 1 for v in row), last))


def tiles_in(project: Project, layer: Layer, box: Box) -> TileIds:
    """What shows in the cells of `box`, with 0 beyond the room; to be read, see shown_tiles."""
    known = box.clipped(Box.of_shape(layer.size))
    if known == box:
        return shown_tiles(project, layer, box)
    out = np.zeros(box.shape, np.uint16)
    inner = zip(known.lo, known.hi, box.lo, strict=True)
    cells = tuple(slice(a - o, b - o) for a, b, o in inner)
    out[cells] = shown_tiles(project, layer, known)
    return out


def over_in(project: Project, layer: Layer, box: Box) -> TileIds | None:
    """The tiles of inlays in the cells of `box`, with 0 beyond the room; None for none."""
    if layer.planes.get("inlay") is None:
        return None
    known = box.clipped(Box.of_shape(layer.size))
    over = shown_over(project, layer, known)
    if over is None:
        return None
    out = np.zeros(box.shape, np.uint16)
    out[known.slices_from(box.lo)] = over
    return out


def shown_ref(project: Project, layer: Layer, cell: tuple[int, ...]) -> TileRef | None:
    """The tile, or the block and its turn, that shows in a cell."""
    box = Box(cell, tuple(v + 1 for v in cell))
    return ref_of_tile(project, layer, int(shown_tiles(project, layer, box).reshape(-1)[0]))


def ref_of_tile(project: Project, layer: Layer, number: int) -> TileRef | None:
    """What a number in the cells of a layer stands for; None for 0."""
    if not number:
        return None
    if layer.info.kind == "blocks":
        return TileRef("", project.block_names[(number >> TURN_BITS) - 1], number & TURN_MASK)
    return project.tiles[number - 1]


def tile_planes(layer: Layer, tiles: TileIds) -> dict[str, np.ndarray]:
    """What shows in a layer as other programs read it: tiles, or blocks and their turns."""
    if layer.info.kind == "tiles":
        return {"tile": tiles}
    return {"block": tiles >> TURN_BITS, "turn": tiles & TURN_MASK}


def woven_layers(room: Room) -> Iterator[tuple[str, Layer]]:
    """(id, layer) of all layers that a loom fills."""
    return (pair for pair in room.bottom_up() if pair[1].info.traits.shows)
