"""Arranging in the window: typed with real keys, shown on the table, one Edit."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt

from tests.edit.test_curves import curve, drawn
from tests.rooms import stand
from topion.brushes import CurveBrush
from topion.edit.pieces import Pick
from topion.model.prefab import Thing
from topion.view.style import ink
from topion.view.table.piece_bar import PieceBar

LEFT = Qt.MouseButton.LeftButton
CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def arranger(designer):
    """Four bushes in a row, picked, and the panel."""
    numbers = stand(designer.room, *(Thing("Bush", 4, 4 + 2 * n) for n in range(4)))
    designer.window.table.setFocus()
    designer.key(Qt.Key.Key_S)
    designer.session.picking.pick([Pick("things", n) for n in numbers])
    designer.qtbot.keyClick(designer.window.table, Qt.Key.Key_R, CTRL)
    designer.settle(60)
    assert designer.window.arrange.isVisible()
    return designer


def types(hand, name, text):
    field = hand.window.arrange.rows[name].field
    field.clear()
    hand.qtbot.keyClicks(field, text)
    hand.settle(80)


def places(hand):
    return [(thing.y, thing.x) for thing in hand.room.things()]


def test_what_is_typed_is_shown_at_once_and_laid_by_one_edit(arranger):
    panel, before = arranger.window.arrange, places(arranger)
    count = arranger.session.handle.history.at
    types(arranger, "y", "10 + 2*i")
    assert arranger.session.preview and places(arranger) == before
    assert panel.told.text().startswith("4 arranged · 4 may stand")
    assert panel.rows["y"].told.text() == "10 … 16 cells"
    arranger.qtbot.mouseClick(panel.apply_button, LEFT)
    arranger.settle(60)
    assert places(arranger) == [(10, 4), (12, 6), (14, 8), (16, 10)]
    assert arranger.session.handle.history.at == count + 1
    assert arranger.session.preview is None and panel.rows["y"].field.text() == ""
    arranger.session.undo()
    assert places(arranger) == before


def test_the_table_shows_where_they_come_to_stand(arranger):
    table = arranger.window.table
    types(arranger, "y", "14")
    at = table.cell_centre(14, 4).toPoint() + QPoint(6, 0)
    image = table.grab().toImage()
    ratio = image.width() / table.width()
    found = [image.pixelColor(int((at.x() + dx) * ratio), int(at.y() * ratio)).getRgb()[:3]
             for dx in (-1, 0, 1)]  # fmt: skip
    assert any(sum(abs(a - b) for a, b in zip(px, ink("tidal").getRgb()[:3], strict=True)) < 60
               for px in found)  # fmt: skip


def test_a_row_in_error_says_so_and_its_mend_is_a_click(arranger):
    panel = arranger.window.arrange
    types(arranger, "x", "10 + 2*sine(i)")
    types(arranger, "y", "12")
    told = panel.rows["x"].told.text()
    assert told.startswith("character 8: “sine” is not a name here. Did you mean <a")
    assert arranger.session.preview is not None  # the others apply
    panel.rows["x"].told.linkActivated.emit("mend")
    arranger.settle(60)
    assert panel.rows["x"].field.text() == "10 + 2*sin(i)"
    assert "x" not in panel.work.found.wrong


def test_copies_are_made_first(arranger):
    panel = arranger.window.arrange
    arranger.session.picking.pick([Pick("things", 1)])
    arranger.settle(60)
    panel.makes.setChecked(True)
    panel.count.setValue(6)
    types(arranger, "x", "4 + 3*i")
    panel.apply()
    assert sorted(places(arranger))[:1] == [(4, 4)] and len(places(arranger)) == 9
    assert not panel.makes.isChecked()


def test_an_example_fills_the_rows_about_the_middle_of_what_is_picked(arranger):
    panel = arranger.window.arrange
    arranger.qtbot.mouseClick(panel.examples["circle"], LEFT)
    arranger.settle(80)
    assert panel.rows["x"].field.text().startswith("7 + ")
    assert "cos(2*pi*t)" in panel.rows["x"].field.text()


def test_dice_roll_other_chances(arranger):
    panel = arranger.window.arrange
    types(arranger, "x", "uniform(2, 30)")
    first = panel.work.found.values["x"].copy()
    assert panel.rows["x"].dice.isVisibleTo(panel)
    assert not panel.rows["y"].dice.isVisibleTo(panel)
    arranger.qtbot.mouseClick(panel.rows["x"].dice, LEFT)
    arranger.settle(80)
    assert (panel.work.found.values["x"] != first).all()


def test_refused_ones_stay_or_go_all_the_same(designer):
    numbers = stand(designer.room, Thing("Lamp", 4, 4), Thing("Lamp", 4, 20))
    designer.key(Qt.Key.Key_S)
    designer.session.picking.pick([Pick("things", n) for n in numbers])
    designer.window.show_arrange()
    designer.settle(60)
    panel = designer.window.arrange
    types(designer, "x", "10 + i")
    assert "2 refused" in panel.told.text()
    panel.apply()
    assert places(designer) == [(4, 4), (4, 20)]
    types(designer, "x", "10 + i")
    designer.qtbot.mouseClick(panel.refused.buttons[True], LEFT)
    panel.apply()
    assert places(designer) == [(4, 10), (4, 11)]


def test_escape_drops_all_of_it(arranger):
    types(arranger, "x", "20")
    before = places(arranger)
    arranger.qtbot.keyClick(arranger.window.arrange.rows["x"].field, Qt.Key.Key_Escape)
    arranger.settle(30)
    assert not arranger.window.arrange.isVisible() and arranger.session.preview is None
    assert places(arranger) == before and arranger.session.over is None


def test_in_a_voxel_room_the_preview_stands_on_the_ground(modeller):
    room = modeller.handle.room(modeller.session.room_name)
    numbers = stand(room, Thing("Bush", 3, 3, z=3.0), Thing("Bush", 3, 6, z=3.0))
    modeller.key(Qt.Key.Key_S)
    modeller.session.picking.pick([Pick("things", n) for n in numbers])
    modeller.window.show_arrange()
    modeller.settle(80)
    assert [*modeller.window.arrange.rows][:3] == ["x", "y", "turn"]
    types(modeller, "y", "7")
    before = modeller.table.grab().toImage()
    assert [things[0].at for things in modeller.window.arrange.work.found.after] == [
        (3.0, 7.0, 3.0), (3.0, 7.0, 6.0)
    ]  # fmt: skip
    modeller.window.show_arrange()
    modeller.settle(120)
    assert modeller.table.grab().toImage() != before


@pytest.mark.parametrize("hand", ["designer", "modeller"])
def test_the_bar_of_what_is_picked_makes_room_for_the_preview(hand, request, qtbot):
    hand = request.getfixturevalue(hand)
    room = hand.session.handle.room(hand.session.room_name)
    (number,) = stand(room, Thing("Bush", 4, 5, z=3.0))
    bar = hand.table.findChild(PieceBar)
    hand.key(Qt.Key.Key_S)
    hand.session.picking.pick([Pick("things", number)])
    qtbot.waitUntil(bar.isVisible)
    hand.window.show_arrange()
    qtbot.waitUntil(lambda: not bar.isVisible())
    hand.window.show_arrange()
    qtbot.waitUntil(bar.isVisible)


# --- in any number field of what is picked --------------------------------------------------


def typed_in(hand, field, text):
    field.setFocus()
    field.selectAll()
    hand.qtbot.keyClicks(field, text)
    hand.qtbot.keyClick(field, Qt.Key.Key_Return)
    hand.settle(60)


def test_an_expression_may_be_typed_into_a_number_field_of_several(arranger, qtbot):
    arranger.window.show_arrange()
    arranger.settle(60)
    rows = arranger.window.right.picked.things
    typed_in(arranger, rows.places[1], "10 + 2*i")
    assert [y for y, _ in places(arranger)] == [10, 12, 14, 16]
    typed_in(arranger, rows.scale, "1 + t")
    assert [thing.scale for thing in arranger.room.things()] == [1, 1.25, 1.5, 1.75]
    with qtbot.waitSignal(arranger.session.said) as said:
        typed_in(arranger, rows.places[1], "10 + 2*k")
    assert said.args[0].startswith("y: character 8: “k” is not a name here")
    assert [y for y, _ in places(arranger)] == [10, 12, 14, 16]


def test_a_plain_number_is_meant_as_ever(arranger):
    arranger.window.show_arrange()
    arranger.settle(60)
    typed_in(arranger, arranger.window.right.picked.things.places[0], "7,5")
    assert [x for _, x in places(arranger)] == [7.5, 9.5, 11.5, 13.5]


def test_the_preview_is_dragged_and_its_numbers_follow(arranger):
    types(arranger, "x", "linspace(6, 18)")
    types(arranger, "y", "10")
    arranger.stroke((10, 12), (13, 14))
    panel = arranger.window.arrange
    arranger.settle(80)
    assert panel.rows["x"].field.text() == "linspace(8, 20)"
    assert panel.rows["y"].field.text() == "13"
    assert places(arranger)[0] == (4, 4)  # nothing is laid yet
    arranger.qtbot.mouseClick(panel.apply_button, LEFT)
    assert places(arranger) == [(13, 8), (13, 12), (13, 16), (13, 20)]


def test_a_corner_of_the_preview_scales_it_about_its_middle(arranger):
    types(arranger, "x", "12 + 4*cos(2*pi*t)")
    types(arranger, "y", "12 + 4*sin(2*pi*t)")
    table, grip = arranger.window.table, arranger.session.grip
    frame = grip.frame()
    corner = table.camera.to_cells(frame.bottomRight())
    middle = np.array([12, 12])
    arranger.stroke(corner, tuple(middle + 1.5 * (np.array(corner) - middle)))
    arranger.settle(80)
    assert arranger.window.arrange.rows["x"].field.text() == "12 + 6 * cos(2 * pi * t)"
    assert arranger.window.arrange.rows["y"].field.text() == "12 + 6 * sin(2 * pi * t)"


def test_escape_while_it_is_pulled_writes_the_numbers_as_they_were(arranger):
    types(arranger, "y", "10")
    arranger.press((10, 7))
    arranger.move((13, 9))
    arranger.settle(80)
    arranger.key(Qt.Key.Key_Escape)
    arranger.settle(80)
    assert arranger.window.arrange.rows["y"].field.text() == "10"
    arranger.let_go((13, 9))


def test_along_the_curve_that_is_picked_beside_them(arranger):
    pick = drawn(arranger.room, CurveBrush("Fence"), ((6, 4), (6, 22)), "line")
    arranger.session.picking.pick([*arranger.session.picking.entries, pick])
    arranger.settle(60)
    arranger.qtbot.mouseClick(arranger.window.arrange.examples["along"], LEFT)
    arranger.settle(80)
    arranger.qtbot.mouseClick(arranger.window.arrange.apply_button, LEFT)
    bushes = [(t.y, t.x) for t in arranger.room.things() if t.prefab == "Bush"]
    assert bushes == [(6, 4), (6, 10), (6, 16), (6, 22)]


def test_points_of_a_curve_are_arranged_like_things(arranger):
    pick = drawn(arranger.room, CurveBrush("Fence"), ((6, 4), (9, 10), (5, 16), (8, 22)))
    arranger.session.picking.pick([pick])
    for number in range(4):
        arranger.session.curves.take_point(number, more=True)
    arranger.window.arrange.work.refresh()
    arranger.settle(60)
    assert arranger.window.arrange.title.text() == "4 points"
    assert [*arranger.window.arrange.rows] == ["x", "y"]
    types(arranger, "y", "10")
    arranger.qtbot.mouseClick(arranger.window.arrange.apply_button, LEFT)
    assert [p.at for p in curve(arranger.room, pick).points] == [
        (10, 4), (10, 10), (10, 16), (10, 22)
    ]  # fmt: skip
