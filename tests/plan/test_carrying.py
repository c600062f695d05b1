"""Things taken from one room of the plan into another."""

from __future__ import annotations

import pytest

from tests.plan.worlds import small_world
from tests.rooms import stand
from tests.voxel_rooms import isle
from topion.edit.carrying import carry_things
from topion.edit.pieces import Pick
from topion.errors import BadValue
from topion.model.prefab import Thing
from topion.walk.links import doors_of


def door(number):
    return Pick("things", number)


def things(world, room):
    return dict(world.room(room).data.layers["things"].things)


def test_a_thing_goes_into_the_other_room_at_its_place_there():
    world = small_world()
    before = things(world, "Yard"), things(world, "Attic")
    assert world.history.apply(carry_things(world.data, "Yard", [door(2)], "Attic", (1.0, 3.0)))
    assert 2 not in things(world, "Yard")
    came = things(world, "Attic")[max(things(world, "Attic"))]
    assert came.prefab == "Bush" and (came.y, came.x) == (6.0, 5.0)
    world.history.undo()
    assert (things(world, "Yard"), things(world, "Attic")) == before


def test_doors_that_led_to_it_lead_to_it_there():
    world = small_world()
    led = [("Attic", door(1))]
    world.history.apply(carry_things(world.data, "Yard", [door(1)], "Cave", (0.0, -10.0), led))
    (back,) = doors_of(world.data, "Attic").doors
    assert (back.to, back.door) == ("Cave", max(things(world, "Cave")))


def test_what_would_lie_outside_is_refused():
    world = small_world()
    with pytest.raises(BadValue, match="inside Attic"):
        carry_things(world.data, "Yard", [door(2)], "Attic", (0.0, 40.0))


def test_things_of_a_flat_room_stay_in_flat_rooms():
    room = isle((4, 6, 6), ground=1)
    flat = room.project.add_room("Flat", (6, 6))
    stand(flat, Thing("Bush", 2, 2))
    with pytest.raises(BadValue, match="same kind"):
        carry_things(room.project.data, "Flat", [door(1)], room.name, (0.0, 0.0))
