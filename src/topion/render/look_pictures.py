"""Small pictures of a room in one of the looks that it can be worn in."""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

from topion.grid.arrays import Rgba
from topion.grid.boxes import Box
from topion.model.light import Light
from topion.model.project import Project
from topion.model.room import Room
from topion.render.pixels import as_rgba, resized
from topion.render.raster import sky
from topion.render.scene import render_box
from topion.render.solid_scene import solid_bands

_MOST_CELLS = 1 << 22  # of a voxel room
_MOST_SEEN = 3  # px of the picture for each cell are enough; of larger rooms the middle is shown


class Look(NamedTuple):
    """theme : its name.  tint : the id of a tint map.  light : of a voxel room."""

    theme: str = ""
    tint: str = ""
    light: Light | None = None


def look_of(room: Room) -> Look:
    """The one that a room is worn in."""
    return Look(room.info.theme, room.info.tint, room.info.light if room.info.axes == 3 else None)


def dressed_in(room: Room, look: Look) -> Room:
    """The same room in a look, to be drawn."""
    made = room.frozen()
    light = room.info.light if look.light is None else look.light
    made.info = replace(room.info, theme=look.theme, tint=look.tint, light=light)
    return made


def look_picture(project: Project, room: Room, look: Look, size: tuple[int, int]) -> Rgba:
    """(h, w, 4) a room in a look, as much of its middle as fills the picture."""
    shown, (height, width) = dressed_in(room, look), size
    if room.box.size > _MOST_CELLS and room.info.axes == 3:
        return sky(height, width, light=shown.info.light)  # its blocks would take too long
    if room.info.axes == 3:
        return solid_bands(project, shown, size=size).whole()
    high, wide = room.info.size
    least = max(height / high, width / wide, 1 / _MOST_SEEN)
    rows, columns = min(high, round(height / least) or 1), min(wide, round(width / least) or 1)
    top, left = (high - rows) // 2, (wide - columns) // 2
    side = max(1, round(least))
    words = render_box(project, shown, Box((top, left), (top + rows, left + columns)), side)
    return as_rgba(resized(words, height, width))
