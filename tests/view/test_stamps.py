"""Stamps in a real window: copied, pasted, turned, anchored, and laid by mouse and keys."""

from __future__ import annotations

import os
import subprocess
import sys
import textwrap
from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, Qt, QTimer
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QApplication, QInputDialog, QMessageBox, QPushButton

from tests.rooms import drawn, planes, small_project
from tests.view.designer import Designer
from topion.brushes import Mosaic, Stamp
from topion.edit.library import put_brush
from topion.formats.clips import MEDIA_TYPE, read_clip
from topion.scripting import new
from topion.view.window import Window

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
SIGNS = {"Mud": "m", "Water": "w", "Stones": "s"}


@pytest.fixture
def stamper(designer) -> Designer:
    """A bed of stones three cells wide beside a bush is picked."""
    room = designer.room
    room.lay("Stones", cells=[(4, 4), (4, 5), (4, 6), (5, 4)])
    room.lay("Bush", cells=[(5, 6)])
    designer.key(Qt.Key.Key_S)
    designer.key(Qt.Key.Key_V)
    designer.stroke((4, 4), (5, 5), (5, 6))
    return designer


def system():
    found = QGuiApplication.clipboard()
    assert found is not None
    return found


def bushes(hand):
    found = hand.room.data.layer("things").things.values()
    return sorted((int(t.y), int(t.x)) for t in found if t.prefab == "Bush")


def stones(hand):
    """Where stones lie, (y, x)."""
    rows = drawn(hand.room, SIGNS)
    return {(y, x) for y, row in enumerate(rows) for x, sign in enumerate(row) if sign == "s"}


def in_hand(hand) -> Stamp:
    found = hand.session.hands.in_hand("left")
    assert isinstance(found, Stamp)
    return found


# --- the clipboard ------------------------------------------------------------------------


def test_what_is_copied_is_laid_elsewhere_by_a_click(stamper):
    stamper.key(Qt.Key.Key_C, CTRL)
    stamper.key(Qt.Key.Key_V, CTRL)
    stamp = in_hand(stamper)
    stamper.stroke((15, 20))
    y, x = np.subtract((15, 20), stamp.anchor or (0, 0))
    assert {(y, x), (y, x + 1), (y, x + 2), (y + 1, x)} <= stones(stamper)
    assert len(bushes(stamper)) == 2
    stamper.key(Qt.Key.Key_Z, CTRL)
    assert len(stones(stamper)) == 4 and len(bushes(stamper)) == 1, "one Edit took all of it"


def test_the_clipboard_holds_readable_json_our_own_kind_and_a_picture(stamper):
    stamper.key(Qt.Key.Key_C, CTRL)
    data = system().mimeData()
    assert data.hasFormat(MEDIA_TYPE) and data.hasImage()
    text = data.text()
    assert text == bytes(data.data(MEDIA_TYPE)).decode()
    assert "\n" in text and '"Stones"' in text and '"Bush"' in text
    assert read_clip(text.encode()).scrap.size == (2, 3)


def test_cut_leaves_open_ground_and_undo_brings_it_back(stamper):
    before = planes(stamper.room)
    stamper.key(Qt.Key.Key_X, CTRL)
    assert stamper.material((4, 4)) == "" and bushes(stamper) == []
    stamper.key(Qt.Key.Key_Z, CTRL)
    after = planes(stamper.room)
    assert all(np.array_equal(before[name], after[name]) for name in before)
    assert bushes(stamper) == [(5, 6)]


@pytest.mark.parametrize("text", [
    "hello", "{}", '{"topion": "clip"}', "[" * 100_000, '{"format": 4, "scrap": 1e999}', "\x00",
    '{"kind":"topion clip","format":4,"scrap":{"size":[99999999,99999999]}}',
], ids=range(7))  # fmt: skip
def test_pasted_garbage_gives_one_sentence_and_changes_nothing(stamper, monkeypatch, text):
    told = []
    monkeypatch.setattr(stamper.window.clipboard.host, "fail", told.append)
    data = QMimeData()
    data.setText(text)
    data.setData(MEDIA_TYPE, text.encode())
    system().setMimeData(data)
    count, cards = len(stamper.handle.history.edits), set(stamper.handle.data.brushes)
    stamper.key(Qt.Key.Key_V, CTRL)
    (sentence,) = told
    assert "\n" not in str(sentence) and "Traceback" not in str(sentence) and str(sentence)
    assert len(stamper.handle.history.edits) == count
    assert set(stamper.handle.data.brushes) == cards


