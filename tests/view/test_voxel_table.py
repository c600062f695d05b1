"""The voxel table, worked with real mouse and key events under a virtual display."""

from __future__ import annotations

import os
import subprocess
import sys
from dataclasses import replace

import numpy as np
import pytest
import trimesh
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QApplication

from tests.rooms import small_room
from tests.voxel_rooms import block_at, isle, planes
from topion.brushes.gestures import GESTURES
from topion.edit.rooms import set_room
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.grid.orient import DOWN, EAST, SOUTH, UP
from topion.render.eye import VIEWS, Eye
from topion.render.faces import face_book
from topion.render.solid_scene import picture_of_eye
from topion.render.volume import CHUNK
from topion.survey.at_cursor import lying_at
from topion.things.rules import On
from topion.view import tables
from topion.view.dialogs.room import RoomDialog
from topion.view.voxel.chunks import Chunks, meshed
from topion.view.voxel.scene import COARSE_PX
from topion.view.window import Window

LEFT, RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton
MIDDLE = Qt.MouseButton.MiddleButton
NONE = Qt.KeyboardModifier.NoModifier
ALT, CONTROL = Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier

pytestmark = pytest.mark.skipif(
    os.environ.get("QT_QPA_PLATFORM") == "offscreen", reason="OpenGL needs a display"
)


# --- strokes ------------------------------------------------------------------------------


def test_a_click_lays_on_the_face_that_is_pointed_at_with_either_hand(modeller):
    modeller.stroke((UP, 2, 5, 5))
    assert modeller.material((3, 5, 5)) == "Stones"
    modeller.stroke((SOUTH, 3, 5, 5), button=RIGHT)
    assert modeller.material((3, 6, 5)) == "Water"
    modeller.stroke((EAST, 3, 5, 5))
    assert modeller.material((3, 5, 6)) == "Stones"
    assert [e.label for e in modeller.handle.history.edits[-3:]] == ["Stones", "Water", "Stones"]


def test_a_drag_over_the_ground_is_one_stroke_that_does_not_climb_on_itself(modeller):
    count = len(modeller.handle.history.edits)
    modeller.stroke(*((UP, 2, 8, x) for x in (2, 3, 4, 5, 4, 3, 2, 3, 4)))
    assert len(modeller.handle.history.edits) == count + 1
    laid = np.argwhere(planes(modeller.room)["material"] == 2)
    assert {tuple(c) for c in laid.tolist()} == {(3, 8, x) for x in (2, 3, 4, 5)}
    modeller.key(Qt.Key.Key_Z, CONTROL)
    assert modeller.material((3, 8, 3)) == ""


def test_on_the_work_plane_cells_lie_in_its_level_whatever_is_below(modeller):
    modeller.session.planes.set(aim="plane", level=6)
    modeller.stroke((6, 4, 4), (6, 4, 7))
    assert [modeller.material((6, 4, x)) for x in range(3, 9)] == ["", *["Stones"] * 4, ""]
    for axis, cell in ((1, (5, 9, 4)), (2, (5, 4, 3))):
        modeller.session.planes.set(axis=axis, level=cell[axis])
        modeller.stroke(cell)
        assert modeller.material(cell) == "Stones"


def test_in_place_of_what_is_pointed_at_lays_into_its_cell(modeller):
    modeller.session.planes.set(aim="cell")
    modeller.stroke((UP, 2, 5, 5))
    assert modeller.material((2, 5, 5)) == "Stones" and modeller.material((3, 5, 5)) == ""


def test_a_box_gets_its_base_by_dragging_and_its_height_by_a_second_move(modeller):
    modeller.session.gestures.use("box")
    modeller.press((UP, 2, 4, 4))
    modeller.move((UP, 2, 6, 7))
    modeller.let_go((UP, 2, 6, 7))
    assert modeller.material((3, 5, 5)) == "", "the base alone lays nothing yet"
    modeller.move((6, 6, 7))
    modeller.settle(60)
    assert modeller.table.ghost.box == Box((3, 4, 4), (7, 7, 8))
    modeller.press((6, 6, 7))
    modeller.let_go((6, 6, 7))
    laid = np.argwhere(planes(modeller.room)["material"] == 2)
    assert Box.of_cells(laid) == Box((3, 4, 4), (7, 7, 8)) and len(laid) == 4 * 3 * 4
    assert modeller.handle.history.edits[-1].label == "Stones"


def test_escape_drops_a_box_that_waits_for_its_height(modeller):
    modeller.session.gestures.use("box")
    modeller.press((UP, 2, 4, 4))
    modeller.let_go((UP, 2, 6, 7))
    modeller.key(Qt.Key.Key_Escape)
    modeller.move((6, 6, 7))
    modeller.stroke((UP, 2, 9, 9))
    modeller.key(Qt.Key.Key_Escape)
    assert not (planes(modeller.room)["material"] == 2).any()


def test_a_line_runs_on_the_plane_of_the_face_where_it_began(modeller):
    modeller.session.gestures.use("line")
    modeller.room.lay("Water", box=((3, 9, 6), (5, 9, 6)))
    modeller.stroke((UP, 2, 9, 2), (UP, 2, 9, 10))
    assert [modeller.material((3, 9, x)) for x in (2, 5, 6, 10)] == ["Stones"] * 4
    assert modeller.material((6, 9, 6)) == ""


