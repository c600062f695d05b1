"""The window stays, says what happened once, and keeps what was finished."""

import sys
import threading

import numpy as np
import pytest
from PyQt6.QtCore import QRect, Qt, QTimer
from PyQt6.QtWidgets import QApplication, QFileDialog, QMessageBox

import topion
from tests.rooms import small_room
from tests.trust.hands import RandomHands
from topion import logbook
from topion.edit.journals import unsaved
from topion.formats.folder import read_project
from topion.logbook import log_path
from topion.view import settings, style, unforeseen
from topion.view.opening import blank, brought_back
from topion.view.tasks import run_task
from topion.view.window import Window

CONTROL = Qt.KeyboardModifier.ControlModifier
_Box = QMessageBox.StandardButton


def fail():
    raise KeyError("nobody foresaw this")


@pytest.fixture
def hooked(designer, monkeypatch):
    """Errors go where they go in the program, not to the test."""
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    monkeypatch.setattr(threading, "excepthook", threading.excepthook)
    unforeseen.install()
    unforeseen.watch(designer.window)
    yield designer
    unforeseen.watch(None)


def answers(monkeypatch, answer):
    """Answer the next questions so; gives what was asked."""
    asked = []

    def execute(self):
        asked.append(f"{self.text()} {self.informativeText()}")
        return answer

    monkeypatch.setattr(QMessageBox, "exec", execute)
    return asked


# --- errors nobody foresaw ----------------------------------------------------------------


@pytest.mark.parametrize("where", ["a slot", "a timer", "a thread", "a worker"])
def test_an_error_nobody_foresaw_is_said_and_the_window_goes_on(hooked, where, capfd):
    hooked.stroke((3, 3), (3, 6))
    match where:
        case "a slot":
            hooked.window.top_bar.sheets.clicked.connect(lambda _: fail())
            hooked.qtbot.mouseClick(hooked.window.top_bar.sheets, Qt.MouseButton.LeftButton)
        case "a timer":
            QTimer.singleShot(0, fail)
        case "a thread":
            thread = threading.Thread(target=fail)
            thread.start()
            thread.join()
        case "a worker":
            run_task(hooked.window, "Work", lambda step: fail(), print, hooked.window.say)
    hooked.settle(60)
    said = hooked.window.said.text()
    assert "nobody foresaw" in said and "KeyError" in said and "\n" not in said
    assert "nobody foresaw this" in log_path().read_text()
    hooked.window.show_sheets()
    hooked.window.desks.close_desk()
    hooked.stroke((5, 3), (5, 6))
    assert hooked.material((3, 4)) == hooked.material((5, 4)) == "Water"


def test_a_stroke_that_meets_an_error_is_taken_back_whole(hooked, monkeypatch):
    before = hooked.room.render(1).tobytes()
    monkeypatch.setattr(type(hooked.session), "plan_marks", lambda *a, **k: fail())
    hooked.stroke((3, 3), (3, 6))
    hooked.settle(60)
    assert hooked.table.hand is None and hooked.room.render(1).tobytes() == before
    assert "finished strokes are kept" in hooked.window.said.text()


def test_a_view_that_fails_does_not_keep_a_stroke_from_the_journal(hooked, tmp_path):
    folder = hooked.handle.save(tmp_path / "Kept.topion")
    hooked.window.files.open(folder)
    session = hooked.window.session
    session.changed.connect(lambda _: fail())
    hooked.table.look_at((8, 8), 8.0)
    session.hands.take("left", "Water")
    session.apply(session.plan("left", np.array([[3.0, 3.0]])))
    hooked.settle(60)
    again = Window(topion.open(folder))  # only looks, as the first still has it open
    hooked.qtbot.addWidget(again)
    hooked.window.session.close()
    hooked.window.files.open(folder)
    assert hooked.window.session.handle.room("Yard").material(3, 3) == "Water"
    hooked.window.session.handle.history.mark_saved()


# --- what random hands met ----------------------------------------------------------------


def test_all_of_a_room_can_be_asked_for_where_there_is_none(designer):
    handle = blank()
    handle.history.jump(0)
    handle.remove_room("Room 1")
    designer.window.use(handle)
    designer.key(Qt.Key.Key_Home)
    designer.key(Qt.Key.Key_Plus)
    designer.settle()
    assert not designer.window.session.has_room
    handle.history.mark_saved()


def test_a_sheet_that_is_taken_back_leaves_its_dialog_empty(designer):
    handle = designer.handle
    sheet = handle.data.tileset("sheet")
    other = type(sheet)("Other", sheet.sheet, sheet.cut)
    handle.add_tileset(other)
    designer.window.show_sheets()
    desk = designer.window.desks.desk
    designer.settle()
    assert desk.tileset().name == "Other"
    designer.qtbot.keyClick(desk.view, Qt.Key.Key_Z, CONTROL)
    assert [desk.sheets.itemText(i) for i in range(desk.sheets.count())] == ["sheet"]


