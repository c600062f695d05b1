"""Many at once in Sluice Yard: a fence along a curve, gravel against it, lamps in a circle.

And reeds of two sizes, with some that are held where they were put."""

from __future__ import annotations

from topion.arrange.arranging import Arrangement, arrange, arranged
from topion.brushes.kind import brush_named
from topion.edit.picked import Picks
from topion.edit.picked_moves import moved
from topion.edit.pieces import Pick
from topion.edit.sown import held, sown_inside
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.scripting import RoomHandle

FENCE = ((1, 66), (4, 69), (9, 74.5), (9.5, 80), (13, 86), (16, 89.5), (17, 94))
LAMPS, _LAMP = 6, "Lantern post"
_TALL = (((36, 12), (34, 8)), ((52, 14), (53, 6)))  # lines along which the reeds are larger
_LOW = (((28, 28), (29, 30)),)  # and smaller


def lay_many(room: RoomHandle) -> None:
    """After the ground, the fields and the things."""
    _fence(room)
    _lamps(room)
    _reeds(room)


def _fence(room: RoomHandle) -> None:
    room.lay("Fence", curve=FENCE)
    room.lay("Gravel", box=((0, 62), (21, 95)))


def _lamps(room: RoomHandle) -> None:
    """In a circle on the meadow, by expressions, as in the panel Arrange."""
    before = set(room.data.layers["things"].things)
    room.lay(_LAMP, cells=[(7, 8)])
    (number,) = set(room.data.layers["things"].things) - before
    things = {Pick("things", number): room.data.layers["things"].things[number]}
    rows = {"x": "snap(8.5 + 4.2*cos(2*pi*t), 1)", "y": "snap(7 + 3.6*sin(2*pi*t), 1)"}
    found = arranged(room.project.data, room.name, things, Arrangement(rows, copies=LAMPS))
    room.project.history.apply(arrange(room.project.data, room.name, found))


def _reeds(room: RoomHandle) -> None:
    project = room.project
    field = brush_named(project.data, "Reed bed")
    for lines, scale in ((_TALL, 1.6), (_LOW, 0.6)):
        sizes = field.changed(paints="size", way="set", scale=scale, radius=3.0)
        for line in lines:
            room.lay(sizes, line=line)
    layer_id = next(i for i, la in room.data.bottom_up("field") if la.info.brush == "Reed bed")
    shore = Area.of_box(Box((33, 6), (38, 14)))
    stalks = sown_inside(project.data, room.data, layer_id, shore)[:3]
    edit, picks = held(project.data, room.name, layer_id, stalks)
    project.history.apply(edit)
    project.history.apply(moved(project.data, room.name, Picks(picks[:1]), (0.5, 1.0)))