def test_a_flood_fills_the_level_on_the_plane_and_repaints_in_space_else(modeller):
    modeller.session.gestures.use("flood")
    modeller.session.planes.set(aim="plane", level=5)
    modeller.stroke((5, 6, 6))
    material = planes(modeller.room)["material"]
    assert (material[5] == 2).all() and not material[4].any() and not material[6].any()
    modeller.session.planes.set(aim="face")
    modeller.stroke((UP, 5, 6, 6), button=RIGHT)
    assert (planes(modeller.room)["material"][5] == 3).all()


def test_holding_e_lifts_the_block_that_is_pointed_at(modeller):
    modeller.hold(Qt.Key.Key_E)
    modeller.stroke((UP, 2, 5, 5))
    assert modeller.material((2, 5, 5)) == "Ground", "E lifts what the left hand lays"
    modeller.release(Qt.Key.Key_E)
    modeller.session.hands.take("left", "Lift")
    modeller.stroke((UP, 2, 5, 5))
    assert modeller.material((2, 5, 5)) == "" and modeller.material((1, 5, 5)) == "Ground"


def test_alt_picks_the_brush_of_a_block_or_of_a_thing(modeller):
    modeller.room.lay("Water", cells=[(3, 4, 4)])
    modeller.settle()
    modeller.press((UP, 3, 4, 4), modifier=ALT)
    modeller.let_go((UP, 3, 4, 4))
    assert modeller.session.hands["left"] == "Water"
    modeller.room.lay("Post", cells=[(3, 8, 8)])
    modeller.settle()
    modeller.press((UP, 2, 8, 8), RIGHT, ALT)
    modeller.let_go((UP, 2, 8, 8), RIGHT)
    assert modeller.session.hands["right"] == "Post"


def test_strokes_are_mirrored_at_the_mirrors(modeller):
    modeller.session.planes.set(mirror="both", mirror_at=(5.5, 6.5))
    modeller.stroke((UP, 2, 2, 3))
    found = {(y, x) for y, x in np.argwhere(planes(modeller.room)["material"][3] == 2).tolist()}
    assert found == {(2, 3), (2, 10), (9, 3), (9, 10)}
    modeller.hover((UP, 2, 4, 4))
    modeller.key(Qt.Key.Key_I, SHIFT)
    assert modeller.session.planes.here.mirror_at == (4.0, 4.0)
    modeller.key(Qt.Key.Key_I)
    assert modeller.session.planes.here.mirror == "off"


def test_a_sculpt_stroke_raises_the_ground_under_the_pointer(modeller):
    modeller.session.hands.take("left", "Heap")
    modeller.stroke((UP, 2, 6, 6))
    material = planes(modeller.room)["material"]
    assert material[3, 6, 6] == 1 and modeller.handle.history.edits[-1].label == "Raise ground"


def test_a_thing_is_seated_on_the_ground_and_nudged_with_keys(modeller):
    modeller.session.hands.take("left", "Post")
    modeller.stroke((UP, 2, 6, 6))
    (thing,) = modeller.room.things()
    assert thing.at == (3.0, 6.0, 6.0)
    modeller.hover((UP, 2, 3, 3))
    modeller.session.picked.pick(next(i for i in lying(modeller, (3, 6, 6)) if i.thing is not None))
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_PageUp):
        modeller.key(key)
    assert modeller.room.things()[0].at == (4.0, 5.0, 7.0)
    modeller.key(Qt.Key.Key_Delete)
    assert modeller.room.things() == []


def lying(modeller, cell):
    return lying_at(modeller.handle.data, modeller.room.data, cell)


def test_t_turns_the_block_in_hand_and_backspace_brings_it_back(modeller):
    modeller.key(Qt.Key.Key_T)
    modeller.stroke((UP, 2, 5, 5))
    assert block_at(modeller.room, 3, 5, 5)[1] == 1
    card = next(c for c in modeller.window.rack.cards if c.name == "Stones")
    assert "turned 90°" in modeller.handle.data.brush(card.name).summary()
    modeller.key(Qt.Key.Key_T, SHIFT)
    assert modeller.handle.data.brush("Stones").turn == 1, "these stones cannot be tipped over"
    for block in ("Stone a", "Stone b"):
        known = modeller.handle.data.block(block)
        modeller.handle.add_block(replace(known, turns="any"))
    modeller.key(Qt.Key.Key_T, SHIFT)
    assert modeller.handle.data.brush("Stones").turn == 5
    modeller.key(Qt.Key.Key_Backspace)
    assert modeller.handle.data.brush("Stones").turn == 0


def test_a_refused_thing_says_why_and_is_laid_all_the_same_with_o(modeller):
    modeller.room.lay("Stones", box=((4, 5, 5), (4, 7, 7)))
    prefab = modeller.handle.data.prefab("Post")
    modeller.handle.add_prefab(replace(prefab, rules=(On(("Water",)),)))
    modeller.session.hands.take("left", "Post")
    modeller.hover((UP, 2, 2, 2))
    modeller.settle(80)
    verdict = modeller.table.ghost.verdict
    assert verdict is not None and verdict.reasons[0].measured == "Ground"
    assert any(item.detail == "refused" for item in modeller.window.at_cursor.items)
    modeller.stroke((UP, 2, 2, 2))
    assert modeller.room.things() == []
    modeller.hold(Qt.Key.Key_O)
    modeller.stroke((UP, 2, 2, 2))
    modeller.release(Qt.Key.Key_O)
    assert [t.overridden for t in modeller.room.things()] == [True]


