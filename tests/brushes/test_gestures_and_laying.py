"""Gestures mark cells; laying sparse or dense gives the same room."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import card, one, planes, rule, small_project, small_room, tile
from topion.brushes import Weave
from topion.brushes.gestures import GESTURES, Gesture, cell_of
from topion.brushes.laying import Laid, lay, rising
from topion.brushes.marks import Marks, Place
from topion.errors import UnknownName
from topion.model.edit import Edit
from topion.weaving.looms import loom_of
from topion.weaving.rules import RuleBook, Variant, plain_rule

ways = st.lists(st.tuples(st.floats(-3, 20), st.floats(-3, 20)), min_size=1, max_size=9)


@given(ways, st.sampled_from(GESTURES), st.booleans())
def test_each_cell_is_marked_once(way, kind, option):
    cells = np.ones((16, 16), np.uint16)
    marks = Gesture(kind, option, option, option).marks(np.array(way), cells)
    assert len(np.unique(marks.cells, axis=0)) == len(marks.cells)


@given(ways)
def test_a_drag_starts_where_the_pointer_was_pressed(way):
    points = np.array(way)
    assert Gesture("drag").marks(points, None).start == tuple(cell_of(points[:1])[0])


def test_whole_numbers_are_the_middles_of_cells():
    assert cell_of(np.array([[2.0, 2.49], [2.5, -0.5], [-0.51, 0]])).tolist() == [
        [2, 2],
        [3, 0],
        [-1, 0],
    ]


def test_a_line_goes_from_the_first_to_the_last_point_alone():
    marks = Gesture("line").marks(np.array([[0, 0], [9, 9], [0, 4.0]]), None)
    assert marks.cells.tolist() == [[0, x] for x in range(5)]


def test_a_flood_outside_the_room_marks_nothing():
    cells = np.ones((4, 4), np.uint16)
    assert not len(Gesture("flood").marks(np.array([[9.0, 9.0]]), cells).cells)
    assert not len(Gesture("flood").marks(np.array([[1.0, 1.0]]), None).cells)
    assert not len(Gesture("drag").marks(np.empty((0, 2)), None).cells)


def test_marks_without_cells_start_nowhere_and_lay_nothing(room):
    assert Marks().start == (0, 0)
    for name in room.project.data.brushes:
        brush = room.project.data.brushes[name]
        assert not brush.plan(Place(room.project.data, "Yard"), Marks())


@given(st.integers(0, 2**31), st.integers(1, 60))
def test_settled_at_once_or_when_seen_gives_the_same(seed, count):
    rng = np.random.default_rng(seed)
    seen, unseen = small_room((40, 40)), small_room((40, 40))
    wide = rule("wide", card("#...o", ".....", "..#..", ".....", "....."), (4, 1), turned=True)
    cells = rng.integers(0, 40, (count, 2))
    results = []
    for room in (seen, unseen):
        room.project.add_brush(Weave("Wide", RuleBook((wide, plain_rule("all", one(4, 0))))))
        room.lay("Wide", box=((5, 5), (20, 22)))
        room.lay("Water", cells=cells.tolist())
        if room is seen:
            planes(room, "Ground")
        room.lay("Wide", cells=cells[::2].tolist())
        results.append({k: v.copy() for k, v in planes(room, "Ground").items()})
    for plane, values in results[0].items():
        assert np.array_equal(values, results[1][plane]), plane


def test_a_record_holds_only_cells_that_change(room):
    place = Place(room.project.data, "Yard")
    flat = np.arange(64, dtype=np.intp)
    laid = Laid(flat, np.ones(64, np.uint16))
    assert lay(place, "ground", laid) == ()
    material = np.ones(64, np.uint16)
    material[10] = 2
    (record,) = lay(place, "ground", Laid(flat, material))
    assert record.cells.tolist() == [10] and record.planes == ("material",)


def test_rising_sorts_only_what_is_not_sorted():
    flat = np.array([1, 4, 9])
    assert rising(flat) is flat and rising(flat[::-1]).tolist() == [1, 4, 9]


def test_the_loom_is_kept_until_a_rule_book_changes():
    project = small_project()
    first = loom_of(project.data)
    brush = project.data.brushes["Mud"]
    project.add_brush(Weave(brush.name, brush.rules, seed=brush.seed, nib=5))
    assert loom_of(project.data) is first
    project.add_brush(Weave(brush.name, brush.rules, seed=brush.seed + 1))
    assert loom_of(project.data) is not first


def test_a_room_without_a_fitting_layer_says_so(project):
    project.add_room("Bare", (4, 4), layers=(("Ground", "tiles"),))
    with pytest.raises(UnknownName, match="layer of kind things in Bare"):
        project.room("Bare").lay("Lamp", cells=[(1, 1)])


def test_a_field_makes_its_own_layer_below_the_things(room):
    edit = room.lay("Reeds", cells=[(1, 1)])
    assert room.data.order == ("ground", "reeds", "things") and isinstance(edit, Edit)
    room.project.undo()
    assert room.data.order == ("ground", "things")


def test_a_hidden_layer_is_not_lifted(room):
    room.lay("Lamp", cells=[(3, 3)])
    room.set_layer("Things", shown=False)
    room.lift(cells=[(3, 3)])
    assert room.things() and room.material(3, 3) == ""


def test_named_materials_weave_at_their_border():
    room = small_room((8, 8))
    near = rule("by mud", card("...", "M..", "..."), (4, 2), turns_tile=False)
    room.project.add_brush(
        Weave("Path", RuleBook((near, plain_rule("all", (Variant(tile(4, 3)),)))))
    )
    room.lay("Path", box=((2, 2), (4, 5)))
    shown = [room.why(3, x).rule for x in range(2, 6)]
    assert shown == ["by mud", "all", "all", "all"]
    room.lay("Water", box=((2, 1), (4, 1)))
    assert room.why(3, 2).rule == "all"
