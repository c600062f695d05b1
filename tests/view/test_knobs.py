"""The frame round things that are picked: turned at its top, scaled at a corner."""

import pytest
from PyQt6.QtCore import QPoint, Qt

from tests.rooms import prefab, stand
from topion.edit.pieces import Pick
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.model.prefab import Thing

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


@pytest.fixture
def hand(designer):
    """Two vanes that turn freely are picked; the lasso is in use."""
    designer.handle.add_prefab(prefab("Vane", turns="any"))
    numbers = stand(designer.room, Thing("Vane", 8, 8), Thing("Vane", 8, 14))
    designer.handle.history.mark_saved()
    designer.session.changed.emit(())
    designer.key(Qt.Key.Key_S)
    layer = designer.room.data.id_of("Things")
    designer.session.picking.pick([Pick(layer, n) for n in numbers])
    designer.settle(60)
    return designer


def pull(hand, start: QPoint, end: QPoint, modifier=NONE):
    table = hand.table
    hand.qtbot.mouseMove(table, start)
    hand.qtbot.mousePress(table, LEFT, modifier, start)
    for share in (0.5, 1.0):
        point = start + (end - start) * share
        hand.qtbot.mouseMove(table, point)
        hand.settle(30)
    hand.qtbot.mouseRelease(table, LEFT, modifier, end)
    hand.settle()


def spots(hand):
    return [(t.y, t.x, t.turn, t.scale) for t in hand.room.things()]


def place(hand, knob: str) -> QPoint:
    return next(at for name, at in hand.table.knobs.places() if name == knob).toPoint()


def test_the_knob_at_the_top_turns_all_about_their_middle(hand):
    start, middle = place(hand, "turn"), hand.at((8, 11))
    pull(hand, start, QPoint(middle.x() + middle.y() - start.y(), middle.y()))
    assert spots(hand) == [(5, 11, 90, 1), (11, 11, 90, 1)]
    hand.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert spots(hand) == [(8, 8, 0, 1), (8, 14, 0, 1)]


def test_a_corner_scales_all_about_their_middle(hand):
    start, middle = place(hand, "scale"), hand.at((8, 11))
    pull(hand, start, middle + (start - middle) * 1.5)
    assert spots(hand) == [(8, 6.5, 0, 1.5), (8, 15.5, 0, 1.5)]
    label = hand.handle.history.edits[-1].label
    assert label.startswith("Scale")


def test_a_drag_that_is_dropped_changes_nothing(hand):
    start = place(hand, "turn")
    hand.qtbot.mousePress(hand.table, LEFT, NONE, start)
    hand.qtbot.mouseMove(hand.table, start + QPoint(90, 60))
    hand.settle(30)
    hand.key(Qt.Key.Key_Escape)
    hand.qtbot.mouseRelease(hand.table, LEFT, NONE, start + QPoint(90, 60))
    assert not hand.handle.history.changed
    assert len(hand.session.picking.entries) == 2


def test_with_an_area_beside_them_there_are_no_knobs(hand):
    start, picking = place(hand, "turn"), hand.session.picking
    picking.pick(picking.entries, Area.of_box(Box((7, 7), (10, 16))))
    hand.settle(60)
    pull(hand, start, start + QPoint(60, 60))
    assert [turn for _, _, turn, _ in spots(hand)] == [0, 0]
    assert hand.table.knobs.places() == []
