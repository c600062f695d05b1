"""The window as a whole: keys, menus, long work, messages, camera."""

import time

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, QRect, Qt, QTimer
from PyQt6.QtGui import QColor
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QMenu, QMessageBox, QPushButton, QWidget

from tests.rooms import small_room
from topion.brushes.gestures import Gesture
from topion.errors import TopionError
from topion.view import style
from topion.view.panels.rows import Dice, SettingRow, Track
from topion.view.table import overlay
from topion.view.table.camera import STEPS, Camera
from topion.view.table.ghost import is_large
from topion.view.tasks import Progress, run_task

CONTROL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier
LEFT = Qt.MouseButton.LeftButton


@pytest.mark.parametrize("step", range(len(STEPS)))
def test_a_point_of_the_screen_and_its_cell_belong_together(step):
    camera = Camera(left=37, top=-20, step=step, cell_px=16)
    rect = camera.rect_of(5, 7, 6, 8)
    y, x = camera.to_cells(rect.center())
    assert (round(y, 6), round(x, 6)) == (5, 7) and rect.width() == camera.px


def test_zooming_keeps_what_lies_under_the_pointer():
    camera, point = Camera(left=10, top=20), QPointF(300, 200)
    before = camera.to_cells(point)
    for steps in (1, 1, -3, 2):
        camera.zoom_at(point, steps)
        assert np.allclose(camera.to_cells(point), before, atol=1.2 / camera.px)


def test_fitting_shows_the_whole_room_as_large_as_it_goes():
    camera = Camera()
    camera.fit((64, 96), 900, 600)
    assert camera.zoom == 0.5 and camera.left > 0 and camera.top > 0
    camera.fit((8, 8), 900, 600)
    assert camera.zoom == 4.0


def test_ruler_marks_stay_apart_at_every_zoom():
    for step in range(len(STEPS)):
        camera = Camera(step=step)
        assert overlay.tick_every(camera, 56) * camera.px >= 56


def test_large_strokes_are_known_before_they_are_planned(designer):
    points = np.array([[0.0, 0.0], [999.0, 999.0]])
    assert is_large(designer.session, "left", points, Gesture("box"))
    assert not is_large(designer.session, "left", points, Gesture("line"))
    assert not is_large(designer.session, "left", points / 10, Gesture("box"))


def test_a_very_large_box_is_laid_off_the_gui_thread_and_is_one_edit(designer):
    designer.handle.add_room("Plain", (400, 400), 4)
    designer.session.open_room("Plain")
    designer.table.look_at((200, 200), 1 / 2)
    designer.session.gestures.set(Gesture("box"))
    count = len(designer.handle.history.edits)
    corners = np.array([[0.0, 0.0], [399.0, 399.0]])
    assert is_large(designer.session, "left", corners, designer.session.gestures.now)
    designer.stroke((0, 0), (399, 399))
    assert len(designer.handle.history.edits) == count + 1
    assert designer.room.material(0, 0) == designer.room.material(399, 399) == "Water"


def test_a_very_large_stroke_is_undone_off_the_gui_thread_too(designer):
    designer.handle.add_room("Wide", (700, 700), 4)
    designer.session.open_room("Wide")
    designer.session.hands.take("left", "Mud")
    designer.session.gestures.set(Gesture("box"))
    designer.table.look_at((350, 350), 1 / 4)
    designer.stroke((0, 0), (699, 699))
    history = designer.handle.history
    assert history.cells_between(history.at - 1) > 480_000
    assert designer.room.material(350, 350) == "Mud"
    designer.key(Qt.Key.Key_Z, CONTROL)
    assert designer.room.material(350, 350) == ""
    designer.key(Qt.Key.Key_Y, CONTROL)
    assert designer.room.material(690, 10) == "Mud"


