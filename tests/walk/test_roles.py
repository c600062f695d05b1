"""What things do while a room is walked, by cases worked out by hand."""

from dataclasses import replace

import pytest

from tests.rooms import stand
from tests.walk.texts import RAKER, begin, cells, drawn, library, put, rng_keys, until, walked
from topion.conditions import Cleared, SwitchOn, Taken
from topion.edit.picked import Picks, grouped
from topion.edit.pieces import Pick
from topion.edit.prefabs import set_prefab
from topion.model.condition import When
from topion.model.prefab import Thing
from topion.roles import (
    Door,
    Emitter,
    Goal,
    Hazard,
    Mover,
    Pickup,
    Scenery,
    Start,
    Switch,
    Walker,
)
from topion.walk import ACT, JUMP, LEFT, RIGHT, World, step

PLAIN = ("................",) * 5 + ("################",)


@pytest.fixture
def room():
    return drawn(*PLAIN)


def of(state, number):
    """What became of a thing."""
    actors = state.world.stage(state.room).actors
    return next(now for actor, now in zip(actors, state.lives, strict=True)
                if actor.key[1] == number)  # fmt: skip


def place(state, number):
    """(x, y) of the left upper corner of its cells now, in cells."""
    actors = state.world.stage(state.room).actors
    actor = next(a for a in actors if a.key[1] == number)
    now, cell = of(state, number), state.world.scale.cell
    return (actor.home[0] + now.x) / cell, (actor.home[1] + now.y) / cell


def test_a_walk_begins_at_the_start_and_looks_where_it_says(room):
    put(room, "Start", 4, 9, Start(looks="left"))
    state = World(room.project.data, RAKER).begin(room.name)
    assert state.place()[1:] == (4, 9) and state.looks == -1


def test_without_a_start_it_begins_where_there_is_room():
    room = drawn("####", "#..#", "#..#", "####")
    state = World(room.project.data, RAKER).begin(room.name)
    assert walked(state, 0, ticks=5).backs == 0


def test_a_pickup_is_taken_once_and_a_goal_ends_the_room(room):
    token = put(room, "Token", 4, 5, Pickup())
    put(room, "Goal", 4, 9, Goal())
    state = until(begin(room, 4, 1), RIGHT, lambda s: s.taken)
    assert of(state, token).gone and state.news == ("took Token",)
    state = until(state, RIGHT, lambda s: s.ended)
    assert state.ended == "room" and state.taken == ((room.name, "things", token),)


def test_a_switch_opens_a_gate_which_stands_in_the_way_until_then(room):
    wheel = put(room, "Wheel", 4, 3, Switch())
    gate = put(room, "Gate", 4, 8, Door(), when=When("opens", (SwitchOn(wheel),)))
    state = walked(begin(room, 4, 1), RIGHT, ticks=120)
    assert cells(state)[1] == pytest.approx(8 - 0.8) and not of(state, gate).on
    state = until(state, LEFT, lambda s: cells(s)[1] < 3)
    state = step(step(state, 0), ACT)
    assert of(state, wheel).on and of(state, gate).on
    assert state.news == ("Wheel on", "Gate opened")
    assert cells(walked(state, RIGHT, ticks=90))[1] > 9


def test_a_switch_goes_off_by_itself_and_one_to_be_stood_on_follows_the_figure(room):
    wheel = put(room, "Wheel", 4, 3, Switch(back=0.5))
    plate = put(room, "Block", 4, 9, Switch(by="standing on it"))
    state = step(walked(begin(room, 4, 3), 0), ACT)
    assert of(state, wheel).on
    assert of(walked(state, 0, ticks=29), wheel).on and not of(walked(state, 0, ticks=31), wheel).on
    state = until(state, RIGHT, lambda s: of(s, plate).on)
    assert not of(until(state, RIGHT, lambda s: not of(s, plate).on), plate).on


