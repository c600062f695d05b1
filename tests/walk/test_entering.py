"""Rooms are entered through doors: beside them where they are set into walls, worn as the plan
says."""

from __future__ import annotations

from tests.plan.worlds import link, small_world
from tests.rooms import stand
from tests.walk.texts import begin, drawn, library, put
from topion.edit.places import begin_at, place_room
from topion.model.prefab import Thing
from topion.roles import Door, Scenery
from topion.walk import ACT, World, step
from topion.walk.found import begin_in, found_in, rooms_reached
from topion.walk.ways import is_free


def walled(*beside: str):
    """Two rooms seen from above; the door of the second is set into a wall."""
    project = library()
    first = drawn("......", "......", "......", seen="top", project=project, name="First")
    rows = ("######", "######", *beside)
    second = drawn(*rows, seen="top", project=project, name="Second")
    stand(first, Thing("Gate", 1, 2, role=Door("acting on it", "Second", 1)))
    stand(second, Thing("Gate", 1, 2, role=Door("acting on it", "First", 1)))
    return project, second


def test_who_comes_out_of_a_door_in_a_wall_stands_beside_it():
    project, _ = walled("......", "......")
    world = World(project.data)
    state = world.begin("First", (1, 2))
    state = step(step(state, 0), ACT)
    assert state.room == "Second"
    assert is_free(world, world.stage("Second"), state.x, state.y, state.z)
    assert [round(v) for v in state.place()[1:]] == [2, 2]


def test_what_stands_before_the_door_is_gone_round():
    project, second = walled("......", "......")
    stand(second, Thing("Block", 2, 2, role=Scenery(solid=True)))
    state = begin_in(World(project.data), "Second", 1)
    assert [round(v) for v in state.place()[1:]] in ([2, 1], [2, 3])


def test_a_door_with_walls_all_round_keeps_the_figure_in_it():
    project, _ = walled("######", "######", "######")
    state = begin_in(World(project.data), "Second", 1)
    assert [round(v) for v in state.place()[1:]] == [1, 2]


def test_all_of_the_room_is_reached_from_there():
    project, second = walled("......", "......")
    stand(second, Thing("Gate", 3, 5, role=Door("acting on it", "First", 1)))
    assert found_in(project.data, "Second", (1,)).missed == ()


def test_a_walk_knows_the_place_on_the_plan_that_it_entered():
    world = small_world()
    world.history.apply(place_room(world.data, "Attic", (40, 0)))
    link(world, ("Yard", 1), ("Attic", 1), back=True, places=("", "Attic 2"))
    walk = World(world.data)
    state = walk.begin("Yard", (4, 16))
    assert state.whereabouts == ("Yard", "Yard")
    for _ in range(60):
        state = step(state, 2)  # right
    assert state.whereabouts == ("Attic", "Attic 2")


def test_a_place_that_is_gone_is_the_first_of_its_room():
    world = small_world()
    walk = World(world.data)
    assert walk.placed_as("Attic", "Attic 7") == "Attic"
    assert walk.placed_as("Barn") == ""


def test_a_door_may_lead_to_another_place_of_its_own_room():
    world = small_world()
    world.history.apply(place_room(world.data, "Yard", (40, 0)))
    link(world, ("Yard", 1), ("Yard", 3), back=False, places=("", "Yard 2"))
    state = World(world.data).begin("Yard", (4, 16))
    for _ in range(60):
        state = step(state, 2)
        if state.worn == "Yard 2":
            break
    assert state.whereabouts == ("Yard", "Yard 2")
    assert rooms_reached(world.data)["Yard"].entries == (0, 3)


def test_a_room_entered_by_its_start_is_as_ever():
    room = drawn("......", "......", seen="top")
    put(room, "Start", 1, 4)
    assert begin(room, 1, 1).whereabouts == ("Room", "")


def test_a_walk_from_where_the_world_starts_is_worn_as_that_place():
    world = small_world()
    world.history.apply(place_room(world.data, "Yard", (40, 0)))
    world.history.apply(begin_at(world.data, "Yard 2"))
    assert World(world.data).begin("Yard").whereabouts == ("Yard", "Yard 2")
