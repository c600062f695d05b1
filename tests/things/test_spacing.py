"""How far things stand from each other, against a plain search."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from topion.things.spacing import spacing_of

points = st.tuples(st.floats(-50, 50), st.floats(-50, 50))


def test_a_row_is_spaced_evenly():
    found = spacing_of(np.array([[3.0, 2.0 * n] for n in range(5)]))
    assert (found.things, found.mean, found.least, found.most) == (5, 2, 2, 2)
    assert found.told() == "mean 2 c · least 2 c" and found.shares[-1] == 1


def test_one_alone_has_none():
    assert spacing_of(np.zeros((1, 2))) is None and spacing_of(np.zeros((0, 3))) is None


def test_two_in_one_place_are_no_cell_apart():
    assert spacing_of(np.zeros((2, 2))).least == 0


@given(st.lists(points, min_size=2, max_size=30))
def test_it_agrees_with_looking_at_every_pair(places):
    found = spacing_of(np.array(places))
    nearest = [min(math.dist(a, b) for m, b in enumerate(places) if m != n)
               for n, a in enumerate(places)]  # fmt: skip
    assert found.mean == pytest.approx(np.mean(nearest)) and found.least == pytest.approx(
        min(nearest)
    )
    assert max(found.shares) == 1 and min(found.shares) >= 0
