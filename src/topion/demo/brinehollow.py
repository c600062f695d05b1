"""Brinehollow and its room Sluice Yard, laid stroke by stroke through the scripting calls."""

from __future__ import annotations

import numpy as np

from topion.brushes import ThingsBrush
from topion.demo.alive import enliven, enliven_yard, lay_plan, link_rooms, record
from topion.demo.art import tileset
from topion.demo.cellar import add_cellar, add_cellar_library
from topion.demo.island import add_island, add_island_library
from topion.demo.library import brushes, prefabs
from topion.demo.loft import add_loft
from topion.demo.many import lay_many
from topion.demo.marsh import add_marsh
from topion.edit.history import History
from topion.scripting import ProjectHandle, RoomHandle, new

ROOM = "Sluice Yard"
SIZE = (64, 96)
LAYERS = (
    ("Sea", "tiles"),
    ("Ground", "tiles"),
    ("Cover", "tiles"),
    ("Pans", "tiles"),
    ("Boardwalk", "tiles"),
    ("Sheds", "tiles"),
    ("Things", "things"),
)
Cells = tuple[tuple[int, int], ...]


def library() -> ProjectHandle:
    """Brinehollow without rooms: the sheet, the prefabs and the brushes."""
    project = new(None, "Brinehollow")
    project.add_tileset(tileset())
    for prefab in prefabs():
        project.add_prefab(prefab)
    for bay, brush in brushes():
        project.add_brush(brush, bay)
    add_cellar_library(project)
    add_island_library(project)
    return project


def brinehollow() -> ProjectHandle:
    """The whole demo; its history starts with the strokes of Sluice Yard."""
    project = library()
    room = project.add_room(ROOM, SIZE, 16, LAYERS)  # type: ignore[arg-type]
    add_cellar(project)
    add_marsh(project)
    add_island(project)
    add_loft(project)
    enliven(project)
    project.history = History(project.data)
    _ground(room)
    _pans(room)
    _boardwalks(room)
    _sheds(room)
    _fields(room)
    _things(room)
    lay_many(room)
    enliven_yard(room)
    link_rooms(project)
    lay_plan(project)
    record(project)
    project.history.mark_saved()
    return project


def _ground(room: RoomHandle) -> None:
    height, width = SIZE
    # the sea lies below all ground and shows through its worn edges
    room.lay("Water", box=((0, 0), (height - 1, width - 1)), layer="Sea")
    room.lay("Mud", box=((0, 0), (height - 1, width - 1)))
    for way in _CHANNELS:
        _carve(room, way)
    room.lay("Deep water", cells=_blob(_BASIN, grown=-2))
    room.lay("Deep water", cells=_blob(_HARBOUR, grown=-2))
    for patch in _MEADOWS:
        room.lay("Salt grass", cells=_blob(patch))
    room.lay("Cobbles", cells=_blob(((20, 66, 4.0, 7.5), (19, 72, 3.5, 6.0))))


# Blobs are unions of ellipses: (y, x, half height, half width) in cells.
Ellipse = tuple[float, float, float, float]
_BASIN: tuple[Ellipse, ...] = (
    (21, 13, 6, 10), (25, 20, 7, 9), (30, 12, 6, 8), (19, 24, 4, 5),
)  # fmt: skip
_HARBOUR: tuple[Ellipse, ...] = (
    (60, 40, 8, 22), (58, 62, 9, 16), (62, 20, 5, 14), (55, 88, 8, 9), (63, 78, 6, 14),
)  # fmt: skip
_POND: tuple[Ellipse, ...] = ((27, 88, 5, 6), (32, 92, 6, 6))
_CHANNEL: tuple[Ellipse, ...] = (
    (36, 20, 5, 3.2), (41, 23, 5, 3), (46, 26, 5, 3.2), (51, 29, 5, 4), (34, 50, 2.4, 6),
    (33, 42, 2.4, 6), (34, 34, 2.6, 7), (35, 27, 3, 5), (33, 58, 2.4, 5), (31, 64, 2.4, 4),
    (29.5, 70, 2.4, 5), (28.5, 77, 2.4, 6), (28, 83, 3, 4),
)  # fmt: skip
_CHANNELS = (_BASIN, _CHANNEL, _POND, _HARBOUR)
_MEADOWS: tuple[tuple[Ellipse, ...], ...] = (
    ((4, 6, 5, 9), (7, 13, 3, 5), (3, 18, 3, 6)),
    ((5, 88, 5, 9), (10, 92, 5, 5), (3, 78, 3, 5)),
    ((44, 8, 5, 6), (48, 5, 5, 7), (40, 5, 4, 4)),
    ((42, 86, 4, 8), (45, 91, 4, 6)),
    ((27, 44, 2.4, 4), (25.5, 47, 2.2, 3)),
)


