"""A whole room seen from above, small: for the plan and for lists of rooms."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Rgba
from topion.grid.boxes import Box
from topion.model.light import PLAIN
from topion.model.project import Project
from topion.model.room import Room
from topion.model.themes import theme_names
from topion.render.eye import Eye
from topion.render.lighting import depths, lit
from topion.render.pixels import as_rgba, as_words, filled, lay_over, resized
from topion.render.raster import Drawing, nothing
from topion.render.scene import render_box
from topion.render.volume import block_layer, room_faces
from topion.render.wear import wear_of, worn
from topion.render.worn_blocks import worn_book
from topion.weaving.settle import filled as filled_cells

LONGEST_PX = 2048
_MOST_CELLS = 1 << 22  # of a voxel room that is drawn block by block
_SHADE = (0.55, 1.0)  # of the lowest and the highest column of larger ones


def size_of(plan: tuple[int, int], longest: int) -> tuple[int, int]:
    """(height, width) in px of the picture of a room of so many (y, x) cells, `longest` px along
    its longer side."""
    scale = longest / max(plan)
    return max(1, round(plan[0] * scale)), max(1, round(plan[1] * scale))


def overview(
    project: Project, room: Room, longest: int, theme: str | None = None, tint: str | None = None
) -> Rgba:
    """(h, w, 4) all of a room as large as `size_of` says, worn in a theme and a tint map; None for
    what it is worn in, as for those that are not there."""
    shown = worn_as(project, room, theme, tint)
    height, width = size_of(room.info.plan, min(longest, LONGEST_PX))
    if room.info.axes == 3:
        return _from_above(project, shown, height, width)
    side = max(1, round(max(height, width) / max(room.info.size)))
    words = render_box(project, shown, Box.of_shape(room.info.size), side)
    return as_rgba(resized(words, height, width))


def worn_as(project: Project, room: Room, theme: str | None, tint: str | None) -> Room:
    """A copy of a room in a theme and a tint map by name; None for what it is worn in, as for those
    that are not there."""
    if theme and theme not in theme_names(project):
        theme = None
    if tint and all(layer.info.name != tint for _, layer in room.tint_maps()):
        tint = None
    return worn(project, room, theme, tint)


def _from_above(project: Project, room: Room, height: int, width: int) -> Rgba:
    out = filled((height, width), room.info.backdrop)
    if room.box.size > _MOST_CELLS:
        return _heights(project, room, height, width)
    deep, high, wide = room.info.size
    eye = Eye((deep / 2, high / 2, wide / 2), 0.0, 90.0, width / wide, height, width,
              reach=float(deep) + 8)  # fmt: skip
    pictures = worn_book(project, wear_of(room)).pictures
    drawing = Drawing(room_faces(project, room), pictures, eye, lit(PLAIN),
                      depths(eye, room.info.size))  # fmt: skip
    lay_over(out, as_words(drawing.rows(0, height, nothing)))
    return as_rgba(out)


def _heights(project: Project, room: Room, height: int, width: int) -> Rgba:
    """The columns of a large voxel room, the higher the lighter."""
    layer = block_layer(room)
    tops: NDArray[np.float64] = np.zeros(room.info.plan)
    if layer is not None:
        full = filled_cells(project, layer)
        held = full.any(axis=0)
        tops = np.where(held, len(full) - full[::-1].argmax(axis=0), 0) / len(full)
    rows = np.arange(height) * tops.shape[0] // height
    columns = np.arange(width) * tops.shape[1] // width
    shade = _SHADE[0] + (_SHADE[1] - _SHADE[0]) * tops[rows[:, None], columns]
    out = as_rgba(filled((height, width), room.info.backdrop)).copy()
    out[..., :3] = np.rint(out[..., :3] * shade[..., None])
    return out
