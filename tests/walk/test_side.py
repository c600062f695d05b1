"""The figure seen from the side: cases worked out by hand.  It is 0.8 × 1.8 cells, runs 6 cells a
second, and jumps 3 cells high and 5 long."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.walk.texts import RAKER, begin, cells, drawn, put, rng_keys, until, walked
from topion.roles import Hazard, Launcher, Switch, Walker
from topion.walk import ACT, DOWN, JUMP, LEFT, RIGHT, UP, step

PLAIN = ("............",) * 6 + ("############",)


def high(state):
    return cells(state)[0]


def apex(state):
    """How high its feet come while it jumps."""
    best, state = high(state), step(state, JUMP)
    while not state.ground:
        best, state = max(best, high(state)), step(state, JUMP)
    return best


def test_it_stands_where_it_begins_and_runs_at_its_speed():
    state = walked(begin(drawn(*PLAIN), 5, 2), 0)
    assert state.ground and high(state) == 1
    left = cells(state)[1]
    assert cells(walked(state, RIGHT, ticks=60))[1] == left + 6
    assert cells(walked(state, LEFT, ticks=10))[1] == left - 1


def test_a_jump_is_exactly_as_high_and_as_long_as_is_said():
    state = walked(begin(drawn(*PLAIN), 5, 1), 0)
    assert apex(state) == 4
    left = cells(state)[1]
    jumped = until(step(state, JUMP | RIGHT), JUMP | RIGHT, lambda s: s.ground)
    assert cells(jumped)[1] == pytest.approx(left + 5, abs=0.11)  # one tick is a tenth of a cell


def test_a_jump_that_is_let_go_is_lower():
    state = walked(begin(drawn(*PLAIN), 5, 1), 0)
    short = step(state, JUMP)
    best = high(short)
    while not short.ground:
        short = step(short, 0)
        best = max(best, high(short))
    assert 1.3 < best < 3


def ledge_room(rise):
    """A wall `rise` cells high at the right."""
    rows = ["........"] * (6 - rise) + ["....####"] * rise + ["########"]
    return drawn(*rows)


def over_wall(rise, figure):
    """Whether it comes onto a wall so high, running against it and jumping once."""
    state = walked(begin(ledge_room(rise), 5, 1, figure), 0)
    state = until(state, RIGHT, lambda s: step(s, RIGHT).x == s.x)
    state = step(state, JUMP | RIGHT)
    for _ in range(200):
        state = step(state, JUMP | RIGHT)
        if state.ground:
            return high(state) == 1 + rise
    return False


@pytest.mark.parametrize(("jump", "comes"), [(3.0, True), (2.99, False), (3.2, True), (2.5, False)])
def test_a_jump_just_high_enough_and_one_just_not(jump, comes):
    assert over_wall(3, replace(RAKER, jump_height=jump)) is comes


def gap_room(wide):
    """Ground, a gap of so many cells, and ground."""
    return drawn(*["." * (9 + wide)] * 6, "####" + "." * wide + "#####", "." * (9 + wide))


def over_gap(wide):
    """Whether it comes over a gap, jumping at its very edge."""
    state = walked(begin(gap_room(wide), 5, 0), 0)
    state = until(state, RIGHT, lambda s: not step(s, RIGHT).ground)
    state = step(state, JUMP | RIGHT)
    for _ in range(120):
        state = step(state, JUMP | RIGHT)
        if state.ground or state.backs:
            return not state.backs and cells(state)[1] > 4
    return False


def test_a_gap_just_short_enough_and_one_just_not():
    assert over_gap(5)  # 5 cells of jump, and most of its own width
    assert not over_gap(7)


def test_walls_stop_it_flush():
    state = walked(begin(drawn(".....#", ".....#", ".....#", "######"), 2, 1), RIGHT, ticks=120)
    assert cells(state)[1] == 5 - 0.8
    state = walked(state, LEFT, ticks=120)
    assert cells(state)[1] == 0, "beyond the room is a wall"


def test_a_ceiling_stops_a_jump_and_it_falls_again():
    state = walked(begin(drawn("######", "......", "......", "......", "######"), 3, 2), 0)
    assert apex(state) == 1 + 3 - 1.8


def test_it_slips_through_no_corner():
    """Jumping beneath the corner of a block it neither sticks nor passes through it."""
    state = walked(begin(drawn("......", "...##.", "......", "......", "######"), 3, 1), 0)
    for _ in range(80):
        state = step(state, JUMP | RIGHT)
        x, feet = cells(state)[1], high(state)
        inside = x + 0.8 > 3 and x < 5 and feet + 1.8 > 3 and feet < 4
        assert not inside


SLOPES = {
    "1:1": ("............", "......./####", "....../#####", "...../######", "############"),
    "1:2": ("............", ".......<>###", ".....<>#####", "...<>#######", "############"),
    "1:4": ("............", ".......qwer#", "...qwer#####", "############", "############"),
}


@pytest.mark.parametrize(("ratio", "rise"), [("1:1", 3), ("1:2", 3), ("1:4", 2)])
def test_a_slope_is_walked_up_and_down_without_leaving_it(ratio, rise):
    rows = ("............",) * 3 + SLOPES[ratio]
    state = walked(begin(drawn(*rows), 6 if ratio != "1:4" else 5, 0), 0, ticks=3)
    foot, best = high(state), 0.0
    for _ in range(140):
        state = step(state, RIGHT)
        assert state.ground
        best = max(best, high(state))
    assert best == foot + rise
    for _ in range(140):
        state = step(state, LEFT)
        assert state.ground, "it stays on a slope that goes down"
    assert high(state) == foot


def test_on_a_slope_of_one_to_two_it_is_half_as_high_as_it_went_across():
    rows = ("............",) * 3 + SLOPES["1:2"]
    state = until(walked(begin(drawn(*rows), 6, 0), 0), RIGHT, lambda s: high(s) > 1.5)
    before = cells(state)
    after = cells(walked(state, RIGHT, ticks=10))
    assert after[0] - before[0] == pytest.approx((after[1] - before[1]) / 2, abs=1e-6)


def test_the_tall_side_of_a_slope_is_a_wall_and_jumped_onto_it_is_a_floor():
    state = walked(begin(drawn("......", "......", "......", "../...", "######"), 3, 4), 0)
    state = walked(state, LEFT, ticks=60)
    assert cells(state) == (1.0, 3.0)
    state = walked(step(state, JUMP), JUMP, ticks=20)
    state = until(walked(state, LEFT, ticks=5), 0, lambda s: s.ground)
    assert high(state) == 2, "its western edge is at the top of the slope"


def test_a_curved_floor_is_followed():
    state = walked(begin(drawn("....", "....", "....", "#u##", "####"), 2, 0), 0, ticks=2)
    lowest = high(state)
    for _ in range(30):
        state = step(state, RIGHT)
        lowest = min(lowest, high(state))
    assert lowest < 2


def test_steep_slopes_slide_where_the_figure_slides():
    rows = ("............",) * 3 + SLOPES["1:1"]
    sliding = replace(RAKER, slopes="slides")
    state = begin(drawn(*rows), 4, 6, sliding)
    state = walked(state, 0, ticks=90)
    assert high(state) == 1
    stays = walked(begin(drawn(*rows), 4, 6), 0, ticks=90)
    assert high(stays) > 1


def test_a_ledge_is_passed_from_below_and_carries_from_above():
    state = walked(begin(drawn("......", "......", "......", "..--..", "......", "......", "######"),
                         5, 2), 0)  # fmt: skip
    state = until(step(state, JUMP), JUMP, lambda s: s.ground)
    assert high(state) == 4
    dropped = until(step(step(state, 0), DOWN | JUMP), 0, lambda s: s.ground)
    assert high(dropped) == 1


def test_half_blocks_are_stepped_onto_and_whole_ones_are_not():
    state = walked(begin(drawn("......", "......", "..__.#", "######"), 2, 0), 0)
    state = walked(state, RIGHT, ticks=30)
    assert high(state) == 1.5
    state = walked(state, RIGHT, ticks=60)
    assert cells(state) == (1.0, 5 - 0.8)


def test_a_ladder_is_climbed_stood_upon_and_climbed_down():
    state = walked(begin(drawn("......", "......", "..H...", "..H...", "..H...", "..H...", "######"),
                         5, 2), 0)  # fmt: skip
    state = until(state, UP, lambda s: s.ground and s.tick > 5)
    assert high(state) == 5 and not state.climbs
    assert high(walked(state, 0, ticks=30)) == 5, "it stands on top"
    state = until(state, DOWN, lambda s: s.ground and high(s) == 1)
    hangs = walked(walked(state, UP, ticks=20), 0, ticks=30)
    assert hangs.climbs and high(hangs) > 1


def test_water_slows_and_lets_it_swim_up():
    rows = ("......", "~~~~~~", "~~~~~~", "~~~~~~", "~~~~~~", "######")
    state = walked(begin(drawn(*rows), 4, 1), 0, ticks=5)
    left = cells(state)[1]
    assert cells(walked(state, RIGHT, ticks=20))[1] == left + 1
    for _ in range(12):
        state = walked(step(state, JUMP), 0, ticks=6)
    assert high(state) > 2


def test_gravity_turned_over_in_mid_air_and_back():
    room = drawn("########", *("........",) * 6, "########")
    put(room, "Wheel", 6, 2, Switch(turns="gravity over"))
    state = walked(begin(room, 6, 2), 0)
    state = walked(step(state, JUMP), JUMP, ticks=1)
    up = step(step(state, 0), ACT)
    assert up.over and "gravity turned over" in up.news
    up = until(up, 0, lambda s: s.ground)
    assert up.y == up.world.scale.cell, "its feet are at the ceiling"
    assert cells(walked(up, RIGHT, ticks=10))[1] == cells(up)[1] + 1
    best = min(walked_down(up))
    assert best == pytest.approx(high(up) - 3)


def walked_down(state):
    """Heights of its feet, which is the far side now, in a jump off the ceiling."""
    found, state = [high(state)], step(state, JUMP)
    while not state.ground:
        found.append(high(state))
        state = step(state, JUMP)
    return found


def test_a_launcher_throws_it_so_high_and_so_far():
    room = drawn(*("..............",) * 12, "##############")
    put(room, "Spring", 11, 3, Launcher(up=7.0, on=4.0))
    state = walked(begin(room, 11, 1), 0)
    state = until(state, RIGHT, lambda s: s.vy < 0)
    start = cells(state)
    best = 0.0
    while not state.ground:
        state = step(state, 0)
        best = max(best, high(state))
    assert best == pytest.approx(1 + 7, abs=0.05)
    assert cells(state)[1] - start[1] == pytest.approx(4, abs=0.3)


def test_spikes_bring_it_back_to_where_it_stood_and_so_does_falling_out():
    room = drawn("........", "........", "........", "###.####", "........")
    put(room, "Spikes", 2, 6, Hazard())
    state = walked(begin(room, 2, 1), 0)
    fallen = until(state, RIGHT, lambda s: s.backs == 1)
    assert fallen.news == ("brought back by the depths",) and cells(fallen)[0] == 2
    state = walked(begin(room, 2, 4), 0)
    back = until(state, RIGHT, lambda s: s.backs == 1)
    assert back.news == ("brought back by Spikes",) and cells(back)[1] < 6


@pytest.mark.parametrize("role", [Hazard(), Walker(speed=0.1, harms=True)])
def test_nobody_walks_through_what_harms_on_level_ground(role):
    """The place to come back to is a cell before it, so that it is seen that it harms."""
    room = drawn(*("." * 14,) * 3, "#" * 14)
    put(room, "Spikes", 2, 8, role)
    state, places = walked(begin(room, 2, 1), 0), []
    for _ in range(400):
        state = step(state, RIGHT)
        places.append(cells(state)[1])
    assert max(places) < 8 and state.backs > 3
    assert min(places[100:]) == pytest.approx(8 - 1 - 0.8, abs=0.2)


def test_coyote_time_lets_it_jump_a_little_after_an_edge():
    rows = (*("..........",) * 5, "####......", "..........")
    for coyote, jumps in ((0.0, False), (0.1, True)):
        state = walked(begin(drawn(*rows), 4, 0, replace(RAKER, coyote=coyote)), 0)
        state = until(state, RIGHT, lambda s: not s.ground)
        state = walked(state, RIGHT, ticks=2)
        assert (step(state, JUMP | RIGHT).vy < 0) is jumps


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 2**32))
def test_whatever_is_pressed_it_is_never_inside_a_wall(seed):
    room = drawn("################", "#..............#", "#....--...#....#", "#..H.....##..<>#",
                 "#..H../##....###", "#~~H./###..____#", "#~~~/####~~#####", "################")  # fmt: skip
    state = begin(room, 5, 11)
    terrain = state.world.stage(state.room).terrain
    cell = state.world.scale.cell
    for keys in rng_keys(seed, 400):
        state = step(state, keys)
        assert not state.backs
        right, bottom = state.x + state.world.scale.wide - 1, state.y + state.world.scale.high - 1
        for x in {state.x // cell, right // cell}:
            for y in range(state.y // cell, bottom // cell + 1):
                assert not terrain.flag(y, x) & 1, (state.place(), keys)


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 2**32))
def test_the_same_keys_give_the_same_states(seed):
    room = drawn(*PLAIN)
    put(room, "Spring", 5, 6, Launcher())
    one, two = begin(room, 5, 1), begin(room, 5, 1)
    for keys in rng_keys(seed, 120):
        one, two = step(one, keys), step(two, keys)
        assert one.told() == two.told() and one.tick == two.tick