def _blob(ellipses: tuple[Ellipse, ...], grown: float = 0.0) -> Cells:
    """Cells whose middles lie in any of the ellipses, clipped to the room."""
    ys, xs = np.indices(SIZE)
    inside = np.zeros(SIZE, bool)
    for cy, cx, h, w in ellipses:
        if h + grown > 0 and w + grown > 0:
            off_y, off_x = (ys - cy - 0.35) / (h + grown), (xs - cx - 0.35) / (w + grown)
            inside |= off_y**2 + off_x**2 <= 1
    return tuple((int(y), int(x)) for y, x in np.argwhere(inside))


def _carve(room: RoomHandle, ellipses: tuple[Ellipse, ...]) -> None:
    room.lay("Water", cells=_blob(ellipses))


def _pans(room: RoomHandle) -> None:
    for top, left, bottom, right in (
        (38, 36, 43, 45),
        (38, 49, 43, 58),
        (46, 36, 51, 45),
        (46, 49, 51, 58),
    ):
        room.lay("Brine pan", box=((top, left), (bottom, right)))


def _boardwalks(room: RoomHandle) -> None:
    # from the sheds along the basin, over the channel, to the pans and the harbour
    ways = (
        ((16, 30), (16, 62)), ((16, 33), (35, 33)), ((35, 33), (35, 64)), ((35, 64), (22, 64)),
        ((35, 47), (54, 47)), ((54, 30), (54, 70)), ((54, 36), (59, 36)), ((54, 51), (60, 51)),
        ((54, 66), (59, 66)), ((23, 10), (23, 33)), ((35, 64), (35, 84)), ((35, 84), (30, 84)),
    )  # fmt: skip
    for start, end in ways:
        room.lay("Boardwalk", line=(start, end))
    for y, x in ((59, 35), (60, 50), (59, 65), (23, 10)):
        room.lay("Boardwalk", box=((y, x), (y + 1, x + 2)))


_SHEDS = ((8, 32, 10, 7), (6, 50, 12, 8), (12, 70, 10, 6), (44, 72, 9, 6))


def _sheds(room: RoomHandle) -> None:
    for top, left, width, height in _SHEDS:
        wall = max(2, height // 3)
        right, foot = left + width - 1, top + height - 1
        room.lay("Slate roof", box=((top, left), (foot - wall, right)))
        room.lay("Brick", box=((foot - wall + 1, left), (foot, right)))


def _fields(room: RoomHandle) -> None:
    for line in (
        ((12, 8), (13, 20)), ((36, 12), (34, 8)), ((28, 28), (29, 30)), ((37, 28), (46, 33)),
        ((25, 79), (24, 92)), ((37, 91), (35, 80)), ((52, 14), (53, 6)), ((50, 80), (48, 92)),
        ((29, 52), (30, 40)),
    ):  # fmt: skip
        room.lay("Reed bed", line=line)
    for top, left in ((39, 37), (39, 50), (47, 50)):
        room.lay("Drying salt", box=((top, left), (top + 3, left + 7)))


def _things(room: RoomHandle) -> None:
    door = "Door"
    for top, left, width, height in _SHEDS:
        room.lay(door, cells=[(top + height - 1, left + width // 2)])
    room.lay(
        "Lantern post",
        cells=[(17, 34), (17, 45), (17, 57), (24, 14), (24, 26), (34, 36), (34, 46), (34, 56),
               (34, 66), (55, 33), (55, 44), (55, 57), (55, 68), (24, 66), (34, 78), (45, 46)],
    )  # fmt: skip
    room.lay("Crate", cells=[(15, 36), (15, 37), (15, 54), (15, 55), (14, 55), (20, 68), (20, 69),
                             (51, 71), (51, 72), (52, 72), (60, 52), (19, 75)])  # fmt: skip
    room.lay("Bucket", cells=[(37, 46), (44, 47), (45, 52), (20, 71), (52, 50)])
    room.lay("Post", cells=[(61, 35), (61, 37), (62, 50), (62, 52), (61, 65), (61, 67), (25, 10)])
    room.lay("Valve wheel", cells=[(22, 63), (36, 34), (53, 48)])
    room.lay("Salt cone", cells=[(44, 60), (45, 61), (44, 62), (20, 78), (19, 80)])
    room.lay("Rowing boat", cells=[(60, 40), (61, 56), (26, 16)])
    room.lay(ThingsBrush("Gull", "Gull", "Things", mirrored=True), cells=[(58, 60), (50, 24)])
    room.lay("Gull", cells=[(21, 20), (7, 56), (30, 90), (56, 90), (12, 35)])