def test_a_door_appears_with_three_tokens_and_one_opens_when_the_room_is_cleared(room):
    for x in (3, 5, 7):
        put(room, "Token", 4, x, Pickup(), counts=True)
    late = put(room, "Gate", 4, 14, Door(), when=When("appears", (Taken(3, "Token"),)))
    clear = put(room, "Block", 1, 14, Door(), when=When("opens", (Cleared(),)))
    state = begin(room, 4, 1)
    assert of(state, late).gone and not of(state, clear).on
    state = until(state, RIGHT, lambda s: len(s.taken) == 2)
    assert of(state, late).gone
    state = until(state, RIGHT, lambda s: len(s.taken) == 3)
    assert not of(state, late).gone and of(state, clear).on and state.cleared
    assert "room cleared" in state.news


def test_a_door_leads_to_a_door_of_another_room_and_what_was_left_stays_as_it_was(room):
    project = room.project
    other = drawn(*PLAIN, project=project, name="Other")
    there = put(other, "Gate", 4, 12, Door(room=room.name, door=99))
    token = put(room, "Token", 4, 3, Pickup())
    here = put(room, "Gate", 4, 6, Door(room="Other", door=there))
    state = until(begin(room, 4, 1), RIGHT, lambda s: s.room == "Other")
    assert state.place()[1:] == (4, 12) and state.news[-1] == "through Gate into Other"
    assert walked(state, 0, ticks=30).room == "Other", "it does not go back at once"
    gone = walked(state, LEFT, ticks=20)
    back = until(gone, RIGHT, lambda s: s.room == room.name)
    assert of(back, token).gone and back.taken and here


def test_a_door_that_ends_the_world_counts_what_was_done(room):
    put(room, "Gate", 4, 5, Door(by="acting on it", ends_world=True))
    state = until(begin(room, 4, 1), RIGHT, lambda s: cells(s)[1] > 4.5)
    state = step(step(state, 0), ACT)
    assert state.ended == "world"
    assert walked(state, RIGHT, ticks=30)[3:6] == state[3:6], "nothing moves any more"


def test_a_walker_turns_at_edges_and_at_walls():
    room = drawn("........", "........", "........", ".#######", ".#######")
    gull = put(room, "Gull", 2, 4, Walker(speed=3.0))
    put(room, "Block", 2, 7, Scenery(solid=True))
    state, seen = begin(room, 2, 0), set()
    for _ in range(400):
        state = step(state, 0)
        seen.add(place(state, gull)[0])
    assert max(seen) == pytest.approx(6, abs=0.1) and min(seen) == pytest.approx(1, abs=0.1)


def test_a_walker_that_turns_only_at_walls_goes_over_edges_in_the_air():
    room = drawn("........", "........", "...##...", "########")
    gull = put(room, "Gull", 1, 3, Walker(speed=3.0, turns_at="walls"))
    state = begin(room, 2, 0)
    seen = {place(state := step(state, 0), gull)[0] for _ in range(300)}
    assert min(seen) == pytest.approx(0, abs=0.1) and max(seen) == pytest.approx(7, abs=0.1)


def test_a_walker_harms_or_is_cleared_by_an_act(room):
    gull = put(room, "Gull", 4, 6, Walker(speed=0.1, harms=True, cleared=True), counts=True)
    state = until(begin(room, 4, 1), RIGHT, lambda s: s.backs)
    assert state.news == ("brought back by Gull",)
    state = until(begin(room, 4, 1), RIGHT, lambda s: cells(s)[1] > 4.4)
    state = step(step(state, 0), ACT)
    assert of(state, gull).gone and state.cleared and "cleared Gull" in state.news


def test_a_mover_goes_to_and_fro_and_carries_what_stands_on_it():
    room = drawn(*("............",) * 5, "###......###", "............")
    raft = put(room, "Raft", 5, 3, Mover(speed=2.0, points=((5.0, 0.0),)))
    state = walked(begin(room, 4, 2), 0)
    state = until(state, RIGHT, lambda s: cells(s)[1] > 3.05)
    assert state.ground
    before = cells(state)[1] - place(state, raft)[0]
    state = walked(state, 0, ticks=60)
    assert state.ground and cells(state)[1] - place(state, raft)[0] == pytest.approx(before)
    seen = {round(place(state := step(state, 0), raft)[0], 2) for _ in range(400)}
    assert (min(seen), max(seen)) == (3, 8)


