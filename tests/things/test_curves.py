"""Curves made of others and of plain shapes, and what fills them."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from topion.errors import BadValue
from topion.model.curve import Along, Curve, CurvePart, CurvePoint, Fill
from topion.things import curves as shapes
from topion.things.along import slid
from topion.things.filling import places_of

WAVE = ((2, 2), (8, 9), (3, 18), (12, 24))
places = st.lists(
    st.tuples(st.integers(0, 30), st.integers(0, 30)), min_size=2, max_size=7, unique=True
)


def wave(**more):
    return replace(shapes.through(WAVE, "smooth"), **more)


def dense(curve):
    return curve.line.samples(0.02)


def farthest(one, other):
    """How far any place of one curve is from the other."""
    a, b = dense(one), dense(other)
    return max(float(np.linalg.norm(p - b, axis=1).min()) for p in a[::7])


# --- shapes -------------------------------------------------------------------------------


@given(places, st.floats(0.02, 0.98), st.booleans(), st.sampled_from(["smooth", "corner"]))
def test_one_more_point_leaves_the_curve_as_it_goes(points, share, closed, bend):
    curve = shapes.through(points, bend, closed=closed)
    made, number = shapes.with_point(curve, share * curve.length)
    assert len(made.points) == len(curve.points) + 1
    assert made.length == pytest.approx(curve.length, rel=1e-4)
    assert farthest(curve, made) < 0.05
    assert np.linalg.norm(made.places[number] - curve.line.places(
        np.array([share * curve.length]))[0][0]) < 1e-3  # fmt: skip


@given(places, st.booleans())
def test_turned_round_twice_it_is_as_before(points, closed):
    curve = shapes.through(points, "smooth", closed=closed)
    once = shapes.turned_round(curve)
    assert shapes.turned_round(once) == curve
    assert once.length == pytest.approx(curve.length)
    assert once.places[0].tolist() == (curve.places[0] if curve.closed else
                                       curve.places[-1]).tolist()  # fmt: skip


@given(places.filter(lambda p: len(p) > 2), st.integers(1, 5))
def test_split_and_joined_it_goes_as_before(points, number):
    curve = shapes.through(points, "smooth")
    number = min(number, len(points) - 2)
    one, two = shapes.split(curve, number)
    assert one.length + two.length == pytest.approx(curve.length, rel=1e-4)
    joined, ways = shapes.joined(one, two)
    assert farthest(curve, joined) < 0.1 and {which for which, _ in ways} == {0, 1}


def test_a_ring_that_is_split_is_open_and_begins_there():
    ring = shapes.arc((10, 10), (10, 16), 360)
    (row,) = shapes.split(ring, 2)
    assert not row.closed and row.length == pytest.approx(ring.length, rel=1e-4)
    assert row.places[0].tolist() == row.places[-1].tolist() == ring.places[2].tolist()
    assert shapes.split(wave(), 0) == ()


def test_curves_are_joined_where_their_ends_are_nearest():
    one = shapes.through(((0, 0), (0, 5)), "corner")
    two = shapes.through(((0, 12), (0, 6)), "corner")
    made, ways = shapes.joined(one, two)
    assert [p.at for p in made.points] == [(0, 0), (0, 5), (0, 6), (0, 12)]
    assert ways == [(0, False), (1, True)]


@given(st.floats(-3, 3).filter(lambda d: abs(d) > 0.2))
def test_an_offset_is_as_far_away_everywhere(cells):
    curve = shapes.through(((0, 0), (4, 15), (0, 30), (-6, 45)), "smooth")
    beside = shapes.offset(curve, cells)
    at, base = dense(beside), dense(curve)
    away = np.array([np.linalg.norm(p - base, axis=1).min() for p in at[50:-50:9]])
    assert np.abs(away - abs(cells)).max() < 0.08
    (y, x), (way,) = beside.places[0], curve.line.places(np.array([0.0]))[1]
    assert float((np.array([y, x]) - curve.places[0]) @ np.array([way[1], -way[0]])) == (
        pytest.approx(cells, abs=1e-3))  # fmt: skip


def test_an_offset_of_a_rectangle_keeps_its_corners():
    made = shapes.offset(shapes.rectangle((2, 2), (10, 20)), 1.0)
    assert [p.at for p in made.points] == [(3, 3), (3, 19), (9, 19), (9, 3)]


def test_an_offset_that_would_fold_over_is_refused_with_the_place():
    with pytest.raises(BadValue, match="fold over itself at"):
        shapes.offset(shapes.arc((10, 10), (10, 12), 360), 2.5)


@given(st.floats(1, 30), st.floats(-359, 359).filter(lambda a: abs(a) > 5))
def test_an_arc_is_as_long_as_it_should_be_and_as_round(radius, degrees):
    curve = shapes.arc((5, 5), (5, 5 + radius), degrees)
    assert curve.length == pytest.approx(abs(np.radians(degrees)) * radius, rel=1e-3)
    far = np.linalg.norm(dense(curve) - 5, axis=1)
    assert np.abs(far - radius).max() < 0.001 * radius


def test_round_corners_take_what_room_there_is():
    curve = shapes.rectangle((0, 0), (4, 20), 9)
    assert curve.closed and curve.length == pytest.approx(2 * 16 + 2 * np.pi * 2, rel=1e-3)
    assert shapes.rectangle((0, 0), (4, 20)).length == pytest.approx(48)


def test_a_drawn_way_keeps_near_the_pointer_with_few_points():
    t = np.linspace(0, 6, 400)
    way = np.stack([8 + 5 * np.sin(t), 5 * t], axis=1)
    curve = shapes.drawn(way, 0.3)
    assert len(curve.points) < 30
    base = dense(curve)
    assert max(np.linalg.norm(p - base, axis=1).min() for p in way[::5]) < 0.6


def test_the_outline_of_a_disk_is_nearly_round():
    ys, xs = np.indices((40, 40))
    mask = np.hypot(ys - 19.5, xs - 19.5) < 16
    curve, *rest = shapes.outlined(mask, 0.25, (10.0, 10.0))
    assert not rest and curve.closed
    far = np.linalg.norm(dense(curve) - 10, axis=1)
    assert np.abs(far - 4).max() < 0.3


def test_a_handle_pulled_keeps_the_other_in_line_unless_they_are_pulled_apart():
    curve = wave()
    point = shapes.pulled(curve, 1, "after", (0.0, 3.0))
    before, after = np.array(point.before), np.array(point.after)
    assert abs(before[0] * after[1] - before[1] * after[0]) < 1e-4 and before @ after < 0
    alone = shapes.pulled(curve, 1, "after", (0.0, 3.0), apart=True)
    assert np.abs(np.array(alone.before) - curve.pulls[0][1]).max() < 1e-5  # as it was


@pytest.mark.parametrize("make", [
    lambda: Curve((CurvePoint((1, 2)),)),
    lambda: Curve((CurvePoint((1, 2)), CurvePoint((1, 2, 3)))),
    lambda: CurvePoint((1, float("nan"))),
    lambda: CurvePoint((1, 2), "free", (1, 2, 3)),
    lambda: Fill(pitch=0.0),
    lambda: CurvePart("Bush", -1.0),
])  # fmt: skip
def test_curves_without_sense_are_refused(make):
    with pytest.raises(BadValue):
        make()


# --- what fills them ----------------------------------------------------------------------


def filled(curve, wide=1.0, **fill):
    fill = Fill((CurvePart("Bush"),), **fill)
    return places_of(curve, fill, lambda name: {"Cart": 2.0}.get(name, wide))


def gaps(curve, found):
    """Lengths between neighbours, along the curve, by a dense walk."""
    return np.diff([far for far, _ in found])


@given(places, st.floats(0.3, 5), st.booleans())
def test_a_pitch_is_kept_to_within_one_per_cent(points, pitch, fits):
    curve = shapes.through(points, "smooth")
    found = filled(curve, pitch=pitch, fits=fits)
    apart = gaps(curve, found)
    if fits:
        assert found[0][0] == 0 and found[-1][0] == pytest.approx(curve.length)
        assert np.ptp(apart) < 1e-6
    elif len(apart):
        assert apart == pytest.approx(np.full(len(apart), pitch))
        assert curve.length - found[-1][0] < pitch + 1e-6


@given(places.filter(lambda p: len(p) > 2), st.integers(1, 40))
def test_a_count_is_a_count_on_open_and_closed_curves(points, count):
    for closed in (False, True):
        curve = shapes.through(points, "smooth", closed=closed)
        found = filled(curve, by="count", count=count)
        assert len(found) == count
        if count > 1:
            assert np.ptp(gaps(curve, found)) < 1e-6


@given(st.floats(0, 2), st.booleans())
def test_gaps_lie_between_bodies_whatever_their_width(apart, fits):
    curve = shapes.through(((0, 0), (0, 30)), "corner")
    fill = Fill((CurvePart("Bush"), CurvePart("Cart")), by="gaps", apart=apart, fits=fits, seed=5)
    wide = {"Bush": 1.0, "Cart": 2.0}
    found = places_of(curve, fill, wide.__getitem__)
    between = [b - a - (wide[one] + wide[two]) / 2
               for (a, one), (b, two) in pairwise(found)]  # fmt: skip
    assert min(between) >= apart - 1e-6 and np.ptp(between) < 1e-6
    assert found[0][0] - wide[found[0][1]] / 2 == pytest.approx(0)
    end = found[-1][0] + wide[found[-1][1]] / 2
    assert end == pytest.approx(30) if fits else end <= 30 + 1e-6


def test_start_end_and_corners_have_parts_of_their_own():
    curve = shapes.through(((0, 0), (0, 10), (8, 10)), "corner")
    found = filled(curve, pitch=2, start="Gate", end="Post", corner="Lamp")
    assert found[0] == (0, "Gate") and found[-1] == (18, "Post")
    assert (10.0, "Lamp") in found and len(found) == 10
    assert {name for far, name in found if far not in (0, 10, 18)} == {"Bush"}


def test_a_ring_with_corner_parts_has_each_corner_once():
    curve = shapes.rectangle((0, 0), (6, 10))
    found = filled(curve, pitch=2, corner="Lamp")
    assert sum(name == "Lamp" for _, name in found) == 4 and len(found) == 16
    assert len({round(far % curve.length, 6) for far, _ in found}) == 16


def test_the_mix_follows_the_weights_and_stays_where_a_curve_grows():
    fill = Fill((CurvePart("Bush", 3), CurvePart("Cart", 1)), pitch=0.5, fits=False, seed=3)
    short = places_of(shapes.through(((0, 0), (0, 100)), "corner"), fill, lambda _: 1.0)
    long = places_of(shapes.through(((0, 0), (0, 400)), "corner"), fill, lambda _: 1.0)
    assert long[: len(short)] == short
    share = np.mean([name == "Cart" for _, name in long])
    assert 0.2 < share < 0.3


@given(st.floats(0, 1), st.floats(-200, 200))
def test_sliding_goes_round_a_ring_and_stops_at_ends(share, by):
    ring, row = shapes.arc((9, 9), (9, 14), 360), wave()
    round_ = slid(Along(share), ring, by)
    assert (round_.share - share - by / ring.length) % 1.0 == pytest.approx(0, abs=1e-6) or (
        (round_.share - share - by / ring.length) % 1.0 == pytest.approx(1, abs=1e-6))  # fmt: skip
    assert slid(Along(share), row, by).share == pytest.approx(
        min(max(share + by / row.length, 0), 1), abs=1e-6)  # fmt: skip