# --- what is seen -------------------------------------------------------------------------


def test_laying_and_undoing_shows(modeller):
    modeller.away()
    before = modeller.picture()
    modeller.stroke((UP, 2, 6, 6))
    modeller.away()
    after = modeller.picture()
    changed = np.argwhere((before != after).any(axis=2))
    spot = modeller.at((3, 6, 6))
    assert len(changed) and np.abs(changed.mean(axis=0) - (spot.y(), spot.x())).max() < 25
    modeller.key(Qt.Key.Key_Z, CONTROL)
    modeller.away()
    assert np.array_equal(modeller.picture(), before)


@pytest.mark.parametrize("gesture", GESTURES)
@pytest.mark.parametrize("brush", ["Ground", "Stones", "Box", "Slabs", "Heap"])
def test_the_ghost_plans_the_very_edit_that_the_press_applies(modeller, brush, gesture):
    session = modeller.session
    session.hands.take("left", brush)
    session.gestures.use(gesture)
    if gesture == "flood":
        session.planes.set(aim="plane", level=3)
    modeller.press((UP, 2, 4, 4))
    modeller.move((UP, 2, 6, 6))
    modeller.settle(60)
    ghost = modeller.table.ghost.edit
    count = len(modeller.handle.history.edits)
    modeller.let_go((UP, 2, 6, 6))
    if gesture == "curve":
        modeller.press((UP, 2, 6, 6))
        modeller.let_go((UP, 2, 6, 6))
        modeller.key(Qt.Key.Key_Return)
    elif modeller.table.hand is not None:  # a box that waits for its height: none, one level
        modeller.move((3, 6, 6))
        modeller.settle(60)
        ghost = modeller.table.ghost.edit
        modeller.press((3, 6, 6))
        modeller.let_go((3, 6, 6))
    assert ghost is not None and len(modeller.handle.history.edits) == count + bool(ghost)
    laid = modeller.handle.history.edits[-1]
    assert ghost.sealed().records == laid.records


def test_chunks_under_the_ghost_look_as_they_will_after_the_press(modeller):
    session = modeller.session
    session.hands.take("left", "Ground")
    modeller.hover((UP, 2, 5, 5))
    modeller.settle(60)
    ghost = {g.key: g.vertices.data.tobytes() for g in modeller.table.ghost.chunks}
    assert ghost
    modeller.stroke((UP, 2, 5, 5))
    for key, data in ghost.items():
        box = modeller.table.chunks.box_of(key)
        real = meshed(modeller.handle.data, modeller.room.data, box)
        assert real.vertices.data.tobytes() == data


def test_only_chunks_near_a_change_are_meshed_again(modeller):
    data = modeller.handle.add_room("Wide", (40, 70, 100)).data
    chunks = Chunks(modeller.handle.data, data)
    assert len(chunks.touched(data.box)) == 2 * 3 * 4
    assert len(chunks.touched(Box((5, 5, 5), (6, 6, 6)))) == 1
    assert len(chunks.touched(Box((5, 5, CHUNK - 1), (6, 6, CHUNK)))) == 2
    corner = Box((CHUNK - 1,) * 3, (CHUNK,) * 3)
    assert len(chunks.touched(corner)) == 8


def test_a_large_room_is_meshed_on_a_thread_and_shows_all_the_same(modeller):
    room = modeller.handle.add_room("Wide", (40, 100, 130))
    room.lay("Ground", box=((0, 0, 0), (5, 99, 129)))
    modeller.session.open_room("Wide")
    modeller.qtbot.waitUntil(lambda: len(modeller.table.scene.chunks) == 4 * 5, timeout=8000)
    modeller.qtbot.waitUntil(modeller.table.settled, timeout=5000)
    assert modeller.table.scene.quads_drawn > 0


def test_levels_beyond_the_plane_can_be_ghosted_or_hidden(modeller):
    modeller.room.lay("Stones", box=((3, 5, 5), (7, 7, 7)))
    modeller.session.planes.set(level=3)
    modeller.away()
    shown = modeller.picture()
    pictures = []
    for _ in range(2):
        modeller.key(Qt.Key.Key_N)
        modeller.away()
        pictures.append(modeller.picture())
    assert modeller.session.planes.here.above == "hidden"
    top = modeller.table.face_centre(UP, 7, 6, 6).toPoint()
    colours = [tuple(p[top.y() - 2 : top.y() + 3, top.x() - 2 : top.x() + 3].reshape(-1, 3)[7])
               for p in (shown, *pictures)]  # fmt: skip
    assert colours[0] != colours[2]
    # what is hidden does not stop the pointer, and the cut shows the inside
    modeller.stroke((UP, 3, 6, 6))
    assert modeller.material((4, 6, 6)) == "Stones"
    hit = modeller.table.hit_at(modeller.table.face_centre(UP, 3, 6, 6))
    assert hit is not None and hit.cell == (3, 6, 6)


