"""Pictures of voxel rooms at any size, drawn without a window."""

from __future__ import annotations

import math
from dataclasses import replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadValue, UnknownName
from topion.grid.arrays import Rgba
from topion.model.project import Project
from topion.model.room import Room
from topion.render.bands import Bands
from topion.render.eye import VIEWS, Eye, View
from topion.render.lighting import depths, lit
from topion.render.raster import MOST_PX, Drawing, sky
from topion.render.volume import block_layer, outline_points, room_faces
from topion.render.wear import wear_of
from topion.render.worn_blocks import worn_book
from topion.weaving.settle import filled

_LARGEST_CELL_PX = 100_000


def solid_bands(
    project: Project,
    room: Room,
    *,
    view: View = "south-east",
    size: tuple[int, int] | None = None,
    scale: float = 1.0,
    perspective: bool = False,
) -> Bands:
    """All of a voxel room from one of the fixed views, to be drawn band by band.

    size : (height, width) in px; without it as large as cells of the room's own size, times
    `scale`, need.  Raises BadValue for a picture too large or empty.
    """
    if room.info.axes != 3:
        raise BadValue("the room", room.info.name, "a voxel room to be seen from a view")
    if view not in VIEWS:
        raise UnknownName("view", view, VIEWS)
    layer = block_layer(room)
    full = filled(project, layer) if layer else np.zeros(room.info.size, bool)
    points = outline_points(full)
    eye = Eye(height=100, width=100, perspective=perspective).looking(view)
    if size is None:
        size = _natural_size(eye, points, room.info.cell_px * scale)
    if min(size) < 1 or size[0] * size[1] > MOST_PX:
        raise BadValue("the size of the picture", size, f"1 to {MOST_PX >> 20} million px")
    eye = replace(eye, height=size[0], width=size[1]).framing_points(points, 0.94)
    return bands_of_eye(project, room, eye)


def picture_of_eye(project: Project, room: Room, eye: Eye) -> Rgba:
    """(h, w, 4) what the eye sees of a voxel room.  Raises BadValue for a picture too large."""
    return bands_of_eye(project, room, eye).whole()


def bands_of_eye(project: Project, room: Room, eye: Eye) -> Bands:
    """What `picture_of_eye` gives, to be drawn band by band."""
    if min(eye.height, eye.width) < 1 or eye.height * eye.width > MOST_PX:
        size = (eye.height, eye.width)
        raise BadValue("the size of the picture", size, f"1 to {MOST_PX >> 20} million px")
    faces = room_faces(project, room)
    pictures, light = worn_book(project, wear_of(room)).pictures, room.info.light
    drawing = Drawing(faces, pictures, eye, lit(light), depths(eye, room.info.size))
    backdrop = partial(sky, light=light)
    return Bands(eye.height, eye.width, lambda top, bottom: drawing.rows(top, bottom, backdrop))


def _natural_size(eye: Eye, points: NDArray[np.float64], px: float) -> tuple[int, int]:
    """The picture in which a cell measures `px`."""
    if not 0 < px <= _LARGEST_CELL_PX:
        raise BadValue("the scale", px, f"one at which a cell has at most {_LARGEST_CELL_PX} px")
    framed = eye.framing_points(points, 1.0)
    seen = replace(framed, px=1.0).seen(points)[:, :2]
    span = seen.max(axis=0) - seen.min(axis=0)
    return math.ceil(span[0] * px / 0.94), math.ceil(span[1] * px / 0.94)
