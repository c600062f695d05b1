"""Dialogs: sheets, slots, new rooms, new brushes, survey."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QApplication, QFileDialog

from tests.rooms import sheet_picture
from tests.sheets import loose_sheet
from topion.grid.boxes import Box
from topion.model.tileset import Cut
from topion.pictures.png import png_bytes
from topion.view.dialogs.room import RoomDialog
from topion.view.dialogs.sheet_view import SheetView

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def view(qtbot):
    made = SheetView()
    qtbot.addWidget(made)
    made.resize(600, 500)
    sheet = sheet_picture(side=16)
    made.show_sheet(sheet)
    made.show_cut(Cut((16, 16)), None)
    made.selectable = True
    made.show()
    qtbot.waitExposed(made)
    return made


def drag(qtbot, view, a, b):
    start, end = (view.slot_rect(*at).center().toPoint() for at in (a, b))
    qtbot.mousePress(view, LEFT, pos=start)
    qtbot.mouseMove(view, end)
    qtbot.mouseRelease(view, LEFT, pos=end)


@pytest.mark.parametrize(
    ("a", "b"), [((1, 1), (3, 4)), ((3, 4), (1, 1)), ((1, 4), (3, 1)), ((2, 2), (2, 2))]
)
def test_slots_are_marked_from_any_corner(qtbot, view, a, b):
    with qtbot.waitSignal(view.marked):
        drag(qtbot, view, a, b)
    lo = (min(a[0], b[0]), min(a[1], b[1]))
    hi = (max(a[0], b[0]) + 1, max(a[1], b[1]) + 1)
    assert view.selection == Box(lo, hi)


def test_a_mark_stays_inside_the_sheet(qtbot, view):
    qtbot.mousePress(view, LEFT, pos=view.slot_rect(4, 6).center().toPoint())
    qtbot.mouseMove(view, QPoint(599, 499))
    qtbot.mouseRelease(view, LEFT, pos=QPoint(599, 499))
    assert view.selection == Box((4, 6), (6, 8))


def test_the_sheet_zooms_to_the_pointer_and_moves(qtbot, view):
    at = view.slot_rect(2, 3).center()
    place = QPointF(view.mapToGlobal(at.toPoint()))
    event = QWheelEvent(at, place, QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton,
                        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    before = view.slot_rect(2, 3)
    QApplication.sendEvent(view, event)
    after = view.slot_rect(2, 3)
    assert after.width() > before.width() and (after.center() - at).manhattanLength() < 1
    middle = Qt.MouseButton.MiddleButton
    qtbot.mousePress(view, middle, pos=QPoint(100, 100))
    qtbot.mouseMove(view, QPoint(140, 90))
    qtbot.mouseRelease(view, middle, pos=QPoint(140, 90))
    assert (view.slot_rect(2, 3).center() - after.center()).toPoint() == QPoint(40, -10)


def test_the_cut_is_drawn_over_the_sheet(view):
    plain = view.grab().toImage()
    view.show_cut(Cut((32, 32), 0, 0), None)
    assert view.grab().toImage() != plain
    assert view.grid == (3, 4)


def test_a_cut_that_fits_no_tile_cannot_be_brought_in(designer, tmp_path):
    path = tmp_path / "s.png"
    path.write_bytes(sheet_picture(side=16).png)
    dialog = designer.window.files.cut_sheet(path)
    dialog.tile_w.setValue(400)
    designer.qtbot.waitUntil(lambda: "No whole tile" in dialog.told.text())
    assert not dialog.make.isEnabled()
    designer.qtbot.mouseClick(dialog.cards.cards[0], Qt.MouseButton.LeftButton)
    designer.qtbot.waitUntil(lambda: dialog.make.isEnabled())
    dialog.reject()


def test_a_taken_name_is_said_in_the_dialog(designer, tmp_path):
    path = tmp_path / "s.png"
    path.write_bytes(sheet_picture(side=16).png)
    dialog = designer.window.files.cut_sheet(path)
    dialog.name.setText("sheet")
    dialog.bring_in()
    assert "already a tile set named “sheet”" in dialog.problem.text() and dialog.isVisible()
    dialog.reject()
    assert list(designer.session.project.tilesets) == ["sheet"]


def test_a_sheet_without_regular_tiles_starts_from_a_common_size(designer, tmp_path):
    path = tmp_path / "odd.png"
    path.write_bytes(png_bytes(np.random.default_rng(2).integers(0, 255, (37, 41, 4), np.uint8)))
    dialog = designer.window.files.cut_sheet(path)
    assert dialog.cut() == Cut((16, 16)) and not dialog.cards.cards
    dialog.reject()


def test_a_dialog_that_was_closed_counts_no_more(designer, tmp_path, monkeypatch):
    path = tmp_path / "s.png"
    path.write_bytes(sheet_picture(side=16).png)
    dialog = designer.window.files.cut_sheet(path)
    counted = []
    monkeypatch.setattr(dialog, "refresh", lambda: counted.append(1))
    dialog.tile_w.setValue(8)
    dialog.reject()
    designer.settle(200)
    assert not counted


def test_drawings_that_lie_loosely_become_slots_by_a_click(designer, tmp_path):
    path = tmp_path / "loose.png"
    path.write_bytes(png_bytes(loose_sheet()))
    dialog = designer.window.files.cut_sheet(path)
    loose = next(card for card in dialog.cards.cards if card.text().endswith("drawings"))
    dialog.tile_w.setValue(20)
    designer.qtbot.waitUntil(lambda: not any(card.isChecked() for card in dialog.cards.cards))
    designer.qtbot.mouseClick(loose, Qt.MouseButton.LeftButton)
    designer.qtbot.waitUntil(lambda: "one a drawing: " in dialog.told.text())
    designer.qtbot.mouseClick(dialog.make, Qt.MouseButton.LeftButton)
    tileset = designer.session.project.tileset("loose")
    assert tileset.grid_shape == (1, len(tileset.cut.rects)) and tileset.filled.all()
    sheets = designer.window.desks.desk
    at = sheets.view.slot_rect(0, 3).center().toPoint()
    designer.qtbot.mouseClick(sheets.view, Qt.MouseButton.LeftButton, pos=at)
    assert sheets.view.selection == Box((0, 3), (1, 4))


def test_slots_become_a_mosaic_and_a_weave(designer):
    window = designer.window
    window.show_sheets()
    window.desks.desk.view.select(Box((4, 0), (5, 3)))
    designer.qtbot.mouseClick(window.desks.desk.buttons["mosaic"], LEFT)
    assert designer.session.hands["left"] == "sheet mosaic" and window.desks.desk is None
    window.show_sheets()
    window.desks.desk.view.select(Box((0, 0), (3, 3)))
    assert window.desks.desk.layout_choice.count() == 2
    window.desks.desk.layout_choice.setCurrentText("nine: corners, edges, middle")
    designer.qtbot.mouseClick(window.desks.desk.buttons["weave"], LEFT)
    assert designer.session.hands["left"] == "sheet weave"
    assert window.desks.desk.name == "sheet weave", "its own desk is shown"
    assert not [case for case in window.desks.desk.work.cover() if case.by == "open"]
    window.desks.close_desk()
    designer.settle()
    designer.stroke((5, 5), (5, 9))
    assert designer.material((5, 7)) == "sheet weave"


def test_an_empty_block_is_refused_in_the_dialog(designer):
    designer.window.show_sheets()
    dialog = designer.window.desks.desk
    dialog.view.select(Box((5, 0), (6, 2)))
    dialog.take("left")
    assert "at least one tile" in dialog.told.text()
    dialog.view.selection = None
    dialog.take("left")


def test_a_project_without_sheets_asks_for_one(designer, monkeypatch):
    asked = []
    monkeypatch.setattr(
        QFileDialog, "getOpenFileName", lambda *a, **k: asked.append(a[1]) or ("", "")
    )
    designer.window.files.new_project()
    designer.window.show_sheets()
    assert asked == ["Bring in a tile sheet"]
    designer.window.session.handle.history.mark_saved()


def test_a_new_room_takes_the_cell_size_of_the_last(designer):
    dialog = RoomDialog(designer.window, designer.window)
    dialog.open()
    assert isinstance(dialog, RoomDialog) and dialog.cell.value() == 4
    assert dialog.name.text() == "Room 1"
    dialog.width_cells.setValue(9)
    dialog.height_cells.setValue(7)
    dialog.make()
    assert designer.room.size == (7, 9)


def test_the_count_of_findings_stands_in_the_top_bar(designer):
    designer.room.lay("Lamp", cells=[(3, 3), (3, 4)], override=True)
    designer.qtbot.waitUntil(
        lambda: designer.window.top_bar.survey.text() == "Survey 2", timeout=5000
    )
    designer.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    designer.qtbot.waitUntil(
        lambda: designer.window.top_bar.survey.text() == "Survey", timeout=5000
    )


def test_file_dialogs_that_are_closed_change_nothing(designer, monkeypatch):
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: ("", ""))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a, **k: "")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: ("", ""))
    files = designer.window.files
    files.bring_in_sheet()
    files.ask_open()
    files.ask_export("png")
    designer.window.new_brush.ask_picture()
    assert designer.window.saves.save() is False and not designer.handle.history.changed


def test_saving_where_nothing_can_be_written_is_said(designer, tmp_path):
    (tmp_path / "blocked").write_text("a file")
    designer.handle.folder = tmp_path / "blocked" / "P.topion"
    assert designer.window.saves.save() is False
    assert "cannot be saved" in designer.window.said.text()


def test_a_broken_picture_makes_no_thing(designer, tmp_path):
    path = tmp_path / "bad.png"
    path.write_bytes(b"nothing")
    designer.window.new_brush.thing_from(path)
    assert "bad.png is not a PNG" in designer.window.said.text().replace(":", "")
    assert "bad" not in designer.session.project.prefabs


def click_way(designer, name):
    cards = designer.window.new_brush.cards
    number = next(n for n, way in enumerate(cards.ways) if way.name == name)
    at = cards.tiles.tile_rect(number).center().toPoint()
    designer.qtbot.mouseClick(cards.tiles, LEFT, pos=at)
    designer.settle()


def test_new_brushes_are_shown_with_pictures_of_what_they_lay(designer):
    designer.qtbot.mouseClick(designer.window.rack.new, LEFT)
    designer.settle()
    cards = designer.window.new_brush.cards
    assert cards.isVisible()
    designer.qtbot.waitUntil(lambda: len(cards.pictures) == len(cards.ways))
    weave, field = cards.pictures[0], next(w for w in cards.ways if w.name == "Field")
    assert weave is not None and not weave.isNull()
    assert field.needs
    click_way(designer, "Weave")
    assert not cards.isVisible() and designer.window.desks.desk is not None


def test_a_field_is_offered_only_for_a_thing_in_hand(designer):
    for name, offered in (("Water", False), ("Bush", True)):
        designer.session.hands.take("left", name)
        designer.key(Qt.Key.Key_B, Qt.KeyboardModifier.ControlModifier)
        click_way(designer, "Field")
        assert ("Bush field" in designer.session.project.brushes) is offered
        assert designer.window.new_brush.cards.isVisible() is not offered
        designer.window.new_brush.cards.hide()