def test_keys_turn_the_view_to_corners_top_and_sides(modeller):
    table = modeller.table
    for number, view in enumerate(VIEWS, 1):
        modeller.key(Qt.Key(ord("0") + number), CONTROL)
        wanted = Eye().looking(view)
        assert (table.eye.yaw, table.eye.pitch) == (wanted.yaw, wanted.pitch)
    modeller.key(Qt.Key.Key_1, CONTROL)
    modeller.key(Qt.Key.Key_K)
    assert table.eye.yaw == Eye().looking("south-west").yaw
    assert not table.eye.perspective
    modeller.key(Qt.Key.Key_P)
    assert table.eye.perspective
    modeller.stroke((UP, 2, 6, 6))
    assert modeller.material((3, 6, 6)) == "Stones"
    modeller.key(Qt.Key.Key_Home)
    assert modeller.table.rect().contains(modeller.at((UP, 2, 0, 0)))


def test_the_middle_button_orbits_shift_pans_and_the_wheel_zooms_to_the_pointer(modeller):
    table, qtbot = modeller.table, modeller.qtbot
    before = table.eye
    start = table.rect().center()
    qtbot.mousePress(table, MIDDLE, NONE, start)
    qtbot.mouseMove(table, start + QPoint(50, 20))
    qtbot.mouseRelease(table, MIDDLE, NONE, start + QPoint(50, 20))
    assert table.eye.yaw != before.yaw and table.eye.target == before.target
    turned = table.eye
    qtbot.mousePress(table, MIDDLE, SHIFT, start)
    qtbot.mouseMove(table, start + QPoint(30, 0))
    qtbot.mouseRelease(table, MIDDLE, SHIFT, start + QPoint(30, 0))
    assert table.eye.yaw == turned.yaw and table.eye.target != turned.target
    px = table.eye.px
    point = modeller.at((UP, 2, 3, 3))
    wheel(table, point, 120)
    assert table.eye.px > px and not modeller.handle.history.changed