def test_long_work_can_be_stopped_and_changes_nothing(designer):
    said, done = [], []

    def work(step):
        for i in range(400):
            step(f"part {i}")
            time.sleep(0.01)
        return "finished"

    def press_stop():
        found = designer.window.findChild(Progress)
        designer.qtbot.mouseClick(found.stop, LEFT)

    QTimer.singleShot(350, press_stop)
    run_task(designer.window, "Long work", work, done.append, said.append)
    assert not done and said == ["Long work stopped; nothing was changed"]


def test_keys_during_long_work_do_not_reach_the_project(designer):
    """Ctrl+Z goes through the window's own event queue, as a keyboard would send it."""
    designer.stroke((3, 3), (3, 6))
    pressed = []

    def press_undo():
        QTest.keyClick(designer.window.windowHandle(), Qt.Key.Key_Z, CONTROL)
        pressed.append(designer.material((3, 4)))

    def work(step):
        time.sleep(0.25)

    QTimer.singleShot(60, press_undo)
    run_task(designer.window, "Work", work, lambda _: None, lambda _: None)
    assert pressed == ["Water"] and designer.material((3, 4)) == "Water"
    QTest.keyClick(designer.window.windowHandle(), Qt.Key.Key_Z, CONTROL)
    assert designer.material((3, 4)) == "Mud"


def test_errors_of_long_work_are_said_in_a_sentence(designer):
    said = []
    for problem, text in (
        (TopionError("the sheet is odd"), "the sheet is odd"),
        (OSError(28, "No space left on device", "x.png"), "x.png: No space left on device"),
        (MemoryError(), "not enough memory"),
    ):

        def work(step, problem=problem):
            raise problem

        run_task(designer.window, "Work", work, lambda _: None, said.append)
        assert text in said[-1]


def test_messages_show_and_go(designer):
    designer.window.say("Saved the yard")
    label = designer.window.said
    foot = label.mapTo(designer.window, label.rect().bottomLeft()).y()
    assert label.isVisible()
    assert foot < designer.table.mapTo(designer.window, designer.table.rect().bottomLeft()).y()
    designer.window.say("x" * 400)
    assert label.width() <= designer.table.width() - 40


def test_nothing_to_undo_is_said(designer):
    designer.handle.history.jump(0)
    designer.key(Qt.Key.Key_Z, CONTROL)
    assert designer.window.said.text() == "Nothing to undo"
    designer.handle.history.jump(len(designer.handle.history.edits))
    designer.key(Qt.Key.Key_Z, CONTROL | SHIFT)
    assert designer.window.said.text() == "Nothing to redo"


def test_a_stroke_on_a_locked_layer_says_why(designer):
    designer.room.set_layer("Ground", locked=True)
    designer.stroke((3, 3), (3, 6))
    assert designer.window.said.text() == "Water: layer Ground is locked"


def test_a_hand_without_a_brush_lays_nothing(designer):
    designer.session.hands.take("left", "")
    designer.stroke((3, 3), (3, 6))
    assert designer.material((3, 4)) == "Mud"


def test_menus_open_from_their_keys(designer):
    for key, modifier, text in (
        (Qt.Key.Key_F10, Qt.KeyboardModifier.NoModifier, "Save\tCtrl+S"),
        (Qt.Key.Key_F9, Qt.KeyboardModifier.NoModifier, "New room…"),
        (Qt.Key.Key_E, CONTROL, "CSV of each layer…"),
    ):
        designer.key(key, modifier)
        menu = QApplication.activePopupWidget()
        assert isinstance(menu, QMenu) and text in [a.text() for a in menu.actions()]
        menu.close()
        designer.settle()


def test_gestures_can_be_switched_with_the_pointer_and_show_their_state(designer):
    segments = designer.window.top_bar.segments
    designer.qtbot.mouseClick(segments["line"], LEFT)
    assert designer.session.gestures.now.kind == "line" and segments["line"].isChecked()
    assert not designer.window.top_bar.option.isVisible()
    designer.qtbot.mouseClick(segments["flood"], LEFT)
    designer.qtbot.mouseClick(designer.window.top_bar.corners, LEFT)
    assert (
        designer.session.gestures.now.corners and designer.window.top_bar.corners.text() == "8 ways"
    )


