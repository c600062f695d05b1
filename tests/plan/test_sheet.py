"""Where rooms lie on the plan, what they snap to and where their edges meet."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.plan.worlds import small_world
from topion.edit.places import (
    begin_at,
    duplicate_and_place,
    move_places,
    order_rooms,
    place_room,
    take_off,
    titles,
    wear_there,
)
from topion.edit.rooms import remove_room, rename_room, set_layer
from topion.errors import BadValue, UnknownName
from topion.model.placement import Placement
from topion.plan.sheet import Rect, around, free_place, joints, laid_out, rects_of, snapped
from topion.walk.links import doors_of

sides = st.floats(-500, 500, allow_nan=False).map(lambda v: round(v, 2))
lengths = st.integers(1, 90)


def rect(top, left, high, wide):
    return Rect(top, left, top + high, left + wide)


@st.composite
def rects(draw):
    return rect(draw(sides), draw(sides), draw(lengths), draw(lengths))


def spots_of(world):
    return laid_out(world.data, {name: doors_of(world.data, name) for name in world.data.rooms})


def test_a_placed_room_lies_to_scale_at_its_corner():
    spots = spots_of(small_world())
    assert spots["Yard"].rect == (0, 0, 10, 20)
    assert spots["Yard"].point_of((4, 7)) == (4.5, 7.5)
    assert spots["Attic"].cell_at((0.5, 31.2)) == (0, 1)


def test_a_room_placed_twice_is_told_apart():
    world = small_world()
    world.history.apply(place_room(world.data, "Attic", (40, 0)))
    world.history.apply(place_room(world.data, "Attic", (60, 0)))
    assert list(titles(world.data).values()) == [
        "Yard", "Attic", "Cave", "Attic again", "Attic, place 3"
    ]  # fmt: skip


@given(rects(), st.lists(rects(), max_size=8), st.sampled_from([0.5, 1.0]))
def test_what_snaps_goes_no_further_than_its_reach_or_half_a_step_of_the_grid(own, others, grid):
    step = snapped(own, np.array(others, float).reshape(-1, 4), 3.0, grid)
    assert all(abs(v) <= 3.0 for v in step)
    moved = own.moved(step)
    for axis in (0, 1):
        on_grid = abs(moved[axis] / grid - round(moved[axis] / grid)) < 1e-6
        on_edge = any(
            abs(moved[mine] - other[theirs]) < 1e-6
            for other in others for mine in (axis, axis + 2) for theirs in (axis, axis + 2)
        )  # fmt: skip
        assert on_grid or on_edge


def test_an_edge_snaps_to_the_edge_of_the_room_beside_it():
    others = np.array([[0, 0, 10, 20]], float)
    assert snapped(rect(1.8, 21.4, 10, 10), others, 2.0, 0.5) == pytest.approx((-1.8, -1.4))


@given(rects(), rects())
def test_edges_that_meet_are_joined_along_what_both_have(one, other):
    beside = rect(one.top, one.right, other.bottom - other.top, 5)
    found = joints([_spot("a", one), _spot("b", beside)])
    both = min(one.bottom, beside.bottom) - one.top
    assert any(j.start == (one.top, one.right) and j.end[0] - j.start[0] == pytest.approx(both)
               for j in found)  # fmt: skip


def _spot(name, where):
    from topion.plan.sheet import Spot

    return Spot(name, name, name, where, None, Placement(name, name))


@given(st.lists(rects(), min_size=1, max_size=12), lengths, lengths)
def test_a_free_place_touches_no_room(known, high, wide):
    at = free_place(np.array(known, float), (high, wide), (0.0, 0.0))
    own = rect(*at, high, wide)
    assert not any(own.meets(other) for other in known)


def test_nothing_is_around_nothing():
    assert around([]) is None
    assert around([rect(0, 0, 2, 3), rect(-4, 9, 1, 1)]) == (-4, 0, 2, 10)


# --- edits ----------------------------------------------------------------------------------


def test_each_edit_of_the_plan_is_undone_whole():
    world = small_world()
    edits = [
        lambda p: place_room(p, "Yard", (50, 3)),
        lambda p: move_places(p, {"Attic": (9.5, 9.5), "Yard": (-3, 2)}),
        lambda p: wear_there(p, "Attic", None, "Night"),
        lambda p: begin_at(p, "Attic"),
        lambda p: order_rooms(p, "Cave", 0),
        lambda p: duplicate_and_place(p, "Cave", (90, 0)),
        lambda p: remove_room(p, "Cave"),
        lambda p: take_off(p, ["Yard", "Attic"]),
    ]
    states = [_state(world)]
    for plan in edits:
        assert world.history.apply(plan(world.data))
        states.append(_state(world))
    for known in reversed(states[:-1]):
        world.history.undo()
        assert _state(world) == known
    for known in states[1:]:
        world.history.redo()
        assert _state(world) == known


def _state(world):
    return list(world.data.rooms), list(world.data.shelf("placements").items())


def test_only_one_place_begins_the_world():
    world = small_world()
    for name in ("Attic", "Cave", "Yard"):
        world.history.apply(begin_at(world.data, name))
        places = world.data.shelf("placements").values()
        assert [place.name for place in places if place.begins] == [name]


def test_a_room_with_another_name_keeps_its_places():
    world = small_world()
    world.history.apply(rename_room(world.data, "Attic", "Loft"))
    assert {place.room for place in world.data.shelf("placements").values()} == {
        "Yard", "Loft", "Cave"
    }  # fmt: skip


def test_a_place_goes_on_wearing_a_tint_map_with_another_name():
    world = small_world()
    room = world.room("Attic")
    room.add_layer("Night", "tints")
    world.history.apply(wear_there(world.data, "Attic", None, "Night"))
    layer_id = room.data.id_of("Night")
    world.history.apply(set_layer(world.data, "Attic", layer_id, name="Flood night"))
    assert world.data.shelf("placements")["Attic"].tint == "Flood night"


def test_what_is_not_there_is_refused():
    world = small_world()
    with pytest.raises(UnknownName):
        place_room(world.data, "Barn", (0, 0))
    with pytest.raises(UnknownName):
        move_places(world.data, {"Barn": (0, 0)})
    with pytest.raises(UnknownName):
        order_rooms(world.data, "Barn", 0)
    with pytest.raises(BadValue):
        Placement("a", "Yard", (1e9, 0.0))


def test_rects_of_nothing_have_no_rows():
    assert rects_of([]).shape == (0, 4)


def test_a_room_that_is_taken_away_leaves_the_plan_and_comes_back_to_its_places():
    world = small_world()
    world.history.apply(place_room(world.data, "Attic", (40, 0)))
    before = _state(world)
    world.history.apply(remove_room(world.data, "Attic"))
    assert list(world.data.shelf("placements")) == ["Yard", "Cave"]
    world.history.undo()
    assert _state(world) == before
