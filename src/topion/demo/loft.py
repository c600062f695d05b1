"""The room Salt Loft of Brinehollow: a store under the roof, whose door leads out and not back in.

The survey finds two things about it, on purpose: they show what it says, and one fix mends both.
"""

from __future__ import annotations

from topion.scripting import ProjectHandle, RoomHandle

ROOM = "Salt Loft"
SIZE = (24, 40)
_LAYERS = (
    ("Ground", "tiles"),
    ("Cover", "tiles"),
    ("Pans", "tiles"),
    ("Walls", "tiles"),
    ("Things", "things"),
)


def add_loft(project: ProjectHandle) -> None:
    """Lay the room; its strokes are edits like any other."""
    room = project.add_room(ROOM, SIZE, 16, _LAYERS)  # type: ignore[arg-type]
    bottom, right = SIZE[0] - 1, SIZE[1] - 1
    room.lay("Mud", box=((0, 0), (bottom, right)))
    room.lay("Cobbles", box=((2, 2), (bottom - 2, right - 2)))
    for box in (((0, 0), (1, right)), ((bottom - 1, 0), (bottom, right)),
                ((2, 0), (bottom - 2, 1)), ((2, right - 1), (bottom - 2, right)),
                ((2, 25), (9, 26))):  # fmt: skip
        room.lay("Brick", box=box, layer="Walls")
    for top in (4, 12):
        room.lay("Brine pan", box=((top, 5), (top + 5, 13)), layer="Pans")
    _furnish(room)


def _furnish(room: RoomHandle) -> None:
    room.lay("Salt cone", cells=[(5, 18), (5, 20), (7, 19), (16, 30), (16, 33), (18, 31)])
    room.lay("Crate", cells=[(4, 29), (4, 30), (5, 29), (12, 35), (13, 35), (19, 18)])
    room.lay("Bucket", cells=[(11, 8), (19, 15)])
    room.lay("Lantern post", cells=[(10, 17), (10, 28), (18, 24)])
    room.lay("Door", cells=[(1, 20)])
