"""Things that are picked, turned and scaled about their middle."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import prefab, small_room, stand
from topion.edit.handling import scaled_by, sized, spun, turn_step, turned_by
from topion.edit.pieces import Pick
from topion.model.prefab import Thing
from topion.things.rules import ClearOf, On


def picked(room, *things):
    layer = room.data.id_of("Things")
    return {Pick(layer, n): room.data.layers[layer].things[n] for n in stand(room, *things)}


def stances(room):
    return [(t.prefab, t.y, t.x, t.turn, t.scale) for t in room.things()]


@pytest.fixture
def room():
    room = small_room((16, 16))
    for name, turns in (("Free", "any"), ("Square", "quarters"), ("Fixed", "none")):
        room.project.add_prefab(prefab(name, turns=turns))
    return room


def test_a_quarter_turn_takes_each_clockwise_round_the_middle(room):
    things = picked(room, Thing("Free", 4, 8), Thing("Square", 8, 12), Thing("Fixed", 12, 4))
    room.project.history.apply(spun(room.project.data, room.name, things, 90))
    assert stances(room) == [("Free", 8, 12, 90, 1), ("Square", 12, 8, 90, 1),
                             ("Fixed", 4, 4, 0, 1)]  # fmt: skip


def test_one_thing_turns_where_it_stands(room):
    things = picked(room, Thing("Free", 4.25, 8.5, turn=350))
    room.project.history.apply(spun(room.project.data, room.name, things, 25))
    assert stances(room) == [("Free", 4.25, 8.5, 15, 1)]


def test_scaling_spreads_them_and_keeps_the_middle(room):
    things = picked(room, Thing("Free", 6, 6), Thing("Fixed", 8, 10, scale=2))
    room.project.history.apply(sized(room.project.data, room.name, things, 1.5))
    assert stances(room) == [("Free", 5.5, 5, 0, 1.5), ("Fixed", 8.5, 11, 0, 3)]
    room.project.undo()
    assert stances(room) == [("Free", 6, 6, 0, 1), ("Fixed", 8, 10, 0, 2)]


def test_where_a_rule_refuses_nothing_is_turned_unless_overridden(room):
    room.project.add_prefab(prefab("Wet", On(("Water",)), turns="any"))
    room.lay("Water", box=((0, 0), (16, 4)))
    things = picked(room, Thing("Wet", 3, 3), Thing("Wet", 9, 3))
    refused = spun(room.project.data, room.name, things, 90)
    assert not refused.records
    assert refused.refused
    edit = spun(room.project.data, room.name, things, 90, override=True)
    room.project.history.apply(edit)
    assert [(t.y, t.x, t.overridden) for t in room.things()] == [(6, 6, True), (6, 0, False)]


def test_the_step_is_that_of_the_one_that_turns_least_freely(room):
    project = room.project.data
    free, square, fixed = (Thing(name, 1, 1) for name in ("Free", "Square", "Fixed"))
    assert [turn_step(project, them) for them in
            ([free], [square], [fixed], [free, fixed], [free, square])] == [15, 90, 0, 15, 90]  # fmt: skip


def test_what_comes_too_near_to_another_is_refused_by_name(room):
    room.project.add_prefab(prefab("Post", ClearOf(3.0)))
    things = picked(room, Thing("Post", 8, 4), Thing("Post", 8, 8))
    edit = sized(room.project.data, room.name, things, 0.5)
    assert not edit.records
    assert edit.refused[0].startswith("Post: ")
    assert sized(room.project.data, room.name, things, 0.75).records


@given(st.integers(-720, 720))
@settings(max_examples=60)
def test_the_way_of_the_pointer_round_the_middle_is_told_in_steps(degrees):
    way = math.radians(degrees)
    at = (5 + 3 * math.sin(way), 7 + 3 * math.cos(way))
    found = turned_by((5, 10), at, (5, 7), 15)
    assert found % 15 == 0
    assert abs((found - degrees + 180) % 360 - 180) <= 7.5 + 1e-6
    assert -180 <= found <= 180


def test_twice_as_far_from_the_middle_is_twice_as_large():
    assert scaled_by((5, 5), (7, 5), (4, 5), 0.1) == pytest.approx(3)
    assert scaled_by((5, 5), (4, 5), (4, 5), 0.1) == pytest.approx(0.1)
