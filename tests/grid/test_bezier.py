"""Curves by their length, against dense numeric integration and against each other."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from topion.grid.bezier import Measured, at, cubics, cut, handles, simplified, slope
from topion.grid.curves import curve_through
from topion.grid.outlines import outlines

places = st.lists(
    st.tuples(st.floats(-40, 40), st.floats(-40, 40)), min_size=2, max_size=8
).filter(lambda ps: all(np.hypot(a[0] - b[0], a[1] - b[1]) > 0.2
                        for a, b in zip(ps, ps[1:] + ps[:1], strict=True)))  # fmt: skip
bends = st.sampled_from(["smooth", "corner"])


def measured(points, *, closed=False, bend="smooth"):
    points = np.array(points, float)
    none = np.zeros_like(points)
    pulls = handles(points, [bend] * len(points), (none, none), closed=closed)
    return Measured(cubics(points, pulls, closed=closed), closed)


def walked(line, count=20_001):
    """The way as a chain of short straight lines, and how far each of its ends is along."""
    t = np.linspace(0, 1, count)
    chain = np.concatenate([at(np.repeat(row[None], count, 0), t) for row in line.curve])
    steps = np.linalg.norm(np.diff(chain, axis=0), axis=1)
    return chain, np.concatenate([[0.0], np.cumsum(steps)])


@given(places, st.booleans(), bends)
def test_the_length_is_that_of_a_dense_walk(points, closed, bend):
    line = measured(points, closed=closed, bend=bend)
    _, far = walked(line, 4001)
    assert line.length == pytest.approx(far[-1], rel=1e-3)


@given(places, st.booleans(), st.integers(2, 40))
def test_places_at_equal_lengths_are_equally_far_apart_along_it(points, closed, many):
    line = measured(points, closed=closed)
    wanted = np.linspace(0, line.length, many, endpoint=False)
    found, _ = line.places(wanted)
    chain, far = walked(line, 4001)
    for place, length in zip(found, wanted, strict=True):
        near = far[np.linalg.norm(chain - place, axis=1) < 0.05]
        assert len(near) and np.abs(near - length).min() < 0.01 * line.length + 0.05


@given(places)
def test_a_smooth_curve_is_the_spline_that_strokes_are_drawn_by(points):
    line = measured(points)
    drawn, ours = curve_through(np.array(points)), line.samples(0.02)
    away = np.linalg.norm(drawn[:, None] - ours[None], axis=2).min(axis=1)
    assert away.max() < 0.05


@given(places, st.booleans(), bends)
def test_it_passes_all_of_its_points_in_their_order(points, closed, bend):
    line = measured(points, closed=closed, bend=bend)
    found, _ = line.places(line.corners[: len(points)])
    assert np.abs(found - np.array(points)).max() < 1e-6
    assert (np.diff(line.corners) > 0).all()


def test_corners_are_joined_by_straight_lines():
    line = measured([(0, 0), (0, 10), (10, 10)], bend="corner")
    assert line.length == pytest.approx(20)
    place, way = line.places(np.array([5.0, 15.0]))
    assert place.tolist() == [[0, 5], [5, 10]] and way.round(9).tolist() == [[0, 1], [1, 0]]


def test_a_closed_curve_goes_round_and_an_open_one_stops():
    ring, row = measured([(0, 0), (0, 9), (9, 9)], closed=True), measured([(0, 0), (0, 9)])
    assert ring.places(np.array([ring.length + 2]))[0] == pytest.approx(
        ring.places(np.array([2.0]))[0], abs=1e-6)  # fmt: skip
    assert row.places(np.array([-3.0, 99.0]))[0].tolist() == [[0, 0], [0, 9]]


@given(places, st.booleans(), st.floats(0, 1))
def test_the_nearest_place_is_found_again(points, closed, share):
    line = measured(points, closed=closed)
    goal = line.places(np.array([share * line.length]))[0][0]
    far, away = line.nearest(goal)
    assert away < 0.01 and np.linalg.norm(line.places(np.array([far]))[0][0] - goal) < 0.01


@given(places, st.floats(0.05, 0.95))
def test_a_cubic_that_is_cut_goes_as_before(points, t):
    row = measured(points).curve[0]
    left, right = cut(row, t)
    s = np.linspace(0, 1, 30)
    one = at(np.repeat(left[None], 30, 0), s)
    assert one == pytest.approx(at(np.repeat(row[None], 30, 0), s * t), abs=1e-6)
    assert right[0] == pytest.approx(left[-1]) and right[-1] == pytest.approx(row[-1])


def test_points_that_pull_nothing_still_have_a_way():
    points = np.array([[0.0, 0.0], [0.0, 4.0]])
    none = np.zeros_like(points)
    line = Measured(cubics(points, (none, none), closed=False))
    place, way = line.places(np.array([0.0, 2.0, 4.0]))
    assert way.round(6).tolist() == [[0, 1]] * 3 and place[1].round(6).tolist() == [0, 2]
    assert slope(line.curve, np.array([0.0])).tolist() == [[0, 0]]


@given(st.lists(st.tuples(st.floats(-20, 20), st.floats(-20, 20)), min_size=2, max_size=60),
       st.floats(0.05, 3))  # fmt: skip
def test_what_is_left_of_a_way_is_never_farther_than_asked(points, most):
    way = np.array(points)
    kept = simplified(way, most)
    assert kept[0] == 0 and kept[-1] == len(way) - 1
    for lo, hi in itertools.pairwise(kept):
        a, b = way[lo], way[hi]
        for p in way[lo : hi + 1]:
            size = float((b - a) @ (b - a))
            t = np.clip((p - a) @ (b - a) / size, 0, 1) if size > 1e-9 else 0.0
            assert np.linalg.norm(p - (a + t * (b - a))) <= most + 1e-6


def test_a_straight_way_is_its_two_ends():
    assert simplified(np.array([[0.0, n] for n in range(50)]), 0.1).tolist() == [0, 49]


# --- outlines -----------------------------------------------------------------------------


def area_of(way):
    y, x = way.T
    return float(np.dot(x, np.roll(y, -1)) - np.dot(np.roll(x, -1), y)) / 2


def test_the_border_of_a_block_goes_clockwise_round_it():
    mask = np.zeros((6, 7), bool)
    mask[1:4, 2:6] = True
    (way,) = outlines(mask)
    assert area_of(way) == 12 and {tuple(p) for p in way.tolist()} >= {(1, 2), (1, 6), (4, 6)}


def test_a_hole_has_a_border_of_its_own_the_other_way_round():
    mask = np.ones((5, 5), bool)
    mask[2, 2] = False
    outer, hole = outlines(mask)
    assert (area_of(outer), area_of(hole)) == (25, -1)


@given(st.integers(1, 2**30 - 1))
def test_borders_enclose_as_many_cells_as_are_marked(bits):
    mask = np.array([bits >> n & 1 for n in range(30)], bool).reshape(5, 6)
    ways = outlines(mask)
    assert sum(area_of(way) for way in ways) == mask.sum()
    for way in ways:
        steps = np.abs(np.diff(np.concatenate([way, way[:1]]), axis=0)).sum(axis=1)
        assert (steps == 1).all()


def test_nothing_has_no_border():
    assert outlines(np.zeros((4, 4), bool)) == []
