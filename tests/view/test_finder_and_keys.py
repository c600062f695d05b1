"""The finder, the sheet of keys, changed keys, hints, settings and pens."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QCursor, QInputDevice, QPointingDevice, QTabletEvent
from PyQt6.QtWidgets import QApplication, QPushButton

from tests.rooms import one, small_room
from topion.brushes import Mosaic
from topion.brushes.drawn import Drawn
from topion.brushes.gestures import Gesture
from topion.brushes.marks import Place
from topion.key_book import FILE, key_book
from topion.letters import found, score
from topion.view import settings
from topion.view.commands import Command, Commands, is_key
from topion.view.hints import HINTS, Hints
from topion.view.key_areas import AREAS
from topion.view.table.strokes import BUTTONS, swap_hands

LEFT, RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton
CONTROL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture(autouse=True)
def settings_of_its_own(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    settings.forget_known()
    yield
    settings.forget_known()
    swap_hands(False)


# --- letters ----------------------------------------------------------------------------------


def in_order(letters: str, name: str) -> bool:
    """Plainly: whether the letters stand in the name one after another."""
    rest = iter(name)
    return all(letter in rest for letter in letters)


@given(st.text("ab c", max_size=5), st.text("abc -", max_size=12))
def test_a_name_is_found_just_if_it_has_the_letters_in_their_order(letters, name):
    assert (score(letters, name) > 0) == in_order("".join(letters.split()), name)


@given(st.text("ab", min_size=1, max_size=3), st.lists(st.text("abc", max_size=6), max_size=8))
def test_the_best_are_shown_first_and_the_earlier_of_equals(letters, names):
    shown = found(letters, [(name, n) for n, name in enumerate(names)], 5)
    ranks = [(-score(letters, names[n]), n) for n in shown]
    assert ranks == sorted(ranks) and len(shown) <= 5
    assert all(score(letters, names[n]) > 0 for n in shown)


def test_letters_are_found_in_their_order_only():
    assert score("bw", "Boardwalk") > 0
    assert score("wb", "Boardwalk") == 0
    assert score("xyz", "Boardwalk") == 0


def test_letters_that_begin_words_count_more_than_those_inside():
    names = ["Blackthorn", "Back wall", "Bow"]
    assert found("bw", ((name, name) for name in names), 3)[0] == "Back wall"


def test_letters_that_follow_each_other_count_more_than_beginnings_of_words():
    names = ["Shift all of the room", "Salt grass"]
    assert found("sal", ((name, name) for name in names), 2)[0] == "Salt grass"


def test_without_letters_all_come_in_their_order():
    assert list(found("", ((name, name) for name in "abc"), 2)) == ["a", "b"]


# --- the finder -------------------------------------------------------------------------------


def find(designer, qtbot, letters: str):
    qtbot.keyClick(designer.window.table, Qt.Key.Key_K, CONTROL)
    finder = designer.window.overlays.finder
    assert finder.isVisible()
    qtbot.keyClicks(finder.field, letters)
    return finder


def test_a_brush_is_taken_in_either_hand_by_its_letters(designer, qtbot):
    finder = find(designer, qtbot, "mud")
    assert (finder.rows[0].name, finder.rows[0].kind) == ("Mud", "brush")
    qtbot.keyClick(finder.field, Qt.Key.Key_Return)
    assert designer.session.hands["left"] == "Mud" and not finder.isVisible()
    finder = find(designer, qtbot, "mud")
    qtbot.keyClick(finder.field, Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    assert designer.session.hands["right"] == "Mud"


def test_a_command_is_carried_out(designer, qtbot):
    finder = find(designer, qtbot, "plan: the rooms")
    assert finder.rows[0].kind == "command" and finder.rows[0].told == "F2"
    qtbot.keyClick(finder.field, Qt.Key.Key_Return)
    assert designer.window.planning.desk is not None


def test_a_thing_is_picked_where_it_stands(designer, qtbot):
    designer.session.handle.room(designer.session.room_name).lay("Bush", cells=[(20, 28)])
    finder = find(designer, qtbot, "bush 1")
    things = [row for row in finder.rows if row.kind == "thing"]
    assert things[0].told == "at 28, 20"
    finder.choose(finder.rows.index(things[0]))
    qtbot.keyClick(finder.field, Qt.Key.Key_Return)
    assert [t.prefab for _, t in designer.session.picking.things()] == ["Bush"]


def test_a_room_is_entered(designer, qtbot):
    designer.session.handle.add_room("Boat Shed", (6, 6))
    finder = find(designer, qtbot, "boat")
    qtbot.keyClick(finder.field, Qt.Key.Key_Return)
    assert designer.session.room_name == "Boat Shed"


def test_what_cannot_be_found_is_said_and_escape_puts_it_away(designer, qtbot):
    finder = find(designer, qtbot, "zzzz")
    assert finder.rows == []
    qtbot.keyClick(finder.field, Qt.Key.Key_Return)  # nothing happens
    qtbot.keyClick(finder.field, Qt.Key.Key_Escape)
    assert not finder.isVisible()
    assert designer.window.focusWidget() is designer.window.table


# --- the sheet of keys ------------------------------------------------------------------------


@pytest.mark.parametrize(("part", "title"), [("rack", "the rack"), ("ribbon", "the strokes"),
                                             ("stack", "the stack")])  # fmt: skip
def test_the_keys_of_what_is_under_the_pointer_come_first(designer, qtbot, part, title):
    widget = getattr(designer.window, part)
    QCursor.setPos(widget.mapToGlobal(QPoint(widget.width() // 2, 12)))
    qtbot.wait(30)
    qtbot.keyClick(designer.window.table, Qt.Key.Key_F1)
    help_ = designer.window.overlays.keys
    assert help_.isVisible() and help_.area.title == title
    assert AREAS[(help_.area.groups and part) or part].rows[0][1] in help_.accessibleDescription()
    qtbot.keyClick(help_, Qt.Key.Key_A)
    assert not help_.isVisible()


def test_every_group_of_an_area_is_a_group_of_commands(designer):
    groups = {command.group for command in designer.window.commands}
    assert {group for area in AREAS.values() for group in area.groups} <= groups


def test_the_book_of_keys_is_current(designer):
    designer.window.commands.use_keys({})
    assert FILE.read_text(encoding="utf-8") == key_book(designer.window.commands)


def test_every_command_that_has_a_key_is_in_the_book(designer):
    text = FILE.read_text(encoding="utf-8")
    for command in designer.window.commands:
        if not command.name.startswith("card "):
            assert command.text.replace("|", "\\|") in text
            assert all(f"`{key}`" in text for key in command.keys)


# --- changed keys -----------------------------------------------------------------------------


def commands() -> Commands:
    return Commands(
        [Command("a", "A", lambda: None, ("A",)), Command("b", "B", lambda: None, ("B",))]
    )


def test_a_changed_key_takes_the_place_of_another():
    known = commands()
    known.use_keys({"a": ("B",)})
    assert known.with_key("B").name == "a" and known.with_key("A") is None
    known.use_keys({})
    assert known.with_key("A").name == "a" and known.with_key("B").name == "b"


def test_what_is_no_key_is_passed_over():
    assert is_key("Ctrl+K") and not is_key("") and not is_key("Nonsense+Blah")
    known = commands()
    known.use_keys({"a": ("", "Nonsense+Blah", "C"), "not there": ("D",)})
    assert known["a"].keys == ("C",) and known.with_key("D") is None


def test_a_key_is_changed_by_pressing_another_and_kept(designer, qtbot):
    window = designer.window
    qtbot.keyClick(window.table, Qt.Key.Key_Comma, CONTROL)
    page = window.overlays.settings
    qtbot.keyClicks(page.search, "roll the dice")
    at = page.keys.rect_of("roll").center().toPoint()
    qtbot.mouseClick(page.keys, LEFT, pos=at)
    qtbot.keyClick(page.keys, Qt.Key.Key_D)  # that of the drag: asked first
    assert "is that of “Drag" in window.said.text()
    assert window.commands["roll"].keys == ("R",)
    qtbot.keyClick(page.keys, Qt.Key.Key_D)
    assert window.commands["roll"].keys == ("D",)
    assert settings.changed_keys() == {"roll": ("D",)}
    assert window.commands.with_key("D").name == "roll"
    page.keys.reset("roll")
    assert window.commands["roll"].keys == ("R",) and settings.changed_keys() == {}
    qtbot.keyClick(page, Qt.Key.Key_Escape)
    assert window.overlays.settings is None and window.pages.currentIndex() == 0


def settings_page(designer):
    designer.window.show_settings()
    page = designer.window.overlays.settings
    designer.settle(60)
    return page


def click_key(designer, page, command):
    page.search.setText(designer.window.commands[command].text)
    at = page.keys.rect_of(command).center().toPoint()
    designer.qtbot.mouseClick(page.keys, LEFT, pos=at)


def test_del_takes_a_key_away_whether_or_not_another_is_awaited(designer, qtbot):
    page, known = settings_page(designer), designer.window.commands
    click_key(designer, page, "roll")
    qtbot.keyClick(page.keys, Qt.Key.Key_Delete)
    assert known["roll"].keys == () and known.with_key("R") is None
    page.keys.reset("roll")
    assert known["roll"].keys == ("R",)
    page.keys.choose("roll", wait=False)
    qtbot.keyClick(page.keys, Qt.Key.Key_Delete)
    assert known["roll"].keys == () and settings.changed_keys() == {"roll": ()}


def test_escape_leaves_a_key_as_it_was(designer, qtbot):
    page = settings_page(designer)
    click_key(designer, page, "roll")
    qtbot.keyClick(page.keys, Qt.Key.Key_Escape)
    assert designer.window.commands["roll"].keys == ("R",) and settings.changed_keys() == {}
    assert designer.window.overlays.settings is page  # it is still there


def test_all_keys_go_back_to_what_they_were(designer, qtbot):
    page, known = settings_page(designer), designer.window.commands
    click_key(designer, page, "roll")
    qtbot.keyClick(page.keys, Qt.Key.Key_J, CONTROL)
    assert known["roll"].keys == ("Ctrl+J",)
    qtbot.mouseClick(page.reset, LEFT)
    assert known["roll"].keys == ("R",) and settings.changed_keys() == {}


def test_a_changed_key_works_on_the_table(designer, qtbot):
    page = settings_page(designer)
    click_key(designer, page, "find")
    qtbot.keyClick(page.keys, Qt.Key.Key_J, CONTROL)
    qtbot.mouseClick(page.bar.done, LEFT)
    qtbot.keyClick(designer.window.table, Qt.Key.Key_J, CONTROL)
    assert designer.window.overlays.finder.isVisible()


def test_keys_are_found_by_their_own_letters(designer):
    page = settings_page(designer)
    page.search.setText("Ctrl+Z")
    assert [row.name for row in page.keys.rows() if isinstance(row, Command)] == ["undo"]
    page.search.setText("no such words")
    assert page.keys.rows() == []


def test_hints_can_be_shown_again(designer, qtbot):
    designer.stroke((3, 3), (3, 6))
    assert "laid" in settings.done_hints()
    page = settings_page(designer)
    again = next(b for b in page.findChildren(QPushButton) if b.text() == "Show all hints again")
    qtbot.mouseClick(again, LEFT)
    assert settings.done_hints() == frozenset()


def test_a_file_of_settings_that_is_damaged_is_no_reason_to_stop(tmp_path):
    settings.remember_pen("strength")
    (kept,) = (path for path in (tmp_path / "config").rglob("*") if path.is_file())
    for damaged in ("{", "[1, 2]", '{"pen": 7, "scale": "wide", "keys": [], "hints": 3}'):
        kept.write_text(damaged)
        settings.forget_known()
        assert settings.pen() in ("nib", "strength", "nothing")
        assert settings.scale() in settings.SCALES and settings.changed_keys() == {}
        assert isinstance(settings.done_hints(), frozenset)


def test_settings_are_kept(designer, qtbot):
    designer.window.show_settings()
    page = designer.window.overlays.settings
    for name, value in (("slices", 1.0), ("wheel", True), ("pen", "strength"), ("scale", 1.5),
                        ("swapped", True)):  # fmt: skip
        qtbot.mouseClick(page.choices[name].buttons[value], LEFT)
    settings.forget_known()
    assert (settings.wheel_scrolls(), settings.pen(), settings.scale()) == (True, "strength", 1.5)
    assert settings.slice_s() == 1.0 and designer.session.slice_s == 1.0
    assert BUTTONS[LEFT] == "right" and BUTTONS[RIGHT] == "left"


def test_swapped_buttons_lay_the_other_hand(designer):
    swap_hands(True)
    designer.stroke((3, 3), (3, 6))
    assert designer.session.handle.history.edits[-1].label == "Stones"


# --- hints ------------------------------------------------------------------------------------


def test_a_hint_goes_away_once_it_was_done(designer):
    hints = designer.window.rack.hints
    assert "drag to lay" in hints.shown("drag", deep=False)
    designer.stroke((3, 3), (3, 6))
    assert "drag to lay" not in hints.shown("drag", deep=False)
    assert "laid" in settings.done_hints()
    assert "drag to lay" not in Hints().shown("drag", deep=False)  # the next start


def test_hints_fit_what_is_done_now():
    hints = Hints()
    assert all("Shift picks" not in text for text in hints.shown("drag", deep=False))
    for hint in HINTS:
        hints.did(hint.name)
    assert hints.shown("lasso", deep=True) == []
    settings.remember_hints(frozenset())
    hints.renew()
    assert len(hints.shown("lasso", deep=True)) == 3


# --- pens -------------------------------------------------------------------------------------


def cells_of(pressing: str, pressures: list[float]) -> set[tuple[int, int]]:
    room = small_room((12, 20))
    points = np.array([(5.0, float(x)) for x in range(3, 3 + len(pressures))])
    brush = Mosaic("Wide", one(0, 0), nib=5)
    drawn = Drawn(points, Gesture("drag"), pressures=np.array(pressures), pressing=pressing)  # type: ignore[arg-type]
    place = Place(room.project.data, room.name)
    room.project.add_brush(brush)
    edit = brush.plan(Place(room.project.data, room.name), drawn.marks(place, brush))
    room.project.history.apply(edit)
    layer = room.data.cell_layers()[0][1]
    number = room.project.data.materials.index("Wide") + 1
    return set(map(tuple, np.argwhere(layer.plane("material") == number).tolist()))


def test_a_nib_is_as_wide_as_the_pen_presses():
    wide = {y for y, x in cells_of("nib", [0.2, 0.2, 0.2, 1.0, 1.0, 1.0]) if x == 8}
    thin = {y for y, x in cells_of("nib", [0.2, 0.2, 0.2, 1.0, 1.0, 1.0]) if x == 3}
    assert len(wide) == 5 and len(thin) == 1


def test_a_pen_that_presses_wholly_is_a_mouse():
    assert cells_of("nib", [1.0] * 5) == cells_of("nothing", [0.3] * 5)


def test_the_strength_of_a_stroke_is_how_hard_the_pen_pressed():
    points = np.zeros((3, 2))
    room = small_room((6, 6))
    drawn = Drawn(points, Gesture("drag"), pressures=np.array([0.2, 0.6, 0.4]), pressing="strength")
    marks = drawn.marks(Place(room.project.data, room.name), Mosaic("M", one(0, 0)))
    assert marks.strength == pytest.approx(0.6)


def test_a_pen_on_the_table_lays_as_hard_as_it_presses(designer):
    """Events of a real pen, between those of the mouse that Qt makes of them."""
    table = designer.window.table
    device = QPointingDevice(
        "pen", 7, QInputDevice.DeviceType.Stylus, QPointingDevice.PointerType.Pen,
        QInputDevice.Capability.Pressure, 1, 1,
    )  # fmt: skip

    def pen(kind: QEvent.Type, cell: tuple[int, int], pressure: float) -> None:
        at = designer.at(cell)
        event = QTabletEvent(
            kind, device, QPointF(at), QPointF(table.mapToGlobal(at)), pressure, 0, 0, 0, 0, 0,
            Qt.KeyboardModifier.NoModifier, LEFT, LEFT,
        )  # fmt: skip
        QApplication.sendEvent(table, event)

    designer.session.handle.add_brush(Mosaic("Wide", one(0, 0), nib=5))
    designer.session.hands.take("left", "Wide")
    pen(QEvent.Type.TabletPress, (12, 6), 0.2)
    designer.press((12, 6))
    pen(QEvent.Type.TabletMove, (12, 9), 0.2)
    designer.hover((12, 9))
    pen(QEvent.Type.TabletMove, (12, 14), 1.0)
    designer.hover((12, 14))
    pen(QEvent.Type.TabletMove, (12, 14), 1.0)
    designer.let_go((12, 14))
    layer = designer.session.room.cell_layers()[0][1]
    number = designer.session.project.materials.index("Wide") + 1
    wide = (layer.plane("material") == number).sum(axis=0)
    assert wide[6] == 1 and wide[14] == 5
