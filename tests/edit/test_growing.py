"""Rooms that grow: strokes past their edge, and everything in its place after it."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import planes, small_project
from tests.shapes import BRICK, shape_room
from tests.voxel_rooms import block_at, isle
from topion.brushes import Mosaic, Stamp
from topion.brushes.marks import Marks, Place
from topion.edit.growing import planned
from topion.edit.rooms import set_room
from topion.errors import BadValue
from topion.formats.folder import read_project
from topion.model.compare import differences
from topion.things.sowings import sowing_of
from topion.weaving.settle import shown_tiles


def grow(room):
    """Let a room grow."""
    room.project.history.apply(set_room(room.project.data, room.name, grows=True))
    return room


def yard(size=(24, 32)):
    room = grow(shape_room(size))
    room.lay("Brick", box=((12, 12), (16, 20)))
    room.lay("Bush", cells=[(5, 5), (20, 28)])
    room.add_layer("Reeds", "field")
    room.set_layer("Reeds", brush="Reeds")
    room.lay("Reeds", box=((15, 2), (22, 10)))
    return room


def seen(room):
    """Tiles, things and sown things of a room, counted from where its first cell was at first."""
    data, project = room.data, room.project.data
    y0, x0 = data.info.origin or (0, 0)
    layer = data.layer("ground")
    tiles = {(y + y0, x + x0): int(t) for (y, x), t in np.ndenumerate(shown_tiles(project, layer))}
    things = sorted((t.y + y0, t.x + x0) for t in data.layer("things").things.values())
    sowing = sowing_of(project, data, "reeds")
    sown = sorted((round(y + y0, 9), round(x + x0, 9)) for y, x in sowing.positions.tolist())
    return tiles, things, sown


@pytest.mark.parametrize(("end", "size", "origin"), [
    ((5, -4), (24, 36), (0, -4)), ((-3, 7), (27, 32), (-3, 0)), ((5, 35), (24, 36), ()),
    ((26, 7), (27, 32), ()), ((-2, -2), (26, 34), (-2, -2)), ((25, 33), (26, 34), ()),
], ids=str)  # fmt: skip
def test_a_room_grows_in_any_direction_and_nothing_in_it_changes(end, size, origin):
    room = yard()
    before = seen(room)
    room.lay("Stones", cells=[end])
    assert room.size == size and room.data.info.origin == origin
    tiles, things, sown = seen(room)
    at = (end[0], end[1])
    assert tiles[at] and things == before[1] and sown == before[2]
    inner = {cell: tile for cell, tile in before[0].items() if abs(cell[0] - at[0]) > 2 and
             abs(cell[1] - at[1]) > 2 and 1 < cell[0] < 22 and 1 < cell[1] < 30}  # fmt: skip
    assert {cell: tiles[cell] for cell in inner} == inner


@settings(max_examples=25)
@given(st.lists(st.tuples(st.integers(-9, 40), st.integers(-9, 40)), min_size=1, max_size=4))
def test_growing_undone_gives_back_the_room(cells):
    room = yard()
    start = room.project.data.frozen()
    count = len(room.project.history.edits)
    for cell in cells:
        at = tuple(a - o for a, o in zip(cell, room.data.info.origin or (0, 0), strict=True))
        room.lay("Water", cells=[at])
    grown = room.project.data.frozen()
    room.project.history.jump(count)
    assert differences(start, room.project.data) == []
    room.project.history.jump(len(room.project.history.edits))
    assert differences(grown, room.project.data) == []


def test_a_room_that_may_not_grow_stays_as_large_as_it_is():
    room = shape_room()
    room.lay("Water", line=((5, 28), (5, 40)))
    assert room.size == (24, 32)


def test_lifting_past_the_edge_makes_no_room():
    room = yard()
    room.lift(line=((5, 28), (5, 40)))
    assert room.size == (24, 32)


def test_wide_strokes_pieces_fields_and_stamps_grow_it_as_far_as_they_reach():
    room = yard()
    room.lay("Wall", box=((2, 30), (6, 37)))
    assert room.size == (24, 38) and len(room.data.layer("ground").pieces) == 2
    room.lay("Reeds", line=((22, 5), (22, 6)))
    assert room.size[0] > 24 and room.data.layer("reeds").plane("density")[24].any()
    project = room.project
    project.add_brush(Stamp("Pin", ((project.data.tiles[0],) * 3,) * 2))
    size = room.size
    room.lay("Pin", cells=[(3, size[1] - 1)])
    assert room.size == (size[0], size[1] + 2)
    project.add_brush(Mosaic("Wide", project.data.brush("Stones").tiles, nib=5))
    size = room.size
    room.lay("Wide", line=((10, size[1] - 1), (11, size[1] - 1)))
    assert room.size == (size[0], size[1] + 2)


def test_a_prefab_grows_it_by_its_body():
    room = yard()
    room.lay("Cart", cells=[(10, 31)])
    assert room.size == (24, 33) and room.data.layer("things").things


def test_a_room_cannot_grow_beyond_what_rooms_can_be():
    room = isle((4, 500, 20), ground=1)
    grow(room)
    place = Place(room.project.data, room.name)
    edit = planned(room.project.data.brush("Stones"), place, Marks(np.array([(1, 520, 3)])))
    assert not edit and "size" in edit.refused[0]


def test_a_voxel_room_grows_to_all_sides_up_and_down():
    room = grow(isle((6, 8, 8), ground=2))
    for cell, size in (((2, 3, 9), (6, 8, 10)), ((7, 3, 3), (8, 8, 10)), ((2, -2, 3), (8, 10, 10)),
                       ((-1, 3, 3), (9, 10, 10))):  # fmt: skip
        room.lay("Stones", cells=[cell])
        assert room.size == size
    assert room.data.info.origin == (-1, -2, 0)


def test_blocks_show_what_they_showed_after_a_room_has_grown():
    room = grow(isle((6, 8, 8), ground=2))
    room.lay("Stones", box=((2, 2, 2), (2, 5, 5)))
    before = planes(room)["block"][2, 2:6, 2:6].copy()
    room.lay("Stones", cells=[(2, -3, -1)])
    assert np.array_equal(planes(room)["block"][2, 5:9, 3:7], before)
    assert block_at(room, 2, 0, 0)[0].startswith("Stone")


def test_a_room_that_grew_is_saved_with_its_origin(tmp_path):
    room = yard()
    room.lay("Stones", cells=[(-3, -2)])
    room.project.save(tmp_path / "a.topion")
    again = read_project(tmp_path / "a.topion")
    assert again.room("Yard").info == room.data.info
    assert differences(again, room.project.data) == []
    layer, ours = again.room("Yard").layer("ground"), room.data.layer("ground")
    assert np.array_equal(shown_tiles(again, layer), shown_tiles(room.project.data, ours))


def test_a_frozen_room_keeps_its_size_while_the_other_grows():
    room = yard()
    frozen = room.project.data.frozen()
    room.lay("Stones", cells=[(-3, -2)])
    assert frozen.room("Yard").info.size == (24, 32)
    assert shown_tiles(frozen, frozen.room("Yard").layer("ground")).shape == (24, 32)


def test_an_origin_is_set_by_growing_alone():
    project = small_project()
    room = project.add_room("Yard", (8, 8), 4)
    with pytest.raises(BadValue):
        project.data.put_item(("rooms", "Yard"), replace(room.data.info, origin=(1, 1)))
    assert BRICK.axes == 2
