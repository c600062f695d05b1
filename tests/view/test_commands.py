"""One table of commands feeds keys, menus, tooltips and the sheet of keys."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QMenu

from topion.things.sowings import ready_sowing
from topion.view.commands import Command, Commands


def entries(menu: QMenu) -> list[str]:
    return [action.text() for action in menu.actions() if not action.isSeparator()]


@pytest.fixture
def counted():
    """Three commands that count how often they were carried out."""
    done = {"save": 0, "step": 0, "held": 0}

    def does(name):
        def act():
            done[name] += 1

        return act

    commands = Commands(
        [
            Command("save", "Save", does("save"), ("Ctrl+S",)),
            Command("step", "Step", does("step"), ("Right",), repeats=True),
            Command("held", "Hold", does("held"), ("E",), let_go=lambda: done.update(held=-1)),
            Command("never", "Never", does("save"), ("Ctrl+N",), when=lambda: False),
        ]
    )
    return commands, done


def test_a_name_and_a_key_are_given_once():
    commands = Commands([Command("save", "Save", print, ("Ctrl+S",))])
    with pytest.raises(ValueError, match="already a command 'save'"):
        commands.add([Command("save", "Again", print)])
    with pytest.raises(ValueError, match=r"key Ctrl\+S of 'other' is that of 'save'"):
        commands.add([Command("other", "Other", print, ("Ctrl+S",))])


def test_tooltips_and_menus_name_the_key(counted, qtbot):
    commands, done = counted
    assert commands.tip("save") == "Save (Ctrl+S)"
    assert commands.tip("save", "Write it") == "Write it (Ctrl+S)"
    menu = QMenu()
    qtbot.addWidget(menu)
    commands.fill(menu, "save", "", "never")
    assert entries(menu) == ["Save\tCtrl+S", "Never\tCtrl+N"]
    assert [action.isEnabled() for action in menu.actions()] == [True, True, False]
    menu.actions()[0].trigger()
    assert done["save"] == 1


def test_every_button_of_the_window_tells_the_key_of_its_command(designer):
    window = designer.window
    assert window.top_bar.survey.toolTip().endswith("(F7)")
    assert window.top_bar.export.toolTip().endswith("(Ctrl+E)")
    assert window.rack.new.toolTip().endswith("(Ctrl+B)")
    assert window.stack.add.toolTip().endswith("(Ctrl+L)")


def test_the_sheet_of_keys_covers_the_window_and_any_key_puts_it_away(designer):
    window, qtbot = designer.window, designer.qtbot
    before = window.grab().toImage()
    designer.key(Qt.Key.Key_F1)
    shown = window.grab().toImage()
    middle = window.rect().center()
    assert shown.pixelColor(middle).name() == "#fbfaf5" != before.pixelColor(middle).name()
    sheet = next(w for w in window.children() if getattr(w, "accessibleName", str)() == "Keys")
    assert "Ctrl+Z: Undo" in sheet.accessibleDescription()
    laid = designer.handle.history.at
    qtbot.keyClick(sheet, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    designer.settle()
    assert not sheet.isVisible() and designer.handle.history.at == laid
    designer.key(Qt.Key.Key_Question, Qt.KeyboardModifier.ShiftModifier)
    assert sheet.isVisible()
    qtbot.mouseClick(sheet, Qt.MouseButton.LeftButton)
    assert not sheet.isVisible()


def test_commands_of_voxel_rooms_wait_for_one(designer):
    commands = designer.window.commands
    for name in ("perspective", "view top", "next corner", "picture of view"):
        assert not commands[name].when()
    designer.key(Qt.Key.Key_P)
    assert designer.window.tables.space is None


def test_a_brush_that_has_no_turn_keeps_its_values(designer):
    """Backspace with a field in hand once spoilt the field."""
    designer.session.hands.take("left", "Reeds")
    before = designer.handle.data.brush("Reeds")
    for key in (Qt.Key.Key_Backspace, Qt.Key.Key_T, Qt.Key.Key_M):
        designer.key(key)
    assert designer.handle.data.brush("Reeds") == before


def test_another_radius_of_a_field_sows_nothing_anew(designer):
    session, data = designer.session, designer.handle.data
    designer.room.lay("Reeds", box=((2, 2), (12, 12)))
    designer.settle(300)
    sown = ready_sowing(data, designer.room.data, "reeds")
    assert sown is not None
    kept = dict(designer.table.chunks.kept)
    session.hands.set_field(data.brush("Reeds"), "radius", 9.0)
    assert ready_sowing(data, designer.room.data, "reeds") is sown
    assert dict(designer.table.chunks.kept) == kept
    session.hands.set_field(data.brush("Reeds"), "spacing", 2.0)
    assert ready_sowing(data, designer.room.data, "reeds") is None


def test_another_rule_shows_at_the_next_frame(designer):
    before = designer.shown((5, 5))
    mud = designer.handle.data.brush("Mud")
    from dataclasses import replace

    last = mud.rules.rules[0]
    designer.session.put(replace(mud, rules=replace(mud.rules, rules=(
        replace(last, marks=(("any",) * 3,) * 3),))))  # fmt: skip
    designer.settle(60)
    assert designer.shown((5, 5)) != before
    designer.session.undo()
    designer.settle(60)
    assert designer.shown((5, 5)) == before


def test_a_room_that_cannot_be_read_is_said_and_the_old_one_stays(designer, tmp_path):
    handle = designer.handle
    handle.add_room("Cellar", (6, 6), 4)
    folder = handle.save(tmp_path / "W.topion")
    (folder / "rooms/Cellar/room.json").write_text("[]")
    designer.window.files.open(folder)
    session = designer.window.session
    assert session.room_name == "Yard"
    session.open_room("Cellar")
    assert session.room_name == "Yard" and "Cellar/room.json" in designer.window.said.text()