def wheel(table, point: QPoint, turn: int, modifier=NONE) -> None:
    at = QPointF(point)
    event = QWheelEvent(at, QPointF(table.mapToGlobal(point)), QPoint(), QPoint(0, turn),
                        Qt.MouseButton.NoButton, modifier, Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    QApplication.sendEvent(table, event)


# --- the work plane and the levels --------------------------------------------------------


def test_a_click_in_the_levels_lays_the_plane_there_and_wheels_move_it(modeller):
    levels, session = modeller.window.levels, modeller.session
    assert levels.isVisible() and not modeller.window.stack.isVisible()
    modeller.qtbot.mouseClick(levels, LEFT, NONE, levels.row_rect(4).center().toPoint())
    assert (session.planes.here.axis, session.planes.here.level) == (0, 4)
    wheel(modeller.table, modeller.table.rect().center(), 120, CONTROL)
    assert session.planes.here.level == 5
    wheel(levels, levels.rect().center(), -120)
    wheel(levels, levels.rect().center(), -120)
    assert session.planes.here.level == 3
    modeller.qtbot.keyClick(levels, Qt.Key.Key_Up)
    assert session.planes.here.level == 4
    for _ in range(30):
        wheel(levels, levels.rect().center(), 120)
    assert session.planes.here.level == 9, "the plane stays in the room"


def test_g_lays_the_plane_on_what_is_under_the_pointer_and_x_turns_it(modeller):
    session = modeller.session
    modeller.room.lay("Stones", box=((3, 5, 5), (5, 5, 5)))
    modeller.hover((UP, 5, 5, 5))
    modeller.key(Qt.Key.Key_G)
    assert (session.planes.here.axis, session.planes.here.level) == (0, 6)
    modeller.hover((EAST, 4, 5, 5))
    modeller.key(Qt.Key.Key_G)
    assert (session.planes.here.axis, session.planes.here.level) == (2, 6)
    modeller.key(Qt.Key.Key_X)
    assert session.planes.here.axis == 1 and session.planes.here.aim == "plane"
    modeller.key(Qt.Key.Key_A)
    assert session.planes.here.aim == "face"
    modeller.key(Qt.Key.Key_PageUp)
    assert session.planes.here.axis == 1


def test_the_section_is_seen_from_two_sides_and_follows_strokes(modeller):
    levels = modeller.window.levels
    before = levels.grab().toImage()
    modeller.room.lay("Water", box=((6, 2, 2), (6, 9, 4)))
    modeller.settle(150)
    after = levels.grab().toImage()
    row = levels.row_rect(6)
    spot = QPoint(int(row.left() + row.width() * 3.5 / 14), int(row.center().y()))
    assert after.pixelColor(spot) != before.pixelColor(spot)
    modeller.qtbot.mouseClick(levels.turn, LEFT)
    assert levels.side == "east" and "east" in levels.turn.text()
    assert levels.grab().toImage() != after


def test_the_eye_and_the_lock_of_the_levels_set_layers(modeller):
    levels = modeller.window.levels
    modeller.qtbot.mouseClick(levels, LEFT, NONE, levels.lock_rect("blocks").center().toPoint())
    modeller.stroke((UP, 2, 5, 5))
    assert modeller.material((3, 5, 5)) == ""
    modeller.qtbot.mouseClick(levels, LEFT, NONE, levels.eye_rect("blocks").center().toPoint())
    assert not modeller.room.data.layer("blocks").info.shown
    modeller.settle()
    assert modeller.table.hit_at(modeller.table.face_centre(UP, 2, 5, 5)) is None
    modeller.qtbot.mouseClick(levels, LEFT, NONE, levels.layer_rect("things").center().toPoint())
    assert modeller.session.layer_id == "things"
    levels.add_things()
    assert "Things 2" in [la.info.name for la in modeller.room.data.layers.values()]


def test_the_hand_panel_sets_what_strokes_lie_on(modeller):
    rows = modeller.window.in_hand.work_rows
    assert list(rows) == ["aim_words", "level", "mirror"]
    rows["aim_words"].changed("plane")
    assert modeller.session.planes.here.aim == "plane"
    rows["level"].changed(7.0)
    assert modeller.session.planes.here.level == 7
    rows["mirror"].changed("E–W")
    assert len(modeller.session.planes.here.mirrors()) == 1
    modeller.session.open_room("Flat")
    assert list(modeller.window.in_hand.work_rows) == ["mirror"]


# --- rooms, cards, files ------------------------------------------------------------------


def test_the_rack_and_the_hands_follow_the_kind_of_room(modeller):
    session, rack = modeller.session, modeller.window.rack
    assert "Stones" in [card.name for card in rack.cards]
    session.open_room("Flat")
    modeller.settle(80)
    assert modeller.window.table is modeller.window.tables.flat
    assert modeller.window.stack.isVisible()
    assert "Stones" not in [card.name for card in rack.cards]
    assert session.hands["left"] != "Stones"
    session.open_room("Isle")
    modeller.settle(80)
    assert session.hands.names() == {"left": "Stones", "right": "Water"}
    assert modeller.window.table is modeller.table
    modeller.stroke((UP, 2, 5, 5))
    assert modeller.material((3, 5, 5)) == "Stones"


def test_what_lay_at_the_cursor_is_forgotten_with_the_room(modeller):
    for cell in ((UP, 2, 2, 2), (UP, 2, 7, 4)):
        modeller.hover(cell)
    modeller.qtbot.waitUntil(lambda: bool(modeller.window.at_cursor.items), timeout=3000)
    for name in ("Flat", "Isle", "Flat"):
        modeller.session.open_room(name)
        modeller.settle(60)
        assert modeller.session.cursor is None and not modeller.window.at_cursor.items


def test_a_new_voxel_room_is_made_in_the_dialog_and_painted_at_once(modeller):
    dialog = RoomDialog(modeller.window, modeller.window)
    dialog.open()
    dialog.name.setText("Cave")
    dialog.kind.setCurrentIndex(1)
    assert dialog.levels.isEnabled()
    for spin, value in ((dialog.width_cells, 9), (dialog.height_cells, 8), (dialog.levels, 7)):
        spin.setValue(value)
    dialog.make()
    assert modeller.session.room.info.size == (7, 8, 9)
    modeller.qtbot.waitUntil(modeller.table.settled, timeout=5000)
    modeller.settle(80)
    modeller.stroke((DOWN, 0, 4, 4))  # the floor of the empty room
    assert modeller.material((0, 4, 4)) == "Stones"


def test_a_block_of_one_colour_and_a_block_of_slots_come_in_the_hand(modeller):
    window = modeller.window
    window.new_brush.block_of("#123456")
    assert modeller.session.hands["left"] == "Block"
    modeller.stroke((UP, 2, 5, 5))
    assert block_at(modeller.room, 3, 5, 5) == ("Block", 0)
    sheet = next(iter(small_room().project.data.tilesets.values()))
    modeller.handle.add_tileset(sheet)
    window.show_sheets()
    slots = window.desks.desk
    slots.view.select(Box((0, 0), (1, 3)))
    slots.take("block")
    name = modeller.session.hands["left"]
    assert len(modeller.handle.data.blocks[name].faces) == 3
    slots.view.select(Box((0, 0), (2, 2)))
    slots.take("block")
    name = modeller.session.hands["left"]
    made = modeller.handle.data.blocks[name]
    assert len(made.pattern) == 2, "any other block of slots repeats over its faces"
    window.desks.close_desk()
    modeller.settle()
    modeller.stroke((UP, 3, 5, 5))
    assert block_at(modeller.room, 4, 5, 5)[0] == name
    assert face_book(modeller.handle.data).pictures.shape[0] >= 2


def test_a_mesh_comes_in_through_the_dialog_as_thing_block_and_cells(modeller, tmp_path):
    path = tmp_path / "buoy.stl"
    path.write_bytes(trimesh.creation.icosphere(2).export(file_type="stl"))
    files = modeller.window.files
    for index, (name, size) in enumerate((("Buoy", 16), ("Knob", 8), ("Dome", 5))):
        dialog = files.mesh_dialog(path)
        dialog.name.setText(name)
        dialog.size_voxels.setValue(size)
        dialog.into.setCurrentIndex(index)
        modeller.session.planes.set(level=4)
        dialog.bring_in()
        assert dialog.problem.text() == "" and modeller.session.hands["left"] == name
    assert "Buoy" in modeller.handle.data.prefabs and "Knob" in modeller.handle.data.blocks
    assert modeller.material((6, 6, 6)) == "Dome"
    dialog = files.mesh_dialog(path)
    dialog.name.setText("Buoy")
    dialog.bring_in()
    assert "Buoy" in dialog.problem.text()
    path.write_bytes(b"\0" * 90)
    dialog.bring_in()
    assert "buoy.stl" in dialog.problem.text()
    dialog.reject()


def test_the_view_is_written_as_a_picture_and_the_room_as_gltf(modeller, tmp_path):
    files = modeller.window.files
    files.view_picture(tmp_path / "view.png", "300x200")
    files.export_to("gltf", tmp_path)
    files.export_to("png", tmp_path)
    assert {p.name for p in tmp_path.iterdir()} >= {"view.png", "Isle.glb", "Isle.png"}
    files.view_picture(tmp_path / "bad.png", "big")
    assert not (tmp_path / "bad.png").exists()


def test_the_picture_without_a_window_looks_like_the_window(modeller):
    """Two ways to draw the same faces: most pixels agree but for rounding."""
    modeller.room.lay("Box", box=((3, 4, 4), (5, 7, 8)))
    modeller.session.planes.set(aim="face")
    modeller.away()
    shown = modeller.picture().astype(int)
    drawn = picture_of_eye(modeller.handle.data, modeller.room.data, modeller.table.eye)
    assert drawn.shape[:2] == shown.shape[:2]
    inside = (drawn[..., :3] != drawn[0, 0, :3]).any(axis=2)
    far = np.abs(drawn[..., :3].astype(int) - shown).max(axis=2)
    assert np.median(far[inside]) <= 3 and (far > 24).mean() < 0.03


def test_a_slow_card_draws_less_while_the_view_turns_and_all_once_it_stands(modeller):
    """Small cells are drawn as cubes twice as wide, which cover what they stand for."""
    table = modeller.table
    steps = [(3 + (7 * y + 5 * x) % 3, y, x) for y in range(12) for x in range(14)]
    modeller.room.lay("Stones", cells=steps)
    modeller.away()
    table.set_eye(replace(table.eye, px=COARSE_PX - 1))
    still = modeller.picture()
    scene, in_full = table.scene, table.scene.quads_drawn
    table.chunks.want_far()
    modeller.picture()
    scene.slow = True
    table.turn_to(table.eye.yaw + 1, table.eye.pitch)
    turning = modeller.picture()
    assert scene.turning and scene.quads_drawn < in_full / 2
    table.turn_to(table.eye.yaw - 1, table.eye.pitch)
    modeller.qtbot.waitUntil(lambda: not scene.turning, timeout=3000)
    again = modeller.picture()
    sky = still[:, :2].mean(axis=1, keepdims=True)
    seen, coarse = (np.abs(p - sky).max(axis=2) > 24 for p in (still.astype(float), turning))
    assert (coarse & seen).sum() > 0.8 * seen.sum() and coarse.sum() < 1.6 * seen.sum()
    assert (np.abs(again.astype(int) - still).max(axis=2) > 40).mean() < 0.01
    scene.slow = False


def test_seats_of_things_are_shown_when_asked(modeller):
    modeller.room.lay("Post", cells=[(3, 6, 6)])
    modeller.away()
    before = modeller.window.table.grab().toImage()
    modeller.key(Qt.Key.Key_U)
    assert modeller.window.table.grab().toImage() != before


def test_the_dark_theme_reaches_the_sky(modeller):
    modeller.away()
    light = modeller.picture()[5, 5]
    modeller.window.toggle_dark()
    modeller.away()
    assert modeller.picture()[5, 5].sum() < light.sum() - 200
    modeller.window.toggle_dark()


def test_another_project_may_be_opened_while_a_voxel_room_is_shown(modeller):
    other = isle((6, 8, 8)).project
    other.history.mark_saved()
    modeller.window.use(other)
    modeller.session = modeller.window.session
    modeller.session.hands.take("left", "Water")
    modeller.qtbot.waitUntil(modeller.table.settled, timeout=5000)
    modeller.stroke((UP, 2, 4, 4))
    assert other.room("Isle").material(3, 4, 4) == "Water"
    flat = small_room((6, 6)).project
    modeller.window.use(flat)
    assert modeller.window.table is modeller.window.tables.flat
    flat.history.mark_saved()
    other.history.mark_saved()


def test_closing_the_window_ends_the_thread_that_meshes(qtbot):
    room = isle().project.add_room("Wide", (64, 300, 300))
    room.lay("Ground", box=((0, 0, 0), (20, 299, 299)))
    room.project.history.mark_saved()
    window = Window(room.project)
    qtbot.addWidget(window)
    window.show()
    qtbot.waitExposed(window)
    window.session.open_room("Wide")
    chunks = window.table.chunks
    qtbot.waitUntil(lambda: not chunks.busy or len(window.table.scene.chunks) > 2, timeout=5000)
    window.close()
    assert window.table.chunks is None and not chunks.busy


def test_taking_the_room_back_while_it_is_shown_leaves_the_next_one(modeller):
    modeller.handle.add_room("Cave", (5, 6, 6))
    modeller.session.open_room("Cave")
    modeller.settle(60)
    modeller.key(Qt.Key.Key_Z, CONTROL)
    modeller.settle(60)
    assert modeller.session.room_name == "Isle"
    modeller.qtbot.waitUntil(modeller.table.settled, timeout=5000)
    modeller.stroke((UP, 2, 6, 6))
    assert modeller.material((3, 6, 6)) == "Stones"


def test_changing_a_block_shows_in_the_room_and_on_its_cards(modeller):
    modeller.stroke((UP, 2, 6, 6))
    modeller.away()
    before = modeller.picture()
    data = modeller.handle.data
    for name in ("Stone a", "Stone b"):
        modeller.handle.add_block(replace(data.block(name), colour="#10c0f0"))
    modeller.away()
    modeller.settle(80)
    spot = modeller.table.face_centre(UP, 3, 6, 6).toPoint()
    after = modeller.picture()[spot.y(), spot.x()]
    assert tuple(after) != tuple(before[spot.y(), spot.x()]) and after[2] > 200


# --- without OpenGL -----------------------------------------------------------------------


def test_without_opengl_it_says_so_and_flat_rooms_work(qtbot, monkeypatch):
    monkeypatch.setattr(tables, "opengl_problem", lambda: "Voxel rooms need OpenGL 3.3.")
    room = isle()
    flat = room.project.add_room("Flat", (6, 6))
    window = Window(room.project)
    qtbot.addWidget(window, before_close_func=lambda w: w.session.handle.history.mark_saved())
    window.show()
    qtbot.waitExposed(window)
    assert "OpenGL 3.3" in window.table.text() and "Flat rooms work" in window.table.text()
    qtbot.keyClick(window, Qt.Key.Key_Home)
    qtbot.keyClick(window, Qt.Key.Key_G)
    window.session.open_room("Flat")
    assert window.table is window.tables.flat and flat.size == (6, 6)


def test_a_display_without_opengl_still_starts_the_program():
    """Qt's offscreen platform has no OpenGL: the window opens and says so."""
    code = (
        "from PyQt6.QtWidgets import QApplication\n"
        "app = QApplication([])\n"
        "from tests.voxel_rooms import isle\n"
        "from topion.view.window import Window\n"
        "window = Window(isle().project); window.show(); app.processEvents()\n"
        "print(window.table.text())\n"
        "window.session.handle.history.mark_saved(); window.close()\n"
    )
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, env=environment, timeout=120
    )
    assert done.returncode == 0, done.stderr
    assert "OpenGL" in done.stdout and "Traceback" not in done.stderr


