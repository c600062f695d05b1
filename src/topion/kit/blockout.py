"""A new project with the kit, and with a first room to paint in."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from topion.brushes import ThingsBrush
from topion.edit.history import History
from topion.edit.library import put_item
from topion.kit import flat, solid, things
from topion.kit.palette import COLOURS
from topion.model.figure import Figure
from topion.scripting import ProjectHandle, RoomHandle, new

FLAT_LAYERS = (
    (flat.BACK, "tiles"), (flat.GROUND, "tiles"), (flat.BUILT, "tiles"), (flat.WAYS, "tiles"),
    (flat.WATER, "tiles"), (flat.THINGS, "things"),
)  # fmt: skip
_INKS = {"Start": "tidal", "Goal": "buoy", "Door": "plank dark", "Pickup": "ochre",
         "Hazard": "buoy dark", things.FIGURE: "tidal light"}  # fmt: skip
FLOOR = 2  # levels of the ground that a voxel room begins with, rows of one seen from the side


@dataclass(frozen=True)
class FirstRoom:
    """size : cells, (y, x) of a flat room, (z, y, x) of a voxel room.  cell_px : of its tiles."""

    name: str = "Room 1"
    size: tuple[int, ...] = (30, 48)
    seen: Literal["top", "side"] = "side"
    cell_px: int = 16

    @property
    def deep(self) -> bool:
        return len(self.size) == 3


def add_kit(project: ProjectHandle, px: int = 16) -> None:
    """Put the whole kit on the shelves: flat and voxel, for cells of so many px."""
    project.add_tileset(flat.tileset(px))
    for block in solid.blocks():
        project.add_block(block)
    for prefab in things.prefabs(px):
        project.add_prefab(prefab)
    for bay, brush in (*flat.brushes(), *solid.brushes()):
        project.add_brush(brush, bay)
    for name, ink in _INKS.items():
        project.add_brush(ThingsBrush(name, name, colour=COLOURS[ink]), "Things")
    figure = Figure(things.FIGURE, looks=things.FIGURE)
    project.history.apply(put_item(project.data, "figures", figure))


def blockout(name: str, first: FirstRoom = FirstRoom()) -> ProjectHandle:
    """A project with the kit and a room with ground, a start and a goal, that nobody has painted
    in: its history is empty."""
    project = new(None, name)
    add_kit(project, first.cell_px)
    _begin(project, first)
    project.history = History(project.data)
    return project


def _begin(project: ProjectHandle, first: FirstRoom) -> None:
    layers = () if first.deep else FLAT_LAYERS
    room = project.add_room(first.name, first.size, first.cell_px, layers, first.seen)  # type: ignore[arg-type]
    *_, height, width = first.size
    if min(height, width) < 6:
        return
    if first.deep:
        _begin_deep(room)
    elif first.seen == "side":
        _begin_side(room)
    else:
        room.lay("Floor", box=((0, 0), (height - 1, width - 1)))
        room.lay("Wall", box=((0, 0), (height - 1, width - 1)), outline=True)
        room.lay("Start", cells=[(height // 2, 2)])
        room.lay("Goal", cells=[(height // 2, width - 3)])


def _begin_side(room: RoomHandle) -> None:
    height, width = room.size
    room.lay("Back wall", box=((0, 0), (height - 1, width - 1)))
    room.lay("Ground", box=((height - FLOOR - 1, 0), (height - 1, width - 1)))
    room.lay("Start", cells=[(height - FLOOR - 2, 2)])
    room.lay("Goal", cells=[(height - FLOOR - 2, width - 3)])


def _begin_deep(room: RoomHandle) -> None:
    depth, height, width = room.size
    top = min(FLOOR, depth)
    room.lay(solid.GROUND, box=((0, 0, 0), (top - 1, height - 1, width - 1)))
    if depth > top + 2:
        room.lay("Start", cells=[(top, height // 2, 2)])
        room.lay("Goal", cells=[(top, height // 2, width - 3)])
