"""Lining up, spacing evenly, spreading and replacing what is picked."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import prefab, small_room, stand
from topion.edit.arranging import aligned, distributed, replaced, spread
from topion.edit.pieces import Pick
from topion.model.prefab import Thing
from topion.model.property import Property
from topion.things.broken import broken
from topion.things.ground import Ground
from topion.things.rules import ClearOf, KeepsCells


def picked(room, *things):
    layer = room.data.id_of("Things")
    return {Pick(layer, n): room.data.layers[layer].things[n] for n in stand(room, *things)}


def places(room):
    return [(t.y, t.x) for t in room.things()]


@pytest.mark.parametrize(("axis", "end", "to"), [
    ("x", "low", [(2, 3), (5, 3), (9, 3)]), ("x", "high", [(2, 8), (5, 8), (9, 8)]),
    ("y", "middle", [(5.5, 3), (5.5, 8), (5.5, 4)]),
])  # fmt: skip
def test_things_are_lined_up(axis, end, to):
    room = small_room((12, 16))
    things = picked(room, Thing("Bush", 2, 3), Thing("Bush", 5, 8), Thing("Bush", 9, 4))
    room.project.history.apply(aligned(room.project.data, room.name, things, axis, end))
    assert places(room) == to
    room.project.undo()
    assert places(room) == [(2, 3), (5, 8), (9, 4)]


def test_things_are_spaced_evenly_in_their_order():
    room = small_room((12, 16))
    things = picked(room, Thing("Bush", 2, 3), Thing("Bush", 5, 12), Thing("Bush", 9, 4),
                    Thing("Bush", 9, 5))  # fmt: skip
    room.project.history.apply(distributed(room.project.data, room.name, things, "x"))
    assert places(room) == [(2, 3), (5, 12), (9, 6), (9, 9)]


@settings(max_examples=25, deadline=None)
@given(st.lists(st.tuples(st.integers(0, 11), st.integers(0, 15)), min_size=2, max_size=8))
def test_after_a_spread_rules_hold_but_for_those_that_are_told(cells):
    room = small_room((12, 16))
    room.project.add_prefab(prefab("It", ClearOf(2.0), KeepsCells()))
    things = picked(room, *(Thing("It", y, x) for y, x in cells))
    edit, left = spread(room.project.data, room.name, things)
    room.project.history.apply(edit)
    still = list(broken(Ground(room.project.data, room.data)))
    assert bool(still) == bool(left) or not still
    assert len(room.things()) == len(cells)


def test_things_are_replaced_where_they_stand():
    room = small_room((12, 16))
    room.project.add_prefab(prefab("It", properties=(Property("lit", "yes or no"),), turns="any"))
    room.project.add_prefab(prefab("That", properties=(Property("lit", "yes or no"),)))
    things = picked(room, Thing("It", 4, 4, 45.0, properties={"lit": "yes", "old": "1"}))
    room.project.history.apply(replaced(room.project.data, room.name, things, "That"))
    assert room.things() == [Thing("That", 4, 4, properties={"lit": "yes"})]
    assert places(room) == [(4, 4)]
