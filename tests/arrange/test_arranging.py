"""Things arranged by expressions: where they come to stand, what refuses that, one Edit."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import small_room, stand
from tests.voxel_rooms import isle
from topion.arrange.arranging import Arrangement, arrange, arranged
from topion.arrange.examples import ALONG, EXAMPLES, About
from topion.arrange.units import properties_of, units_of
from topion.edit.picked import Picks, grouped
from topion.edit.pieces import Pick
from topion.errors import BadValue
from topion.model.prefab import Thing


def room_with(*things, size=(40, 40)):
    room = small_room(size)
    numbers = stand(room, *things)
    return room, [Pick("things", number) for number in numbers]


def picked(room, picks):
    layer = room.data.layers["things"]
    return {pick: layer.things[pick.number] for pick in picks}


def laid(room, picks, copies=0, seed=1, all_the_same=False, **rows):
    """Arrange and apply; the things of the room in the order of their numbers."""
    found = arranged(room.project.data, room.name, picked(room, picks),
                     Arrangement(rows, copies, seed))  # fmt: skip
    edit = arrange(room.project.data, room.name, found, all_the_same=all_the_same)
    room.project.history.apply(edit)
    return found, [t for _, t in sorted(room.data.layers["things"].things.items())]


def bushes(*places):
    return [Thing("Bush", y, x) for y, x in places]


def test_a_row_sets_one_property_and_leaves_the_others():
    room, picks = room_with(*bushes((3, 3), (3, 5), (9, 9)))
    _, things = laid(room, picks, x="linspace(10, 20)")
    assert [(t.y, t.x) for t in things] == [(3, 10), (3, 15), (9, 20)]
    assert room.project.history.edits[-1].label == "Arrange 3 Bush: x"
    room.project.history.undo()
    assert [t.x for t in room.things()] == [3, 5, 9]


def test_value_is_what_each_has_now():
    room, picks = room_with(*bushes((3, 3), (3, 5)))
    _, things = laid(room, picks, y="value + x")
    assert [t.y for t in things] == [6, 8]


def test_a_row_in_error_is_named_and_the_others_apply():
    room, picks = room_with(*bushes((3, 3), (3, 5)))
    found, things = laid(room, picks, x="10 + i", y="2*sine(i)")
    assert found.wrong["y"].at == 3 and found.wrong["y"].mend == "sin"
    assert [(t.y, t.x) for t in things] == [(3, 10), (3, 11)]


def test_copies_are_made_first_until_there_are_so_many():
    room, picks = room_with(*bushes((3, 3)))
    found, things = laid(room, picks, copies=12, x="20 + 6*cos(2*pi*t)", y="20 + 6*sin(2*pi*t)")
    assert len(things) == 12 and not found.refused
    far = [math.hypot(t.y - 20, t.x - 20) for t in things]
    assert far == pytest.approx([6] * 12, abs=0.3)
    room.project.history.undo()
    assert len(list(room.things())) == 1


def test_copies_of_several_are_made_by_turns():
    room, picks = room_with(Thing("Bush", 3, 3), Thing("Lamp", 9, 9))
    _, things = laid(room, picks, copies=6, x="5*i", y="20")
    assert [t.prefab for t in things] == ["Bush", "Lamp"] * 3


def test_a_group_counts_as_one_and_keeps_its_shape():
    room, picks = room_with(*bushes((3, 3), (3, 5), (10, 3), (10, 5)))
    for pair in (picks[:2], picks[2:]):
        room.project.history.apply(grouped(room.project.data, room.name, Picks(tuple(pair))))
    units = units_of(picked(room, picks))
    assert [len(unit.things) for unit in units] == [2, 2] and units[0].centre == (0, 3, 4)
    _, things = laid(room, picks, x="20 + 10*i", y="30")
    assert [(t.y, t.x) for t in things] == [(30, 19), (30, 21), (30, 29), (30, 31)]


def test_a_row_becomes_a_grid_by_copying_its_group():
    room, picks = room_with(*bushes(*((3, 3 + 2 * n) for n in range(4))))
    room.project.history.apply(grouped(room.project.data, room.name, Picks(tuple(picks))))
    _, things = laid(room, picks, copies=3, y="10 + 4*i")
    places = {(t.y, t.x) for t in things}
    assert places == {(y, x) for y in (10, 14, 18) for x in (3, 5, 7, 9)}
    groups = {t.groups for t in things}
    assert len(groups) == 3 and all(len(own) == 1 for own in groups)


def test_a_group_is_turned_and_sized_about_its_middle():
    room, picks = room_with(*bushes((10, 8), (10, 12)))
    room.project.history.apply(grouped(room.project.data, room.name, Picks(tuple(picks))))
    _, things = laid(room, picks, scale="2")
    assert [(t.y, t.x, t.scale) for t in things] == [(10, 6, 2), (10, 14, 2)]


def test_turns_are_as_the_prefab_turns():
    room, picks = room_with(Thing("Cart", 5, 5), Thing("Bush", 20, 20))
    _, things = laid(room, picks, turn="100")
    assert [t.turn for t in things] == [90, 0]  # by quarters; not at all


def test_what_may_not_stand_there_stays_or_goes_all_the_same():
    room, picks = room_with(Thing("Lamp", 3, 3), Thing("Lamp", 20, 20))
    rows = {"x": "10 + i", "y": "10"}
    found = arranged(room.project.data, room.name, picked(room, picks), Arrangement(rows))
    assert set(found.refused) == {0, 1} and found.refused[0][0].rule == "clear of"
    assert not arrange(room.project.data, room.name, found)
    edit = arrange(room.project.data, room.name, found, all_the_same=True)
    room.project.history.apply(edit)
    assert [(t.x, t.overridden) for t in room.things()] == [(10, True), (11, True)]


def test_what_comes_to_lie_outside_is_refused():
    room, picks = room_with(*bushes((3, 3), (5, 5)))
    found, things = laid(room, picks, x="35 + 20*i")
    assert list(found.refused) == [1] and [t.x for t in things] == [35, 5]


def test_places_beyond_all_bounds_are_a_row_in_error():
    room, picks = room_with(*bushes((3, 3)))
    found, things = laid(room, picks, x="10**9")
    assert "beyond" in str(found.wrong["x"]) and things[0].x == 3


def test_more_copies_than_there_may_be_are_refused():
    with pytest.raises(BadValue):
        Arrangement({}, copies=20_000)


def test_chance_is_the_same_again_and_other_with_another_seed():
    room, picks = room_with(*bushes(*((3, 3 + n) for n in range(9))))
    rows = {"x": "uniform(0, 39)", "y": "uniform(0, 39)"}
    things = picked(room, picks)
    one, again, other = (
        arranged(room.project.data, room.name, things, Arrangement(rows, seed=seed))
        for seed in (1, 1, 2)
    )
    assert one.after == again.after != other.after
    assert not np.array_equal(one.values["x"], one.values["y"])


def test_in_a_voxel_room_what_moves_comes_to_stand_on_the_ground():
    room = isle((10, 12, 14), ground=3)
    (number,) = stand(room, Thing("Bush", 3, 3, z=3.0))
    pick = Pick("things", number)
    things = {pick: room.data.layers["things"].things[number]}
    found = arranged(room.project.data, room.name, things, Arrangement({"x": "8", "y": "6"}))
    assert found.after[0][0].at == (3.0, 6.0, 8.0)
    found = arranged(room.project.data, room.name, things, Arrangement({"z": "5", "lean": "30"}))
    assert found.after[0][0].z == 5.0 and found.after[0][0].lean == 30
    assert properties_of(room.project.data, found.units, 3)[:6] == [
        "x", "y", "z", "turn", "lean", "roll"
    ]  # fmt: skip


@given(st.sampled_from([n for n in EXAMPLES if n != ALONG]), st.integers(1, 12))
def test_every_example_is_read_and_stays_about_its_middle(name, count):
    room, picks = room_with(*bushes((3, 3)), size=(80, 80))
    rows = EXAMPLES[name](About((40.0, 40.0), count))
    found = arranged(room.project.data, room.name, picked(room, picks),
                     Arrangement(rows, copies=count))  # fmt: skip
    assert not found.wrong
    at = np.array([things[0].at for things in found.after])[:, 1:]
    assert (np.abs(at - 40) < 26).all()


@given(st.integers(1, 40), st.integers(0, 3))
def test_arranged_and_undone_everything_is_as_before(copies, seed):
    room, picks = room_with(*bushes((3, 3), (7, 9)))
    before = dict(room.data.layers["things"].things)
    laid(room, picks, copies=copies, seed=seed, x="uniform(0, 39)", y="uniform(0, 39)", turn="90*i")
    room.project.history.undo()
    assert dict(room.data.layers["things"].things) == before