def test_a_room_that_comes_under_a_held_button_takes_no_stroke_of_the_last(designer):
    designer.handle.add_room("Deep", (4, 6, 6))
    count = len(designer.handle.history.edits)
    designer.press((3, 3))
    designer.session.open_room("Deep")
    designer.move((5, 5))
    designer.let_go((6, 6))
    assert len(designer.handle.history.edits) == count and designer.session.cursor is None
    designer.session.open_room("Yard")
    designer.settle()


def test_a_field_in_hand_is_straightened_without_harm(designer):
    designer.session.hands.take("left", "Reeds")
    before = designer.session.project.brush("Reeds")
    designer.key(Qt.Key.Key_Backspace)
    assert designer.session.project.brush("Reeds") == before


def test_a_setting_of_the_wrong_kind_is_said_and_nothing_changes(designer):
    brush = designer.session.project.brush("Reeds")
    for field, value in (("seed", "x"), ("size", 3), ("density", None), ("turn", (0.0,))):
        designer.session.hands.set_field(brush, field, value)
        assert f"the {field} of Reeds is" in designer.window.said.text()
    assert designer.session.project.brush("Reeds") == brush


@pytest.mark.parametrize("seed", [5, 6])
def test_random_hands_meet_no_error(designer, hooked, monkeypatch, seed):
    met = []
    monkeypatch.setattr(logbook, "noted", lambda problem, doing="": met.append(problem) or "x")
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a, **k: "")
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *a, **k: ([], ""))
    for asks in ("getOpenFileName", "getSaveFileName"):  # they would wait for another hand
        monkeypatch.setattr(QFileDialog, asks, lambda *a, **k: ("", ""))
    hands = RandomHands(designer.window, seed, 500)
    hands.run()
    assert met == [], hands.last[-8:]
    designer.window.session.handle.history.mark_saved()


# --- what is kept -------------------------------------------------------------------------


def test_that_strokes_cannot_be_kept_stays_in_sight_until_they_can(designer, tmp_path):
    designer.stroke((3, 3), (3, 6))
    care = designer.window.top_bar.care
    assert not care.isVisible()
    state = tmp_path / "state"
    state.rename(tmp_path / "away")
    state.write_text("no folder any longer")
    designer.stroke((5, 3), (5, 6))
    assert care.isVisible() and "not kept safe" in care.toolTip()
    state.unlink()
    designer.stroke((7, 3), (7, 6))
    assert not care.isVisible()


def test_what_was_discarded_on_leaving_stays_away(designer, tmp_path, monkeypatch):
    folder = designer.handle.save(tmp_path / "Small.topion")
    designer.window.files.open(folder)
    room = designer.window.session.handle.room("Yard")
    room.lay("Water", box=((3, 3), (6, 6)))
    answers(monkeypatch, _Box.Discard)
    designer.window.files.new_project()
    designer.window.files.open(folder)
    again = designer.window.session
    assert again.handle.room("Yard").material(4, 4) == "Mud" and not again.handle.history.changed


def test_strokes_of_a_project_that_was_never_saved_come_back(designer):
    designer.stroke((3, 3), (3, 6))
    designer.settle()
    keeper = designer.session.keeper
    keeper.close()  # as if the process had been killed: nothing was told
    (left,) = unsaved()
    assert left.name == "Small" and left.strokes == 1
    designer.window.files.saves.host.session.handle.history.mark_saved()
    designer.window.files.bring_back(left.kept)
    session = designer.window.session
    assert session.handle.room("Yard").material(3, 4) == "Water"
    assert "1 stroke that had not been saved came back" in _soon(designer)
    session.handle.history.mark_saved()


def _soon(designer):
    designer.settle(60)
    return designer.window.said.text()


def test_files_changed_elsewhere_are_said_and_both_are_offered(designer, tmp_path, monkeypatch):
    folder = designer.handle.save(tmp_path / "Small.topion")
    designer.window.files.open(folder)
    session = designer.window.session
    session.handle.room("Yard").lay("Water", box=((3, 3), (6, 6)))
    session.keeper.close()  # a crash
    other = topion.open(folder)
    other.room("Yard").lay("Stones", cells=[(20, 20)])
    other.save()
    asked = answers(monkeypatch, _Box.Yes)
    session.handle.history.mark_saved()
    designer.window.files.open(folder)
    assert "1 stroke that had not been saved came back" in _soon(designer)
    assert "changed elsewhere since 1 stroke" in asked[0]
    yard = designer.window.session.handle.room("Yard")
    assert yard.material(4, 4) == "Water" and yard.material(20, 20) == "Stones"
    designer.window.session.handle.history.mark_saved()


# --- saving -------------------------------------------------------------------------------


def opened(designer, tmp_path):
    folder = designer.handle.save(tmp_path / "Small.topion")
    designer.window.files.open(folder)
    return folder, designer.window.session.handle