# --- pieces -------------------------------------------------------------------------------


def pulled_up(modeller, handle, to: QPoint) -> None:
    """Drag a handle of the first piece to a point of the screen."""
    table = modeller.table
    start = table.piece_marks.point(handle.at).toPoint()
    modeller.qtbot.mouseMove(table, start)
    modeller.qtbot.mousePress(table, LEFT, NONE, start)
    assert table.pulls.now is not None and table.pulls.now.handle is not None

    def arrived() -> bool:  # the display server tells of older places late
        modeller.qtbot.mouseMove(table, to + QPoint(1, 0))
        modeller.qtbot.mouseMove(table, to)
        modeller.settle()
        return table.hover is not None and table.hover.toPoint() == to

    modeller.qtbot.waitUntil(arrived)
    modeller.qtbot.mouseRelease(table, LEFT, NONE, to)
    modeller.settle(60)


def test_a_crate_is_picked_by_a_ray_and_its_sides_are_pulled(modeller):
    room = modeller.room
    room.lay("Box", box=((3, 4, 4), (4, 7, 8)))
    modeller.settle(200)
    modeller.key(Qt.Key.Key_S)
    modeller.press((UP, 4, 5, 6))
    modeller.let_go((UP, 4, 5, 6))

    def piece():  # asked for anew: a table that threads look at is another after a write
        return room.data.layers["blocks"].pieces[1]

    assert [pick.number for pick, _ in modeller.session.pieces.there()] == [1]
    marks = modeller.table.piece_marks
    brush = modeller.handle.data.brushes["Box"]
    up = next(h for h in marks.handles(piece()) if h.sides == (1, 0, 0))
    y, x, _ = modeller.table.eye.seen(np.array([up.at], float) + 0.5 + np.array([2.0, 0, 0]))[0]
    pulled_up(modeller, up, QPointF(x, y).toPoint())
    assert piece().points == ((3, 4, 4), (6, 7, 8)) and room.material(6, 5, 5) == "Box"
    east = next(h for h in brush.handles(piece()) if h.sides == (0, 0, 1))
    y, x, _ = modeller.table.eye.seen(np.array([east.at], float) + 0.5 + np.array([0, 0, 2.0]))[0]
    pulled_up(modeller, east, QPointF(x, y).toPoint())
    assert piece().points == ((3, 4, 4), (6, 7, 10))
    modeller.key(Qt.Key.Key_PageUp)
    assert piece().points == ((4, 4, 4), (7, 7, 10))
    modeller.key(Qt.Key.Key_Z, CONTROL)
    assert piece().points[0] == (3, 4, 4)


