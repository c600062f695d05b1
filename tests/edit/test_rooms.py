"""Rooms as a whole: set, renamed, duplicated, cleared, shifted, resized."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import drawn, small_room
from tests.shapes import shape_room
from tests.voxel_rooms import isle
from topion.edit import rooms as edits
from topion.edit.serial import edit_from_plain, edit_to_plain
from topion.errors import BadValue, NameTaken
from topion.formats.folder import read_project
from topion.model.compare import differences, differences_in_rooms

SIGNS = {"Mud": "m", "Water": "w", "Wall": "W"}


def do(room, plan, *args, **named):
    edit = plan(room.project.data, *args, **named)
    room.project.history.apply(edit_from_plain(edit_to_plain(edit)))
    return edit


def test_a_room_is_renamed_in_its_place_and_back(tmp_path):
    room = small_room((6, 8))
    room.project.add_room("After", (4, 4), 4)
    start = room.project.data.frozen()
    do(room, edits.rename_room, "Yard", "Court")
    assert room.project.rooms() == ("Court", "After")
    assert room.project.data.room("Court").info.name == "Court"
    room.project.save(tmp_path / "a.topion")
    assert differences(read_project(tmp_path / "a.topion"), room.project.data) == []
    room.project.undo()
    assert differences(start, room.project.data) == []
    room.project.save()
    assert [p.name for p in sorted((tmp_path / "a.topion" / "rooms").iterdir())] == [
        "After",
        "Yard",
    ]


def test_a_name_that_is_taken_or_none_is_refused():
    room = small_room((6, 8))
    room.project.add_room("After", (4, 4), 4)
    data = room.project.data
    with pytest.raises(NameTaken):
        edits.rename_room(data, "Yard", "After")
    with pytest.raises(BadValue):
        edits.rename_room(data, "Yard", "  ")
    with pytest.raises(NameTaken):
        edits.duplicate_room(data, "Yard", "After")


def test_a_duplicate_holds_the_same_and_has_its_own_life():
    room = shape_room((16, 16))
    room.lay("Wall", box=((8, 8), (12, 13)))
    room.lay("Bush", cells=[(2, 2)])
    do(room, edits.duplicate_room, "Yard", "Yard 2")
    copy = room.project.room("Yard 2")
    found = [d for d in differences_in_rooms(room.data, copy.data) if d != "its settings differ"]
    assert found == []
    copy.lay("Water", box=((0, 0), (3, 3)))
    assert room.material(14, 1) == copy.material(14, 1) == "Mud"
    assert room.project.undo() and room.project.undo() and room.project.rooms() == ("Yard",)


def test_settings_of_a_room_change_and_its_size_does_not_by_the_way():
    room = small_room((6, 8))
    do(room, edits.set_room, "Yard", seen="side", notes="low tide", backdrop="#102030", cell_px=8)
    info = room.data.info
    assert (info.seen, info.notes, info.backdrop, info.cell_px) == (
        "side",
        "low tide",
        "#102030",
        8,
    )
    for bad in ({"size": (3, 3)}, {"origin": (1, 1)}, {"name": "x"}, {"cell_px": 0}):
        with pytest.raises(BadValue):
            edits.set_room(room.project.data, "Yard", **bad)


def test_a_layer_or_a_room_is_cleared_and_stays():
    room = shape_room((16, 16))
    room.lay("Wall", box=((8, 8), (12, 13)))
    room.lay("Bush", cells=[(2, 2)])
    start = room.project.data.frozen()
    do(room, edits.clear_layer, "Yard", "ground")
    assert room.data.layer("ground").is_empty and not room.data.layer("things").is_empty
    do(room, edits.clear_room, "Yard")
    assert all(layer.is_empty for layer in room.data.layers.values())
    assert tuple(room.data.layers) == ("ground", "things")
    room.project.undo(), room.project.undo()
    assert differences(start, room.project.data) == []


def test_contents_are_shifted_and_what_leaves_is_gone():
    room = small_room((4, 6))
    room.lay("Water", box=((0, 4), (0, 5)))
    room.lay("Bush", cells=[(1, 1), (3, 5)])
    do(room, edits.shift_contents, "Yard", (1, 2))
    assert drawn(room, SIGNS) == ["......", "..mmmm", "..mmmm", "..mmmm"]
    assert [(t.y, t.x) for t in room.data.layer("things").things.values()] == [(2, 3)]


def test_contents_come_in_again_at_the_other_edge_where_that_is_wanted():
    room = shape_room((12, 16))
    room.lay("Wall", box=((8, 8), (10, 12)))
    room.lay("Bush", cells=[(3, 15)])
    cells = room.data.layer("ground").plane("material").copy()
    do(room, edits.shift_contents, "Yard", (5, 6), wraps=True)
    ground = room.data.layer("ground")
    assert np.array_equal(ground.plane("material"), np.roll(cells, (5, 6), (0, 1)))
    assert ground.pieces[1].box.lo == (1, 14)
    assert [(t.y, t.x) for t in room.data.layer("things").things.values()] == [(8, 5)]


@settings(max_examples=30)
@given(st.tuples(st.integers(-20, 20), st.integers(-20, 20)))
def test_shifting_with_wrapping_and_back_gives_the_start(by):
    room = shape_room((12, 16))
    room.lay("Wall", box=((2, 2), (5, 5)))
    room.lay("Bush", cells=[(3, 15)])
    start = room.project.data.frozen()
    do(room, edits.shift_contents, "Yard", by, wraps=True)
    do(room, edits.shift_contents, "Yard", tuple(-v for v in by), wraps=True)
    found = differences_in_rooms(start.room("Yard"), room.data)
    assert not [d for d in found if "pieces" not in d]  # a piece may lie across the other edge


def test_a_voxel_room_is_shifted_by_levels():
    room = isle((6, 5, 5), ground=2)
    do(room, edits.shift_contents, "Isle", (2, 0, 0))
    material = room.data.layer("blocks").plane("material")
    assert [int((level > 0).all()) for level in material] == [0, 0, 1, 1, 0, 0]


def test_cropping_loses_nothing_until_it_is_saved():
    room = shape_room((16, 16))
    room.lay("Wall", box=((2, 2), (5, 5)))
    room.lay("Bush", cells=[(15, 15), (8, 8)])
    start = room.project.data.frozen()
    do(room, edits.resize_room, "Yard", (10, 10), (-3, -3))
    assert room.size == (10, 10) and room.data.info.origin == (3, 3)
    room.project.undo()
    assert differences(start, room.project.data) == []