def test_a_save_takes_in_what_was_changed_elsewhere(designer, tmp_path):
    folder, handle = opened(designer, tmp_path)
    other = topion.open(folder)
    other.add_room("Attic", (4, 4), 4)
    other.save(over=True) if handle.locked is None else _save_anyway(other)
    handle.room("Yard").lay("Water", box=((3, 3), (6, 6)))
    assert designer.window.saves.save()
    assert "taken in" in designer.window.said.text()
    assert read_project(folder).rooms.keys() == {"Yard", "Attic"}
    assert not handle.history.changed


def _save_anyway(other):
    other.locked = other.folder.resolve()  # somebody who knows of no locks, such as git
    other.save()


@pytest.mark.parametrize(("answer", "material"), [(_Box.Yes, "Water"), (_Box.Open, "Stones")])
def test_what_both_changed_is_asked_about(designer, tmp_path, monkeypatch, answer, material):
    folder, handle = opened(designer, tmp_path)
    other = topion.open(folder)
    other.room("Yard").lay("Stones", cells=[(4, 4)])
    _save_anyway(other)
    handle.room("Yard").lay("Water", box=((3, 3), (6, 6)))
    asked = answers(monkeypatch, answer)
    assert designer.window.saves.save()
    assert "both changed layer Ground of Yard" in asked[0]
    assert topion.open(folder).room("Yard").material(4, 4) == material


def test_a_folder_that_was_moved_while_open_is_followed(designer, tmp_path, monkeypatch):
    folder, handle = opened(designer, tmp_path)
    handle.room("Yard").lay("Water", box=((3, 3), (6, 6)))
    moved = folder.rename(tmp_path / "Moved.topion")
    assert designer.window.saves.save() and handle.folder == moved.resolve()
    assert topion.open(moved).room("Yard").material(4, 4) == "Water" and not folder.exists()


def test_a_folder_that_is_gone_is_asked_about_and_not_made_again(designer, tmp_path, monkeypatch):
    folder, handle = opened(designer, tmp_path)
    for path in sorted(folder.rglob("*"), reverse=True):
        path.unlink() if path.is_file() else path.rmdir()
    folder.rmdir()
    handle.room("Yard").lay("Water", box=((3, 3), (6, 6)))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: ("", ""))
    assert not designer.window.saves.save() and not folder.exists()
    assert "is not there any longer" in designer.window.said.text()
    handle.history.mark_saved()


def test_edits_during_a_save_are_not_in_it_and_still_to_be_saved(designer, tmp_path, monkeypatch):
    folder, handle = opened(designer, tmp_path)
    handle.room("Yard").lay("Water", box=((3, 3), (6, 6)))
    saving, session = handle.saving(), designer.window.session
    promise = session.keeper.begin_saving(folder)
    handle.room("Yard").lay("Stones", box=((10, 10), (12, 12)))
    saving.write(promise=promise)
    session.saved(saving)
    assert handle.history.changed
    saved = topion.open(folder).room("Yard")
    assert saved.material(4, 4) == "Water" and saved.material(11, 11) == "Mud"
    session.keeper.close()
    designer.window.session.handle.history.mark_saved()
    designer.window.files.open(folder)
    assert designer.window.session.handle.room("Yard").material(11, 11) == "Stones"
    designer.window.session.handle.history.mark_saved()


# --- what the window remembers ------------------------------------------------------------


def test_dark_place_and_folder_are_remembered(designer, tmp_path):
    designer.key(Qt.Key.Key_F8)
    assert settings.is_dark()
    designer.key(Qt.Key.Key_F8)
    assert not settings.is_dark() and not style.is_dark()
    designer.window.saves.save_to(tmp_path / "there" / "Small.topion")
    assert settings.last_folder() == tmp_path / "there"
    designer.window.resize(1100, 700)
    settings.remember_window(designer.window)
    other = Window(small_room((5, 5)).project)
    designer.qtbot.addWidget(other)
    settings.place_window(other)
    assert (other.width(), other.height()) == (1100, 700)
    other.session.handle.history.mark_saved()


def test_a_window_fits_the_screen_it_opens_on_with_its_title():
    screen = QRect(0, 0, 1280, 800)
    fitted = settings.fitting(QRect(0, 0, 1280, 800), screen)
    assert screen.contains(fitted) and fitted.top() >= 28
    small = settings.fitting(QRect(300, 5000, 900, 600), screen)
    assert screen.contains(small) and small.size() == QRect(0, 0, 900, 600).size()


def test_a_new_project_shows_nothing_of_the_last(designer):
    designer.window.files.new_project()
    texts = designer.window.rack.findChildren(type(designer.window.said))
    assert designer.window.session.hands.names() == {"left": "Lift", "right": ""}
    assert not any("Water" in label.text() for label in texts)


def test_brought_back_needs_a_sound_base(designer):
    keeper = designer.session.keeper
    designer.stroke((3, 3), (3, 6))
    keeper.close()
    (left,) = unsaved()
    left.kept.about["base"] = "{"
    with pytest.raises(topion.errors.TopionError, match="cannot be read"):
        brought_back(left.kept)
    assert QApplication.instance() is not None