# --- picking, stamps and growth in space --------------------------------------------------


def test_a_box_is_picked_in_plan_and_raised_by_a_second_click(modeller):
    modeller.key(Qt.Key.Key_S)
    modeller.stroke((UP, 2, 3, 3), (UP, 2, 6, 7))
    assert modeller.table.lasso.raising, "its height follows the pointer"
    above = modeller.at((UP, 2, 6, 7)) - QPoint(0, 60)
    modeller.qtbot.mouseMove(modeller.table, above)
    modeller.qtbot.mouseClick(modeller.table, LEFT, NONE, above)
    modeller.settle()
    area = modeller.session.picking.area
    assert area is not None
    assert area.box.shape[1:] == (4, 5) and area.box.shape[0] > 1
    assert not modeller.handle.history.changed


def test_tab_walks_along_the_ray_to_what_is_hidden(modeller):
    modeller.room.lay("Post", cells=[(3, 5, 5), (3, 8, 8), (3, 2, 2)])
    modeller.key(Qt.Key.Key_S)
    in_line = modeller.session.picking
    modeller.stroke((UP, 2, 5, 5))
    first = in_line.entries
    at = modeller.at((UP, 2, 5, 5))
    under = modeller.table.entries_under(QPointF(at))
    assert first and first[0] in under
    for n in range(1, len(under) + 1):
        modeller.key(Qt.Key.Key_Tab)
        assert in_line.entries == (under[(under.index(first[0]) + n) % len(under)],)