def test_home_shows_all_of_the_room(designer):
    designer.table.look_at((0, 0), 16.0)
    designer.key(Qt.Key.Key_Home)
    view = designer.table.view_rect()
    corners = [QPointF(designer.at(c)) for c in ((0, 0), (23, 31))]
    assert all(view.contains(corner) for corner in corners)


def test_plus_and_minus_zoom(designer):
    before = designer.table.camera.step
    designer.key(Qt.Key.Key_Plus)
    designer.key(Qt.Key.Key_Plus)
    designer.key(Qt.Key.Key_Minus)
    assert designer.table.camera.step == before + 1


def test_leaving_unsaved_work_asks_first(designer, monkeypatch):
    designer.stroke((3, 3), (3, 6))
    for answer, leaves in (
        (QMessageBox.StandardButton.Cancel, False),
        (QMessageBox.StandardButton.Discard, True),
    ):
        monkeypatch.setattr(QMessageBox, "exec", lambda self, a=answer: a)
        assert designer.window.saves.may_leave() is leaves
    designer.handle.history.mark_saved()
    assert designer.window.saves.may_leave()


def test_a_new_project_starts_with_a_room_to_paint_in(designer):
    designer.window.files.new_project()
    session = designer.window.session
    assert session.handle.name == "Untitled" and session.room_name == "Room 1"
    assert [card.name for card in designer.window.rack.cards] == ["Lift"]
    session.handle.history.mark_saved()


def test_a_key_held_while_the_window_loses_focus_is_let_go(designer):
    designer.hold(Qt.Key.Key_E)
    assert designer.session.hands.lifting
    designer.session.hands.hold("lifting", False)
    assert (
        not designer.session.hands.lifting
        and designer.session.hands.in_hand("left").kind == "weave"
    )


def test_a_choice_of_few_stands_side_by_side_and_of_many_in_a_menu(designer):
    designer.session.hands.take("left", "Reeds")
    designer.settle()
    row = designer.window.in_hand.rows["way"]
    thin = next(b for b in row.findChildren(QPushButton) if b.text() == "thin")
    designer.qtbot.mouseClick(thin, LEFT)
    assert designer.session.project.brushes["Reeds"].way == "thin"
    designer.session.hands.take("left", "Lift")
    designer.settle()
    button = designer.window.in_hand.rows["only"].findChild(QPushButton)
    names = [a.text() for a in button.menu().actions()]
    assert names[0] == "everything" and "Water" in names
    button.menu().actions()[names.index("Water")].trigger()
    assert designer.session.project.brushes["Lift"].only == "Water"


def test_sliders_work_from_the_keyboard(designer):
    designer.session.hands.take("left", "Water")
    designer.settle()
    track = designer.window.in_hand.rows["nib"].findChild(Track)
    designer.qtbot.keyClick(track, Qt.Key.Key_Right)
    designer.qtbot.keyClick(track, Qt.Key.Key_Right)
    designer.qtbot.keyClick(track, Qt.Key.Key_Left)
    assert designer.session.project.brushes["Water"].nib == 2


def test_a_range_has_two_grips_that_cannot_pass_each_other(designer):
    designer.session.hands.take("left", "Reeds")
    designer.settle()
    row = designer.window.in_hand.rows["size"]
    assert isinstance(row, SettingRow) and len(row.findChild(Track).values) == 2
    row.findChild(Track).set_value(0, 1.9)
    lo, hi = designer.session.project.brushes["Reeds"].size
    assert lo <= hi and hi == 1.9


