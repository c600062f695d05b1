"""Painting with a real pointer in a real window."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QApplication

from tests.rooms import tile
from topion.brushes import Stamp
from topion.brushes.gestures import GESTURES, Gesture
from topion.render.pixels import as_words
from topion.view.table.chunks import Chunks, cells_of
from topion.view.table.compose import composed

RIGHT = Qt.MouseButton.RightButton
ALT = Qt.KeyboardModifier.AltModifier
CONTROL = Qt.KeyboardModifier.ControlModifier


def test_left_and_right_button_lay_their_hands(designer):
    designer.stroke((5, 5), (5, 9))
    designer.stroke((8, 5), (8, 9), button=RIGHT)
    assert [designer.material((5, x)) for x in (4, 5, 9, 10)] == ["Mud", "Water", "Water", "Mud"]
    assert designer.material((8, 7)) == "Stones"


def test_one_press_to_release_is_one_stroke_however_fast_the_pointer(designer):
    count = len(designer.handle.history.edits)
    designer.stroke((4, 4), (14, 25))
    assert len(designer.handle.history.edits) == count + 1
    wet = np.argwhere(designer.room.data.layers["ground"].planes["material"] == 2)
    assert (np.abs(np.diff(wet, axis=0)).max(axis=1) <= 1).all() and len(wet) == 22


def test_the_window_shows_what_was_laid(designer):
    before = designer.shown((6, 6))
    designer.stroke((6, 6), (6, 6))
    designer.hover((20, 25))
    assert designer.shown((6, 6)) != before
    designer.key(Qt.Key.Key_Z, CONTROL)
    assert designer.shown((6, 6)) == before


@pytest.mark.parametrize(
    "brush", ["Mud", "Water", "Stones", "Block", "Lamp", "Bush", "Cart", "Reeds", "Lift"]
)
@pytest.mark.parametrize("gesture", GESTURES)
def test_the_ghost_is_what_the_press_lays(designer, brush, gesture):
    """For every brush and gesture: the ghost's picture equals the room's after the stroke."""
    designer.room.lay("Water", box=((3, 3), (9, 12)))
    designer.room.lay("Lamp", cells=[(6, 6)])
    designer.handle.add_brush(Stamp("Block", ((tile(0, 1), tile(0, 2)), (None, tile(1, 1)))))
    designer.session.hands.take("left", brush)
    designer.session.gestures.set(Gesture(gesture))
    designer.hover((5, 5))
    designer.press((5, 5))
    designer.move((8, 11))
    designer.move((10, 14))
    designer.settle(30)
    ghost, project = designer.table.ghost, designer.session.project
    image, box, planned = ghost.image, ghost.box, ghost.edit
    before = designer.table.chunks
    count = len(designer.handle.history.edits)
    designer.let_go((10, 14))
    if gesture == "curve":  # two points are clicked by now
        designer.press((10, 14))
        designer.let_go((10, 14))
        designer.key(Qt.Key.Key_Return)
    if not planned:  # nothing to lay here: no ghost, and no stroke either
        assert image is None and len(designer.handle.history.edits) == count
        return
    assert len(designer.handle.history.edits) == count + 1
    room = designer.room.data
    side = before.side_for(designer.table.camera)
    assert composed(project, room, box, side) == image


def test_before_the_press_the_ghost_shows_how_neighbours_follow(designer):
    designer.stroke((6, 6), (6, 8))
    shown = designer.pixels((6, 8))
    designer.hover((6, 9))
    assert designer.pixels((6, 8)) != shown
    assert designer.material((6, 9)) == "Mud"
    designer.hover((20, 25))
    assert designer.pixels((6, 8)) == shown


def test_escape_drops_the_stroke_in_progress(designer):
    designer.press((5, 5))
    designer.move((9, 9))
    designer.key(Qt.Key.Key_Escape)
    designer.let_go((9, 9))
    assert designer.material((5, 5)) == "Mud" and not designer.handle.history.changed


def test_a_tapped_key_switches_the_gesture_and_a_held_one_is_borrowed(designer):
    designer.key(Qt.Key.Key_B)
    assert designer.session.gestures.now.kind == "box"
    designer.stroke((2, 2), (5, 6))
    assert designer.material((4, 4)) == "Water"
    designer.hold(Qt.Key.Key_L)
    designer.stroke((10, 2), (10, 6))
    designer.release(Qt.Key.Key_L)
    assert designer.session.gestures.now.kind == "box"
    assert designer.material((10, 4)) == "Water" and designer.material((11, 4)) == "Mud"


def test_box_outline_and_flood_options(designer):
    designer.key(Qt.Key.Key_B)
    designer.key(Qt.Key.Key_V)
    designer.stroke((2, 2), (6, 8))
    assert designer.material((2, 5)) == "Water" and designer.material((4, 5)) == "Mud"
    designer.session.hands.take("left", "Stones")
    designer.key(Qt.Key.Key_F)
    designer.stroke((4, 5), (4, 5))
    assert designer.material((4, 4)) == "Stones" and designer.material((10, 10)) == "Mud"
    designer.key(Qt.Key.Key_V)
    designer.stroke((2, 2), (2, 2))
    assert designer.material((6, 8)) == "Stones"


def test_a_held_key_lifts_what_that_hand_lays(designer):
    designer.key(Qt.Key.Key_B)
    designer.stroke((2, 2), (6, 8))
    designer.hold(Qt.Key.Key_E)
    designer.stroke((3, 3), (4, 20))
    designer.release(Qt.Key.Key_E)
    assert designer.material((3, 3)) == "" and designer.material((3, 15)) == "Mud"
    designer.stroke((3, 3), (3, 3))
    assert designer.material((3, 3)) == "Water"


def test_alt_picks_the_brush_under_the_pointer_into_the_hand_of_the_button(designer):
    designer.room.lay("Stones", cells=[(7, 7)])
    designer.room.lay("Lamp", cells=[(9, 9)])
    designer.press((7, 7), modifier=ALT)
    designer.press((9, 9), RIGHT, modifier=ALT)
    assert designer.session.hands.names() == {"left": "Stones", "right": "Lamp"}
    designer.press((1, 1), modifier=ALT)
    assert designer.session.hands["left"] == "Mud"


def test_space_and_middle_drag_pan_and_lay_nothing(designer):
    before = designer.at((5, 5))
    designer.hold(Qt.Key.Key_Space)
    designer.press((5, 5))
    designer.qtbot.mouseMove(designer.table, before + QPoint(30, 20))
    designer.qtbot.mouseRelease(
        designer.table, Qt.MouseButton.LeftButton, pos=before + QPoint(30, 20)
    )
    designer.release(Qt.Key.Key_Space)
    assert designer.at((5, 5)) == before + QPoint(30, 20) and not designer.handle.history.changed
    designer.press((5, 5), Qt.MouseButton.MiddleButton)
    designer.qtbot.mouseMove(designer.table, before)
    designer.qtbot.mouseRelease(designer.table, Qt.MouseButton.MiddleButton, pos=before)
    assert designer.at((5, 5)) == before


def wheel(designer, cell, steps, modifiers=Qt.KeyboardModifier.NoModifier):
    point = QPointF(designer.at(cell))
    event = QWheelEvent(point, QPointF(designer.table.mapToGlobal(point.toPoint())), QPoint(), QPoint(0, 120 * steps),
                        Qt.MouseButton.NoButton, modifiers, Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    QApplication.sendEvent(designer.table, event)


def test_the_wheel_zooms_to_the_pointer_between_its_limits(designer):
    before = designer.at((6, 7))
    wheel(designer, (6, 7), 1)
    assert (designer.at((6, 7)) - before).manhattanLength() <= 2
    zooms = set()
    for step in (1,) * 6 + (-1,) * 20:
        wheel(designer, (6, 7), step)
        zooms.add(designer.table.camera.zoom)
    assert max(zooms) == 16 and min(zooms) == 1 / 32
    designer.settle()


def test_the_wheel_with_a_key_moves_the_room(designer):
    before = designer.at((6, 7))
    wheel(designer, (6, 7), 1, Qt.KeyboardModifier.ShiftModifier)
    wheel(designer, (6, 7), -1, CONTROL)
    after = designer.at((6, 7))
    assert after.x() > before.x() and after.y() < before.y()


def test_a_refused_thing_is_not_laid_unless_overridden(designer):
    designer.session.hands.take("left", "Lamp")
    designer.stroke((8, 8), (8, 8))
    designer.hover((8, 9))
    assert designer.table.ghost.verdict.allowed is False
    designer.stroke((8, 9), (8, 9))
    assert len(designer.room.things()) == 1
    designer.hold(Qt.Key.Key_O)
    designer.stroke((8, 9), (8, 9))
    designer.release(Qt.Key.Key_O)
    assert [t.overridden for t in designer.room.things()] == [False, True]


def test_half_cells_place_things_between(designer):
    designer.session.hands.take("left", "Bush")
    designer.key(Qt.Key.Key_Period)
    point = designer.table.cell_centre(8.25, 8.25).toPoint()
    designer.qtbot.mouseMove(designer.table, point)
    designer.qtbot.mousePress(designer.table, Qt.MouseButton.LeftButton, pos=point)
    designer.qtbot.mouseRelease(designer.table, Qt.MouseButton.LeftButton, pos=point)
    assert [(t.y, t.x) for t in designer.room.things()] == [(8.25, 8.25)]


def test_a_selected_thing_is_nudged_and_removed_with_keys(designer):
    designer.room.lay("Bush", cells=[(8, 8)])
    designer.hover((8, 8))
    designer.settle(60)
    panel = designer.window.at_cursor
    designer.qtbot.mouseClick(panel, Qt.MouseButton.LeftButton, pos=QPoint(60, 48))
    assert designer.session.picked.lying.name == "Bush" and designer.session.layer_id == "things"
    designer.key(Qt.Key.Key_Right)
    assert designer.room.things()[0].cell == (8, 9)
    designer.key(Qt.Key.Key_Delete)
    assert designer.room.things() == []
    designer.key(Qt.Key.Key_Z, CONTROL)
    designer.key(Qt.Key.Key_Z, CONTROL)
    assert designer.room.things()[0].cell == (8, 8)


@pytest.mark.parametrize("step", range(0, 13, 2))
def test_every_zoom_draws_the_room_and_only_the_room(designer, step):
    camera = designer.table.camera
    camera.step = step
    designer.table.centre_on((12, 16))
    designer.hover((-50, -50))
    designer.settle(80)
    if camera.zoom >= 1:
        tile = designer.room.render(1, layer="Ground")[12 * 4 + 1 : 13 * 4, 16 * 4 + 1 : 17 * 4]
        red, green, blue = tile[1, 1, :3].tolist()
        assert designer.shown((12, 16)) == f"#{red:02x}{green:02x}{blue:02x}"
    else:
        image = designer.table.grab().toImage()
        middle = designer.table.view_rect().center().toPoint()
        assert image.pixelColor(middle) != image.pixelColor(image.width() - 3, image.height() - 3)


def test_chunks_drawn_after_edits_equal_a_fresh_drawing(designer):
    chunks = designer.table.chunks
    for stroke in (((4, 4), (12, 20)), ((15, 3), (2, 28))):
        designer.stroke(*stroke)
    designer.hover((22, 30))
    designer.settle(60)
    fresh = Chunks(designer.session.project, designer.room.data)
    for key, image in chunks.kept.items():
        assert fresh.draw(key, cells_of(key[0])) == image


def test_the_table_draws_the_very_pixels_of_the_core(designer):
    designer.room.lay("Reeds", box=((3, 3), (12, 12)))
    designer.room.lay("Cart", cells=[(15, 15)])
    room = designer.room
    image = composed(designer.session.project, room.data, room.data.box, 4)
    words = as_words(room.render(1))
    drawn = np.frombuffer(image.constBits().asstring(image.sizeInBytes()), np.uint32).reshape(
        words.shape
    )
    apart = np.abs(drawn.view(np.uint8).astype(int) - words.view(np.uint8))
    assert apart.max() <= 2


def test_undo_and_redo_keys_are_exact(designer):
    start = designer.room.render(1)
    for key, cells in (
        (Qt.Key.Key_D, ((3, 3), (9, 9))),
        (Qt.Key.Key_B, ((5, 2), (8, 20))),
        (Qt.Key.Key_F, ((1, 1),)),
    ):
        designer.key(key)
        designer.stroke(*cells)
    end = designer.room.render(1)
    for _ in range(3):
        designer.key(Qt.Key.Key_Z, CONTROL)
    assert np.array_equal(designer.room.render(1), start)
    for _ in range(3):
        designer.key(Qt.Key.Key_Y, CONTROL)
    assert np.array_equal(designer.room.render(1), end)


def test_mirrors_are_shown_and_strokes_are_mirrored_in_flat_rooms_too(designer):
    designer.hover((12, 16))
    before = designer.table.grab().toImage()
    designer.session.planes.set(mirror="E–W", mirror_at=(11.5, 15.5))
    designer.settle(40)
    assert designer.table.grab().toImage() != before
    designer.stroke((10, 13))
    assert [designer.material((10, x)) for x in (13, 14, 17, 18)] == [
        "Water",
        "Mud",
        "Mud",
        "Water",
    ]


def test_while_the_key_is_held_a_press_measures_and_lays_nothing(designer):
    designer.hover((4, 4))
    before = len(designer.session.handle.history.edits)
    designer.hold(Qt.Key.Key_Apostrophe)
    designer.press((4, 4))
    designer.move((8, 7))
    designer.settle(30)
    start, end = designer.table.measure_ends()
    assert start == pytest.approx((4, 4), abs=0.05) and end == pytest.approx((8, 7), abs=0.05)
    shown = designer.table.grab().toImage()
    designer.let_go((8, 7))
    designer.release(Qt.Key.Key_Apostrophe)
    designer.settle(30)
    assert len(designer.session.handle.history.edits) == before
    assert designer.table.measure_ends() is None and designer.table.grab().toImage() != shown


def test_without_a_press_it_measures_from_where_the_key_went_down(designer):
    def measured():  # all of it again where the display server tells of older places late
        designer.hover((4, 4))
        designer.hold(Qt.Key.Key_Apostrophe)
        designer.table.measure_ends()
        designer.hover((4, 9))
        start, end = designer.table.measure_ends()
        designer.release(Qt.Key.Key_Apostrophe)
        return (*start, *end) == pytest.approx((4, 4, 4, 9), abs=0.1)

    designer.qtbot.waitUntil(measured)
