"""Quarter turns compose; masks and cases belong together."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from topion.grid.hashing import seed_of, unit
from topion.grid.lines import first_of_each, nib_offsets
from topion.grid.neighbours import (
    NE,
    NW,
    SE,
    SW,
    E,
    N,
    S,
    W,
    bits_of,
    case_of,
    cases_47,
    window_offsets,
)
from topion.grid.spacing import point_pairs, point_tile
from topion.grid.turns import composed, turned

ways = st.tuples(st.integers(0, 3), st.booleans())
ARRAY = np.arange(12).reshape(3, 4)


@given(ways, ways)
def test_two_turns_and_mirrors_are_one(first, then):
    step_by_step = turned(turned(ARRAY, *first), *then)
    assert np.array_equal(turned(ARRAY, *composed(first, then)), step_by_step)


@given(ways)
def test_every_way_can_be_taken_back(way):
    ways_back = [
        w
        for w in ((t, m) for t in range(4) for m in (False, True))
        if composed(way, w) == (0, False)
    ]
    assert len(ways_back) == 1


@given(st.integers(0, 255))
def test_a_case_keeps_all_sides_and_only_corners_between_two(mask):
    case = case_of(mask)
    sides = N | E | S | W
    assert case & sides == mask & sides and case_of(case) == case and case & ~mask == 0
    for corner, a, b in ((NW, N, W), (NE, N, E), (SW, S, W), (SE, S, E)):
        assert bool(case & corner) == bool(mask & corner and mask & a and mask & b)


def test_there_are_47_cases_from_none_to_all():
    assert cases_47()[0] == 0 and cases_47()[-1] == 255 and len(cases_47()) == 47


def test_bits_lie_where_their_names_say():
    assert bits_of(N)[0, 1] and bits_of(SE)[2, 2] and bits_of(0)[1, 1]
    assert bits_of(255).all() and bits_of(0).sum() == 1


@pytest.mark.parametrize("radius", [1, 2, 8])
def test_windows_are_in_reading_order_with_the_cell_in_the_middle(radius):
    offsets = window_offsets(radius)
    assert len(offsets) == (2 * radius + 1) ** 2
    assert offsets[len(offsets) // 2].tolist() == [0, 0]
    assert offsets.tolist() == sorted(offsets.tolist())


@pytest.mark.parametrize("width", [1, 2, 3, 4, 5, 9])
def test_nibs_are_as_wide_as_they_say(width):
    offsets = nib_offsets(width)
    assert len(offsets) == width**2 and np.ptp(offsets[:, 0]) + 1 == width
    round_ = nib_offsets(width, round_=True)
    assert {tuple(o) for o in round_.tolist()} <= {tuple(o) for o in offsets.tolist()}


def test_repeats_go_and_order_stays():
    cells = np.array([[3, 1], [0, 0], [3, 1], [2, 2], [0, 0]])
    assert first_of_each(cells).tolist() == [[3, 1], [0, 0], [2, 2]]


@pytest.mark.parametrize("reach", [1.2, 2.0])
def test_pairs_of_a_tile_are_all_the_close_ones_also_across_its_sides(reach):
    tile, pairs = point_tile(3, period=16), point_pairs(3, reach, period=16)
    shifts = [np.array([y, x]) * 16.0 for y in (-1, 0, 1) for x in (-1, 0, 1)]
    close = 0
    for shift in shifts:
        gap = np.linalg.norm(tile.points[:, None] - (tile.points[None] + shift), axis=2)
        np.fill_diagonal(gap, np.inf)
        close += int((gap < reach).sum())
    assert len(pairs.first) * 2 == close and pairs.gap.max() < reach
    off = tile.points[pairs.second] + pairs.step * 16.0 - tile.points[pairs.first]
    assert np.allclose(np.linalg.norm(off, axis=1), pairs.gap)


def test_seeds_of_names_differ_and_stay():
    seeds = {seed_of(name) for name in ("mud", "Mud", "mud ", "water", "")}
    assert len(seeds) == 5 and seed_of("mud") == seed_of("mud")
    assert 0 <= float(unit(seed_of("mud"), 3, 4)) < 1