def test_the_dice_beside_a_seed_rolls_it(designer):
    designer.session.hands.take("left", "Stones")
    designer.settle()
    before = designer.session.project.brushes["Stones"].seed
    designer.qtbot.mouseClick(designer.window.in_hand.findChild(Dice), LEFT)
    assert designer.session.project.brushes["Stones"].seed != before


def test_swatches_show_what_a_brush_lays(designer):
    swatches = designer.window.in_hand.swatches
    for name, count in (("Water", 13), ("Stones", 4), ("Lamp", 1), ("Reeds", 2)):
        designer.session.hands.take("left", name)
        designer.settle()
        assert len(swatches.shown) == count and swatches.isVisibleTo(designer.window.in_hand)


def test_a_refused_thing_leads_the_list_at_cursor(designer):
    designer.room.lay("Lamp", cells=[(8, 8)])
    designer.session.hands.take("left", "Lamp")
    designer.hover((8, 9))
    designer.settle(60)
    first = designer.window.at_cursor.items[0]
    assert (first.name, first.detail) == ("Lamp", "refused") and "1 of 3 cells" in first.why
    designer.hover((8, 14))
    designer.settle(60)
    assert designer.window.at_cursor.items[0].name == "Mud"


def test_arrow_keys_walk_the_lists(designer):
    designer.room.lay("Bush", cells=[(8, 8)])
    designer.hover((8, 8))
    designer.settle(60)
    panel = designer.window.at_cursor
    designer.qtbot.keyClick(panel, Qt.Key.Key_Down)
    designer.qtbot.keyClick(panel, Qt.Key.Key_Down)
    assert designer.session.picked.lying.name == "Mud"
    stack = designer.window.stack
    designer.session.picked.work_on("things")
    designer.qtbot.keyClick(stack, Qt.Key.Key_Down)
    assert designer.session.layer_id == "ground"
    designer.qtbot.keyClick(stack, Qt.Key.Key_Up, CONTROL)
    assert designer.room.data.order == ("things", "ground")
    ribbon = designer.window.ribbon
    designer.qtbot.keyClick(ribbon, Qt.Key.Key_Left)
    assert designer.room.data.order == ("ground", "things")


def test_cards_can_be_taken_from_the_keyboard(designer):
    card = next(c for c in designer.window.rack.cards if c.name == "Bush")
    designer.qtbot.keyClick(card, Qt.Key.Key_Return)
    designer.qtbot.keyClick(card, Qt.Key.Key_Return, SHIFT)
    assert designer.session.hands.names() == {"left": "Bush", "right": "Bush"}


def test_bays_come_to_the_front(designer):
    designer.window.rack.show_bay("Things")
    assert (
        designer.window.rack.cards[0].name == "Lamp" and designer.window.rack.cards[0].digit == "1"
    )


def test_the_stack_names_and_fades_a_layer(designer, monkeypatch):
    from PyQt6.QtWidgets import QInputDialog

    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Soil", True))
    designer.window.stack.rename("ground")
    assert designer.room.data.layers["ground"].info.name == "Soil"
    before = designer.shown((5, 5))
    designer.window.stack.set_layer("ground", opacity=0.4)
    designer.settle(60)
    assert designer.shown((5, 5)) != before
    assert designer.handle.history.edits[-1].label == "Set Soil"


def test_colours_of_the_design_are_the_colours_of_the_window(designer):
    image = designer.window.grab().toImage()
    assert image.pixelColor(700, 5) == QColor("#f1ede4")
    assert image.pixelColor(5, image.height() - 3).name() in ("#e6e0d3", "#cfc8b9")


