"""Home: projects to go on with, new ones, a sheet, and the first minute."""

from __future__ import annotations

import json
from datetime import datetime
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QApplication

from tests.rooms import small_room
from topion import scripting
from topion.edit.lock import PathLock
from topion.formats.recents import Recent, forget, look_at, moved, recents, remember
from topion.kit import flat
from topion.logbook import state_home
from topion.view.home.times import said, short_path

LEFT = Qt.MouseButton.LeftButton
VALUES = st.none() | st.booleans() | st.integers() | st.floats() | st.sampled_from(["/a", "b", ""])
JSON = VALUES | st.lists(
    VALUES
    | st.dictionaries(st.sampled_from(["path", "name", "rooms", "when", "voxel", "x"]), VALUES)
    | st.builds(lambda when, rooms: {"path": "/a", "name": "A", "when": when, "rooms": rooms},
                st.floats(), VALUES)
)  # fmt: skip


@pytest.fixture(autouse=True)
def places_of_its_own(tmp_path, monkeypatch) -> None:
    for name in ("STATE", "CACHE", "CONFIG", "DATA"):
        monkeypatch.setenv(f"XDG_{name}_HOME", str(tmp_path / name.lower()))


@pytest.fixture
def levels(tmp_path) -> Path:
    folder = tmp_path / "levels"
    folder.mkdir()
    return folder


def saved(levels: Path, name: str) -> Path:
    room = small_room((8, 10))
    room.project.history.apply(_named(room.project, name))
    path = room.project.save(levels / f"{name}.topion")
    remember(Recent(str(path), name, "Yard", 1, 0, 1000.0))
    return path


def _named(project, name):
    from topion.model.edit import Edit
    from topion.model.records import ItemRecord

    return Edit("Name", (ItemRecord(("name",), project.data.name, name),))


@pytest.fixture
def home(designer, qtbot, levels):
    """Home, shown in a window that keeps new projects in `levels`."""
    designer.window.show_home()
    found = designer.window.homing.home
    found.new.keep_in(levels)
    qtbot.waitUntil(found.isVisible, timeout=2000)
    return found


# --- remembered -------------------------------------------------------------------------------


def test_projects_are_remembered_the_last_used_first(levels):
    for name, when in (("a", 10.0), ("b", 30.0), ("c", 20.0)):
        remember(Recent(str(levels / name), name, when=when))
    assert [one.name for one in recents()] == ["b", "c", "a"]
    forget(str((levels / "b").resolve()))
    moved(str((levels / "c").resolve()), levels / "d")
    assert [(one.name, Path(one.path).name) for one in recents()] == [("c", "d"), ("a", "a")]


@pytest.mark.parametrize("text", ["", "[", "{}", '[{"path": 4}]', '[{"path": "x", "name": "y"}]'])
def test_a_list_that_is_damaged_is_no_reason_to_stop(tmp_path, text):
    (tmp_path / "state" / "topion").mkdir(parents=True)
    (tmp_path / "state" / "topion" / "recents.json").write_text(text)
    assert recents() == []


@given(JSON)
def test_whatever_stands_in_the_list_is_read_or_passed_over(value):
    kept = state_home() / "recents.json"
    kept.parent.mkdir(parents=True, exist_ok=True)
    kept.write_text(json.dumps(value))
    for one in recents():
        assert one.folder.is_absolute() and one.told() and said(one.when)


def test_a_look_tells_what_is_there_and_shows_it(levels):
    path = saved(levels, "Mill")
    look = look_at(recents()[0])
    assert (look.there, look.in_use, look.unsaved, look.problem) == (True, False, 0, "")
    assert look.picture is not None and max(look.picture.shape[:2]) == 480
    lock = PathLock(path)
    lock.take()
    assert look_at(recents()[0]).in_use
    lock.release()
    (path / "project.json").unlink()
    assert not look_at(recents()[0]).there


def test_a_project_that_cannot_be_read_is_told(levels):
    path = saved(levels, "Mill")
    (path / "project.json").write_text("{")
    assert "project.json" in look_at(recents()[0]).problem


