"""The block desk, worked with real mouse and keys."""

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QPushButton

from tests.rooms import SHEET
from topion.model.tileset import TileRef
from topion.view.desks.block_desk import BlockDesk
from topion.view.desks.pixel_desk import PixelDesk
from topion.view.desks.tileset_desk import TileSetDesk

LEFT, RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton
CONTROL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def desk(designer):
    designer.window.show_blocks()
    designer.settle(60)
    found = designer.window.desks.desk
    if not found.name:
        designer.qtbot.mouseClick(found.new, LEFT)
        designer.settle(60)
    return found


def block(designer, desk):
    return designer.handle.data.blocks[desk.name]


def made_of(designer, desk, kind):
    designer.qtbot.mouseClick(desk.kinds.buttons[kind], LEFT)
    designer.settle(60)


def test_a_block_is_made_with_its_brush_and_named(designer, desk):
    assert isinstance(desk, BlockDesk) and desk.name == "Block"
    assert "Block" in designer.handle.data.brushes
    desk.side.name.setFocus()
    desk.side.name.selectAll()
    designer.qtbot.keyClicks(desk.side.name, "Kerb")
    designer.qtbot.keyClick(desk.side.name, Qt.Key.Key_Return)
    designer.settle()
    assert desk.name == "Kerb" and "Block" not in designer.handle.data.blocks
    assert designer.handle.data.brushes["Block"].tiles_used()[0].slot == "Kerb"


def test_a_slot_comes_onto_the_chosen_face(designer, desk):
    made_of(designer, desk, "3")
    assert len(block(designer, desk).faces) == 3
    _, _, rect = desk.net.faces()[1]
    designer.qtbot.mouseClick(desk.net, LEFT, pos=rect.center().toPoint())
    desk.strip.show_set(SHEET)
    tiles = desk.strip.findChild(type(desk.strip.tiles))
    designer.qtbot.mouseClick(tiles, LEFT, pos=tiles.rect_of(5).center().toPoint())
    designer.settle()
    laid = tiles.refs[5]
    assert block(designer, desk).faces[1] == laid and block(designer, desk).faces[0] != laid
    designer.qtbot.mouseClick(desk.net, RIGHT, pos=rect.center().toPoint())
    designer.settle()
    assert block(designer, desk).faces[1] == laid._replace(turn=1)


def test_traits_turns_and_colour_are_edits(designer, desk):
    count = len(designer.handle.history.edits)
    box = desk.side.flags["climbable"]
    designer.qtbot.mouseClick(box, LEFT, pos=QPoint(8, box.height() // 2))
    designer.qtbot.mouseClick(desk.side.turns.buttons["none"], LEFT)
    desk.side.set_colour("#336699")
    made = block(designer, desk)
    assert made.climbable and made.turns == "none" and made.colour == "#336699"
    assert len(designer.handle.history.edits) == count + 3
    for _ in range(3):
        designer.session.undo()
    assert block(designer, desk).turns == "quarters" and not block(designer, desk).climbable


def test_voxels_are_built_with_strokes_and_undone(designer, desk):
    made_of(designer, desk, "8")
    model = block(designer, desk).model
    assert model.size == (8, 8, 8) and model.cells.all()
    table, count = desk.tables.shown, len(designer.handle.history.edits)
    designer.qtbot.waitUntil(table.settled, timeout=5000)
    at = table.face_centre(0, 7, 6, 6).toPoint()
    designer.qtbot.mouseMove(table, at)
    designer.qtbot.mouseClick(table, RIGHT, pos=at)
    designer.settle(60)
    assert (block(designer, desk).model.cells == 0).sum() == 1
    assert block(designer, desk).model.cells[7, 6, 6] == 0
    assert len(designer.handle.history.edits) == count + 1
    designer.qtbot.keyClick(table, Qt.Key.Key_Z, CONTROL)
    designer.settle(60)
    assert block(designer, desk).model == model
    shown = desk.ground.session.room.layers["voxels"].plane("material")
    assert (shown > 0).all(), "the room shows what is there again"


def test_a_colour_of_the_model_becomes_another_everywhere(designer, desk):
    made_of(designer, desk, "8")
    old = block(designer, desk).model.palette[0]
    desk.change_colour(old, "#123456")
    designer.settle(60)
    assert block(designer, desk).model.palette == ("#123456",)
    assert desk.ground.session.hands["left"] == "#123456"


def test_the_picture_turns_with_the_pointer(designer, desk):
    made_of(designer, desk, "6")
    desk.net.laid.emit(4, TileRef(SHEET, "0,1"))
    designer.settle(300)
    preview = desk.side.preview
    before = preview.grab().toImage()
    designer.qtbot.mousePress(preview, LEFT, pos=QPoint(60, 60))
    designer.qtbot.mouseMove(preview, QPoint(120, 60))
    designer.qtbot.mouseRelease(preview, LEFT, pos=QPoint(120, 60))
    designer.qtbot.waitUntil(lambda: preview.grab().toImage() != before)
    designer.qtbot.mouseMove(preview, QPoint(20, 60))
    turned = preview.grab().toImage()
    designer.qtbot.mouseMove(preview, QPoint(90, 60))
    assert preview.grab().toImage() == turned, "only while the button is held"


def test_desks_open_from_the_brush_in_hand(designer, desk):
    name = desk.name
    designer.key(Qt.Key.Key_Escape)
    assert designer.window.desks.desk is None
    designer.window.open_desk(name)
    assert isinstance(designer.window.desks.desk, BlockDesk)
    designer.window.open_desk("Stones")
    designer.settle()
    opened = designer.window.desks.desk
    slot = designer.handle.data.brushes["Stones"].tiles_used()[0].slot
    assert isinstance(opened, TileSetDesk) and opened.side.own_name() == slot


def test_it_goes_on_when_the_block_is_taken_back(designer, desk):
    for _ in range(2):
        designer.session.undo()
    designer.settle()
    assert not designer.handle.data.blocks and designer.window.desks.desk is desk


def test_a_face_takes_one_colour_and_its_pixels_are_painted(designer, desk):
    made_of(designer, desk, "6")
    _, _, rect = desk.net.faces()[2]
    designer.qtbot.mouseClick(desk.net, LEFT, pos=rect.center().toPoint())
    desk.colour_face("#224466")
    assert block(designer, desk).faces[2] == TileRef("Colours", "#224466")
    paint = next(b for b in desk.findChildren(QPushButton) if b.text() == "pixels ›" and
                 b.isVisible())  # fmt: skip
    designer.qtbot.mouseClick(paint, LEFT)
    designer.settle(60)
    opened = designer.window.desks.desk
    assert isinstance(opened, PixelDesk) and opened.name == "#224466"