def _luminance(colour: QColor) -> float:
    parts = (colour.redF(), colour.greenF(), colour.blueF())
    linear = [p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


@pytest.mark.parametrize("dark", [False, True])
@pytest.mark.parametrize("ground", ["panel", "panel2", "card"])
@pytest.mark.parametrize("ink", ["ink", "soft", "buoy", "tidal", "ochre"])
def test_words_stand_out_from_what_they_stand_on(ink, ground, dark):
    """4.5 : 1, as WCAG 2.2 asks for (1.4.3)."""
    style.use_dark(dark)
    first, second = (_luminance(style.ink(name)) for name in (ink, ground))
    style.use_dark(False)
    assert (max(first, second) + 0.05) / (min(first, second) + 0.05) >= 4.5


@pytest.mark.parametrize("key", [(Qt.Key.Key_F7, SHIFT), (Qt.Key.Key_F5,), (Qt.Key.Key_F6,)])
def test_words_that_are_shown_stand_out_also_after_a_change_of_theme(designer, key):
    designer.key(*key)
    designer.key(Qt.Key.Key_F8)
    designer.settle(300)
    try:
        labels = [label for label in designer.window.findChildren(QLabel)
                  if label.isVisible() and label.isEnabled() and label.text().strip()
                  and label.visibleRegion().boundingRect() == label.rect()]  # fmt: skip
        assert len(labels) > 3
        for label in labels:
            assert _contrast(label) >= 4.3, label.text()  # thin strokes are smoothed a little
    finally:
        designer.key(Qt.Key.Key_F8)


def test_a_click_on_a_button_of_a_desk_leaves_the_keys_on_the_button_that_had_them(designer):
    designer.window.activateWindow()
    designer.qtbot.waitUntil(designer.window.isActiveWindow)
    designer.key(Qt.Key.Key_F6)
    bar = designer.window.desks.desk.bar
    first, second = (b for b in bar.findChildren(QPushButton) if b.text() in ("Undo", "Done"))
    first.setEnabled(True)
    first.setFocus(Qt.FocusReason.TabFocusReason)
    assert QApplication.focusWidget() is first
    second.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    QTest.mousePress(second, LEFT)
    assert QApplication.focusWidget() is first
    QTest.mouseRelease(second, LEFT, pos=QPoint(-5, -5))


def test_a_change_of_theme_changes_no_font(designer):
    def fonts():
        return [(widget, widget.font().pixelSize(), widget.font().weight())
                for widget in designer.window.findChildren(QWidget)]  # fmt: skip

    designer.key(Qt.Key.Key_F5)
    designer.settle(300)
    before = fonts()
    for _ in range(2):
        designer.key(Qt.Key.Key_F8)
        designer.settle(200)
    assert fonts() == before


def _contrast(label: QLabel) -> float:
    """Of the ground of a label, and what differs most from it."""
    at = QRect(label.mapTo(label.window(), QPoint()), label.size())
    image = label.window().grab(at).toImage()
    light = sorted(_luminance(image.pixelColor(x, y)) for x in range(image.width())
                   for y in range(image.height()))  # fmt: skip
    ground = light[len(light) // 2]
    return max(
        (max(ground, far) + 0.05) / (min(ground, far) + 0.05) for far in (light[0], light[-1])
    )


def test_opening_another_room_keeps_hands_and_gesture(designer):
    other = designer.handle.add_room("Cellar", (10, 10), 4)
    designer.session.gestures.set(Gesture("line"))
    designer.session.open_room("Cellar")
    assert (
        designer.session.hands["left"] == "Water" and designer.session.gestures.now.kind == "line"
    )
    designer.table.look_at((5, 5), 4.0)
    designer.stroke((2, 2), (2, 6))
    assert other.material(2, 4) == "Water" and small_room((4, 4)).material(1, 1) == "Mud"


def test_keys_that_are_held_count_as_let_go_once_the_window_lost_them(designer):
    designer.hold(Qt.Key.Key_E)
    assert designer.session.hands.lifting
    QApplication.sendEvent(designer.window, QEvent(QEvent.Type.ActivationChange))
    assert designer.session.hands.lifting  # the focus may only come round
    designer.settle(200)
    assert designer.session.hands.lifting == designer.window.isActiveWindow()
