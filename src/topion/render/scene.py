"""A room flattened to pixels, whole or in part."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from topion.errors import BadValue
from topion.grid.arrays import Rgba, TileIds
from topion.grid.boxes import Box
from topion.model.layer import Layer
from topion.model.project import Project
from topion.model.room import Room
from topion.render.bands import Bands
from topion.render.pixels import Words, as_rgba, filled, lay_over, resized_rows, rows_behind
from topion.render.solid_scene import solid_bands
from topion.render.sprites import (
    DOT_PX,
    Placed,
    dots_in,
    overhang_cells,
    placed_sprites,
    things_in,
)
from topion.render.wear import PLAIN, Wear, stack_tiles, wear_of
from topion.weaving.settle import over_in, tiles_in

MOST_PX = 1 << 27
LARGEST_SCALE = 10_000


def render_room(
    project: Project, room: Room, scale: float = 1.0, layer_id: str | None = None
) -> Rgba:
    """(h, w, 4) straight RGBA of all shown layers over the backdrop, or of one layer alone.

    A voxel room is seen from the south-east.
    scale : 1 is the room's own cell size.  Raises BadValue for a picture too large or empty.
    """
    return room_bands(project, room, scale, layer_id).whole()


def room_bands(
    project: Project, room: Room, scale: float = 1.0, layer_id: str | None = None
) -> Bands:
    """What `render_room` gives, to be drawn band by band."""
    if not 0 < scale <= LARGEST_SCALE:
        raise BadValue("the scale", scale, f"above 0 and at most {LARGEST_SCALE}")
    if room.info.axes == 3:
        return solid_bands(project, room, scale=scale)
    px = room.info.cell_px * scale
    height, width = (round(cells * px) for cells in room.info.size)
    if height < 1 or width < 1:
        raise BadValue("the scale", scale, "large enough for one pixel of the room")
    if height * width > MOST_PX:
        raise BadValue("the scale", scale, f"small enough for {MOST_PX >> 20} million px")
    side = max(1, round(px))
    drawn_h = room.info.size[0] * side

    def draw(top: int, bottom: int) -> Rgba:
        lo, hi = rows_behind(drawn_h, height, (top, bottom))
        cells = Box((lo // side, 0), (-(-hi // side), room.info.size[1]))
        words = render_box(project, room, cells, side, layer_id)
        first = cells.lo[0] * side
        return as_rgba(resized_rows(words, first, drawn_h, (top, bottom), height, width))

    return Bands(height, width, draw, side)


def render_box(
    project: Project, room: Room, box: Box, side: int, layer_id: str | None = None
) -> Words:
    """The cells of `box` at `side` px each, (h · side, w · side) premultiplied words."""
    if layer_id is not None:
        out = filled((box.shape[0] * side, box.shape[1] * side), "")
        lay_layer(project, room, layer_id, box, side, out, 1.0)
        return out
    out = filled((box.shape[0] * side, box.shape[1] * side), room.info.backdrop)
    layers = [(known, layer) for known, layer in room.drawn() if layer.info.shown]
    low = plain_tiles(layers)
    if low and out.size:
        tiles = stacked(project, low, box)
        stack_tiles(project, wear_of(room), box, side, out, tiles, int(out[0, 0]))
    for known, layer in layers[len(low) :]:
        lay_layer(project, room, known, box, side, out, layer.info.opacity)
    return out


def stacked(project: Project, layers: Sequence[Layer], box: Box) -> list[TileIds]:
    """The tiles of layers, and of their inlays, in the order in which they are drawn."""
    found: list[TileIds] = []
    for layer in layers:
        found.append(tiles_in(project, layer, box))
        over = over_in(project, layer, box)
        if over is not None:
            found.append(over)
    return found


def plain_tiles(layers: Sequence[tuple[str, Layer]]) -> list[Layer]:
    """The layers from the bottom on whose tiles are simply copied cell by cell."""
    found = []
    for _, layer in layers:
        info = layer.info
        if info.kind != "tiles" or info.opacity < 1 or any(info.offset):
            break
        found.append(layer)
    return found


def lay_layer(
    project: Project, room: Room, layer_id: str, box: Box, side: int, out: Words, opacity: float
) -> None:
    """Lay one layer of the room over `out`, in place."""
    layer = room.layers[layer_id]
    if layer.info.kind == "tiles":
        tiles = tiles_in_box(layer, box, project, side, wear=wear_of(room))
        if tiles is not None:
            lay_over(out, tiles, opacity)
        return
    if side <= DOT_PX:
        dots = np.zeros_like(out)
        ys, xs, words = dots_in(project, room, layer_id, box, side)
        dots[ys, xs] = words
        lay_over(out, dots, opacity)
        return
    reach = overhang_cells(project, room)
    for placed in placed_sprites(
        project, room, layer, things_in(project, room, layer_id, box.grown(reach)), side
    ):
        _lay_sprite(out, placed, box, side, opacity)


def tiles_in_box(
    layer: Layer,
    box: Box,
    project: Project,
    side: int,
    scratch: Words | None = None,
    *,
    wear: Wear = PLAIN,
) -> Words | None:
    """The tiles of a layer as pixels, shifted by its offset; None if there are none.

    scratch : (h · side, w · side) memory to draw into, for those who draw many.
    """
    dy, dx = (round(v * side) for v in layer.info.offset)
    if dy or dx:
        wide = Box(
            (box.lo[0] - dy // side - 1, box.lo[1] - dx // side - 1),
            (box.hi[0] - dy // side + 1, box.hi[1] - dx // side + 1),
        )
        words = _window(project, layer, wide, side, wear)
        if words is None:
            return None
        top = (box.lo[0] - wide.lo[0]) * side - dy
        left = (box.lo[1] - wide.lo[1]) * side - dx
        return words[top : top + box.shape[0] * side, left : left + box.shape[1] * side]
    return _window(project, layer, box, side, wear, scratch)


def _window(
    project: Project,
    layer: Layer,
    box: Box,
    side: int,
    wear: Wear,
    scratch: Words | None = None,
) -> Words | None:
    tiles, over = tiles_in(project, layer, box), over_in(project, layer, box)
    if not tiles.any() and over is None:
        return None
    out = scratch
    if out is None:
        out = np.empty((box.shape[0] * side, box.shape[1] * side), np.uint32)
    layers = [tiles] if over is None else [tiles, over]
    stack_tiles(project, wear, box, side, out, layers, 0)
    return out


def _lay_sprite(out: Words, placed: Placed, box: Box, side: int, opacity: float) -> None:
    words = placed.sprite.words
    top, left = placed.top - box.lo[0] * side, placed.left - box.lo[1] * side
    y0, x0 = max(0, top), max(0, left)
    y1 = min(out.shape[0], top + words.shape[0])
    x1 = min(out.shape[1], left + words.shape[1])
    if y0 < y1 and x0 < x1:
        lay_over(out[y0:y1, x0:x1], words[y0 - top : y1 - top, x0 - left : x1 - left], opacity)
