"""Pieces in a real window: picked, pulled, moved, restacked and typed, by mouse and keys."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QApplication, QLabel

from tests.rooms import slots
from tests.shapes import shape_room
from tests.view.designer import Designer
from topion.edit.rooms import set_layer
from topion.grid.boxes import Box
from topion.view import style
from topion.view.dialogs.shape import ShapeDialog
from topion.view.window import Window

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
RIGHT = Qt.MouseButton.RightButton


@pytest.fixture
def builder(qtbot) -> Designer:
    """A window on a room of mud, each cell 16 px, with the lasso in use."""
    style.load_fonts()
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    style.dress(app)
    room = shape_room()
    window = Window(room.project)
    qtbot.addWidget(window, before_close_func=lambda w: w.session.handle.history.mark_saved())
    window.show()
    qtbot.waitExposed(window)
    window.table.look_at((12, 16), 4.0)
    hand = Designer(window, qtbot)
    hand.settle(60)
    return hand


def pieces(hand):
    return hand.room.data.layers["ground"].pieces


def grip(hand, number, n=-1):
    """Where a handle of a piece is seen: its last one is the corner in the south-east."""
    piece = pieces(hand)[number]
    brush = hand.handle.data.brushes[piece.brush]
    return hand.table.piece_marks.point(brush.handles(piece)[n].at).toPoint()


def drag(hand, start: QPoint, cells, modifier=Qt.KeyboardModifier.NoModifier, *, end=True):
    """From a point of the screen so many cells (y, x) on."""
    table, px = hand.table, hand.table.camera.px
    stop = start + QPoint(round(cells[1] * px), round(cells[0] * px))
    hand.qtbot.mouseMove(table, start)
    hand.qtbot.mousePress(table, Qt.MouseButton.LeftButton, modifier, start)
    hand.qtbot.mouseMove(table, (start + stop) / 2)

    def arrived() -> bool:  # the display server tells of older places late
        hand.qtbot.mouseMove(table, stop + QPoint(1, 0))
        hand.qtbot.mouseMove(table, stop)
        hand.settle()
        return table.hover is not None and table.hover.toPoint() == stop

    hand.qtbot.waitUntil(arrived)
    if end:
        hand.qtbot.mouseRelease(table, Qt.MouseButton.LeftButton, modifier, stop)
        hand.settle()
    return stop


def click(hand, cell, modifier=Qt.KeyboardModifier.NoModifier):
    hand.press(cell, modifier=modifier)
    hand.let_go(cell)


def picked(hand):
    return [pick.number for pick, _ in hand.session.pieces.there()]


def test_a_press_with_the_lasso_picks_and_a_drag_moves_what_is_picked(builder):
    builder.room.lay("Wall", box=((8, 8), (12, 13)))
    ground = slots(builder.room)
    builder.key(Qt.Key.Key_S)
    click(builder, (10, 10))
    assert picked(builder) == [1] and slots(builder.room) == ground
    drag(builder, builder.at((10, 10)), (3, 5))
    assert pieces(builder)[1].points == ((11, 13), (15, 18))
    assert builder.handle.history.edits[-1].label == "Move Wall"
    assert builder.material((8, 8)) == "Water" and builder.material((15, 18)) == "Wall"
    builder.key(Qt.Key.Key_Z, CTRL)
    assert slots(builder.room) == ground


def test_a_corner_is_pulled_with_a_live_result_and_escape_leaves_it_as_it_was(builder):
    builder.room.lay("Wall", box=((8, 8), (12, 13)))
    builder.key(Qt.Key.Key_S)
    click(builder, (10, 10))
    count, before = len(builder.handle.history.edits), builder.shown((14, 15))
    drag(builder, grip(builder, 1), (2, 3), end=False)
    builder.qtbot.waitUntil(lambda: builder.table.pulls.words() == ("9 × 7 cells", "6 × 5 cells"))
    assert builder.shown((14, 15)) != before, "the wall is seen where it would come"
    assert len(builder.handle.history.edits) == count
    builder.key(Qt.Key.Key_Escape)
    assert builder.shown((14, 15)) == before and pieces(builder)[1].box.shape == (5, 6)
    drag(builder, grip(builder, 1), (2, 3))
    assert pieces(builder)[1].box.shape == (7, 9)
    assert len(builder.handle.history.edits) == count + 1


def test_control_drags_a_copy_away(builder):
    builder.room.lay("Wall", box=((8, 8), (10, 11)))
    builder.key(Qt.Key.Key_S)
    drag(builder, builder.at((9, 9)), (5, 7), CTRL)
    assert [piece.box.lo for piece in pieces(builder).values()] == [(8, 8), (13, 15)]
    assert picked(builder) == [2], "the copy is picked"


def test_shift_picks_several_and_tab_walks_down_to_what_is_covered(builder):
    builder.room.lay("Wall", box=((8, 8), (12, 13)))
    builder.room.lay("Brick", box=((10, 10), (14, 16)))
    builder.key(Qt.Key.Key_S)
    click(builder, (11, 11))
    assert picked(builder) == [2]
    builder.key(Qt.Key.Key_Tab)
    assert picked(builder) == [1]
    builder.key(Qt.Key.Key_Tab)
    assert picked(builder) == [2]
    click(builder, (8, 8), SHIFT)
    assert picked(builder) == [2, 1]
    builder.key(Qt.Key.Key_Right)
    builder.key(Qt.Key.Key_Right)
    assert [piece.box.lo[1] for piece in pieces(builder).values()] == [10, 12]
    assert builder.handle.history.edits[-1].label == "Move 2 pieces", "and the steps are one Edit"
    builder.key(Qt.Key.Key_Delete)
    assert not pieces(builder)


def test_a_press_on_open_ground_picks_nothing(builder):
    builder.room.lay("Wall", box=((8, 8), (10, 11)))
    builder.key(Qt.Key.Key_S)
    click(builder, (9, 9))
    click(builder, (18, 20))
    assert picked(builder) == [] and not builder.table.bar.isVisible()


def test_points_of_a_trail_are_pulled_put_in_and_taken_away(builder):
    builder.room.lay("Walk", curve=[(8, 8), (8, 14), (13, 14)])
    builder.key(Qt.Key.Key_S)
    click(builder, (8, 10))
    drag(builder, grip(builder, 1, 1), (2, 2))
    assert pieces(builder)[1].points == ((8, 8), (10, 16), (13, 14))
    middle = grip(builder, 1, 3)
    drag(builder, middle, (4, 0))
    assert len(pieces(builder)[1].points) == 4
    builder.qtbot.mouseDClick(builder.table, Qt.MouseButton.LeftButton, pos=grip(builder, 1, 1))
    builder.settle()
    assert pieces(builder)[1].points == ((8, 8), (10, 16), (13, 14))


def test_a_ramp_snaps_while_it_is_pulled(builder):
    builder.room.lay("Quay", line=((15, 10), (14, 13)))
    builder.key(Qt.Key.Key_S)
    click(builder, (15, 11))
    drag(builder, grip(builder, 1, 1), (-2, 3))
    assert pieces(builder)[1].box.shape == (4, 8)


def test_the_bar_restacks_turns_mirrors_and_melts(builder):
    builder.room.lay("Wall", box=((8, 8), (12, 13)))
    builder.room.lay("Brick", box=((10, 10), (14, 16)))
    builder.key(Qt.Key.Key_S)
    click(builder, (8, 8))
    builder.settle(60)
    bar = builder.table.bar
    assert bar.isVisible()

    def press(name):
        builder.qtbot.mouseClick(bar.buttons[name], Qt.MouseButton.LeftButton)
        builder.settle(40)

    assert builder.material((11, 11)) == "Brick"
    press("nearer")
    assert builder.material((11, 11)) == "Wall"
    press("turn")
    assert pieces(builder)[1].box.shape == (6, 5) and pieces(builder)[1].turn == 1
    press("mirror")
    assert pieces(builder)[1].mirrored
    press("duplicate")
    assert len(pieces(builder)) == 3
    shown = slots(builder.room)
    press("melt in")
    assert slots(builder.room) == shown and not bar.isVisible()


def test_sizes_places_and_orders_can_be_typed(builder):
    builder.room.lay("Wall", box=((8, 8), (12, 13)))
    builder.room.lay("Brick", box=((10, 10), (14, 16)))
    builder.key(Qt.Key.Key_S)
    click(builder, (8, 8))
    panel = builder.window.right.picked

    def type_(edit, text):
        edit.selectAll()
        builder.qtbot.keyClicks(edit, text)
        builder.qtbot.keyClick(edit, Qt.Key.Key_Return)
        builder.settle()

    assert panel.isVisible() and panel.sizes[0].text() == "6"
    type_(panel.sizes[0], "9")
    type_(panel.sizes[1], "3")
    type_(panel.places[0], "4")
    type_(panel.order, "1")
    assert pieces(builder)[1].points == ((8, 4), (10, 12))
    assert pieces(builder)[1].order > pieces(builder)[2].order
    type_(panel.sizes[0], "many")
    assert panel.sizes[0].text() == "9", "what is no number is let fall"


def test_at_cursor_lists_pieces_nearest_first_and_picks_by_a_click(builder):
    builder.room.lay("Wall", box=((8, 8), (12, 13)))
    builder.room.lay("Brick", box=((10, 10), (14, 16)))
    builder.hover((11, 11))
    builder.settle(80)
    panel = builder.window.at_cursor
    assert [item.name for item in panel.items] == ["Brick", "Wall", "Mud"]
    assert "panel 6 × 5 · Ground, 2 of 2" in panel.items[1].why
    assert panel.items[2].why == "painted, beneath"
    builder.qtbot.mouseClick(panel, Qt.MouseButton.LeftButton, pos=QPoint(60, 28 + 44 + 10))
    assert picked(builder) == [1] and builder.session.gestures.kind == "lasso"


def test_v_hides_the_outlines_while_it_is_held(builder):
    builder.room.lay("Wall", box=((8, 8), (12, 13)))
    builder.key(Qt.Key.Key_S)
    click(builder, (10, 10))
    with_outline = builder.table.grab().toImage()
    builder.hold(Qt.Key.Key_V)
    builder.settle(40)
    assert builder.session.pieces.hidden and builder.table.grab().toImage() != with_outline
    builder.release(Qt.Key.Key_V)
    assert not builder.session.pieces.hidden


def test_the_right_button_takes_away_from_what_is_picked(builder):
    builder.room.lay("Wall", box=((8, 8), (12, 13)))
    builder.room.lay("Wall", box=((8, 16), (12, 19)))
    builder.key(Qt.Key.Key_S)
    click(builder, (10, 10))
    click(builder, (10, 18), SHIFT)
    assert picked(builder) == [1, 2]
    builder.stroke((10, 10), button=RIGHT)
    assert picked(builder) == [2] and builder.material((10, 10)) == "Wall"


def test_the_lasso_can_be_borrowed_for_one_pick(builder):
    builder.room.lay("Wall", box=((8, 8), (12, 13)))
    builder.hold(Qt.Key.Key_S)
    click(builder, (10, 10))
    builder.release(Qt.Key.Key_S)
    assert picked(builder) == [1] and builder.session.gestures.kind == "drag"


def test_a_piece_of_a_locked_layer_stays_and_it_is_said(builder):
    builder.room.lay("Wall", box=((8, 8), (12, 13)))
    data = builder.handle.data
    builder.handle.history.apply(set_layer(data, "Yard", "ground", locked=True))
    builder.key(Qt.Key.Key_S)
    drag(builder, builder.at((10, 10)), (3, 3))
    said = builder.window.findChild(QLabel, "said")
    assert pieces(builder)[1].box.lo == (8, 8) and "locked" in said.text()


def test_the_same_shape_by_another_brush(builder):
    builder.room.lay("Wall", box=((8, 8), (12, 13)))
    builder.key(Qt.Key.Key_S)
    click(builder, (10, 10))
    builder.session.pieces.rebrush("Brick")
    assert builder.material((10, 10)) == "Brick" and pieces(builder)[1].box.shape == (5, 6)


# --- the curve ----------------------------------------------------------------------------


def test_a_curve_goes_through_what_is_clicked_and_a_double_click_ends_it(builder):
    builder.session.hands.take("left", "Water")
    builder.key(Qt.Key.Key_C)
    for cell in ((16, 6), (12, 16), (17, 24)):
        click(builder, cell)
    assert builder.material((12, 16)) == "Mud", "nothing is laid before its end"
    builder.qtbot.mouseDClick(builder.table, Qt.MouseButton.LeftButton, pos=builder.at((17, 24)))
    builder.settle()
    assert all(builder.material(c) == "Water" for c in ((16, 6), (12, 16), (17, 24)))
    assert builder.handle.history.edits[-1].label == "Water"
    assert sum(builder.material((y, 11)) == "Water" for y in range(24)) >= 1


def test_a_trail_turns_at_the_clicked_points_and_enter_ends_it(builder):
    builder.session.hands.take("left", "Walk")
    builder.key(Qt.Key.Key_C)
    for cell in ((16, 6), (16, 14), (20, 14)):
        click(builder, cell)
    builder.key(Qt.Key.Key_Return)
    assert pieces(builder)[1].points == ((16, 6), (16, 14), (20, 14))


def test_the_other_button_takes_a_point_back_and_escape_drops_the_curve(builder):
    builder.session.hands.take("left", "Walk")
    builder.key(Qt.Key.Key_C)
    for cell in ((16, 6), (16, 14), (20, 14)):
        click(builder, cell)
    builder.press((20, 20), RIGHT)
    builder.let_go((20, 20), RIGHT)
    builder.key(Qt.Key.Key_Return)
    assert pieces(builder)[1].points == ((16, 6), (16, 14))
    click(builder, (18, 6))
    builder.key(Qt.Key.Key_Escape)
    builder.key(Qt.Key.Key_Return)
    assert len(pieces(builder)) == 1


def test_a_cell_brush_over_a_piece_says_that_it_lays_beneath(builder):
    builder.room.lay("Wall", box=((8, 14), (12, 19)))
    builder.session.hands.take("left", "Water")
    builder.hover((10, 16))
    assert builder.table.ghost.edit.notes == ("beneath Wall",)
    builder.stroke((10, 15), (10, 17))
    said = builder.window.findChild(QLabel, "said")
    assert said.text() == "Water: beneath Wall" and builder.material((10, 16)) == "Wall"


# --- made of slots ------------------------------------------------------------------------


def test_marked_slots_become_a_shape_whose_parts_can_be_corrected(builder):
    builder.window.show_sheets()
    slots = builder.window.desks.desk
    slots.view.select(Box((0, 0), (1, 3)))
    builder.settle()
    builder.qtbot.mouseClick(slots.buttons["shape"], Qt.MouseButton.LeftButton)
    dialog = slots.findChild(ShapeDialog)
    assert dialog.kinds.currentText() == "run: start, middle, end"
    assert [choice.currentText() for choice in dialog.parts.values()] == ["0,0", "0,1", "0,2"]
    before = dialog.scrap.grab().toImage()
    dialog.parts["end"].setCurrentIndex(1)
    dialog.parts["end"].activated.emit(1)
    builder.settle()
    assert dialog.scrap.grab().toImage() != before, "the scrap shows the corrected part"
    dialog.name.setText("Rail")
    builder.qtbot.mouseClick(dialog.make, Qt.MouseButton.LeftButton)
    builder.settle()
    brush = builder.handle.data.brushes["Rail"]
    assert brush.parts["end"] == brush.parts["start"] and builder.session.hands["left"] == "Rail"
    slots.close()
    builder.key(Qt.Key.Key_L)
    builder.stroke((18, 6), (18, 12))
    assert builder.material((18, 9)) == "Rail"