@pytest.mark.parametrize(
    ("days", "words"),
    [(0, "today 9:05"), (1, "yesterday 9:05"), (3, "Tuesday 9:05"), (12, "12 days ago"),
     (30, "4 weeks ago"), (200, "9 May 2026")],
)  # fmt: skip
def test_moments_are_said_as_people_say_them(days, words):
    now = datetime(2026, 11, 27, 18, 0)
    then = datetime(2026, 11, 27, 9, 5).timestamp() - days * 86400
    if days == 200:
        then = datetime(2026, 5, 9, 9, 5).timestamp()
    if days == 3:
        words = f"{datetime(2026, 11, 24):%A} 9:05"
    assert said(then, now) == words


def test_paths_are_short_at_home():
    assert short_path("/home/me/levels/x", "/home/me") == "~/levels/x"
    assert short_path("/home/meadow/x", "/home/me") == "/home/meadow/x"


# --- seen -------------------------------------------------------------------------------------


def test_a_card_tells_of_its_project_and_opens_it(designer, home, qtbot, levels):
    saved(levels, "Mill")
    home.refresh()
    home.looking.look_at(recents())
    qtbot.waitUntil(lambda: recents()[0].path in home.looking.known, timeout=5000)
    at = home.cards.rect_of(0).center().toPoint()
    qtbot.mouseClick(home.cards, LEFT, pos=at)
    qtbot.waitUntil(lambda: designer.window.session.handle.name == "Mill", timeout=5000)
    assert not designer.window.homing.shown
    assert recents()[0].when > 1000.0  # used now


def test_a_project_that_is_gone_can_be_forgotten(home, qtbot, levels):
    remember(Recent(str(levels / "gone.topion"), "Gone", "Quay", 2, 0, 50.0))
    home.refresh()
    home.looking.look_at(recents())
    qtbot.waitUntil(lambda: bool(home.looking.known), timeout=5000)
    at = home.cards.buttons_of(0)["Forget it"].center().toPoint()
    qtbot.mouseClick(home.cards, LEFT, pos=at)
    assert recents() == [] and home.none.isVisible()


def test_projects_are_found_by_letters_and_ordered_by_name(home, qtbot, levels):
    for name in ("Mill", "Attic", "Millpond"):
        saved(levels, name)
    home.refresh()
    qtbot.mouseClick(home.orders["by name"], LEFT)
    assert [card.name for card in home.cards.cards] == ["Attic", "Mill", "Millpond"]
    qtbot.keyClicks(home.search, "mill")
    assert [card.name for card in home.cards.cards] == ["Mill", "Millpond"]


# --- begun ------------------------------------------------------------------------------------


def test_a_newcomer_paints_at_once(designer, home, qtbot, levels):
    """Name, Enter, a drag: the whole first minute."""
    home.new.name.setFocus()
    home.new.name.selectAll()
    qtbot.keyClicks(home.new.name, "Kiln Row")
    qtbot.keyClick(home.new.name, Qt.Key.Key_Return)
    window = designer.window
    qtbot.waitUntil(lambda: window.session.handle.name == "Kiln Row", timeout=8000)
    assert (levels / "Kiln Row.topion" / "project.json").exists()
    designer.table = window.table
    window.table.centre_on((20, 20))
    qtbot.waitUntil(lambda: window.table.ready, timeout=5000)
    designer.settle()
    assert window.session.hands.names() == {"left": "Ground", "right": "Wall"}
    designer.stroke((20, 18), (20, 22))
    designer.stroke((18, 18), (18, 20), button=Qt.MouseButton.RightButton)
    labels = [edit.label for edit in window.session.handle.history.edits]
    assert labels == ["Ground", "Wall"]
    ground = window.session.room.layers[window.session.room.id_of("Ground")]
    assert np.count_nonzero(ground.plane("material")[20]) == 5


@pytest.mark.parametrize(("kind", "axes"), [("flat", 2), ("voxel", 3)])
def test_each_kind_of_first_room_can_be_asked_for(designer, home, qtbot, kind, axes):
    button = next(b for b in home.new.kinds.buttons() if b.property("value") == kind)
    qtbot.mouseClick(button, LEFT)
    wanted = home.new.wanted()
    assert len(wanted.first.size) == axes
    assert home.new.levels.isVisible() == (axes == 3)