def second_window(qtbot, project):
    window = Window(project)
    qtbot.addWidget(window, before_close_func=lambda w: w.session.handle.history.mark_saved())
    window.show()
    qtbot.waitExposed(window)
    return Designer(window, qtbot)


def test_pasted_in_another_window_it_brings_the_brushes_and_sheets_it_needs(stamper, qtbot):
    stamper.key(Qt.Key.Key_C, CTRL)
    bare = new(None, "Bare")
    bare.add_room("Hall", (20, 20), 4)
    hand = second_window(qtbot, bare)
    hand.key(Qt.Key.Key_V, CTRL)
    assert {"Stones"} <= set(hand.handle.data.brushes)
    assert "Bush" in hand.handle.data.prefabs and "sheet" in hand.handle.data.tilesets
    hand.table.centre_on((10, 10))
    hand.settle()
    hand.stroke((10, 10))
    assert len(stones(hand)) == 4 and len(bushes(hand)) == 1


@pytest.mark.parametrize(("answer", "names"), [
    ("Use what is here", {"Stones"}), ("Bring theirs too", {"Stones", "Stones 2"}),
    ("Cancel", {"Stones"}),
])  # fmt: skip
def test_what_differs_by_the_same_name_is_asked_about_once(stamper, qtbot, answer, names):
    stamper.key(Qt.Key.Key_C, CTRL)
    project = small_project()
    old = project.data.brushes["Stones"]
    assert isinstance(old, Mosaic)
    project.history.apply(put_brush(project.data, replace(old, tiles=old.tiles[:2])))
    project.add_room("Hall", (20, 20), 4)
    hand = second_window(qtbot, project)
    asked = []

    def reply() -> None:
        box = QApplication.activeModalWidget()
        if not isinstance(box, QMessageBox):
            QTimer.singleShot(20, reply)
            return
        asked.append(box.text())
        button = next(b for b in box.findChildren(QPushButton) if b.text() == answer)
        qtbot.mouseClick(button, Qt.MouseButton.LeftButton)

    QTimer.singleShot(20, reply)
    hand.key(Qt.Key.Key_V, CTRL)
    assert len(asked) == 1 and "Stones" in asked[0]
    found = {name for name in hand.handle.data.brushes if name.startswith("Stones")}
    assert found == names
    assert ("Pasted" in hand.handle.data.brushes) == (answer != "Cancel")


COPIER = """
    import sys
    from PyQt6.QtCore import QTimer
    from PyQt6.QtGui import QGuiApplication
    from tests.rooms import small_room
    from topion.brushes.marks import Marks
    from topion.grid.areas import Area
    from topion.grid.boxes import Box
    from topion.view.app import application
    from topion.view.window import Window
    app = application()
    room = small_room((24, 32))
    room.lay("Stones", cells=[(4, 4), (4, 5)])
    room.lay("Bush", cells=[(5, 5)])
    window = Window(room.project)
    window.show()
    window.session.picking.take_area(Area.of_box(Box((4, 4), (6, 6))), "new")
    window.clipboard.copy()
    QTimer.singleShot(300, lambda: print("copied", flush=True))
    QTimer.singleShot(20000, app.quit)
    app.exec()
"""


@pytest.mark.skipif(
    os.environ.get("QT_QPA_PLATFORM") == "offscreen", reason="needs a clipboard of a display"
)
def test_what_another_process_copied_is_pasted_here(designer, tmp_path):
    script = tmp_path / "copier.py"
    script.write_text(textwrap.dedent(COPIER))
    paths = os.pathsep.join((os.getcwd(), os.path.join(os.getcwd(), "src")))
    other = subprocess.Popen([sys.executable, str(script)], stdout=subprocess.PIPE, text=True,
                             env=os.environ | {"PYTHONPATH": paths})  # fmt: skip
    try:
        assert other.stdout is not None and other.stdout.readline().strip() == "copied"
        designer.qtbot.waitUntil(lambda: system().mimeData().hasFormat(MEDIA_TYPE), timeout=5000)
        designer.key(Qt.Key.Key_V, CTRL)
        designer.stroke((12, 12))
        assert len(stones(designer)) == 2 and len(bushes(designer)) == 1
    finally:
        other.kill()
        other.wait()


