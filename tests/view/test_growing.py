"""Rooms that grow, are pulled larger and are set otherwise; patterns and walls of things."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QApplication, QDialogButtonBox

from tests.rooms import planes, small_project
from tests.view.designer import Designer
from topion.edit.library import put_prefab
from topion.edit.rooms import set_room
from topion.model.compare import differences
from topion.view.dialogs.room import RoomDialog, ShiftDialog
from topion.view.panels.pattern import PatternEditor
from topion.view.window import Window

CTRL, LEFT = Qt.KeyboardModifier.ControlModifier, Qt.MouseButton.LeftButton


@pytest.fixture
def yard(qtbot) -> Designer:
    """A small room of mud that may grow, in the middle of a large table."""
    project = small_project()
    room = project.add_room("Yard", (8, 10), 4, grows=True)
    room.lay("Mud", box=((0, 0), (7, 9)))
    room.lay("Bush", cells=[(2, 3)])
    window = Window(project)
    window.session.handle.history.mark_saved()
    qtbot.addWidget(window, before_close_func=lambda w: w.session.handle.history.mark_saved())
    window.show()
    qtbot.waitExposed(window)
    window.table.camera.step = 8  # 16 px a cell
    window.table.centre_on((4, 5))
    hand = Designer(window, qtbot)
    hand.session.hands.take("left", "Stones")
    hand.settle()
    return hand


def stroke(hand, *cells):
    """A stroke whose every place is waited for, with the points fixed before it begins."""
    points = [hand.at(cell) for cell in cells]
    pull(hand, points[0], *points[1:])


def pull(hand, start: QPoint, *points: QPoint, end=True):
    table = hand.table
    hand.qtbot.mouseMove(table, start)
    hand.qtbot.mousePress(table, LEFT, Qt.KeyboardModifier.NoModifier, start)
    for point in points:

        def arrived(point=point) -> bool:  # the display server tells of older places late
            hand.qtbot.mouseMove(table, point + QPoint(1, 0))
            hand.qtbot.mouseMove(table, point)
            hand.settle(5)
            return table.hover is not None and table.hover.toPoint() == point

        hand.qtbot.waitUntil(arrived)
    if end:
        hand.qtbot.mouseRelease(table, LEFT, pos=(points or [start])[-1])
        hand.settle()


def bush(hand):
    (thing,) = hand.room.data.layer("things").things.values()
    return int(thing.y), int(thing.x)


# --- by painting --------------------------------------------------------------------------


def test_a_stroke_past_the_edge_makes_the_room_larger_and_nothing_moves_on_the_screen(yard):
    where = yard.at((2, 3))
    stroke(yard, (3, 2), (3, -1), (3, -4))
    assert yard.room.size == (8, 14) and yard.room.data.info.origin == (0, -4)
    assert yard.material((3, 0)) == "Stones" and bush(yard) == (2, 7)
    assert yard.at((2, 7)) == where, "the camera stays over what it showed"
    yard.key(Qt.Key.Key_Z, CTRL)
    assert yard.room.size == (8, 10) and bush(yard) == (2, 3)
    assert yard.at((2, 3)) == where
    yard.key(Qt.Key.Key_Y, CTRL)
    assert yard.room.size == (8, 14) and bush(yard) == (2, 7)


def test_the_ghost_shows_the_new_edge_before_anything_is_laid(yard):
    free = yard.at((3, 12))
    yard.hover((3, 5))
    before = yard.table.grab().toImage()
    yard.hover((3, 14))
    yard.qtbot.waitUntil(lambda: yard.table.grab().toImage() != before)
    after = yard.table.grab().toImage()
    column = [after.pixelColor(free.x(), y) != before.pixelColor(free.x(), y)
              for y in range(after.height())]  # fmt: skip
    assert sum(column) >= 2, "an edge is drawn between the room and the pointer"
    assert yard.room.size == (8, 10)


def test_a_room_that_does_not_grow_stays_as_large_as_it_is(yard):
    yard.handle.history.apply(set_room(yard.handle.data, "Yard", grows=False))
    stroke(yard, (3, 2), (3, 14))
    assert yard.room.size == (8, 10) and yard.material((3, 9)) == "Stones"


def test_what_is_picked_lies_on_the_same_cells_after_the_room_grew(yard):
    yard.key(Qt.Key.Key_S)
    yard.key(Qt.Key.Key_V)
    stroke(yard, (5, 2), (6, 4))
    area = yard.session.picking.area
    assert area is not None and area.box.lo == (5, 2)
    yard.key(Qt.Key.Key_D)
    stroke(yard, (1, 1), (-3, -2))
    moved = yard.session.picking.area
    assert moved is not None and moved.box.lo == (8, 4)


# --- by its edge --------------------------------------------------------------------------


def test_an_edge_is_pulled_out_and_in_again_and_nothing_is_lost(yard):
    before = {name: plane.copy() for name, plane in planes(yard.room).items()}
    px = yard.table.camera.px
    edge = yard.at((4, 9)) + QPoint(round(px / 2) + 3, 0)
    pull(yard, edge, edge + QPoint(round(4 * px), 0))
    assert yard.room.size == (8, 14)
    edge += QPoint(round(4 * px), 0)
    pull(yard, edge, edge - QPoint(round(9 * px), 0))
    assert yard.room.size == (8, 5)
    yard.key(Qt.Key.Key_Z, CTRL)
    yard.key(Qt.Key.Key_Z, CTRL)
    after = planes(yard.room)
    assert all(np.array_equal(before[name], after[name]) for name in before)


def test_a_corner_is_pulled_over_the_north_west_and_escape_leaves_it(yard):
    px = yard.table.camera.px
    corner = yard.at((0, 0)) - QPoint(round(px / 2) + 3, round(px / 2) + 3)
    pull(yard, corner, corner - QPoint(round(2 * px), round(3 * px)), end=False)
    yard.key(Qt.Key.Key_Escape)
    yard.qtbot.mouseRelease(yard.table, LEFT, pos=corner)
    assert yard.room.size == (8, 10)
    pull(yard, corner, corner - QPoint(round(2 * px), round(3 * px)))
    assert yard.room.size == (11, 12) and bush(yard) == (5, 5)


# --- by its properties --------------------------------------------------------------------


def press(hand, dialog, word):
    box = dialog.findChild(QDialogButtonBox)
    button = next(b for b in box.buttons() if b.text() == word)
    hand.qtbot.mouseClick(button, LEFT)
    hand.settle()


def properties(hand) -> RoomDialog:
    hand.key(Qt.Key.Key_F4)
    return next(w for w in QApplication.topLevelWidgets()
                if isinstance(w, RoomDialog) and w.isVisible())  # fmt: skip


def test_all_properties_are_set_at_once_as_one_edit(yard):
    project = yard.handle.data
    before, count = project.frozen(), len(yard.handle.history.edits)
    dialog = properties(yard)
    dialog.name.setText("Back yard")
    dialog.width_cells.setValue(6)
    dialog.notes.setPlainText("Where the carts turn")
    dialog.grows.setChecked(False)
    press(yard, dialog, "Set")
    assert not dialog.isVisible() and yard.session.room_name == "Back yard"
    info = yard.session.room.info
    assert info.size == (8, 6) and info.notes == "Where the carts turn" and not info.grows
    assert len(yard.handle.history.edits) == count + 1
    yard.key(Qt.Key.Key_Z, CTRL)
    assert yard.session.room_name == "Yard" and not differences(before, yard.handle.data)


def test_a_name_that_is_taken_is_said_in_the_dialog(yard):
    yard.handle.add_room("Shed", (4, 4))
    dialog = properties(yard)
    dialog.name.setText("Shed")
    press(yard, dialog, "Set")
    assert dialog.isVisible() and "Shed" in dialog.problem.text()
    dialog.reject()


def test_a_new_room_is_asked_whether_it_grows(yard):
    yard.window.files.new_room()
    dialog = next(w for w in QApplication.topLevelWidgets()
                  if isinstance(w, RoomDialog) and w.isVisible())  # fmt: skip
    dialog.name.setText("Quay")
    dialog.grows.setChecked(True)
    press(yard, dialog, "Make the room")
    assert yard.session.room_name == "Quay" and yard.session.room.info.grows


def test_all_of_a_room_is_shifted_and_comes_in_again_at_the_other_edge(yard):
    stroke(yard, (4, 9))
    assert yard.material((4, 9)) == "Stones"
    yard.window.files.shift_room()
    dialog = next(w for w in QApplication.topLevelWidgets()
                  if isinstance(w, ShiftDialog) and w.isVisible())  # fmt: skip
    dialog.steps[0].setValue(3)
    dialog.wraps.setChecked(True)
    press(yard, dialog, "Shift")
    assert yard.material((4, 2)) == "Stones" and bush(yard) == (2, 6)


def test_a_room_is_duplicated_cleared_and_removed_and_undo_brings_all_back(yard):
    before = yard.handle.data.frozen()
    run = {command.name: command.does for command in yard.window.commands}
    run["duplicate room"]()
    copy = yard.session.room_name
    assert copy != "Yard" and len(yard.session.room.layer("things").things) == 1
    run["clear room"]()
    assert not yard.session.room.layer("things").things and yard.material((2, 2)) == ""
    run["remove room"]()
    assert copy not in yard.handle.data.rooms and yard.session.room_name == "Yard"
    for _ in range(3):
        yard.key(Qt.Key.Key_Z, CTRL)
    assert not differences(before, yard.handle.data)


# --- patterns and surfaces of things ------------------------------------------------------


def test_a_pattern_is_typed_in_the_panel_and_laid_by_one_click(yard):
    yard.session.hands.take("left", "Bush")
    yard.settle()
    editor = next(e for e in yard.window.findChildren(PatternEditor) if e.isVisible())
    for field, text in ((editor.columns, "3"), (editor.rows, "2"), (editor.apart_x, "2")):
        field.setFocus()
        field.selectAll()
        yard.qtbot.keyClicks(field, text)
        yard.qtbot.keyClick(field, Qt.Key.Key_Return)
    before = len(yard.room.data.layer("things").things)
    stroke(yard, (5, 4))
    found = yard.room.data.layer("things").things.values()
    assert len(found) == before + 6
    assert len({t.y for t in found if t.y > 3}) == 2
    assert yard.handle.history.edits[-1].label == "Bush ×6"


def test_one_key_turns_the_thing_in_hand_to_the_next_surface_of_a_side_view(yard):
    project = yard.handle
    project.history.apply(set_room(project.data, "Yard", seen="side"))
    project.history.apply(put_prefab(project.data, replace(project.data.prefab("Bush"),
                                                           turns="quarters")))  # fmt: skip
    yard.room.lift(box=((3, 3), (6, 7)))
    yard.session.hands.take("left", "Bush")
    yard.hover((5, 5))
    seen = []
    for _ in range(4):
        yard.key(Qt.Key.Key_Q)
        seen.append(yard.session.hands.in_hand("left").surface)
    assert seen == ["west wall", "ceiling", "east wall", "floor"]
    yard.key(Qt.Key.Key_Q)
    stroke(yard, (5, 5))
    assert any((t.x, t.turn) == (3, 90) for t in yard.room.data.layer("things").things.values())
