"""What is picked: taken by a lasso and by likeness, moved, turned, copied, grouped, snapped."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import drawn, small_room, stand
from tests.shapes import shape_room
from tests.voxel_rooms import isle
from topion.edit import picked as edits
from topion.edit import picked_moves
from topion.edit.picked import Picks, entry_of, with_groups
from topion.edit.picked_turns import turned
from topion.edit.picking import all_alike, all_broken, connected_alike, entries_at, entries_in
from topion.edit.pieces import Pick
from topion.edit.rooms import set_layer
from topion.errors import BadValue
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.grid.ways import Way, all_ways
from topion.model.compare import differences
from topion.model.prefab import Thing

SIGNS = {"Mud": "m", "Water": "w", "Stones": "s", "Wall": "W", "Pipe": "p", "Quay": "q"}


def put(room, *things):
    return tuple(Pick(room.data.id_of("Things"), n) for n in stand(room, *things))


def do(room, plan, picks, *args, **named):
    edit = plan(room.project.data, room.name, picks, *args, **named)
    edit, more = edit if isinstance(edit, tuple) else (edit, None)
    room.project.history.apply(edit)
    return (edit, more) if more is not None else edit


def things(room):
    return {n: (t.y, t.x) for n, t in room.data.layer("things").things.items()}


# --- picking ------------------------------------------------------------------------------


def test_a_lasso_picks_things_that_stand_in_it_and_pieces_that_mostly_lie_in_it():
    room = shape_room()
    room.lay("Wall", box=((2, 2), (5, 5)))
    room.lay("Wall", box=((2, 14), (5, 25)))
    bushes = put(room, Thing("Bush", 3, 8), Thing("Bush", 20, 8))
    found = entries_in(room.project.data, room.data, Area.of_box(Box((0, 0), (8, 17))))
    assert set(found) == {Pick("ground", 1), bushes[0]}


def test_locked_and_hidden_layers_are_left_out_of_a_lasso():
    room = small_room()
    put(room, Thing("Bush", 3, 8))
    room.project.history.apply(set_layer(room.project.data, "Yard", "things", locked=True))
    assert entries_in(room.project.data, room.data, Area.of_box(Box((0, 0), (20, 20)))) == ()


def test_a_cell_lists_things_over_pieces():
    room = shape_room()
    room.lay("Wall", box=((2, 2), (5, 5)))
    (cart,) = put(room, Thing("Cart", 4, 3))
    assert list(entries_at(room.project.data, room.data, (3, 4))) == [cart, Pick("ground", 1)]
    assert list(entries_at(room.project.data, room.data, (9, 9))) == []


def test_all_of_a_prefab_a_class_and_a_brush():
    room = small_room()
    data = room.project.data
    for name in ("Bush", "Cart"):
        room.project.add_prefab(replace(data.prefab(name), class_name="soft"))
    bush, other, cart, lamp = put(room, Thing("Bush", 3, 8), Thing("Bush", 9, 8),
                                  Thing("Cart", 15, 8), Thing("Lamp", 20, 8))  # fmt: skip
    for option, wanted in (("prefab", {bush, other}), ("class", {bush, other, cart}),
                           ("brush", {bush, other})):  # fmt: skip
        assert set(all_alike(data, room.data, option, bush)) == wanted
    assert all_alike(data, room.data, "class", lamp) == ()


def test_all_that_break_a_rule():
    room = small_room()
    lamps = put(room, Thing("Lamp", 3, 8), Thing("Lamp", 3, 9), Thing("Lamp", 15, 8))
    assert set(all_broken(room.project.data, room.data)) == set(lamps[:2])


def test_connected_cells_alike_end_where_another_material_begins():
    room = small_room()
    room.lay("Water", box=((3, 3), (5, 6)))
    room.lay("Water", box=((9, 9), (9, 9)))
    area = connected_alike(room.project.data, room.data, "ground", (4, 4))
    assert area.box == Box((3, 3), (6, 7)) and area.size == 12
    assert connected_alike(room.project.data, room.data, "ground", (99, 0)) is None


# --- moved --------------------------------------------------------------------------------


def test_moving_an_area_leaves_open_cells_and_takes_pieces_and_things_along():
    room = shape_room((12, 12))
    room.lay("Mud", box=((0, 0), (11, 11)))
    room.lay("Water", box=((1, 1), (2, 2)))
    room.lay("Pipe", line=((4, 1), (4, 4)))
    (bush,) = put(room, Thing("Bush", 2, 2))
    area = Area.of_box(Box((1, 1), (5, 5)))
    picks = Picks((bush, Pick("ground", 1)), area, ("ground",))
    edit = do(room, picked_moves.moved, picks, (6, 6))
    assert edit.label == "Move 16 cells and Pipe and Bush"
    assert drawn(room, SIGNS)[1][:6] == "m....m" and drawn(room, SIGNS)[7][7:9] == "ww"
    assert room.data.layer("ground").pieces[1].points[0] == (10, 7) and things(room)[2] == (8, 8)
    before = room.project.data.frozen()
    room.project.undo(), room.project.history.redo()
    assert differences(before, room.project.data) == []


@settings(max_examples=30)
@given(st.tuples(st.integers(-6, 6), st.integers(-6, 6)), st.data())
def test_moving_about_and_back_over_open_ground_gives_the_start(by, data):
    room = small_room((30, 30))
    room.lift(box=((0, 0), (29, 29)))
    box = Box((12, 12), (17, 18))
    room.lay("Mud", box=((12, 12), (16, 17)))
    room.lay("Water", box=((13, 13), (14, 15)))
    (bush,) = put(room, Thing("Bush", 14, 14))
    start = room.project.data.frozen()
    picks = Picks((bush,), Area.of_box(box), ("ground",))
    back = tuple(-v for v in by)
    do(room, picked_moves.moved, picks, by)
    there = Picks((bush,), Area.of_box(box).shifted(by), ("ground",))
    do(room, picked_moves.moved, there, back)
    assert differences(start, room.project.data) == []


def test_a_thing_that_may_not_stand_there_holds_all_back_unless_it_is_overridden():
    room = small_room()
    near, lamp, bush = put(room, Thing("Lamp", 3, 3), Thing("Lamp", 3, 12), Thing("Bush", 6, 12))
    edit = do(room, picked_moves.moved, Picks((lamp, bush)), (0, -7))
    assert not edit and edit.refused == ("1 thing may not stand there",)
    do(room, picked_moves.moved, Picks((lamp, bush)), (0, -7), override=True)
    assert room.data.layer("things").things[lamp.number].overridden
    assert things(room)[bush.number] == (6, 5)
    assert entry_of(room.data, near).x == 3


def test_things_of_a_side_view_come_to_stand_on_what_carries_them():
    project = small_room((10, 10)).project
    room = project.add_room("Hall", (10, 12), 4, seen="side")
    room.lay("Stones", box=((8, 0), (9, 11)))
    room.lay("Stones", box=((5, 6), (7, 11)))
    (bush,) = put(room, Thing("Bush", 7, 2))
    do(room, picked_moves.moved, Picks((bush,)), (-1, 6), seats=True)
    assert things(room)[bush.number] == (4, 8)


def test_a_piece_cannot_leave_the_room():
    room = shape_room()
    room.lay("Wall", box=((2, 2), (5, 5)))
    with pytest.raises(BadValue):
        picked_moves.moved(room.project.data, "Yard", Picks((Pick("ground", 1),)), (0, 90))


def test_what_is_locked_is_left_alone_and_said():
    room = small_room()
    picks = Picks(put(room, Thing("Bush", 3, 3)))
    room.project.history.apply(set_layer(room.project.data, "Yard", "things", locked=True))
    edit = do(room, edits.removed, picks)
    assert not edit and edit.refused == ("layer Things is locked",)


# --- turned -------------------------------------------------------------------------------


@pytest.mark.parametrize("way", all_ways(2)[1:], ids=str)
def test_an_area_turned_and_turned_back_gives_the_start(way):
    room = small_room((20, 20))
    room.lift(box=((0, 0), (19, 19)))
    room.lay("Mud", box=((6, 6), (9, 12)))
    room.lay("Water", box=((6, 6), (7, 8)))
    cells = room.data.layer("ground").plane("material").copy()
    picks = Picks((), Area.of_box(Box((6, 6), (10, 13))), ("ground",))
    _, there = do(room, turned, picks, way)
    assert not np.array_equal(room.data.layer("ground").plane("material"), cells)
    do(room, turned, there, way.inverse())
    assert np.array_equal(room.data.layer("ground").plane("material"), cells)


def test_a_picked_box_of_blocks_turns_about_each_axis_and_back():
    room = isle(ground=3)
    room.lift(box=((0, 0, 0), (9, 11, 13)))
    room.lay("Stones", box=((4, 4, 4), (5, 6, 7)))
    room.lay("Ground", box=((4, 4, 4), (4, 4, 7)))
    cells = room.data.layer("blocks").plane("material").copy()
    for turn in (1, 4, 16):
        picks = Picks((), Area.of_box(Box((4, 4, 4), (6, 7, 8))), ("blocks",))
        for _ in range(4):
            _, picks = do(room, turned, picks, Way(3, turn))
        assert np.array_equal(room.data.layer("blocks").plane("material"), cells)


def test_things_turn_where_they_stand_and_those_that_cannot_are_named():
    room = small_room()
    picks = Picks(put(room, Thing("Cart", 5, 5), Thing("Bush", 10, 10)))
    edit, _ = do(room, turned, picks, Way(2, 1))
    assert edit.refused == ("Bush cannot be turned so",)
    assert [t.turn for t in room.data.layer("things").things.values()] == [90.0, 0.0]


def test_a_group_turns_as_one():
    room = small_room()
    picks = Picks(put(room, Thing("Bush", 5, 5), Thing("Bush", 5, 9)))
    do(room, edits.grouped, picks)
    do(room, turned, picks, Way(2, 1))
    assert sorted(things(room).values()) == [(3, 7), (7, 7)]


# --- copies, groups, snapping -------------------------------------------------------------


def test_a_copy_of_an_area_lies_over_what_was_there():
    room = small_room((10, 10))
    room.lay("Water", box=((1, 1), (2, 2)))
    picks = Picks(put(room, Thing("Bush", 1, 1)), Area.of_box(Box((1, 1), (3, 3))), ("ground",))
    _, fresh = do(room, picked_moves.duplicated, picks, (4, 4))
    assert drawn(room, SIGNS)[1][1:3] == "ww" and drawn(room, SIGNS)[5][5:7] == "ww"
    assert fresh.area.box == Box((5, 5), (7, 7)) and sorted(things(room).values())[-1] == (5, 5)


def test_groups_nest_and_are_picked_by_the_outermost():
    room = small_room()
    a, b, c = put(room, Thing("Bush", 1, 1), Thing("Bush", 1, 2), Thing("Bush", 1, 3))
    do(room, edits.grouped, Picks((a, b)))
    do(room, edits.grouped, Picks((a, b, c)))
    assert set(with_groups(room.data, [c])) == {a, b, c}
    do(room, edits.ungrouped, Picks((a, b, c)))
    assert set(with_groups(room.data, [a])) == {a, b} and with_groups(room.data, [c]) == (c,)
    assert not do(room, edits.grouped, Picks((c,)))


def test_snapping_is_one_edit_on_whole_or_parts_of_cells():
    room = small_room()
    picks = Picks(put(room, Thing("Bush", 1.31, 2.44), Thing("Bush", 5.5, 7.2)))
    count = len(room.project.history.edits)
    do(room, edits.snapped, picks, 1)
    assert sorted(things(room).values()) == [(1, 2), (6, 7)]
    room.project.undo()
    do(room, edits.snapped, picks, 2)
    assert sorted(things(room).values()) == [(1.25, 2.25), (5.75, 7.25)]
    assert len(room.project.history.edits) == count + 1
