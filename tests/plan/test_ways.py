"""The way through the world, and what it leaves out."""

from __future__ import annotations

from dataclasses import replace

import pytest

from tests.plan.worlds import link, small_world
from tests.rooms import stand
from topion.edit.logic import set_ends_world, unlink_doors
from topion.edit.pieces import Pick
from topion.edit.places import begin_at
from topion.errors import Stopped
from topion.model.prefab import Thing
from topion.plan.ways import ways_through
from topion.roles import Door, Start
from topion.walk.found import rooms_reached
from topion.walk.links import begins_at


def ways(world):
    return ways_through(world.data, lambda _: None)


def test_the_shortest_way_leads_through_the_door_to_the_goal():
    found = ways(small_world())
    assert [(leg.room, leg.entry, leg.to[1]) for leg in found.shortest] == [
        ("Yard", 0, 1), ("Attic", 1, 2)
    ]  # fmt: skip
    assert found.ends == "Bush of Attic"
    assert 1.0 < found.seconds < 20.0


def test_pickups_that_nobody_gets_to_are_not_counted_as_met():
    found = ways(small_world())
    assert (found.rooms, found.pickups, found.left) == (2, 1, 0)


def test_a_detour_for_a_pickup_is_counted():
    world = small_world()
    link(world, ("Cave", 1), ("Yard", 3), back=True)
    found = ways(world)
    assert (len(found.shortest), found.rooms, found.pickups) == (2, 3, 2)


def test_a_door_that_ends_the_world_is_an_end():
    world = small_world()
    world.history.apply(set_ends_world(world.data, ("Yard", Pick("things", 3)), True))
    assert [leg.room for leg in ways(world).shortest] == ["Yard"]


def test_without_a_way_there_is_none():
    world = small_world()
    world.history.apply(unlink_doors(world.data, [("Yard", Pick("things", 1))]))
    assert ways(world).shortest == () and ways(world).seconds is None


def test_the_world_starts_where_the_plan_says():
    world = small_world()
    assert begins_at(world.data) == "Yard"
    stand(world.room("Cave"), Thing("Bush", 2, 2, role=Start()))
    assert begins_at(world.data) == "Yard"
    world.history.apply(begin_at(world.data, "Cave"))
    assert begins_at(world.data) == "Cave"
    assert list(rooms_reached(world.data)) == ["Cave", "Yard", "Attic"]
    world.history.apply(begin_at(world.data, "Attic"))  # it has no start
    assert begins_at(world.data) == "Yard"


def test_a_room_is_reached_by_all_entries_that_lead_there():
    world = small_world()
    attic = world.room("Attic")
    stand(attic, replace(Thing("Bush", 1, 1, role=Door()), role=Door(room="Yard", door=3)))
    assert rooms_reached(world.data)["Yard"].entries == (0, 1, 3)


def test_looking_can_be_stopped():
    def stop(_):
        raise Stopped("ways")

    with pytest.raises(Stopped):
        ways_through(small_world().data, stop)
