"""The legend desk: texts and pictures of others come in by what their symbols stand for."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image
from PyQt6.QtCore import QPoint, Qt

from topion.formats.symbols.legend_files import keep_legend, kept_legends
from topion.model.legend import Legend, Meaning

LEFT = Qt.MouseButton.LeftButton
TEXT = "Old Mill\n\n######\n#.o..#\n#...~#\n######\n\nYard\n\n####\n#..#\n####\n"


@pytest.fixture(autouse=True)
def legends_of_its_own(tmp_path, monkeypatch) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))


@pytest.fixture
def opened(designer, qtbot, tmp_path):
    """The desk on a text of two rooms, with one file that is none."""
    text, bad = tmp_path / "mill.txt", tmp_path / "bad.txt"
    text.write_text(TEXT)
    bad.write_bytes(b"a\0b")
    designer.window.bringing.open([text, bad])
    desk = designer.window.bringing.desk
    qtbot.waitUntil(lambda: desk.work.look is not None, timeout=4000)
    return desk


def click_symbol(qtbot, desk, symbol: str) -> None:
    side = desk.side
    row = side.rows.index(side.rows.rows.index(symbol))
    side.list.scrollTo(row)
    at = side.list.visualRect(row).center()
    qtbot.mouseClick(side.list.viewport(), LEFT, pos=at)


def type_into(qtbot, desk, part: str, text: str) -> None:
    line = desk.side.choices[part].lineEdit()
    qtbot.mouseClick(line, LEFT)
    line.selectAll()
    qtbot.keyClicks(line, text)
    qtbot.keyClick(line, Qt.Key.Key_Return)


def test_the_rooms_and_what_was_left_out_are_told(opened):
    assert opened.left.rooms.rowCount() == 2
    assert "bad.txt, line 1: is no text" in opened.left.left_out.text()
    assert opened.bar.told.text() == "2 files, 2 rooms, 36 cells, 1 left out"


def test_a_symbol_is_mapped_by_a_click_and_a_name(designer, opened, qtbot):
    click_symbol(qtbot, opened, "o")
    type_into(qtbot, opened, "material", "Mud")
    type_into(qtbot, opened, "prefab", "Bush")
    assert opened.work.meaning("o").parts == ("Mud", "Bush", "")
    qtbot.mouseClick(opened.foot.bring, LEFT)
    designer.settle()
    room = designer.session.room
    assert designer.session.room_name == "Old Mill"
    things = [t for _, la in room.bottom_up("things") for t in la.things.values()]
    assert [(t.prefab, t.cell) for t in things] == [("Bush", (1, 2))]
    materials = ("", *designer.session.project.materials)
    layers = [la.plane("material")[1, 2] for _, la in room.cell_layers()]
    assert "Mud" in [materials[n] for n in layers]


def test_all_rooms_are_one_stroke_of_the_ribbon(designer, opened, qtbot):
    before = tuple(designer.session.project.rooms)
    qtbot.mouseClick(opened.foot.bring, LEFT)
    assert tuple(designer.session.project.rooms) == (*before, "Old Mill", "Yard 2")
    designer.session.undo()
    assert tuple(designer.session.project.rooms) == before


def test_a_click_on_a_cell_chooses_its_symbol_and_lights_it(opened, qtbot):
    view = opened.views.symbols
    rect = view.rect_of((4, 6))
    side = rect.width() / 6
    at = QPoint(int(rect.left() + 4.5 * side), int(rect.top() + 2.5 * side))
    before = view.grab().toImage().pixelColor(int(rect.left() + 3), int(rect.top() + 3))
    qtbot.mouseClick(view, LEFT, pos=at)
    assert opened.side.chosen() == ["~"] and opened.work.lit == "~"
    after = view.grab().toImage().pixelColor(int(rect.left() + 3), int(rect.top() + 3))
    assert after.lightness() > before.lightness()  # others step back


def test_several_symbols_are_set_at_once(opened, qtbot):
    click_symbol(qtbot, opened, "o")
    row = opened.side.rows.index(opened.side.rows.rows.index("~"))
    qtbot.mouseClick(opened.side.list.viewport(), LEFT, Qt.KeyboardModifier.ControlModifier,
                     opened.side.list.visualRect(row).center())  # fmt: skip
    qtbot.mouseClick(opened.side.nothing, LEFT)
    assert not any(opened.work.meaning("o").parts) and not any(opened.work.meaning("~").parts)


def test_the_picture_of_the_room_follows_the_legend(opened, qtbot):
    before = opened.work.look.copy()
    click_symbol(qtbot, opened, "#")
    type_into(qtbot, opened, "material", "Mud")
    qtbot.waitUntil(lambda: not np.array_equal(opened.work.look, before), timeout=4000)


def test_a_file_is_read_in_another_way_when_asked(opened, qtbot):
    choice = opened.reading.choices["parts"]
    choice.setFocus()
    qtbot.keyClicks(choice, "nothing")
    choice.activated.emit(choice.currentIndex())
    assert [grid.size for grid in opened.work.batch.grids] == [(9, 6)]


def test_a_legend_of_last_time_is_taken_by_itself(designer, qtbot, tmp_path):
    keep_legend(Legend("mills", tuple(Meaning(s, "Mud") for s in "#.o~")))
    path = tmp_path / "mill.txt"
    path.write_text(TEXT)
    designer.window.bringing.open([path])
    desk = designer.window.bringing.desk
    assert desk.work.legend.name == "mills"
    assert desk.foot.made.text() == ""  # nothing has to be made
    qtbot.mouseClick(desk.foot.bring, LEFT)
    assert [legend.name for legend in kept_legends()] == ["mills"]


def test_a_legend_goes_to_a_file_and_comes_from_one(opened, tmp_path):
    path = tmp_path / "l.json"
    opened.work.mean(["#"], material="Mud")
    opened.left.write_file(path)
    opened.work.mean(["#"], material="")
    opened.left.take_file(path)
    assert opened.work.meaning("#").material == "Mud"
    path.write_text("{}")
    opened.left.take_file(path)
    assert opened.work.meaning("#").material == "Mud"


def test_colours_of_a_picture_are_mapped_the_same_way(designer, qtbot, tmp_path):
    pixels = np.zeros((4, 6, 3), np.uint8)
    pixels[1:3] = (200, 40, 40)
    path = tmp_path / "map.png"
    Image.fromarray(pixels).save(path)
    designer.window.bringing.open([path])
    desk = designer.window.bringing.desk
    assert desk.side.rows.rows == ["#000000", "#c82828"]
    click_symbol(qtbot, desk, "#c82828")
    type_into(qtbot, desk, "material", "Water")
    click_symbol(qtbot, desk, "#000000")
    qtbot.mouseClick(desk.side.nothing, LEFT)
    qtbot.mouseClick(desk.foot.bring, LEFT)
    designer.settle()
    ((_, layer),) = designer.session.room.cell_layers()
    water = designer.session.project.materials.index("Water") + 1
    assert layer.plane("material").tolist() == [[0] * 6, [water] * 6, [water] * 6, [0] * 6]


def test_a_file_that_holds_no_room_is_said_and_opens_nothing(designer, tmp_path):
    said: list[str] = []
    designer.window.fail = said.append
    path = tmp_path / "empty.txt"
    path.write_text("")
    designer.window.bringing.open([path])
    assert designer.window.bringing.desk is None
    assert said == ["Nothing could be read: empty.txt: is empty"]