def test_a_picked_box_is_raised_and_turned_and_comes_back(modeller):
    modeller.room.lay("Stones", box=((3, 4, 4), (4, 5, 6)))
    before = planes(modeller.room)
    area = Area.of_box(Box((3, 4, 4), (5, 6, 7)))
    modeller.key(Qt.Key.Key_S)
    modeller.session.picking.take_area(area, "new")
    modeller.key(Qt.Key.Key_T)
    assert modeller.session.picking.area.box.shape == (2, 3, 2)
    assert any(not np.array_equal(before[n], planes(modeller.room)[n]) for n in before)
    for _ in range(3):
        modeller.key(Qt.Key.Key_T)
    modeller.key(Qt.Key.Key_PageUp)
    modeller.key(Qt.Key.Key_PageUp)
    assert modeller.session.picking.area.box.lo[0] == 5
    assert modeller.material((3, 4, 4)) == "" and modeller.material((5, 4, 4)) == "Stones"
    modeller.key(Qt.Key.Key_PageDown)
    modeller.key(Qt.Key.Key_PageDown)
    after = planes(modeller.room)
    assert all(np.array_equal(before[name], after[name]) for name in before)


def test_a_voxel_room_grows_by_a_stroke_past_its_edge_and_the_eye_stays(modeller):
    modeller.handle.history.apply(set_room(modeller.handle.data, "Isle", grows=True))
    modeller.session.planes.set(aim="plane", level=3)
    where = modeller.at((3, 5, 5))
    modeller.stroke((3, 5, 3), (3, 5, -2))
    assert modeller.room.size == (10, 12, 16) and modeller.room.data.info.origin == (0, 0, -2)
    assert modeller.material((3, 5, 0)) == "Stones"
    assert (modeller.at((3, 5, 7)) - where).manhattanLength() <= 2
    modeller.key(Qt.Key.Key_Z, CONTROL)
    assert modeller.room.size == (10, 12, 14)
    assert (modeller.at((3, 5, 5)) - where).manhattanLength() <= 2


def test_a_stamp_is_turned_about_each_axis_by_a_key_and_raised_by_another(modeller):
    modeller.room.lay("Stones", box=((3, 4, 4), (3, 4, 6)))
    modeller.key(Qt.Key.Key_S)
    modeller.session.picking.take_area(Area.of_box(Box((3, 4, 4), (4, 5, 7))), "new")
    modeller.key(Qt.Key.Key_C, CONTROL)
    modeller.key(Qt.Key.Key_V, CONTROL)
    modeller.key(Qt.Key.Key_T, CONTROL)  # about south: what lay eastwards stands
    modeller.key(Qt.Key.Key_PageUp, SHIFT)
    stamp = modeller.session.hands.in_hand("left")
    assert stamp.raised == 1 and stamp.turn
    before = planes(modeller.room)["material"]
    modeller.stroke((UP, 2, 8, 9))
    laid = np.argwhere(planes(modeller.room)["material"] != before)
    assert np.ptp(laid, axis=0).tolist() == [2, 0, 0]
    modeller.key(Qt.Key.Key_Backspace)
    assert modeller.session.hands.in_hand("left").state() == ""


@pytest.mark.parametrize(("side", "by", "size", "origin"), [
    ((2, 1), (0, 0, 3), (10, 12, 17), ()), ((1, -1), (0, -2, 0), (10, 14, 14), (0, -2, 0)),
    ((0, 1), (-2, 0, 0), (8, 12, 14), ()), ((0, -1), (-1, 0, 0), (11, 12, 14), (-1, 0, 0)),
], ids=["east", "north", "ceiling", "floor"])  # fmt: skip
def test_a_side_of_a_voxel_room_is_pulled_by_its_handle(modeller, side, by, size, origin):
    table, before = modeller.table, planes(modeller.room)
    table.zoom(-2)
    modeller.key(Qt.Key.Key_S)
    start = table.edges.point(side)
    y, x, _ = (table.eye.near(np.array([[5.0, 6.0, 7.0], np.add((5.0, 6.0, 7.0), by)]))).T
    end = start + QPointF(x[1] - x[0], y[1] - y[0])
    modeller.qtbot.mouseMove(table, start.toPoint())
    modeller.qtbot.mousePress(table, LEFT, NONE, start.toPoint())
    modeller.qtbot.mouseMove(table, end.toPoint())
    modeller.qtbot.mouseRelease(table, LEFT, pos=end.toPoint())
    modeller.settle()
    assert modeller.room.size == size and modeller.room.data.info.origin == origin
    modeller.key(Qt.Key.Key_Z, CONTROL)
    after = planes(modeller.room)
    assert all(np.array_equal(before[name], after[name]) for name in before)
