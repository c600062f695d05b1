"""The pixels of a slot, painted with real mouse and keys."""

import numpy as np
import pytest
from PyQt6.QtCore import Qt

from tests.rooms import SHEET
from topion.edit.pixels import PARTS
from topion.grid.boxes import Box
from topion.view.desks.pixel_desk import PixelDesk
from topion.view.desks.tileset_desk import TileSetDesk

LEFT, RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton


@pytest.fixture
def desk(designer):
    designer.key(Qt.Key.Key_F6)
    designer.settle(60)
    sets = designer.window.desks.desk
    sets.view.select(Box((1, 2), (2, 3)))
    designer.settle()
    designer.qtbot.mouseClick(sets.side.pixels, LEFT)
    designer.settle(60)
    return designer.window.desks.desk


def pixels(designer, at=(1, 2)):
    return np.array(designer.handle.data.tileset(SHEET).pixels(at))


def stroke(designer, desk, *cells, button=LEFT):
    table = desk.tables.shown
    points = [table.cell_centre(*cell).toPoint() for cell in cells]
    designer.qtbot.mouseMove(table, points[0])
    designer.qtbot.mousePress(table, button, pos=points[0])
    for point in points[1:]:
        designer.qtbot.mouseMove(table, point)
    designer.qtbot.mouseRelease(table, button, pos=points[-1])
    designer.settle()


def test_it_opens_from_a_marked_slot_and_leads_back_to_the_sheet(designer, desk):
    assert isinstance(desk, PixelDesk) and desk.name == "1,2"
    designer.qtbot.mouseClick(desk.bar.project, LEFT)
    designer.settle()
    assert isinstance(designer.window.desks.desk, TileSetDesk)


def test_a_stroke_is_one_edit_of_the_sheet_and_is_undone(designer, desk):
    before, count = pixels(designer), len(designer.handle.history.edits)
    white = next(n for n, name in enumerate(desk.ground.colours) if name == "#ffffff")
    designer.qtbot.mouseClick(
        desk.colours, LEFT, pos=desk.colours.rect_of(white).center().toPoint()
    )
    stroke(designer, desk, (2, 0), (2, 3))
    assert (pixels(designer)[2] == 255).all()
    assert len(designer.handle.history.edits) == count + 1
    designer.qtbot.keyClick(desk.tables.shown, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    designer.settle(60)
    assert (pixels(designer) == before).all()
    material = desk.ground.session.room.layers["pixels"].plane("material")
    assert len(np.unique(material[2])) == 1, "the room shows what is there again"


def test_the_right_button_clears_and_a_flood_fills(designer, desk):
    stroke(designer, desk, (3, 1), (3, 2), button=RIGHT)
    assert (pixels(designer)[3, 1:3, 3] == 0).all()
    designer.qtbot.keyClick(desk.tables.shown, Qt.Key.Key_F)
    white = next(name for name in desk.ground.colours if name == "#ffffff")
    desk.ground.session.hands.take("left", white)
    stroke(designer, desk, (2, 2))
    shown = pixels(designer)
    assert (shown[2] == 255).all() and (shown[3, 1:3, 3] == 0).all()


def test_a_new_colour_comes_into_the_left_hand(designer, desk):
    desk.ground.add_colour("#12345680")
    designer.settle()
    assert desk.ground.session.hands["left"] == "#12345680"
    stroke(designer, desk, (2, 2))
    assert pixels(designer)[2, 2].tolist() == [0x12, 0x34, 0x56, 0x80]


def test_the_tint_mask_is_painted_the_same_way(designer, desk):
    designer.qtbot.mouseClick(desk.what.buttons[True], LEFT)
    designer.settle(60)
    assert desk.ground.colours == list(PARTS)
    stroke(designer, desk, (0, 0), (0, 3))
    mask = designer.handle.data.tileset(SHEET).mask
    assert mask.cells[4, 8:12].tolist() == [1, 1, 1, 1] and mask.cells.sum() == 4
    designer.qtbot.mouseClick(desk.what.buttons[False], LEFT)
    designer.settle(60)
    assert "#ffffff" in desk.ground.colours


def test_the_desk_goes_with_its_tile_set(designer):
    handle = designer.handle
    sheet = handle.data.tileset(SHEET)
    handle.add_tileset(type(sheet)("Other", sheet.sheet, sheet.cut))
    designer.key(Qt.Key.Key_F6)
    designer.settle(60)
    designer.window.desks.open_pixels((0, 0))
    assert designer.window.desks.desk.ground.tileset_name == "Other"
    designer.session.undo()
    designer.settle()
    assert designer.window.desks.desk is None
