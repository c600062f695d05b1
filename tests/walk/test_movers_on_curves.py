"""Movers that go along a curve: to and fro, round it, once; as far aside as they stand."""

from __future__ import annotations

import numpy as np
import pytest

from tests.walk.test_roles import place
from tests.walk.texts import begin, drawn, put
from topion.edit import along
from topion.edit import curves as edits
from topion.edit.pieces import Pick
from topion.errors import BadValue
from topion.roles import Mover
from topion.things import curves as shapes
from topion.walk import step

PLAIN = ("................",) * 9 + ("################",)
ROW = shapes.through(((2, 3), (6, 8), (2, 13)), "smooth")
RING = shapes.arc((4, 8), (4, 11), 360)


def riding(curve, again, *, share=0.0, aside=0.0, speed=3.0):
    """A walk in which a raft goes along a curve; and its number."""
    room = drawn(*PLAIN)
    layer_id = next(i for i, _ in room.data.bottom_up("things"))
    project = room.project
    project.history.apply(edits.added(project.data, room.name, layer_id, curve, "Curve"))
    pick = Pick(layer_id, max(room.data.layers[layer_id].curves))
    y, x = curve.line.places(np.array([share * curve.length]))[0][0]
    role = Mover(goes="along its curve", speed=speed, again=again, solid=False)
    raft = put(room, "Raft", float(y), float(x), role)
    own = [Pick(layer_id, raft)]
    project.history.apply(along.attached(project.data, room.name, own, pick, onto=True))
    if aside:
        project.history.apply(along.put_along(project.data, room.name, own, aside=aside))
    return begin(room, 8, 1), raft


def way(state, raft, ticks):
    """(n, 2) where the raft's middle is after each tick, (y, x)."""
    found = []
    for _ in range(ticks):
        state = step(state, 0)
        x, y = place(state, raft)
        found.append((y, x))
    return np.array(found)


def away(points, curve):
    return np.array([curve.line.nearest(p)[1] for p in points])


@pytest.mark.parametrize(("again", "curve"), [
    ("to and fro", ROW), ("once", ROW), ("on and on", RING), ("once", RING), ("to and fro", RING),
])  # fmt: skip
def test_it_never_leaves_its_curve_and_keeps_its_speed(again, curve):
    state, raft = riding(curve, again)
    found = way(state, raft, 500)
    assert away(found, curve).max() < 0.08
    steps = np.linalg.norm(np.diff(found, axis=0), axis=1)
    assert steps.max() < 3 / 60 + 0.02
    moving = steps[steps > 1e-6]
    assert moving.mean() == pytest.approx(3 / 60, rel=0.05)


def test_once_it_stays_at_the_end_and_to_and_fro_it_comes_back():
    state, raft = riding(ROW, "once")
    found = way(state, raft, 600)
    assert found[-1] == pytest.approx(ROW.points[-1].at, abs=0.05)
    state, raft = riding(ROW, "to and fro")
    ticks = round(2 * ROW.length / 3 * 60)
    assert way(state, raft, ticks)[-1] == pytest.approx(ROW.points[0].at, abs=0.15)


def test_it_begins_where_it_was_placed_and_goes_round():
    state, raft = riding(RING, "on and on", share=0.4)
    found = way(state, raft, round(RING.length / 3 * 60))
    assert found[0] == pytest.approx(RING.line.places(np.array([0.4 * RING.length]))[0][0], abs=0.1)
    assert found[-1] == pytest.approx(found[0], abs=0.15)
    assert np.ptp(found[:, 0]) == pytest.approx(6, abs=0.1)


def test_it_keeps_as_far_aside_as_it_stands():
    state, raft = riding(RING, "on and on", aside=1.0)
    far = np.linalg.norm(way(state, raft, 400) - (4, 8), axis=1)
    assert far == pytest.approx(np.full(400, 2.0), abs=0.08)


def test_two_walks_are_the_same_to_the_last_unit():
    one, two = (way(*riding(ROW, "to and fro"), 200) for _ in range(2))
    assert np.array_equal(one, two)


def test_without_a_curve_it_stays_where_it_is():
    room = drawn(*PLAIN)
    raft = put(room, "Raft", 3.0, 6.0, Mover(goes="along its curve"))
    found = way(begin(room, 8, 1), raft, 60)
    assert np.ptp(found, axis=0).max() == 0


def test_a_mover_goes_only_where_movers_can():
    with pytest.raises(BadValue):
        Mover(goes="anywhere")
