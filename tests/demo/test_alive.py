"""The rooms of the demo can be walked, and their recordings end as they did."""

import pytest

from topion.demo.alive import CELLAR, ISLAND, YARD
from topion.demo.brinehollow import brinehollow
from topion.demo.marsh import ROOM as MARSH
from topion.model.walked import role_of, when_of
from topion.walk import World, step
from topion.walk.replay import difference, end_of, last_state


@pytest.fixture(scope="module")
def demo():
    return brinehollow()


@pytest.mark.parametrize("room", [YARD, CELLAR, ISLAND])
def test_each_room_has_a_start_where_the_figure_stands(demo, room):
    state = World(demo.data).begin(room)
    for _ in range(30):
        state = step(state, 0)
    assert state.ground and not state.backs


def test_it_has_doors_wheels_tokens_gulls_a_launcher_a_goal_and_gravity_to_turn(demo):
    kinds = {room: {role.kind for thing in demo.room(room).things()
                    if (role := role_of(demo.data, thing)) is not None}
             for room in (YARD, CELLAR, ISLAND)}  # fmt: skip
    assert kinds[CELLAR] >= {"start", "goal", "door", "pickup", "switch", "launcher", "walker",
                             "emitter", "scenery"}  # fmt: skip
    assert kinds[YARD] >= {"start", "goal", "door", "pickup", "switch", "walker"}
    assert kinds[ISLAND] >= {"start", "door", "pickup", "walker"}
    turns = {getattr(role_of(demo.data, t), "turns", "") for t in demo.room(CELLAR).things()}
    assert "gravity over" in turns
    assert any(when_of(demo.data, thing).all_of for thing in demo.room(CELLAR).things())


def test_its_two_recordings_end_as_they_did(demo):
    recordings = demo.data.shelf("recordings")
    assert {recording.room for recording in recordings.values()} == {YARD, CELLAR}
    for recording in recordings.values():
        assert difference(recording.end, end_of(last_state(demo.data, recording))) == ""


def test_every_door_that_leads_somewhere_leads_to_a_door_that_leads_back(demo):
    found = 0
    for room in (MARSH, YARD, CELLAR, ISLAND):
        for _, layer in demo.room(room).data.bottom_up("things"):
            for number, thing in layer.things.items():
                role = role_of(demo.data, thing)
                if getattr(role, "room", ""):
                    there = demo.room(role.room).data
                    back = next(la.things[role.door] for _, la in there.bottom_up("things")
                                if role.door in la.things)  # fmt: skip
                    assert role_of(demo.data, back).door == number
                    found += 1
    assert found == 7  # the cellar leads on into itself, at another place of the plan


def test_tokens_are_all_placed(demo):
    counts = [sum(t.prefab == "Salt token" for t in demo.room(room).things())
              for room in (YARD, CELLAR, ISLAND)]  # fmt: skip
    assert counts == [7, 6, 4]
