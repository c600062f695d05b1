"""Curves in the window: drawn, picked, bent and filled by real mouse and keys."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QApplication

from tests.rooms import stand
from topion.brushes import CurveBrush, FieldBrush, Sown
from topion.brushes.gestures import Gesture
from topion.brushes.marks import Marks, Place
from topion.edit import along
from topion.edit import curves as edits
from topion.edit.library import put_brush
from topion.edit.pieces import Pick
from topion.grid.boxes import Box
from topion.model.curve import CurvePart
from topion.model.prefab import Thing
from topion.things.sowing import sow
from topion.view.style import ink

LEFT, RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton
SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def fencer(designer):
    """A curve brush in the left hand."""
    brush = CurveBrush("Fence", (CurvePart("Bush"),), pitch=2.0)
    designer.session.apply(put_brush(designer.session.project, brush))
    designer.session.hands.take("left", "Fence")
    designer.window.table.setFocus()
    designer.settle()
    return designer


def curves(hand):
    return hand.room.data.layers["things"].curves


def clicked(hand, *cells):
    """A curve through cells, laid by Enter."""
    hand.key(Qt.Key.Key_C)
    for cell in cells:
        hand.press(cell)
        hand.qtbot.mouseRelease(hand.table, LEFT, pos=hand.at(cell))
    hand.key(Qt.Key.Key_Return)
    hand.settle(40)


def drawn(hand, *cells):
    """The same, picked with the lasso."""
    clicked(hand, *cells)
    number = max(curves(hand))
    hand.key(Qt.Key.Key_S)
    hand.session.picking.pick([Pick("things", number)])
    hand.settle(40)
    return number


def double(hand, cell):
    at = QPointF(hand.at(cell))
    for kind in (QEvent.Type.MouseButtonPress, QEvent.Type.MouseButtonRelease,
                 QEvent.Type.MouseButtonDblClick, QEvent.Type.MouseButtonRelease):  # fmt: skip
        event = QMouseEvent(kind, at, hand.table.mapToGlobal(at), LEFT, LEFT,
                            Qt.KeyboardModifier.NoModifier)  # fmt: skip
        QApplication.sendEvent(hand.table, event)
    hand.settle(40)


def sees(hand, at, name, reach=3):
    """Whether a colour of the palette is seen near a place of the table."""
    image = hand.table.grab().toImage()
    wanted = ink(name).getRgb()[:3]
    point = hand.table.cell_centre(*at)
    near = (image.pixelColor(int(point.x()) + dx, int(point.y()) + dy).getRgb()[:3]
            for dx in range(-reach, reach + 1) for dy in range(-reach, reach + 1))  # fmt: skip
    return any(sum(abs(a - b) for a, b in zip(px, wanted, strict=True)) < 40 for px in near)


def test_points_are_clicked_and_the_ghost_shows_what_would_stand_along_it(fencer):
    fencer.key(Qt.Key.Key_C)
    for cell in ((6, 8), (6, 16)):
        fencer.press(cell)
        fencer.qtbot.mouseRelease(fencer.table, LEFT, pos=fencer.at(cell))
    fencer.move((10, 22))
    fencer.settle(60)
    ghost = fencer.table.ghost.edit
    assert ghost is not None and {r.table for r in ghost.records} == {"curves", "things"}
    assert not curves(fencer)
    (line,) = (r for r in ghost.records if r.table == "curves")
    (shown,) = line.after.values()
    at = shown.line.places(np.array([3.0]))[0][0]
    assert sees(fencer, tuple(at), "tidal")
    fencer.press((10, 22))
    fencer.qtbot.mouseRelease(fencer.table, LEFT, pos=fencer.at((10, 22)))
    fencer.key(Qt.Key.Key_Return)
    (curve,) = curves(fencer).values()
    assert [p.at for p in curve.points] == [(6, 8), (6, 16), (10, 22)]
    assert len(fencer.room.things()) == len(ghost.records[-1].after)
    fencer.session.undo()
    assert not curves(fencer) and not fencer.room.things()


def test_a_drag_draws_freely_and_a_box_draws_a_rectangle(fencer):
    fencer.key(Qt.Key.Key_D)
    fencer.stroke((6, 6), (8, 9), (7, 13), (9, 18))
    (free,) = curves(fencer).values()
    assert 2 < len(free.points) < 6 and free.points[0].bend == "smooth"
    fencer.key(Qt.Key.Key_B)
    fencer.stroke((12, 8), (18, 20))
    box = curves(fencer)[max(curves(fencer))]
    assert box.closed and len(box.points) == 8


def test_a_press_on_the_line_picks_the_curve_and_a_drag_moves_all_of_it(fencer):
    number = drawn(fencer, (6, 6), (6, 20))
    fencer.session.picking.pick([])
    fencer.press((6, 9.5))
    assert fencer.session.picking.entries == (Pick("things", number),)
    fencer.move((9, 11.5))
    fencer.let_go((9, 11.5))
    assert curves(fencer)[number].points[0].at == (9, 8)
    assert {t.y for t in fencer.room.things()} == {9.0}
    assert sees(fencer, (9, 12.3), "buoy")


def test_a_point_is_pulled_with_everything_along_it_as_one_edit(fencer):
    number = drawn(fencer, (6, 6), (6, 14), (6, 22))
    at = fencer.session.handle.history.at
    fencer.press((6, 14))

    def arrived():  # the display server tells of older places late
        fencer.qtbot.mouseMove(fencer.table, fencer.at((10, 15)) + QPoint(1, 0))
        fencer.move((10, 15))
        fencer.settle(30)
        return fencer.table.pulls.words()[0].endswith("cells")

    fencer.qtbot.waitUntil(arrived)
    fencer.let_go((10, 15))
    assert curves(fencer)[number].points[1].at == (10, 15)
    assert fencer.session.handle.history.at == at + 1
    known = curves(fencer)[number]
    for thing in fencer.room.things():
        assert known.line.nearest((thing.y, thing.x))[1] < 0.01


def test_handles_of_a_picked_point_bend_the_curve(fencer):
    number = drawn(fencer, (8, 6), (8, 14), (8, 22))
    fencer.stroke((8, 14), (8, 14))  # picks the point
    assert fencer.session.curves.chosen() == (1,)
    before, after = curves(fencer)[number].pulls
    handle = np.array((8, 14)) + after[1]
    fencer.stroke(tuple(handle), (handle[0] - 3, handle[1]))
    point = curves(fencer)[number].points[1]
    assert point.bend == "free" and point.after[0] == pytest.approx(-3, abs=0.2)
    assert point.before[0] > 0  # the other one stays in line
    del before


def test_a_double_click_adds_a_point_and_on_a_point_takes_it_away(fencer):
    number = drawn(fencer, (6, 6), (6, 26))
    double(fencer, (6, 11))
    assert len(curves(fencer)[number].points) == 3
    assert curves(fencer)[number].points[1].at[1] == pytest.approx(11, abs=0.3)
    double(fencer, (6, curves(fencer)[number].points[1].at[1]))
    assert len(curves(fencer)[number].points) == 2


def test_del_takes_picked_points_and_then_the_curve(fencer):
    number = drawn(fencer, (6, 6), (10, 14), (6, 22))
    fencer.stroke((10, 14), (10, 14))
    fencer.key(Qt.Key.Key_Delete)
    assert len(curves(fencer)[number].points) == 2
    fencer.key(Qt.Key.Key_Delete)
    assert not curves(fencer) and not fencer.room.things()


def test_escape_lets_go_of_the_points_first(fencer):
    drawn(fencer, (6, 6), (10, 14), (6, 22))
    fencer.stroke((10, 14), (10, 14))
    fencer.key(Qt.Key.Key_Escape)
    assert not fencer.session.curves.chosen() and fencer.session.curves.first()
    fencer.key(Qt.Key.Key_Escape)
    assert fencer.session.curves.first() is None


def test_the_panel_says_and_sets_what_the_curve_is(fencer):
    number = drawn(fencer, (6, 6), (10, 14), (6, 22))
    panel = fencer.window.right.picked
    assert "3 points · open" in panel.what.text()
    rows = panel.curves
    fencer.qtbot.mouseClick(rows.form["closed"], LEFT)
    assert curves(fencer)[number].closed
    fencer.qtbot.mouseClick(rows.form["open"], LEFT)
    fencer.qtbot.mouseClick(rows.bends["corner"], LEFT)
    assert {p.bend for p in curves(fencer)[number].points} == {"corner"}
    fencer.qtbot.mouseClick(rows.make["reverse"], LEFT)
    assert curves(fencer)[number].points[0].at == (6, 22)
    rows.beside.setText("1.5")
    fencer.qtbot.mouseClick(rows.offset, LEFT)
    assert len(curves(fencer)) == 2


def test_a_curve_is_split_at_the_picked_point_and_joined_again(fencer):
    number = drawn(fencer, (6, 6), (10, 14), (6, 22))
    fencer.stroke((10, 14), (10, 14))
    fencer.qtbot.mouseClick(fencer.window.right.picked.curves.make["split"], LEFT)
    assert len(curves(fencer)) == 2
    fencer.session.picking.pick([Pick("things", n) for n in curves(fencer)])
    fencer.settle(40)
    fencer.qtbot.mouseClick(fencer.window.right.picked.curves.make["join"], LEFT)
    assert [*curves(fencer)] == [number] and len(curves(fencer)[number].points) == 3


def test_the_fill_is_set_in_the_panel_and_refilled_at_once(fencer):
    number = drawn(fencer, (6, 6), (6, 22))
    rows = fencer.window.right.picked.curves
    count = len(fencer.room.things())
    rows.rows["parts"].add("Lamp")
    fencer.settle(40)
    assert [p.prefab for p in curves(fencer)[number].fill.parts] == ["Bush", "Lamp"]
    rows.put("pitch", 4.0)
    fencer.settle(40)
    assert len(fencer.room.things()) < count
    rows.put("by", "count")
    rows.put("count", 3)
    fencer.settle(40)
    assert len(curves(fencer)[number].fill.parts) == 2 and "count" in rows.rows
    fencer.qtbot.mouseClick(rows.detach, LEFT)
    assert curves(fencer)[number].fill is None
    assert all(t.along is None for t in fencer.room.things())


def test_attached_things_slide_by_held_keys_and_typed_values(fencer):
    number = drawn(fencer, (6, 6), (6, 22))
    fencer.session.curves.do(edits.with_fill, None)
    (lamp,) = stand(fencer.room, Thing("Lamp", 6, 10))
    fencer.session.try_(along.attached, "Yard", [Pick("things", lamp)], Pick("things", number))
    fencer.session.picking.pick([Pick("things", lamp)])
    fencer.settle(40)
    at = fencer.session.handle.history.at
    for _ in range(6):
        fencer.key(Qt.Key.Key_Right, SHIFT)
    where = lambda: next(t for t in fencer.room.things() if t.prefab == "Lamp")  # noqa: E731
    assert where().x == pytest.approx(11.5, abs=0.01)
    assert fencer.session.handle.history.at == at + 1  # one Edit
    rows = fencer.window.right.picked.riders
    assert rows.isVisible()
    rows.share.setText("50")
    rows.share.setModified(True)
    rows.share.editingFinished.emit()
    assert where().x == pytest.approx(14, abs=0.01)
    fencer.qtbot.mouseClick(rows.free, LEFT)
    assert where().along is None


def test_a_thing_is_dragged_along_its_curve_and_not_off_it(fencer):
    number = drawn(fencer, (6, 6), (6, 22))
    fencer.session.curves.do(edits.with_fill, None)
    (lamp,) = stand(fencer.room, Thing("Lamp", 6, 10))
    fencer.session.try_(along.attached, "Yard", [Pick("things", lamp)], Pick("things", number))
    fencer.session.picking.pick([Pick("things", lamp)])
    fencer.stroke((6, 10), (9, 15))
    thing = fencer.room.data.layers["things"].things[lamp]
    assert (thing.y, round(thing.x, 2)) == (6, 15)


def test_a_brush_is_laid_along_the_picked_curve(fencer):
    drawn(fencer, (6, 6), (6, 22))
    fencer.session.hands.take("left", "Water")
    fencer.settle(40)
    fencer.qtbot.mouseClick(fencer.window.right.picked.curves.along, LEFT)
    assert fencer.material((6, 12)) == "Water" and fencer.material((9, 12)) == "Mud"


def test_a_picture_becomes_curves_in_the_room(fencer, tmp_path):
    file = tmp_path / "blot.png"
    file.write_bytes(fencer.session.project.prefabs["Cart"].picture.png)
    fencer.window.files.outline_from(file)
    (curve,) = curves(fencer).values()
    assert curve.closed and fencer.session.curves.first() is not None
    fencer.window.files.outline_from(tmp_path / "none.png")  # is said, and changes nothing
    assert len(curves(fencer)) == 1


def test_at_cursor_lists_the_curve_and_a_click_picks_it(fencer):
    number = drawn(fencer, (6, 6), (6, 22))
    fencer.session.picking.pick([])
    fencer.hover((6, 13))
    fencer.settle(60)
    found = [item for item in fencer.window.at_cursor.items if item.curve is not None]
    assert [item.curve for item in found] == [number]
    fencer.window.at_cursor.pick(found[0])
    assert fencer.session.curves.first()[0] == Pick("things", number)


def test_curves_are_hidden_while_nobody_works_on_them(fencer):
    drawn(fencer, (12, 6), (12, 22))
    assert sees(fencer, (12, 9), "buoy")
    fencer.session.picking.pick([])
    fencer.key(Qt.Key.Key_D)
    fencer.session.hands.take("left", "Stones")
    fencer.settle(60)
    assert not sees(fencer, (12, 9), "ink", 1) and not sees(fencer, (12, 9), "buoy", 1)


def test_on_the_ground_and_in_space_in_a_voxel_room(modeller):
    session = modeller.session
    name = next(n for n, p in session.project.prefabs.items() if not p.rules)
    session.apply(put_brush(session.project, CurveBrush("Fence", (CurvePart(name),))))
    session.hands.take("left", "Fence")
    session.lay("left", np.array([[3.0, 3, 3], [3, 8, 10]]), Gesture("line"))
    layer_id = next(i for i, la in session.room.bottom_up("things") if la.curves)
    number = max(session.room.layers[layer_id].curves)
    session.gestures.use("lasso")
    session.picking.pick([Pick(layer_id, number)])
    modeller.settle(100)
    rows = modeller.window.right.picked.curves
    assert rows.lies["on the ground"].isVisible()
    marks = modeller.table.curve_marks
    seen = marks.line(session.curves.first()[1])
    assert marks.at(seen[len(seen) // 2]) == [Pick(layer_id, number)]
    modeller.qtbot.mouseClick(rows.lies["in space"], LEFT)
    assert not session.curves.first()[1].on_ground


def test_picked_points_are_nudged_and_typed(fencer):
    number = drawn(fencer, (6, 6), (10, 14), (6, 22))
    fencer.stroke((10, 14), (10, 14))
    fencer.key(Qt.Key.Key_Down)
    fencer.key(Qt.Key.Key_Right)
    assert curves(fencer)[number].points[1].at == (11, 15)
    rows = fencer.window.right.picked.curves
    fencer.settle(60)
    assert (rows.places[0].text(), rows.places[1].text()) == ("15", "11")
    rows.places[1].setText("8.5")
    rows.places[1].setModified(True)
    rows.places[1].editingFinished.emit()
    assert curves(fencer)[number].points[1].at == (8.5, 15)


def test_an_expression_places_several_things_along_their_curve(fencer):
    number = drawn(fencer, (6, 6), (6, 26))
    fencer.session.curves.do(edits.with_fill, None)
    lamps = stand(fencer.room, Thing("Lamp", 6, 8), Thing("Lamp", 6, 14), Thing("Lamp", 6, 20))
    picks = [Pick("things", n) for n in lamps]
    fencer.session.try_(along.attached, "Yard", picks, Pick("things", number))
    fencer.session.picking.pick(picks)
    fencer.settle(60)
    rows = fencer.window.right.picked.riders
    at = fencer.session.handle.history.at
    rows.share.setText("linspace(0, 100)")
    rows.share.setModified(True)
    rows.share.editingFinished.emit()
    things = fencer.room.data.layers["things"].things
    assert [round(things[n].x, 3) for n in lamps] == [6, 16, 26]
    assert fencer.session.handle.history.at == at + 1
    said = []
    fencer.session.said.connect(said.append)
    rows.aside.setText("sine(i)")
    rows.aside.setModified(True)
    rows.aside.editingFinished.emit()
    assert "sin" in said[-1]


def test_a_sown_thing_is_picked_by_the_ray_in_a_voxel_room(modeller):
    session = modeller.session
    name = next(n for n, p in session.project.prefabs.items() if not p.rules)
    brush = FieldBrush("Moss", (Sown(name),), spacing=1.5, density=1.0, soft=0)
    session.apply(put_brush(session.project, brush))
    floor = Box((3, 0, 0), (4, 12, 14)).cells()
    session.apply(brush.plan(Place(session.project, session.room_name), Marks(floor)))
    layer_id = next(i for i, _ in session.room.bottom_up("field"))
    found = sow(session.project, session.room, layer_id)
    row = int(np.linalg.norm(found.positions[:, 1:] - (6, 7), axis=1).argmin())
    thing = found.thing(row)
    (at,) = modeller.table.seen_at(np.array([[thing.z + 0.1, thing.y, thing.x]]))
    cells = modeller.table.cells_under(at)
    (pick,) = session.picking.take_sown(cells)
    assert session.room.layers[layer_id].table("held")[pick.number] == thing