def test_what_is_picked_is_kept_as_a_card_under_a_typed_name(stamper, monkeypatch):
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Bed", True))
    stamper.key(Qt.Key.Key_B, CTRL | SHIFT)
    bed = stamper.handle.data.brushes["Bed"]
    assert isinstance(bed, Stamp) and bed.content.size == (2, 3)
    assert stamper.session.hands.in_hand("left") is bed


# --- laying -------------------------------------------------------------------------------


@pytest.fixture
def layer(stamper) -> Designer:
    """The bed in the left hand, held by its first cell."""
    stamper.key(Qt.Key.Key_C, CTRL)
    stamper.key(Qt.Key.Key_V, CTRL)
    change(stamper, anchor=(0, 0))
    return stamper


def change(hand, **changes):
    stamp = in_hand(hand)
    hand.session.hands.change(lambda _: replace(stamp, **changes))
    hand.settle()


def fresh(hand):
    """Where stones lie that were not there at first."""
    return stones(hand) - {(4, 4), (4, 5), (4, 6), (5, 4)}


def test_keys_turn_and_mirror_a_stamp_and_backspace_resets_it(layer):
    assert not in_hand(layer).turn
    layer.key(Qt.Key.Key_T)
    layer.stroke((14, 20))
    assert len(fresh(layer)) == 4 and in_hand(layer).turn == 1
    ys, xs = zip(*fresh(layer), strict=True)
    assert (max(ys) - min(ys), max(xs) - min(xs)) == (2, 1), "it stands upright now"
    layer.key(Qt.Key.Key_M)
    assert in_hand(layer).mirrored
    card = " ".join(in_hand(layer).said().split())
    assert "mirrored" in card and "90°" in card
    layer.key(Qt.Key.Key_Backspace)
    assert not in_hand(layer).turn and not in_hand(layer).mirrored
    layer.key(Qt.Key.Key_Z, CTRL)


def test_the_anchor_is_pointed_at_with_the_key_held_and_kept(layer):
    layer.hover((14, 20))
    layer.hold(Qt.Key.Key_Y)
    layer.hover((15, 22))
    layer.release(Qt.Key.Key_Y)
    layer.settle()
    assert in_hand(layer).anchor == (1, 2)
    layer.stroke((14, 20))
    assert fresh(layer) == {(13, 18), (13, 19), (13, 20), (14, 18)}


@pytest.mark.parametrize(("repeat", "columns"), [
    ("once", {22, 23, 24}), ("at a pitch", {10, 11, 12, 15, 16, 17, 20, 21, 22}),
    ("side by side", {10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24}),
])  # fmt: skip
def test_a_drag_lays_once_or_at_a_pitch_or_side_by_side(layer, repeat, columns):
    change(layer, repeat=repeat, pitch=5)
    layer.stroke((16, 10), (16, 16), (16, 22))
    assert {x for y, x in fresh(layer) if y == 16} == columns


def test_at_a_rate_it_is_laid_while_the_button_is_held_without_laying_on_itself(layer):
    change(layer, repeat="at a rate", rate=20.0)
    layer.press((14, 6))
    layer.settle(120)
    layer.move((14, 12))
    layer.settle(150)
    layer.move((14, 18))
    layer.settle(150)
    assert layer.table.beats is not None and "20 a second" in layer.table.beats.words()
    layer.let_go((14, 18))
    assert {(14, 6), (14, 12), (14, 18)} <= fresh(layer)
    layer.key(Qt.Key.Key_Z, CTRL)
    assert not fresh(layer), "all of it is one Edit"


def test_only_what_is_open_is_laid_when_that_is_chosen(layer):
    layer.hold(Qt.Key.Key_E)
    layer.session.hands.take("left", "Mud")
    layer.stroke((14, 20), (14, 21))
    layer.release(Qt.Key.Key_E)
    assert layer.material((14, 21)) == ""
    layer.session.hands.take("left", "Pasted")
    change(layer, onto="open cells")
    layer.stroke((14, 20))
    assert fresh(layer) == {(14, 20), (14, 21)}


def test_the_ghost_shows_a_stamp_turned_where_it_would_come(layer):
    layer.key(Qt.Key.Key_T)
    before = layer.shown((15, 20))
    layer.hover((14, 20))
    layer.settle(80)
    changed = {cell for cell in ((14, 20), (15, 20), (16, 20), (14, 19), (14, 21))
               if layer.shown(cell) != before}  # fmt: skip
    assert changed, "stones are seen before they are laid"
    assert not fresh(layer)
