"""The tile set desk: what is set of marked slots lands in the tile set, as Edits."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QApplication

from tests.rooms import SHEET
from topion.edit.library import put_tileset
from topion.edit.pixels import with_pixels
from topion.edit.slots import slot_at
from topion.grid.boxes import Box
from topion.kit import flat
from topion.model.tileset import Cut, TileSet
from topion.pictures.png import picture_of, png_bytes

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def desk(designer):
    designer.handle.room(designer.session.room_name).lay("Water", box=((2, 2), (6, 6)))
    designer.key(Qt.Key.Key_F6)
    designer.settle(60)
    return designer.window.desks.desk


def sheet(designer):
    return designer.handle.data.tileset(SHEET)


def test_it_takes_the_tables_place_and_shows_the_sheet(designer, desk):
    assert desk.isVisible() and not designer.window.tables.isVisible()
    assert desk.bar.name.text() == SHEET and "slots of 4 × 4 px" in desk.bar.told.text()
    designer.qtbot.keyClick(desk.view, Qt.Key.Key_Escape)
    designer.settle()
    assert designer.window.tables.isVisible()


def test_a_trait_is_set_for_all_marked_slots_as_one_edit(designer, desk):
    desk.view.select(Box((0, 0), (2, 2)))
    count = len(designer.handle.history.edits)
    designer.qtbot.mouseClick(
        desk.side.flags["solid"], LEFT, pos=desk.side.flags["solid"].rect().center() / 8
    )
    assert all(slot_at(sheet(designer), (y, x)).solid for y in (0, 1) for x in (0, 1))
    assert len(designer.handle.history.edits) == count + 1


def test_what_differs_among_slots_is_shown_as_mixed_and_a_click_sets_all(designer, desk):
    desk.view.select(Box((0, 0), (1, 1)))
    desk.side.set_flag("walkable")
    desk.view.select(Box((0, 0), (1, 3)))
    box = desk.side.flags["walkable"]
    assert box.checkState() == Qt.CheckState.PartiallyChecked
    desk.side.set_flag("walkable")
    assert box.checkState() == Qt.CheckState.Checked
    assert all(slot_at(sheet(designer), (0, x)).walkable for x in range(3))


def type_into(designer, edit, text):
    edit.setFocus()
    edit.selectAll()
    designer.qtbot.keyClicks(edit, text)
    designer.qtbot.keyClick(edit, Qt.Key.Key_Return)
    designer.settle()


def test_names_tags_and_frames_are_typed(designer, desk):
    desk.view.select(Box((4, 0), (5, 1)))
    type_into(designer, desk.side.name, "stone")
    assert slot_at(sheet(designer), (4, 0)) == sheet(designer).slots["stone"]
    type_into(designer, desk.side.tags, "hard, grey")
    type_into(designer, desk.side.frames, "4,1 4,2")
    type_into(designer, desk.side.top, "0.5")
    slot = sheet(designer).slots["stone"]
    assert (slot.tags, slot.frames, slot.top) == (("hard", "grey"), ((4, 1), (4, 2)), 0.5)
    names = {ref.slot for ref in designer.handle.data.brush("Stones").tiles_used()}
    assert "stone" in names and "4,0" not in names


def test_what_cannot_be_is_said_and_nothing_changes(designer, desk):
    desk.view.select(Box((0, 0), (1, 1)))
    before = sheet(designer)
    type_into(designer, desk.side.top, "high")
    assert "is a number" in designer.window.said.text()
    type_into(designer, desk.side.top, "7")
    assert sheet(designer) == before


def test_uses_are_listed_and_lead_there(designer, desk):
    why = designer.room.why(3, 3)
    at = sheet(designer).slot(why.tile.slot).at
    desk.view.select(Box(at, (at[0] + 1, at[1] + 1)))
    texts = [desk.side.uses.itemAt(n).widget().text() for n in range(desk.side.uses.count())]
    assert any(text.startswith("Water") for text in texts)
    room = next(n for n, text in enumerate(texts) if "cells" in text)
    designer.qtbot.mouseClick(desk.side.uses.itemAt(room).widget(), LEFT)
    designer.settle()
    assert designer.window.desks.desk is None and designer.window.tables.isVisible()


def test_slots_are_found_by_what_is_typed(designer, desk):
    designer.qtbot.keyClicks(desk.search, "unused")
    unused = desk.view.filled.sum()
    assert 0 < unused < sheet(designer).filled.sum()
    desk.search.clear()
    assert desk.view.filled.sum() == sheet(designer).filled.sum()


def test_what_each_slot_is_in_a_weave_is_shown_and_can_be_chosen(designer, desk):
    desk.view.select(Box((0, 0), (3, 3)))
    shown = dict(desk.view.cases)
    assert len(shown) == 9
    desk.layout_choice.setCurrentIndex(1)
    desk.layout_choice.activated.emit(1)
    assert desk.view.cases != shown


# --- another sheet --------------------------------------------------------------------------


def written(tmp_path, designer, change, name="painted.png"):
    """The sheet as it was painted elsewhere."""
    rgba = np.array(sheet(designer).sheet.rgba)
    path = tmp_path / name
    path.write_bytes(png_bytes(change(rgba)))
    return path


def compared(designer, desk):
    designer.qtbot.waitUntil(lambda: desk.resheet.change is not None, timeout=5000)
    designer.settle()


def one_slot_darker(rgba):
    rgba[4:8, 8:12, :3] //= 2
    return rgba


def test_another_sheet_is_listed_before_it_is_taken(designer, desk, tmp_path):
    old = sheet(designer)
    desk.replace_by(written(tmp_path, designer, one_slot_darker))
    compared(designer, desk)
    assert desk.resheet.isVisible() and not desk.side.isVisible()
    assert "1 redrawn in their place" in desk.resheet.told.text()
    assert [row.name for row in desk.resheet.list.rows] == ["1,2"]
    assert sheet(designer) == old, "nothing is changed yet"
    designer.qtbot.mouseClick(desk.resheet.take, LEFT)
    designer.settle()
    assert (sheet(designer).pixels((1, 2)) != old.pixels((1, 2))).any()
    assert desk.side.isVisible()
    designer.session.undo()
    assert sheet(designer) == old


def test_a_sheet_is_left_as_it_was(designer, desk, tmp_path):
    old, count = sheet(designer), len(designer.handle.history.edits)
    desk.replace_by(written(tmp_path, designer, lambda rgba: rgba[::-1].copy()))
    compared(designer, desk)
    designer.qtbot.mouseClick(desk.resheet.leave, LEFT)
    designer.settle()
    assert sheet(designer) == old and len(designer.handle.history.edits) == count
    assert not desk.resheet.isVisible() and not desk.view.marks


def test_another_cut_is_typed_and_refused_where_slots_in_use_would_be_lost(designer, desk):
    desk.cut_otherwise()
    compared(designer, desk)
    assert not desk.resheet.take.isEnabled(), "the cut is the one it has"
    desk.resheet.spins["width"].setValue(2)
    desk.resheet.spins["margin"].setValue(1)
    designer.qtbot.waitUntil(lambda: desk.resheet.change is None, timeout=5000)
    assert "slots in use" in desk.resheet.told.text() and not desk.resheet.take.isEnabled()
    desk.resheet.spins["width"].setValue(8)
    desk.resheet.spins["margin"].setValue(0)
    compared(designer, desk)
    designer.qtbot.mouseClick(desk.resheet.take, LEFT)
    assert sheet(designer).cut.tile == (4, 8)


def test_a_picture_that_was_painted_elsewhere_is_offered(designer, desk, tmp_path):
    sources, old = designer.window.sources, sheet(designer)
    path = tmp_path / "ground.png"
    path.write_bytes(old.sheet.png)
    sources.came_from(old, path)
    sources.look()
    assert not desk.head.offer.isVisible()
    written(tmp_path, designer, one_slot_darker, "ground.png")
    sources.look()
    designer.settle()
    assert desk.head.offer.isVisible() and "ground.png" in designer.window.said.text()
    designer.qtbot.mouseClick(desk.head.offer, LEFT)
    compared(designer, desk)
    designer.qtbot.mouseClick(desk.resheet.take, LEFT)
    sources.look()
    designer.settle()
    assert (sheet(designer).pixels((1, 2)) != old.pixels((1, 2))).any()
    assert not desk.head.offer.isVisible()


def test_what_is_painted_in_the_desk_is_no_change_of_the_file(designer, desk, tmp_path):
    sources, old = designer.window.sources, sheet(designer)
    path = tmp_path / "ground.png"
    path.write_bytes(old.sheet.png)
    sources.came_from(old, path)
    pixels = np.array(old.pixels((1, 2)))
    pixels[0, 0] = 7
    designer.session.apply(with_pixels(designer.handle.data, SHEET, (1, 2), pixels))
    sources.look()
    assert not sources.waiting


def test_single_pictures_become_slots(designer, desk, tmp_path):
    path = tmp_path / "knob.png"
    path.write_bytes(png_bytes(np.full((3, 3, 4), 255, np.uint8)))
    desk.add_pictures([path])
    designer.settle()
    assert "knob" in sheet(designer).slots
    bad = tmp_path / "bad.png"
    bad.write_bytes(b"nothing")
    desk.add_pictures([bad])
    assert "bad.png" in designer.window.said.text()


# --- slopes and frames ----------------------------------------------------------------------


def pull(designer, preview, number, to):
    start = preview.point(number).toPoint()
    designer.qtbot.mousePress(preview, LEFT, pos=start)
    designer.qtbot.mouseMove(preview, to)
    designer.qtbot.mouseRelease(preview, LEFT, pos=to)
    designer.settle()


def test_a_slope_is_drawn_by_dragging_its_ends(designer, desk):
    desk.view.select(Box((1, 2), (2, 3)))
    designer.settle()
    designer.qtbot.mouseClick(desk.side.slope.buttons[2], LEFT)
    slot = slot_at(sheet(designer), (1, 2))
    assert slot.slope and slot.heights == (1.0, 1.0), "as it is drawn"
    preview, rect = desk.side.preview, desk.side.preview.large()
    pull(designer, preview, 0, rect.bottomLeft().toPoint())
    preview, count = desk.side.preview, len(designer.handle.history.edits)
    pull(designer, preview, 1, QPointF(rect.right(), rect.center().y()).toPoint())
    assert slot_at(sheet(designer), (1, 2)).heights == (0.0, 0.5)
    assert len(designer.handle.history.edits) == count + 1, "one Edit a pull"
    designer.qtbot.mouseClick(desk.side.slope.buttons[5], LEFT)
    assert slot_at(sheet(designer), (1, 2)).heights == (0.0, 0.125, 0.25, 0.375, 0.5)
    pull(designer, preview, 2, QPointF(rect.center().x(), rect.top()).toPoint())
    assert slot_at(sheet(designer), (1, 2)).heights[2] == 1.0
    designer.qtbot.mouseClick(desk.side.slope.buttons[0], LEFT)
    assert not slot_at(sheet(designer), (1, 2)).heights


def test_frames_are_pointed_at_on_the_sheet(designer, desk):
    desk.view.select(Box((1, 2), (2, 3)))
    designer.settle()
    designer.qtbot.mouseClick(desk.side.point, LEFT)
    for at in ((2, 3), (2, 4), (3, 3), (2, 4)):
        pos = desk.view.slot_rect(*at).center().toPoint()
        designer.qtbot.mouseClick(desk.view, LEFT, pos=pos)
    assert slot_at(sheet(designer), (1, 2)).frames == ((2, 3), (3, 3))
    assert set(desk.view.marks) == {(2, 3), (3, 3)}
    assert desk.view.selection == Box((1, 2), (2, 3)), "the slot stays marked"
    designer.qtbot.mouseClick(desk.side.point, LEFT)
    designer.qtbot.mouseClick(desk.view, LEFT, pos=desk.view.slot_rect(0, 0).center().toPoint())
    assert desk.view.selection == Box((0, 0), (1, 1)) and not desk.view.marks


def chosen_from_menu(designer, desk, text):
    designer.qtbot.mouseClick(desk.head.more, LEFT)
    menu = QApplication.activePopupWidget()
    entry = next(action for action in menu.actions() if action.text() == text)
    designer.qtbot.mouseClick(menu, LEFT, pos=menu.actionGeometry(entry).center())
    designer.settle()


def test_the_brushes_a_sheet_is_likely_for_are_made_as_one_edit(designer, desk):
    art = flat.tileset(16)
    designer.session.try_(put_tileset, art)
    desk.show_set(art.name)
    before = set(designer.handle.data.brushes)
    chosen_from_menu(designer, desk, "Make the brushes it is likely for")
    new = [designer.handle.data.brush(n) for n in set(designer.handle.data.brushes) - before]
    assert sum(brush.kind == "weave" for brush in new) == 3
    assert "3 weaves" in designer.window.said.text()
    designer.handle.history.undo()
    assert set(designer.handle.data.brushes) == before


def test_a_sheet_in_which_no_brush_is_seen_says_so(designer, desk):
    rgba = np.zeros((8, 8, 4), np.uint8)
    lone = TileSet("Lone", picture_of(rgba), Cut((4, 4)))
    designer.session.try_(put_tileset, lone)
    desk.show_set("Lone")
    count = len(designer.handle.history.edits)
    chosen_from_menu(designer, desk, "Make the brushes it is likely for")
    assert len(designer.handle.history.edits) == count
    assert "Lone: no weave" in designer.window.said.text()