@pytest.mark.parametrize(("again", "after"), [("to and fro", 4.0), ("on and on", 4.0),
                                              ("once", 5.0)])  # fmt: skip
def test_a_mover_comes_back_goes_round_or_stays(again, after):
    room = drawn(*PLAIN)
    raft = put(room, "Raft", 1, 4, Mover(speed=1.0, points=((1.0, 0.0),), again=again))
    state = walked(begin(room, 4, 1), 0, ticks=120)
    assert place(state, raft)[0] == pytest.approx(after, abs=0.02)


def test_a_mover_goes_round_the_middle_of_its_group(room):
    numbers = stand(room, Thing("Raft", 2, 6, role=Mover("round the middle of its group",
                    speed=2.0, again="on and on")), Thing("Block", 2, 10, role=Scenery()))  # fmt: skip
    picks = Picks(tuple(Pick("things", n) for n in numbers))
    room.project.history.apply(grouped(room.project.data, room.name, picks))
    state, seen = begin(room, 4, 1), []
    for _ in range(400):
        state = step(state, 0)
        seen.append(place(state, numbers[0]))
    assert max(x for x, _ in seen) == pytest.approx(10, abs=0.05)
    assert max(y for _, y in seen) == pytest.approx(4, abs=0.05)
    assert min(y for _, y in seen) == pytest.approx(0, abs=0.05)


def test_an_emitter_sends_things_out_that_do_what_their_role_says(room):
    project = room.project
    project.history.apply(set_prefab(project.data, "Spark", role=Hazard()))
    put(room, "Vent", 4, 12, Emitter("Spark", every=1.0, speed=6.0, towards="left", lasts=3.0))
    state = walked(begin(room, 4, 2), 0)
    state = until(state, 0, lambda s: s.sent)
    assert state.tick == 60
    back = until(state, 0, lambda s: s.backs)
    assert back.news == ("brought back by Vent",) and 90 < back.tick - 60 < 110


def test_what_is_sent_out_is_gone_at_a_wall_or_after_its_time(room):
    put(room, "Vent", 4, 13, Emitter("Spark", every=2.0, speed=6.0, lasts=9.0))
    state = until(begin(room, 4, 1), 0, lambda s: s.sent)
    assert not walked(state, 0, ticks=30).sent, "the edge of the room stops it"


def test_in_the_way_scenery_is_stood_upon(room):
    put(room, "Block", 4, 6, Scenery(solid=True))
    state = walked(begin(room, 4, 1), RIGHT, ticks=90)
    assert cells(state)[1] == pytest.approx(5.2)
    state = until(step(step(state, 0), JUMP), JUMP | RIGHT, lambda s: s.ground)
    assert cells(state)[0] >= 1


def test_a_role_of_a_thing_goes_before_that_of_its_prefab(room):
    project = room.project
    project.history.apply(set_prefab(project.data, "Token", role=Hazard()))
    put(room, "Token", 4, 5, Pickup())
    state = until(begin(room, 4, 1), RIGHT, lambda s: s.taken or s.backs)
    assert state.taken and not state.backs


@pytest.mark.parametrize("seed", range(6))
def test_random_walking_in_a_room_full_of_roles_never_fails_and_repeats(seed):
    room = drawn("################", "#..............#", "#....--...#....#", "#..H.....##..<>#",
                 "#..H../##....###", "#~~H./###..____#", "#~~~/####~~#####", "################",
                 project=library())  # fmt: skip
    wheel = put(room, "Wheel", 3, 8, Switch(turns="gravity over", by="touching it"))
    put(room, "Gate", 1, 12, Door(), when=When("opens", (SwitchOn(wheel),)))
    put(room, "Spikes", 5, 12, Hazard())
    put(room, "Raft", 4, 11, Mover(points=((0.0, 2.0),)))
    put(room, "Gull", 4, 9, Walker(harms=True, cleared=True), counts=True)
    put(room, "Vent", 1, 2, Emitter("Spark", every=0.5, towards="down"))
    world = World(room.project.data, replace(RAKER, slopes="slides"))
    one = two = world.begin(room.name, (3, 11))
    for keys in rng_keys(seed, 900):
        one, two = step(one, keys), step(two, keys)
    assert one == two
