"""The warm stroke, again elsewhere, time slices, pitch and rate in the window."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import Qt

from tests.view.test_panels import pull
from topion.model.compare import differences

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def hand(designer):
    designer.session.hands.take("left", "Stones")
    designer.settle()
    return designer


def count(designer, name: str) -> int:
    number = designer.handle.data.materials.index(name) + 1
    layer = designer.room.data.cell_layers()[0][1]
    return int(np.count_nonzero(layer.plane("material") == number))


def strip(designer):
    return designer.window.in_hand.warm


def test_after_a_stroke_in_hand_says_that_it_is_still_warm(hand):
    assert not strip(hand).isVisible()
    hand.stroke((4, 4), (4, 9))
    assert strip(hand).isVisible()
    hand.key(Qt.Key.Key_Return)
    assert not strip(hand).isVisible()


def test_a_slider_lays_the_stroke_again_in_place_as_the_same_edit(hand):
    history = hand.handle.history
    hand.stroke((6, 4), (6, 9))
    at, before = history.at, count(hand, "Stones")
    pull(hand, hand.window.in_hand.rows["nib"], 0.5)
    assert hand.handle.data.brush("Stones").nib > 1
    assert history.at == at
    assert count(hand, "Stones") > 2 * before
    assert strip(hand).isVisible()


def test_undo_takes_it_away_whole(hand):
    history = hand.handle.history
    start = history.at
    hand.stroke((6, 4), (6, 9))
    pull(hand, hand.window.in_hand.rows["nib"], 0.5)
    hand.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert history.at == start
    assert count(hand, "Stones") == 0
    assert not strip(hand).isVisible()


def test_after_enter_a_setting_changes_the_brush_alone(hand):
    hand.stroke((6, 4), (6, 9))
    laid = count(hand, "Stones")
    hand.key(Qt.Key.Key_Return)
    pull(hand, hand.window.in_hand.rows["nib"], 0.5)
    assert count(hand, "Stones") == laid
    assert hand.handle.history.edits[-1].label == "Stones set"


def test_the_next_stroke_is_the_one_that_is_warm(hand):
    hand.stroke((6, 4), (6, 9))
    hand.stroke((12, 4), (12, 9))
    pull(hand, hand.window.in_hand.rows["nib"], 0.4)
    assert hand.material((5, 6)) == "Mud"
    assert hand.material((11, 6)) == "Stones"


def test_the_key_of_an_option_lays_a_box_as_outline_and_back(hand):
    hand.key(Qt.Key.Key_B)
    hand.stroke((5, 5), (10, 12))
    assert hand.material((7, 8)) == "Stones"
    hand.key(Qt.Key.Key_V)
    assert hand.material((7, 8)) == "Mud"
    assert hand.material((5, 8)) == "Stones"
    hand.key(Qt.Key.Key_V)
    assert hand.material((7, 8)) == "Stones"


def test_another_brush_is_taken_from_the_strip(hand):
    at = hand.handle.history.at
    hand.stroke((6, 4), (6, 9))
    hand.session.warm.use_brush("Water")
    assert hand.material((6, 6)) == "Water"
    assert count(hand, "Stones") == 0
    assert hand.handle.history.at == at + 1
    assert hand.session.hands["left"] == "Water"


def test_taking_another_card_leaves_the_stroke_as_it_is(hand):
    hand.stroke((6, 4), (6, 9))
    hand.session.hands.take("left", "Water")
    assert hand.material((6, 6)) == "Stones"
    assert strip(hand).isVisible()
    hand.qtbot.mouseClick(strip(hand).brush, LEFT)  # unless that is asked for
    assert hand.material((6, 6)) == "Water"
    assert hand.handle.history.edits[-1].label == "Water"


def test_the_dice_turns_a_warm_thing_and_things_alike(hand):
    hand.session.hands.take("left", "Cart")
    hand.stroke((8, 8))
    hand.key(Qt.Key.Key_T)
    things = hand.room.things()
    assert [thing.turn for thing in things] == [90]
    hand.key(Qt.Key.Key_T)
    assert [thing.turn for thing in hand.room.things()] == [180]


def test_the_last_stroke_is_laid_again_where_the_pointer_is(hand):
    hand.stroke((4, 4), (4, 8), (6, 8))
    hand.hover((12, 10))
    hand.key(Qt.Key.Key_Comma)
    for cell in ((12, 10), (12, 14), (14, 14)):
        assert hand.material(cell) == "Stones"
    assert hand.handle.history.edits[-1].label == "Stones"
    assert strip(hand).isVisible()


def test_a_warm_stroke_survives_a_restart_as_one_edit(hand, tmp_path):
    from topion.edit.serial import edit_from_plain, edit_to_plain

    hand.stroke((6, 4), (6, 9))
    pull(hand, hand.window.in_hand.rows["nib"], 0.5)
    edit = hand.handle.history.edits[-1]
    again = edit_from_plain(edit_to_plain(edit))
    before = hand.handle.data.frozen()
    hand.session.undo()
    for record in again.records:
        record.write(hand.handle.data)
    assert differences(before, hand.handle.data) == []


def test_a_long_stroke_is_kept_in_slices_that_come_off_one_by_one(hand):
    hand.session.slice_s = 0.1
    history = hand.handle.history
    start = history.at
    hand.press((4, 4))
    for x in range(5, 16):
        hand.move((4, x))
        hand.settle(40)
    hand.let_go((4, 15))
    parts = [edit.part for edit in history.edits[start:]]
    assert len(parts) >= 3
    assert parts == [(n, len(parts)) for n in range(1, len(parts) + 1)]
    assert hand.material((4, 15)) == "Stones"
    hand.session.undo()
    assert hand.material((4, 15)) == "Mud"
    assert hand.material((4, 4)) == "Stones"
    for _ in parts[1:]:
        hand.session.undo()
    assert count(hand, "Stones") == 0


def test_a_pitch_leaves_gaps_along_a_drag(hand):
    brush = hand.handle.data.brush("Stones")
    hand.session.put(brush.changed(pitch=3.0))
    hand.stroke((4, 4), (4, 8), (4, 13))
    assert [x for x in range(4, 14) if hand.material((4, x)) == "Stones"] == [4, 7, 10, 13]


def test_a_rate_lays_where_the_pointer_is_at_each_beat_and_never_on_itself(hand):
    brush = hand.handle.data.brush("Lamp")
    hand.session.put(brush.changed(rate=20.0))
    hand.session.hands.take("left", "Lamp")
    hand.press((4, 4))
    hand.settle(250)
    hand.let_go((4, 4))
    assert len(hand.room.things()) == 1


def test_a_warm_stroke_in_a_voxel_room(modeller):
    history = modeller.handle.history
    modeller.stroke((0, 2, 4, 4), (0, 2, 4, 8))
    at, rows = history.at, modeller.window.in_hand.rows
    assert modeller.window.in_hand.warm.isVisible()
    laid = int(np.count_nonzero(modeller.room.data.cell_layers()[0][1].plane("material") == 2))
    pull(modeller, rows["nib"], 0.3)
    more = int(np.count_nonzero(modeller.room.data.cell_layers()[0][1].plane("material") == 2))
    assert history.at == at
    assert more > laid > 0
