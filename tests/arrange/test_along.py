"""Arranged along a curve; pieces and points of curves arranged like things."""

from __future__ import annotations

import numpy as np
import pytest

from tests.edit.test_curves import curve, drawn
from tests.rooms import small_room, stand
from tests.shapes import shape_room
from topion.arrange.arranging import Arrangement, arrange, arranged
from topion.arrange.examples import ALONG, EXAMPLES, About
from topion.arrange.stand_ins import stand_ins, stands_in
from topion.brushes import CurveBrush
from topion.edit.pieces import Pick
from topion.model.prefab import Thing


def along(room, pick, things, rows, copies=0):
    found = arranged(room.project.data, room.name, things,
                     Arrangement(rows, copies, curve=pick))  # fmt: skip
    edit = arrange(room.project.data, room.name, found)
    room.project.history.apply(edit)
    return found


def test_things_come_to_stand_on_the_curve_at_equal_lengths():
    room = small_room()
    pick = drawn(room, CurveBrush("Fence"))
    (number,) = stand(room, Thing("Bush", 20, 20))
    own = Pick("things", number)
    rows = EXAMPLES[ALONG](About((0, 0), 5))
    along(room, pick, {own: room.data.layers["things"].things[number]}, rows, copies=5)
    at = np.array([(t.y, t.x) for t in room.things()])
    known = curve(room, pick).line
    fars = sorted(known.nearest(p)[0] for p in at)
    assert len(at) == 5 and max(known.nearest(p)[1] for p in at) < 1e-3
    assert np.diff(fars) == pytest.approx(np.full(4, known.length / 4), rel=0.01)


def test_round_a_closed_curve_no_two_stand_in_one_place():
    room = small_room()
    pick = drawn(room, CurveBrush("Fence", shape="circle"), ((10, 12), (10, 18)), "line")
    (number,) = stand(room, Thing("Bush", 20, 20))
    own = Pick("things", number)
    rows = EXAMPLES[ALONG](About((0, 0), 6, closed=True))
    along(room, pick, {own: room.data.layers["things"].things[number]}, rows, copies=6)
    at = np.array([(t.y, t.x) for t in room.things()])
    assert np.abs(np.linalg.norm(at - (10, 12), axis=1) - 6).max() < 0.01
    assert len({tuple(p) for p in at.round(3).tolist()}) == 6


def test_without_a_curve_the_row_says_so_and_the_others_apply():
    room = small_room()
    (number,) = stand(room, Thing("Bush", 20, 20))
    own = Pick("things", number)
    things = {own: room.data.layers["things"].things[number]}
    found = along(room, None, things, {"x": "curve_x(t)", "y": "5"})
    assert "no curve is picked" in str(found.wrong["x"])
    assert [(t.y, t.x) for t in room.things()] == [(5, 20)]


def test_pieces_are_arranged_by_their_first_corner_in_whole_cells():
    room = shape_room((30, 40))
    for left in (2, 10, 20):
        room.lay("Wall", box=((12, left), (15, left + 4)))
    picks = [Pick("ground", n) for n in room.data.layers["ground"].pieces]
    things = stand_ins(room.data, picks, None, ())
    assert all(stands_in(t) for t in things.values()) and len(things) == 3
    along(room, None, things, {"y": "18.4", "x": "linspace(1, 25)"})
    assert [p.box.lo for p in room.data.layers["ground"].pieces.values()] == [
        (18, 1), (18, 13), (18, 25)
    ]  # fmt: skip
    assert room.project.history.edits[-1].label == "Arrange 3 pieces: y, x"
    room.project.history.undo()
    assert [p.box.lo for p in room.data.layers["ground"].pieces.values()] == [
        (12, 2), (12, 10), (12, 20)
    ]  # fmt: skip


def test_points_are_arranged_and_what_stands_along_follows():
    room = small_room()
    pick = drawn(room)
    things = stand_ins(room.data, (), pick, range(4))
    along(room, pick, things, {"y": "12"})
    assert {p.at[0] for p in curve(room, pick).points} == {12}
    assert {round(t.y, 3) for t in room.things()} == {12.0}
