"""Which door of the plan leads to which, and what it waits for."""

from __future__ import annotations

import pytest

from tests.plan.worlds import link, small_world
from topion.conditions import Cleared, Taken
from topion.edit.logic import (
    link_doors,
    link_to_start,
    set_ends_world,
    set_when,
    unlink_doors,
)
from topion.edit.pieces import Pick
from topion.edit.places import place_room, take_off
from topion.errors import BadValue
from topion.model.condition import When
from topion.plan.sheet import laid_out
from topion.plan.threads import threads, waits_for
from topion.walk.links import doors_of


def told(world):
    """(from place, number, to place, number or 0, both ways) of each thread."""
    known = {name: doors_of(world.data, name) for name in world.data.rooms}
    found = threads(laid_out(world.data, known), known)
    return [
        (t.here.spot.name, t.here.door.number, t.end.name,
         t.there.door.number if t.there else 0, t.both)
        for t in found
    ]  # fmt: skip


def test_two_doors_that_lead_to_each_other_have_one_thread():
    assert told(small_world()) == [
        ("Yard", 1, "Attic", 1, True), ("Cave", 1, "Yard", 3, False)
    ]  # fmt: skip


def test_a_door_to_a_room_that_is_not_placed_has_none():
    world = small_world()
    world.history.apply(take_off(world.data, ["Attic"]))
    assert told(world) == [("Cave", 1, "Yard", 3, False)]


def test_a_door_may_lead_to_the_second_place_of_a_room():
    world = small_world()
    world.history.apply(place_room(world.data, "Attic", (50, 50)))
    assert told(world)[0][2] == "Attic"
    link(world, ("Yard", 1), ("Attic", 1), back=True, places=("", "Attic 2"))
    assert told(world)[0] == ("Yard", 1, "Attic 2", 1, True)


def test_a_door_of_a_place_that_is_gone_leads_to_the_first():
    world = small_world()
    world.history.apply(place_room(world.data, "Attic", (50, 50)))
    link(world, ("Yard", 1), ("Attic", 1), back=False, places=("", "Attic 2"))
    world.history.apply(take_off(world.data, ["Attic 2"]))
    assert told(world)[0][2] == "Attic"


def test_a_door_to_the_start_of_a_room_ends_there():
    world = small_world()
    world.history.apply(link_to_start(world.data, ("Cave", Pick("things", 1)), "Yard"))
    assert ("Cave", 1, "Yard", 0, False) in told(world)


def test_unlinked_doors_have_no_thread_and_undo_brings_it_back():
    world = small_world()
    before = told(world)
    ends = [("Yard", Pick("things", 1)), ("Attic", Pick("things", 1))]
    world.history.apply(unlink_doors(world.data, ends))
    assert told(world) == [("Cave", 1, "Yard", 3, False)]
    world.history.undo()
    assert told(world) == before


def test_what_a_door_waits_for_is_said_with_the_name_of_its_room():
    world = small_world()
    yard = world.room("Yard").data
    thing = {Pick("things", 1): yard.layers["things"].things[1]}
    for when, words in (
        (When("opens", (Cleared(),)), "opens when Yard is cleared"),
        (When("opens", (Taken(3, "tokens"),)), "opens with 3 tokens"),
        (When("appears", (Taken(1, "Bush"), Cleared())), "appears when 1 Bush and Yard is cleared"),
        (When(), ""),
    ):
        world.history.apply(set_when(world.data, "Yard", thing, when))
        assert waits_for(doors_of(world.data, "Yard").doors[0]) == words


def test_what_is_no_door_is_not_linked():
    world = small_world()
    with pytest.raises(BadValue):
        link_doors(world.data, ("Yard", Pick("things", 2)), ("Attic", Pick("things", 1)), back=True)
    with pytest.raises(BadValue):
        set_ends_world(world.data, ("Yard", Pick("things", 2)), True)
