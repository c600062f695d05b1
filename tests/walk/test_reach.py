"""Where the figure gets to: each way that is found can be walked, and no walk leaves the reach."""

import json
import subprocess
import sys
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.walk.texts import RAKER, begin, drawn, library, put, rng_keys
from topion.conditions import Cleared, SwitchOn, Taken
from topion.model.condition import When
from topion.roles import Door, Goal, Hazard, Launcher, Mover, Pickup, Start, Switch
from topion.walk import World, step
from topion.walk.reach import reach_from, replays
from topion.walk.search import Search
from topion.walk.strides import Strides


def reached(room, y, x, figure=RAKER):
    return reach_from(begin(room, y, x, figure))


def names(plane):
    return {tuple(at) for at in np.argwhere(plane).tolist()}


def missed(reach):
    return [place.prefab for place in reach.missed]


# --- what is found ------------------------------------------------------------------------


@pytest.mark.parametrize(("rise", "found"), [(2, True), (3, True), (4, False), (5, False)])
def test_a_step_is_reached_exactly_up_to_the_height_of_a_jump(rise, found):
    rows = ["............"] * (9 - rise) + ["......######"] * rise + ["############"]
    reach = reached(drawn(*rows), 8, 1)
    assert bool(reach.stands[8 - rise, 9]) == found


@pytest.mark.parametrize(("gap", "found"), [(4, True), (5, True), (6, False), (7, False)])
def test_a_gap_is_crossed_up_to_the_length_of_a_jump(gap, found):
    """From edge to edge it comes five cells, and its own width twice as far as it may stand out."""
    row = "####" + "." * gap + "####"
    rows = ["." * len(row)] * 5 + [row]
    reach = reached(drawn(*rows), 4, 1)
    assert bool(reach.stands[4, 4 + gap + 2]) == found


def test_it_stands_only_where_there_is_ground():
    reach = reached(drawn("........", "........", "........", "####-###"), 2, 1)
    assert names(reach.stands) == {(2, x) for x in range(8)}
    assert reach.passes[0].all() and reach.passes[1].all()
    assert reach.whole and not reach.no_back.any()


def test_from_a_pit_that_is_too_deep_no_way_back_is_found():
    rows = ["............"] * 3 + ["####...#####"] + ["####...#####"] * 4 + ["############"]
    reach = reached(drawn(*rows), 2, 1)
    assert names(reach.no_back) == {(7, x) for x in (4, 5, 6)}
    assert not reach.no_back[2].any()


def test_a_ladder_leads_up_and_back():
    rows = ["......", "......", "..H###", "..H...", "..H...", "..H...", "..H...", "######"]
    reach = reached(drawn(*rows), 6, 0)
    assert reach.stands[1, 4] and not reach.no_back.any()


def test_a_slope_leads_up_where_a_wall_does_not():
    wall = ["............"] * 4 + ["........####"] * 4 + ["############"]
    slope = ["............"] * 4 + [
        "......../###", ".......//###", "....../#####", "...../######", "############"]  # fmt: skip
    assert not reached(drawn(*wall), 7, 1).stands[3, 10]
    reach = reached(drawn(*slope), 7, 1)
    assert reach.stands[3, 10] and not reach.no_back.any()


def test_a_launcher_throws_it_where_no_jump_leads():
    rows = ["............"] * 6 + ["........####"] * 5 + ["############"]
    room = drawn(*rows)
    put(room, "Goal", 5, 10, role=Goal())
    assert missed(reached(room, 10, 1)) == ["Goal"]
    put(room, "Spring", 10, 5, role=Launcher(up=7.0))
    reach = reached(room, 10, 1)
    assert not missed(reach)
    assert all(replays(reach, place.key) for place in reach.places)


def test_a_mover_carries_it_across():
    rows = ["................"] * 6 + ["###..........###"] + ["###..........###"]
    room = drawn(*rows)
    put(room, "Goal", 5, 14, role=Goal())
    assert missed(reached(room, 5, 1)) == ["Goal"]
    put(room, "Raft", 6, 3, role=Mover(points=((9.0, 0.0),)))
    reach = reached(room, 5, 1)
    assert not missed(reach)
    assert replays(reach, reach.places[0].key)


