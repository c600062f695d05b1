"""The figure seen from above, and in three dimensions."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import stand
from tests.voxel_rooms import isle
from tests.walk.texts import RAKER, drawn, put, rng_keys, until, walked
from topion.edit.library import put_block
from topion.model.prefab import Thing
from topion.roles import Hazard, Launcher, Mover, Pickup, Switch, Walker
from topion.walk import ACT, DOWN, JUMP, LEFT, RIGHT, UP, World, step

# --- from above ---------------------------------------------------------------------------


def from_above(*rows, figure=RAKER):
    room = drawn(*rows, seen="top")
    return room, lambda y, x: World(room.project.data, figure).begin(room.name, (y, x))


def test_it_goes_eight_ways_and_no_faster_on_slanted_ones():
    room, begin = from_above(*["............"] * 10)
    start = begin(5, 5)
    y, x = start.place()[1:]
    assert walked(start, RIGHT, ticks=10).place()[1:] == pytest.approx((y, x + 1))
    assert walked(start, UP, ticks=10).place()[1:] == pytest.approx((y - 1, x))
    ay, ax = walked(start, DOWN | LEFT, ticks=10).place()[1:]
    assert (ay - y, ax - x) == pytest.approx((0.707, -0.707), abs=0.001)
    assert walked(start, LEFT | RIGHT, ticks=10).place() == start.place() and room


def test_it_slides_along_a_wall_and_stays_in_the_room():
    _, begin = from_above("......", "......", "####..", "......")
    state = walked(begin(1, 1), DOWN | RIGHT, ticks=20)
    assert state.place()[1] == pytest.approx(1.1, abs=0.001) and state.place()[2] > 2
    state = walked(state, UP | LEFT, ticks=200)
    assert state.place()[1:] == pytest.approx((-0.1, -0.1))


def test_water_slows_it_there():
    _, begin = from_above("~~~~~~~~~~", "..........")
    wet, dry = begin(0, 1), begin(1, 1)
    assert walked(wet, RIGHT, ticks=20).place()[2] == pytest.approx(2)
    assert walked(dry, RIGHT, ticks=20).place()[2] == pytest.approx(3)


def test_things_are_taken_acted_on_and_in_the_way_from_all_sides():
    room, begin = from_above(*["........"] * 6)
    token = put(room, "Token", 1, 5, Pickup())
    wheel = put(room, "Wheel", 3, 3, Switch())
    state = step(begin(2, 3), ACT)
    assert state.lives[1].on, "a cell to the south is within reach"
    state = until(state, UP | RIGHT, lambda s: s.taken, 100)
    assert state.taken[0][2] == token and wheel


def test_a_walker_goes_where_it_is_turned_to_from_above():
    room, begin = from_above(*["........"] * 6)
    stand(room, Thing("Gull", 1, 3, turn=90.0, role=Walker(speed=2.0)))
    state, seen = begin(3, 6), set()
    for _ in range(300):
        state = step(state, 0)
        seen.add(state.lives[0].y // state.world.scale.cell)
        assert state.lives[0].x == 0
    assert max(seen) == 4


def test_a_hazard_brings_it_back_from_above():
    room, begin = from_above(*["........"] * 3)
    put(room, "Spikes", 1, 6, Hazard())
    state = until(begin(1, 1), RIGHT, lambda s: s.backs)
    assert 4.0 < state.place()[2] <= 4.2, "a cell before it, where it stood last"


# --- in space -----------------------------------------------------------------------------

GROUND = 3


def in_space(figure=RAKER):
    """An isle of 12 × 14 cells with three levels of ground; the figure at (3, 5, 5)."""
    room = isle((10, 12, 14), GROUND)
    return room, lambda z=GROUND, y=5, x=5: World(room.project.data, figure).begin(
        room.name, (z, y, x)
    )


def test_it_stands_on_the_ground_and_walks_eight_ways():
    _, begin = in_space()
    state = walked(begin(), 0, ticks=2)
    assert state.ground and state.place() == (3, 5, 5)
    assert walked(state, RIGHT, ticks=10).place() == pytest.approx((3, 5, 6))
    assert walked(state, UP, ticks=10).place() == pytest.approx((3, 4, 5))


def test_its_jump_is_exactly_as_high_as_is_said():
    _, begin = in_space()
    state = walked(begin(), 0, ticks=2)
    best, state = 0.0, step(state, JUMP)
    while not state.ground:
        best, state = max(best, state.place()[0]), step(state, JUMP)
    assert best == GROUND + 3


@pytest.mark.parametrize(("high", "jump", "comes"), [(1, False, False), (2, True, True),
                                                     (3, True, True), (4, True, False)])  # fmt: skip
def test_a_block_is_a_wall_until_it_is_jumped_on(high, jump, comes):
    room, begin = in_space()
    room.lay("Stones", box=((3, 0, 8), (2 + high, 11, 13)))
    state = walked(begin(), RIGHT, ticks=60)
    assert state.place() == pytest.approx((3, 5, 7.1))
    if jump:
        state = step(state, JUMP | RIGHT)
        state = until(state, JUMP | RIGHT, lambda s: s.ground)
    assert (state.place()[0] == 3 + high) is comes


@pytest.mark.parametrize(("step_height", "comes"), [(0.5, True), (0.25, False), (1.0, True)])
def test_a_slab_is_stepped_onto_by_a_figure_that_steps_so_high(step_height, comes):
    room, begin = in_space(replace(RAKER, step=step_height))
    room.lay("Slabs", box=((3, 0, 7), (3, 11, 9)))
    state = walked(begin(), RIGHT, ticks=25)
    assert (state.place()[0] == 3.5) is comes
    if comes:
        state = walked(state, RIGHT, ticks=40)
        assert state.place()[0] == 3 and state.ground, "and down again"


def test_it_falls_off_the_room_and_is_brought_back():
    room, begin = in_space()
    room.lift(box=((0, 0, 10), (2, 11, 13)))
    state = until(begin(), RIGHT, lambda s: s.backs)
    assert state.place()[0] == 3 and state.place()[2] > 8


def test_water_slows_it_in_space():
    room, begin = in_space()
    pool = room.project.data.blocks["Pool"]
    room.project.history.apply(put_block(room.project.data, replace(pool, tags=("water",))))
    room.lay("Water", box=((3, 0, 0), (5, 11, 13)))
    state = walked(begin(), 0, ticks=2)
    assert walked(state, RIGHT, ticks=20).place()[2] == pytest.approx(6)
    swum = state
    for _ in range(8):
        swum = walked(step(swum, JUMP), 0, ticks=4)
    assert swum.place()[0] > 4


def test_a_lift_carries_it_up():
    room, begin = in_space()
    stand(room, Thing("Post", 5, 8, z=3, role=Mover(speed=1.0, points=((0, 0, 2),), again="once")))
    state = begin(5, 5, 8)
    state = walked(state, 0, ticks=200)
    post = room.project.data.prefab("Post").height
    assert state.place()[0] == 3 + post + 2 and state.ground


def test_a_launcher_throws_it_to_where_it_is_turned():
    room, begin = in_space()
    stand(room, Thing("Tuft", 5, 8, z=3, turn=90.0, role=Launcher(up=4.0, on=3.0)))
    state = until(begin(), RIGHT, lambda s: s.vy < 0)
    y = state.place()[1]
    state = until(state, 0, lambda s: s.ground)
    assert state.place()[1] - y == pytest.approx(3, abs=0.3)


@settings(max_examples=10, deadline=None)
@given(st.integers(0, 2**32))
def test_whatever_is_pressed_it_is_never_inside_a_block(seed):
    room, begin = in_space()
    room.lay("Stones", box=((3, 2, 2), (5, 3, 3)))
    room.lay("Slabs", box=((3, 8, 6), (3, 9, 9)))
    room.lay("Stones", box=((5, 6, 6), (5, 9, 9)))
    state = begin()
    terrain = state.world.stage(state.room).terrain
    cell, wide, high = terrain.cell, state.world.scale.wide, state.world.scale.high
    for keys in rng_keys(seed, 250):
        state = step(state, keys)
        for row in {state.y // cell, (state.y + wide - 1) // cell}:
            for column in {state.x // cell, (state.x + wide - 1) // cell}:
                for level in range(max(0, state.z // cell), (state.z + high - 1) // cell + 1):
                    assert state.z >= level * cell + terrain.top(level, row, column) or not (
                        terrain.top(level, row, column))  # fmt: skip
