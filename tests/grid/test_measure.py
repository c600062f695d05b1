"""Distance, angle and box between two points."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from topion.grid.measure import measured

cells = st.floats(-200, 200, allow_nan=False)


def test_along_a_row_it_is_the_cells_between():
    found = measured((4, 2), (4, 8))
    assert (found.distance, found.angle, found.sides, found.cells) == (6, 0, (1, 7), 7)
    assert found.told() == "6 c · 0° · 7 × 1 = 7 cells"


def test_the_angle_turns_clockwise_from_east():
    angles = [measured((0, 0), to).angle for to in ((0, 5), (5, 0), (0, -5), (-5, 0), (3, 3))]
    assert angles == pytest.approx([0, 90, 180, 270, 45])


def test_in_space_levels_are_told():
    found = measured((1, 0, 0), (4, 0, 4))
    assert found.distance == 5 and found.rise == 3 and found.sides == (4, 1, 5)
    assert "+3 levels" in found.told() and found.told().endswith("5 × 1 × 4 = 20 cells")


def test_of_one_place_it_is_one_cell():
    assert measured((2.2, 3.1), (2.2, 3.1)).cells == 1


@given(st.tuples(cells, cells), st.tuples(cells, cells))
def test_both_ways_it_is_as_far_and_turned_round(a, b):
    there, back = measured(a, b), measured(b, a)
    assert there.distance == pytest.approx(math.dist(a, b)) == pytest.approx(back.distance)
    assert there.sides == back.sides
    if there.distance > 1e-3:
        assert (there.angle - back.angle) % 360 == pytest.approx(180, abs=1e-6)
