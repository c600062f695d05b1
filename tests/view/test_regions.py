"""Regions in the window: seen while they are drawn, set up in the rows under their brush."""

import pytest
from PyQt6.QtCore import Qt

from topion.brushes.region import RegionBrush
from topion.conditions import Inside
from topion.edit.library import put_brush
from topion.edit.prefabs import set_prefab
from topion.model.condition import When
from topion.model.edit import Edit
from topion.model.records import taken_away
from topion.things.rules import InZone
from topion.view.panels.in_hand import InHand

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def hand(designer):
    """The brush of a region in the left hand."""
    designer.session.apply(put_brush(designer.handle.data, RegionBrush("Nave", "zone")))
    designer.session.hands.take("left", "Nave")
    designer.key(Qt.Key.Key_B)
    designer.settle()
    return designer


def rows(hand):
    return hand.window.findChild(InHand).regions


def nave(hand):
    return hand.session.room.region("Nave")


def colour_at(hand, cell):
    hand.settle(60)
    at = hand.at(cell)
    return hand.window.table.grab().toImage().pixelColor(at.x() + 3, at.y() + 3)


def test_it_is_seen_while_it_is_drawn_and_afterwards(hand):
    bare = colour_at(hand, (9, 11))
    hand.press((8, 9))
    hand.settle(100)
    hand.move((11, 14))
    hand.qtbot.waitUntil(lambda: colour_at(hand, (9, 11)) != bare, timeout=3000)
    drawn = colour_at(hand, (9, 11))
    assert nave(hand) is None, "only planned"
    hand.let_go((11, 14))
    hand.hover((20, 20))
    assert nave(hand).plane("inside").sum() == 24
    hand.qtbot.waitUntil(lambda: colour_at(hand, (9, 11)) == drawn, timeout=3000)


def test_another_region_stays_in_sight_of_the_ghost(hand):
    hand.stroke((8, 9), (11, 14))
    hand.hover((20, 20))
    seen = colour_at(hand, (9, 11))
    hand.session.apply(put_brush(hand.handle.data, RegionBrush("Crypt", "trigger")))
    hand.session.hands.take("left", "Crypt")
    hand.hover((10, 12))
    hand.settle(200)
    assert colour_at(hand, (9, 11)) == seen


def test_properties_are_added_typed_and_taken_away(hand):
    hand.stroke((8, 9), (11, 14))
    hand.settle()
    hand.qtbot.mouseClick(rows(hand).add, LEFT)
    name, value, _ = rows(hand).values[0]
    value.setFocus()
    hand.qtbot.keyClicks(value, "slow")
    hand.qtbot.keyClick(value, Qt.Key.Key_Return)
    assert nave(hand).info.values == (("note", "slow"),)
    name, *_ = rows(hand).values[0]
    name.selectAll()
    hand.qtbot.keyClicks(name, "music")
    hand.qtbot.keyClick(name, Qt.Key.Key_Return)
    assert nave(hand).info.values == (("music", "slow"),)
    hand.qtbot.mouseClick(rows(hand).values[0][2], LEFT)
    assert nave(hand).info.values == ()
    hand.session.undo()
    assert nave(hand).info.values == (("music", "slow"),)


def test_its_menu_sets_what_it_is_for_hides_clears_and_removes_it(hand):
    hand.stroke((8, 9), (11, 14))
    layer_id = hand.session.room.id_of("Nave")
    does = {a.text(): a for a in rows(hand).menu_of(layer_id).actions()}
    does["It is a trigger"].trigger()
    assert nave(hand).info.purpose == "trigger"
    does["Hide"].trigger()
    assert not nave(hand).info.shown
    does["Lock"].trigger()
    assert "hidden · locked" in rows(hand).told["Nave"].text()
    {a.text(): a for a in rows(hand).menu_of(layer_id).actions()}["Unlock"].trigger()
    does["Clear"].trigger()
    assert not nave(hand).plane("inside").any()
    does["Remove"].trigger()
    assert nave(hand) is None
    assert "Nave" not in rows(hand).names


def test_renamed_it_stays_in_hand_and_is_spoken_of_by_its_new_name(hand):
    hand.stroke((8, 9), (11, 14))
    when = When("opens", (Inside("Nave"),))
    hand.session.apply(set_prefab(hand.handle.data, "Lamp", when=when))
    rows(hand).rename("Nave", "Choir")
    hand.settle()
    assert hand.session.hands["left"] == "Choir"
    assert hand.handle.data.prefabs["Lamp"].when.all_of == (Inside("Choir"),)
    assert hand.session.room.region("Choir").plane("inside").sum() == 24


def test_a_region_without_a_brush_is_drawn_with_a_new_one(hand):
    hand.stroke((8, 9), (11, 14))
    hand.session.apply(Edit("Gone", (taken_away(hand.handle.data, ("brushes", "Nave")),)))
    hand.session.apply(put_brush(hand.handle.data, RegionBrush("Crypt", "trigger")))
    hand.session.hands.take("left", "Crypt")
    hand.settle()
    menu = rows(hand).menu_of(hand.session.room.id_of("Nave"))
    next(a for a in menu.actions() if a.text() == "Draw it").trigger()
    assert hand.session.hands["left"] == "Nave"
    assert hand.handle.data.brushes["Nave"] == RegionBrush("Nave", "zone")


def test_a_field_is_told_in_which_region_it_grows(hand):
    hand.stroke((8, 9), (11, 14))
    hand.session.hands.take("left", "Reeds")
    hand.settle()
    rules = hand.window.findChild(InHand).rules
    before = hand.handle.data.brush("Reeds").rules
    next(a for a in rules.menu().actions() if a.text() == "in a region …").trigger()
    sentence, _ = rules.rows[-1]
    assert "no region yet" in sentence.text()
    blank = next(b for b in sentence.blanks() if b.field == "zone")
    assert ("Nave", "Nave") in sentence.choices(blank)
    next(a for a in sentence.menu_of(blank, "").actions() if a.text() == "Nave").trigger()
    assert hand.handle.data.brush("Reeds").rules == (*before, InZone("Nave"))
    hand.qtbot.mouseClick(rules.rows[-1][1], LEFT)
    assert hand.handle.data.brush("Reeds").rules == before
    hand.session.undo()
    assert hand.handle.data.brush("Reeds").rules == (*before, InZone("Nave"))