def typed(qtbot, field, text):
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, text)


def test_the_size_of_the_first_room_is_told_while_it_is_typed(home, qtbot):
    typed(qtbot, home.new.width_field, "20")
    typed(qtbot, home.new.height_field, "10")
    assert home.new.told.text() == "320 × 160"
    typed(qtbot, home.new.width_field, "0")
    assert home.new.wanted().first.size == (10, 1)  # a room has at least one cell


def test_a_voxel_room_may_have_one_level(designer, home, qtbot, levels):
    qtbot.mouseClick(next(b for b in home.new.kinds.buttons() if b.text() == "voxel"), LEFT)
    for field, text in ((home.new.width_field, "5"), (home.new.height_field, "4"),
                        (home.new.levels, "1")):  # fmt: skip
        typed(qtbot, field, text)
    qtbot.keyClick(home.new.levels, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: not designer.window.homing.shown, timeout=8000)
    designer.settle(100)
    assert designer.window.session.room.info.size == (1, 4, 5)


def test_a_room_that_is_too_large_is_refused_in_a_sentence(designer, home, qtbot, levels):
    for field in (home.new.width_field, home.new.height_field):
        typed(qtbot, field, "16384")
    qtbot.mouseClick(home.new.make, LEFT)
    assert designer.window.homing.shown and not list(levels.iterdir())
    assert "at most 67108864 cells" in designer.window.said.text()


def test_a_name_that_is_taken_is_answered_with_one_that_is_free(designer, home, levels):
    (levels / "Untitled.topion").mkdir()
    designer.window.homing.make(home.new.wanted())
    assert designer.window.homing.shown
    assert "Untitled 2 would be free" in designer.window.said.text()


def test_a_sheet_that_is_dropped_begins_a_project(designer, home, qtbot, tmp_path, levels):
    path = tmp_path / "yard.png"
    path.write_bytes(flat.tileset(16).sheet.png)
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    designer.window.drops.hovers(data)
    assert "Drop to begin with yard.png" in designer.window.said.text()
    at, none = QPointF(900, 500), Qt.KeyboardModifier.NoModifier
    enter = QDragEnterEvent(at.toPoint(), Qt.DropAction.CopyAction, data, LEFT, none)
    QApplication.sendEvent(home.drop, enter)
    assert enter.isAccepted()
    event = QDropEvent(at, Qt.DropAction.CopyAction, data, LEFT, none)
    QApplication.sendEvent(designer.window, event)
    qtbot.waitUntil(lambda: designer.window.session.handle.name == "yard", timeout=8000)
    session = designer.window.session
    assert session.project.tilesets["yard"].cut.tile == (16, 16)
    brush = session.project.brushes[session.hands["left"]]
    assert brush.kind == "weave"
    assert "3 weaves" in designer.window.said.text()
    assert scripting.open(levels / "yard.topion").rooms() == ("Room 1",)


def test_leaving_a_project_for_home_asks_about_what_is_not_saved(designer, monkeypatch):
    designer.stroke((3, 3), (3, 6))
    monkeypatch.setattr(designer.window.saves, "may_leave", lambda: False)
    designer.window.show_home()
    assert not designer.window.homing.shown


def test_on_home_only_its_own_keys_mean_something(designer, home, qtbot):
    before = designer.window.session.handle.history.at
    qtbot.keyClick(designer.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    qtbot.keyClick(designer.window, Qt.Key.Key_F2)
    assert designer.window.session.handle.history.at == before
    assert designer.window.desks.desk is None
    qtbot.keyClick(designer.window, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    assert designer.window.overlays.finder.isVisible()
    names = {entry.kind for entry in designer.window.overlays.finder.entries}
    assert names == {"command"}


def test_home_draws_every_part_in_both_colours(designer, home):
    paper = home.grab().toImage()
    designer.window.toggle_dark()
    dark = designer.window.homing.home.grab().toImage()
    assert designer.window.homing.shown
    designer.window.toggle_dark()
    at = QPoint(home.width() // 2, home.height() - 20)
    assert paper.pixelColor(at).lightness() > 150 > dark.pixelColor(at).lightness()
