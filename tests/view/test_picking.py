"""The lasso in a real window: things and areas picked, moved, kept, grouped and copied."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QLabel

from tests.rooms import drawn, planes, stand, tile
from tests.view.designer import Designer
from topion.brushes import Panel
from topion.edit.pieces import Pick
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.model.prefab import Thing
from topion.view.panels.picked import PickedPanel

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
NONE, RIGHT = Qt.KeyboardModifier.NoModifier, Qt.MouseButton.RightButton
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def picker(designer) -> Designer:
    """The lasso in use over mud with four bushes, a pond and two lamps."""
    room = designer.room
    room.lay("Water", box=((8, 8), (10, 11)))
    room.lay("Bush", cells=[(5, 5), (5, 9), (14, 6), (16, 20)])
    room.lay("Lamp", cells=[(4, 14), (18, 12)])
    designer.handle.history.mark_saved()
    designer.key(Qt.Key.Key_S)
    return designer


def picked(hand):
    """What is picked, by prefab and cell (y, x)."""
    return sorted((t.prefab, int(t.y), int(t.x)) for _, t in hand.session.picking.things())


def things(hand):
    found = hand.room.data.layer("things").things.values()
    return sorted((t.prefab, t.y, t.x) for t in found)


def draw(hand, *cells, button=LEFT, modifier=NONE, end=True):
    """Drag through the middles of cells; every place is waited for."""
    table = hand.table
    points = [hand.at(cell) for cell in cells]
    hand.qtbot.mouseMove(table, points[0])
    hand.qtbot.mousePress(table, button, modifier, points[0])
    for point in points[1:]:
        arrive(hand, point)
    if end:
        hand.qtbot.mouseRelease(table, button, modifier, points[-1])
        hand.settle()


def arrive(hand, point: QPoint) -> None:
    def arrived() -> bool:  # the display server tells of older places late
        hand.qtbot.mouseMove(hand.table, point + QPoint(1, 0))
        hand.qtbot.mouseMove(hand.table, point)
        hand.settle(5)
        return hand.table.hover is not None and hand.table.hover.toPoint() == point

    hand.qtbot.waitUntil(arrived)


def text_of(hand):
    panel = hand.window.findChildren(QLabel)
    return " ".join(label.text() for label in panel if label.isVisible())


# --- what is picked -----------------------------------------------------------------------


def test_a_lasso_drawn_round_things_picks_them_and_the_cells_it_encloses(picker):
    draw(picker, (3, 3), (3, 11), (7, 11), (7, 3), (3, 3))
    assert picked(picker) == [("Bush", 5, 5), ("Bush", 5, 9)]
    area = picker.session.picking.area
    assert area is not None and area.holds(np.array([(5, 7)]))[0]
    assert not area.holds(np.array([(9, 9)]))[0]
    assert not picker.handle.history.changed, "picking changes nothing"


def test_shift_picks_more_and_the_right_button_takes_away(picker):
    draw(picker, (3, 3), (3, 7), (7, 7), (7, 3), (3, 3))
    draw(picker, (12, 4), (12, 8), (16, 8), (16, 4), (12, 4), modifier=SHIFT)
    assert picked(picker) == [("Bush", 5, 5), ("Bush", 14, 6)]
    draw(picker, (3, 3), (3, 7), (7, 7), (7, 3), (3, 3), button=RIGHT)
    assert picked(picker) == [("Bush", 14, 6)]
    picker.press((16, 20), modifier=SHIFT)
    picker.let_go((16, 20))
    assert picked(picker) == [("Bush", 14, 6), ("Bush", 16, 20)]
    picker.press((14, 6), RIGHT)
    picker.let_go((14, 6), RIGHT)
    assert picked(picker) == [("Bush", 16, 20)]


def test_the_option_key_goes_through_the_ways_of_picking(picker):
    picker.key(Qt.Key.Key_V)
    assert picker.session.picking.way() == "box"
    draw(picker, (3, 3), (6, 10))
    area = picker.session.picking.area
    assert area is not None and area.size == 4 * 8
    picker.key(Qt.Key.Key_V)
    assert picker.session.picking.way() == "alike"
    picker.key(Qt.Key.Key_Escape)
    picker.press((9, 9))
    picker.let_go((9, 9))
    area = picker.session.picking.area
    assert area is not None and area.size == 3 * 4, "the pond"
    picker.key(Qt.Key.Key_V)
    assert picker.session.picking.way() == "prefab"
    picker.key(Qt.Key.Key_Escape)
    picker.press((5, 5))
    picker.let_go((5, 5))
    assert [name for name, _, _ in picked(picker)] == ["Bush"] * 4


def test_all_instances_of_a_picked_prefab_light_up(picker):
    before = picker.table.grab().toImage()
    picker.press((5, 5))
    picker.let_go((5, 5))
    picker.hover((22, 28))
    after = picker.table.grab().toImage()

    def is_lit(cell):
        at = picker.at(cell)
        around = [at + QPoint(x, y) for x in range(-14, 15) for y in range(-14, 15)]
        return any(before.pixelColor(p) != after.pixelColor(p) for p in around)

    assert is_lit((14, 6)) and is_lit((16, 20)), "the other bushes"
    assert not is_lit((18, 12)) and not is_lit((20, 4)), "neither lamps nor bare mud"


# --- moving -------------------------------------------------------------------------------


def test_a_drag_moves_all_that_is_picked_as_one_edit(picker):
    draw(picker, (3, 3), (3, 11), (6, 11), (6, 3), (3, 3))
    picker.session.picking.pick(picker.session.picking.entries)  # without the cells
    count = len(picker.handle.history.edits)
    draw(picker, (5, 5), (12, 15), (13, 16))
    assert picked(picker) == [("Bush", 13, 16), ("Bush", 13, 20)]
    assert len(picker.handle.history.edits) == count + 1
    picker.key(Qt.Key.Key_Z, CTRL)
    assert picked(picker) == [("Bush", 5, 5), ("Bush", 5, 9)]


def test_a_thing_dragged_where_a_rule_forbids_it_is_refused_but_goes_with_the_key_held(picker):
    draw(picker, (4, 14), (17, 12), (17, 13), end=False)
    assert picker.table.pulls.is_refused, "lamps keep three cells apart"
    picker.let_go((17, 13))
    assert ("Lamp", 4, 14) in [(n, int(y), int(x)) for n, y, x in things(picker)]
    picker.hold(Qt.Key.Key_O)
    draw(picker, (4, 14), (17, 12), (17, 13))
    picker.release(Qt.Key.Key_O)
    assert ("Lamp", 17, 13) in [(n, int(y), int(x)) for n, y, x in things(picker)]


def test_an_area_dragged_leaves_open_ground_and_comes_back_to_what_was(picker):
    before = planes(picker.room)
    picker.key(Qt.Key.Key_V)
    draw(picker, (8, 8), (10, 11))
    draw(picker, (9, 9), (13, 22), (14, 23))
    assert picker.material((9, 9)) == "" and picker.material((14, 23)) == "Water"
    draw(picker, (14, 23), (9, 10), (9, 9))
    after = planes(picker.room)
    assert all(np.array_equal(before[name], after[name]) for name in before), (
        "also what it had been moved over"
    )


def test_arrow_keys_nudge_an_area_over_others_without_eating_them(picker):
    before = planes(picker.room)
    picker.key(Qt.Key.Key_V)
    draw(picker, (8, 8), (10, 9))
    for _ in range(3):
        picker.key(Qt.Key.Key_Right)
    assert picker.material((9, 8)) == "" and picker.material((9, 12)) == "Water"
    for _ in range(3):
        picker.key(Qt.Key.Key_Left)
    after = planes(picker.room)
    assert all(np.array_equal(before[name], after[name]) for name in before)


def test_keys_turn_and_mirror_an_area_and_four_quarters_are_nothing(picker):
    before = planes(picker.room)
    picker.key(Qt.Key.Key_V)
    draw(picker, (7, 7), (11, 11))
    picker.key(Qt.Key.Key_T)
    found = [row[7:12] for row in drawn(picker.room, {"Mud": "m", "Water": "w"})[7:12]]
    assert found == ["mmmmm", "mwwwm", "mwwwm", "mwwwm", "mwwwm"]
    for _ in range(3):
        picker.key(Qt.Key.Key_T)
    picker.key(Qt.Key.Key_M)
    picker.key(Qt.Key.Key_M)
    after = planes(picker.room)
    assert all(np.array_equal(before[name], after[name]) for name in before)


def test_strokes_stay_inside_the_area_when_that_is_asked_for(picker):
    picker.key(Qt.Key.Key_V)
    draw(picker, (8, 8), (10, 11))
    picker.key(Qt.Key.Key_S, SHIFT)
    picker.key(Qt.Key.Key_B)
    assert picker.session.picking.keeps_inside
    picker.session.hands.take("left", "Stones")
    draw(picker, (9, 5), (9, 10), (9, 15))
    assert [picker.material((9, x)) for x in (5, 7, 8, 11, 12)] == [
        "Mud", "Mud", "Stones", "Stones", "Mud"
    ]  # fmt: skip


def test_delete_leaves_the_picked_cells_open_and_undo_brings_all_back(picker):
    picker.key(Qt.Key.Key_V)
    draw(picker, (4, 4), (10, 11))
    picker.key(Qt.Key.Key_Delete)
    assert picker.material((9, 9)) == "" and picker.material((5, 5)) == ""
    assert ("Bush", 5, 5) not in [(n, int(y), int(x)) for n, y, x in things(picker)]
    picker.key(Qt.Key.Key_Z, CTRL)
    assert picker.material((9, 9)) == "Water"
    assert ("Bush", 5, 5) in [(n, int(y), int(x)) for n, y, x in things(picker)]


# --- groups, copies, snapping --------------------------------------------------------------


def test_a_group_is_picked_whole_until_it_is_taken_apart(picker):
    draw(picker, (3, 3), (3, 11), (6, 11), (6, 3), (3, 3))
    picker.key(Qt.Key.Key_G, CTRL)
    picker.key(Qt.Key.Key_Escape)
    assert picked(picker) == []
    picker.press((5, 5))
    picker.let_go((5, 5))
    assert picked(picker) == [("Bush", 5, 5), ("Bush", 5, 9)]
    picker.key(Qt.Key.Key_G, CTRL | SHIFT)
    picker.key(Qt.Key.Key_Escape)
    picker.press((5, 9))
    picker.let_go((5, 9))
    assert picked(picker) == [("Bush", 5, 9)]


def test_a_copy_beside_it_is_picked_and_an_original_stays(picker):
    picker.press((14, 6))
    picker.let_go((14, 6))
    picker.key(Qt.Key.Key_D, CTRL)
    assert picked(picker) == [("Bush", 15, 7)]
    assert ("Bush", 14, 6) in [(n, int(y), int(x)) for n, y, x in things(picker)]


def test_things_between_cells_are_snapped_as_one_edit(picker):
    stand(picker.room, Thing("Bush", 20.3, 4.8), Thing("Bush", 20.1, 9.3))
    draw(picker, (19, 3), (19, 11), (22, 11), (22, 3), (19, 3))
    count = len(picker.handle.history.edits)
    picker.key(Qt.Key.Key_J)
    assert len(picker.handle.history.edits) == count + 1
    assert [t for t in things(picker) if t[1] > 19] == [("Bush", 20, 5), ("Bush", 20, 9)]


def test_the_panel_says_how_large_the_area_is_and_takes_typed_places(picker):
    picker.key(Qt.Key.Key_V)
    draw(picker, (8, 8), (10, 11))
    assert "4 × 3" in text_of(picker)


def test_things_are_spawned_into_the_area_and_again_adds_more(picker):
    session, panel = picker.session, picker.window.findChild(PickedPanel)
    session.hands.take("left", "Lamp")
    session.picking.pick(area=Area.of_box(Box((0, 0), (20, 24))))
    picker.settle()
    before, count = len(session.room.layers["things"].things), len(picker.handle.history.edits)
    panel.area.count.setText("5")
    picker.qtbot.mouseClick(panel.area.spawn, LEFT)
    picker.settle(60)
    assert len(session.room.layers["things"].things) == before + 5
    assert "5 of 5 placed" in panel.area.spawned.text()
    picker.qtbot.mouseClick(panel.area.spawn, LEFT)
    picker.settle(60)
    assert len(session.room.layers["things"].things) == before + 10
    assert len(picker.handle.history.edits) == count + 2
    session.undo()
    assert len(session.room.layers["things"].things) == before + 5


def test_what_is_picked_is_lined_up_spread_and_replaced_from_its_panel(picker):
    session = picker.session
    layer = session.room.layers["things"]
    picks = [Pick("things", n) for n, t in layer.things.items() if t.prefab == "Bush"]
    session.picking.pick(picks)
    picker.settle()
    rows = picker.window.findChild(PickedPanel).things
    picker.qtbot.mouseClick(rows.arrange["Align west"], LEFT)
    assert len({session.room.layers["things"].things[p.number].x for p in picks}) == 1
    picker.qtbot.mouseClick(rows.arrange["Evenly north–south"], LEFT)
    at = sorted(session.room.layers["things"].things[p.number].y for p in picks)
    gaps = {round(b - a, 4) for a, b in itertools.pairwise(at)}
    assert len(gaps) == 1
    session.hands.take("left", "Lamp")
    picker.settle()
    assert rows.replace.text() == "Lamp"
    picker.qtbot.mouseClick(rows.replace, LEFT)
    assert {session.room.layers["things"].things[p.number].prefab for p in picks} == {"Lamp"}
    picker.qtbot.mouseClick(rows.spread, LEFT)
    picker.settle()
    room = picker.handle.room(session.room_name)
    assert not [f for f in room.project.check() if f.check.startswith("rule broken")]


def test_a_picked_thing_is_attached_to_the_piece_under_it_and_goes_with_it(picker):
    session = picker.session
    room = picker.handle.room(session.room_name)
    picker.handle.add_brush(Panel("Deck", {"mm": tile(1, 2)}))
    room.lay("Deck", box=((14, 4), (17, 9)))
    (number,) = stand(room, Thing("Bush", 15, 6))
    session.picking.pick([Pick("things", number)])
    picker.settle()
    rows = picker.window.findChild(PickedPanel).things.stance
    (piece,) = session.room.layers["ground"].pieces
    choices = {words: to for to, words in rows.choices()}
    assert choices[f"Deck {piece}"] == ("ground", piece)
    rows.attach(("ground", piece))
    assert rows.attached.text() == f"Deck {piece} ▾"
    session.pieces.pick([Pick("ground", piece)])
    picker.settle()
    picker.key(Qt.Key.Key_Right)
    assert session.room.layers["things"].things[number].x == 7
    session.undo()
    session.undo()
    assert session.room.layers["things"].things[number].attached is None