def test_what_lies_behind_a_shut_door_waits_for_its_switch():
    room = drawn("############", *["...........#"] * 5, "############")
    switch = put(room, "Wheel", 5, 2, role=Switch())
    for y in range(1, 6):
        put(
            room,
            "Gate",
            y,
            7,
            role=Door(by="acting on it"),
            when=When("opens", (SwitchOn(switch),)),
        )
    put(room, "Goal", 5, 10, role=Goal())
    reach = reached(room, 5, 4)
    goal = next(place for place in reach.places if place.kind == "goal")
    assert goal.found and replays(reach, goal.key)
    shut = drawn("############", *["...........#"] * 5, "############", project=library())
    for y in range(1, 6):
        put(shut, "Gate", y, 7, role=Door(), when=When("opens", (Cleared(),)))
    put(shut, "Goal", 5, 10, role=Goal())
    assert "Goal" in missed(reached(shut, 5, 4))


def test_what_is_known_before_anything_opens_is_told_early():
    room = drawn("############", *["...........#"] * 5, "############")
    switch = put(room, "Wheel", 5, 2, role=Switch())
    for y in range(1, 6):
        put(room, "Gate", y, 7, role=Door(), when=When("opens", (SwitchOn(switch),)))
    told = []
    reach = reach_from(begin(room, 5, 4), early=told.append)
    (early,) = told
    assert not early.stands[5, 9] and reach.stands[5, 9]
    assert not (early.stands & ~reach.stands).any() and early.stands[5, 3]


def test_pickups_are_counted_until_a_door_opens():
    room = drawn("##############", *[".............#"] * 4, "##############")
    for x in (2, 4, 6):
        put(room, "Token", 4, x, role=Pickup())
    for y in range(1, 5):
        put(room, "Gate", y, 9, role=Door(), when=When("opens", (Taken(3, "Token"),)))
    put(room, "Goal", 4, 11, role=Goal())
    reach = reached(room, 4, 3)
    assert not missed(reach)
    assert all(replays(reach, place.key) for place in reach.places)


def test_it_comes_through_a_door_and_the_search_ends_there():
    project = library()
    first = drawn("........", "........", "########", project=project, name="First")
    drawn("........", "........", "########", project=project, name="Second")
    put(first, "Gate", 1, 6, role=Door(room="Second"))
    reach = reached(first, 1, 1)
    assert [(p.kind, p.found) for p in reach.places] == [("door", True)]
    state = reach.begun
    for held in reach.witness(reach.places[0].key):
        state = step(state, held)
    assert state.room == "Second"


# --- seen from above ----------------------------------------------------------------------


def test_seen_from_above_a_gap_must_be_as_wide_as_the_figure():
    wide = drawn("......", "###.##", "......", seen="top")
    assert reached(wide, 0, 0).stands[2].all()
    figure = replace(RAKER, wide=1.2)
    assert not reached(wide, 0, 0, figure).stands[2].any()


def test_seen_from_above_every_way_is_walked():
    room = drawn("........", ".######.", ".#....#.", ".#.##.#.", ".#..#...", ".####.#.", "........",
                 seen="top")  # fmt: skip
    put(room, "Token", 2, 2, role=Pickup())
    put(room, "Goal", 3, 2, role=Goal())
    put(room, "Wheel", 4, 3, role=Switch())
    reach = reached(room, 0, 0)
    assert not missed(reach)
    assert all(replays(reach, place.key) for place in reach.places)


def test_seen_from_above_a_door_opens_by_what_was_found_before_it():
    room = drawn("...#...", "...#...", "...#...", seen="top")
    put(room, "Goal", 1, 6, role=Goal())
    assert "Goal" in missed(reached(room, 2, 1))
    open_ = drawn("...#...", ".......", "...#...", seen="top", project=library())
    switch = put(open_, "Wheel", 0, 0, role=Switch())
    put(open_, "Gate", 1, 3, role=Door(by="acting on it"), when=When("opens", (SwitchOn(switch),)))
    put(open_, "Goal", 1, 6, role=Goal())
    reach = reached(open_, 2, 1)
    goal = next(place for place in reach.places if place.kind == "goal")
    assert goal.found and replays(reach, goal.key)


@pytest.mark.parametrize(("wide", "found"), [(3, True), (8, False)])
def test_spikes_on_level_ground_are_jumped_or_stop_it(wide, found):
    room = drawn(*("." * 24,) * 6, "#" * 24)
    for x in range(8, 8 + wide):
        put(room, "Spikes", 5, x, Hazard())
    put(room, "Goal", 5, 21, Goal())
    reach = reached(room, 5, 1)
    assert (missed(reach) == []) is found
    assert all(replays(reach, place.key) for place in reach.places if place.found)


# --- properties ---------------------------------------------------------------------------

SIGNS = st.sampled_from("........#####--HH~")
ROOMS = st.lists(st.text(SIGNS, min_size=14, max_size=14), min_size=7, max_size=10)


def furnished(rows, things, seen):
    room = drawn(*rows, "#" * 14, seen=seen)
    roles = {"Token": Pickup(), "Goal": Goal(), "Wheel": Switch(), "Spikes": Hazard(),
             "Spring": Launcher(up=4.0)}  # fmt: skip
    for name, y, x in things:
        put(room, name, y, x, role=roles[name])
    return room


THINGS = st.lists(
    st.tuples(st.sampled_from(("Token", "Goal", "Wheel", "Spikes", "Spring")),
              st.integers(0, 6), st.integers(0, 13)), max_size=4)  # fmt: skip


@given(ROOMS, THINGS, st.sampled_from(("side", "top")), st.integers(0, 1 << 30))
@settings(max_examples=10, deadline=None)
def test_no_walk_by_chance_leaves_the_reach(rows, things, seen, seed):
    room = furnished(rows, things, seen)
    begun = World(room.project.data, RAKER).begin(room.name)
    reach, state = reach_from(begun), begun
    for held in rng_keys(seed, 10_000 if seed % 8 == 0 else 1500):
        state = step(state, held)
        assert reach.holds(state), (state.place(), state.tick)


@given(ROOMS, THINGS, st.sampled_from(("side", "top")))
@settings(max_examples=12, deadline=None)
def test_every_way_that_is_found_can_be_walked(rows, things, seen):
    room = furnished(rows, things, seen)
    reach = reach_from(World(room.project.data, RAKER).begin(room.name))
    for place in reach.places:
        if place.found:
            assert replays(reach, place.key), place


@given(ROOMS, st.lists(st.tuples(st.integers(0, 63), st.integers(1, 9)), min_size=4, max_size=40))
@settings(max_examples=15, deadline=None)
def test_strides_that_are_known_are_what_step_does(rows, keys):
    room = drawn(*rows, "#" * 14)
    begun = World(room.project.data, RAKER).begin(room.name)
    search = Search(begun, Strides(begun.world, "side"))
    search.run()
    hold, state = search.hold, begun
    epoch = search.moments.epochs[0]
    for held, ticks in keys:
        for _ in range(ticks):
            body = hold.body_of(state)._replace(state=None)
            state = step(state, held)
            if hold.index(body.x, body.y, body.z) < 0:
                continue
            told = hold.on(body, held, 1, epoch).body
            assert told[:3] == (state.x, state.y, state.z)
            assert told.gait == hold.strides.gait_of(state)


def test_strides_learnt_in_one_room_are_true_in_the_next():
    one = drawn("..........", "....##....", "..........", "##########")
    other = drawn("..........", "..........", "...#......", "##########", project=library())
    begun = begin(other, 2, 0)
    strides = Strides(begun.world, "side")
    reach_from(begin(one, 2, 0), strides)
    before = strides.steps
    again = reach_from(begun, strides)
    fresh = reach_from(begun)
    assert np.array_equal(again.stands, fresh.stands)
    assert np.array_equal(again.passes, fresh.passes)
    assert strides.steps - before < fresh.tried / 4


def test_a_search_can_be_stopped():
    class Stop(Exception):
        pass

    def hear(_):
        raise Stop

    rows = ["." * 30] * 12 + ["#" * 30]
    with pytest.raises(Stop):
        reach_from(begin(drawn(*rows), 11, 3), hear=hear)


def test_each_way_replays_in_another_process(tmp_path):
    rows = ["............"] * 7 + ["......--....", "..H.........", "..H...##....", "############"]
    room = drawn(*rows)
    put(room, "Start", 9, 0, role=Start())
    put(room, "Goal", 6, 6, role=Goal())
    put(room, "Token", 8, 9, role=Pickup())
    put(room, "Wheel", 9, 4, role=Switch())
    folder = tmp_path / "Ways.topion"
    room.project.save(folder)
    told = said("walk", folder, room.name, "--reach", "--json", "--out", tmp_path / "ways")
    places = json.loads(told.stdout)["places"]
    assert told.returncode == 0 and len(places) == 3
    for place in places:
        again = said("walk", folder, room.name, "--replay", tmp_path / "ways" / place["file"])
        assert again.returncode == 0 and "ends the same" in again.stdout
    put(room, "Token", 0, 0, role=Pickup())
    room.project.save(folder)
    told = said("walk", folder, room.name, "--reach")
    assert told.returncode == 1 and "no way found" in told.stdout
    both = said("walk", folder, room.name, "--reach", "--replay", tmp_path / "none.json")
    assert both.returncode == 2 and "one at a time" in both.stderr


def said(*words):
    return subprocess.run([sys.executable, "-m", "topion", *map(str, words)], text=True,
                          capture_output=True, timeout=120)  # fmt: skip
