"""Roles and conditions of picked things, set in the window."""

import pytest
from PyQt6.QtCore import Qt

from tests.rooms import stand
from topion.brushes.region import RegionBrush
from topion.conditions import Cleared, SwitchOn, Taken
from topion.edit.logic import link_doors
from topion.edit.pieces import Pick
from topion.edit.prefabs import set_prefab
from topion.errors import BadValue
from topion.model.condition import When
from topion.model.prefab import Thing
from topion.roles import Door, Pickup, Switch, Walker
from topion.view.panels.picked import PickedPanel

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def hand(designer):
    """A lamp that is a gate, and a bush that is a switch; the lamp is picked."""
    room = designer.room
    stand(room, Thing("Lamp", 8, 10), Thing("Bush", 8, 20, role=Switch()))
    designer.key(Qt.Key.Key_S)
    designer.session.picking.pick([Pick("things", 1)])
    designer.settle()
    return designer


def rows(hand):
    return hand.window.findChild(PickedPanel).things.logic


def lamp(hand):
    return hand.session.room.layers["things"].things[1]


def test_a_thing_gets_a_role_of_its_own_and_that_of_its_prefab_again(hand):
    hand.session.apply(set_prefab(hand.handle.data, "Lamp", role=Walker()))
    hand.settle()
    assert rows(hand).role.text() == "walker ▾"
    rows(hand).put_role(Door())
    assert lamp(hand).role == Door() and rows(hand).role.text() == "door (its own) ▾"
    rows(hand).sentence.ask("ends_world")
    assert lamp(hand).role == Door(ends_world=True)
    rows(hand).put_role(None)
    assert lamp(hand).role is None and rows(hand).role.text() == "walker ▾"
    hand.session.undo()
    assert lamp(hand).role == Door(ends_world=True)


def test_conditions_are_added_set_and_taken_away(hand):
    rows(hand).when.add_condition("taken")
    rows(hand).when.add_condition("cleared")
    assert lamp(hand).when == When("opens", (Taken(), Cleared()))
    sentence, _ = rows(hand).when.conditions[0]
    sentence.ask("count")
    hand.qtbot.keyClicks(sentence.typed.field, "3")
    hand.qtbot.keyClick(sentence.typed.field, Qt.Key.Key_Return)
    assert lamp(hand).when.all_of[0] == Taken(3)
    hand.qtbot.mouseClick(rows(hand).when.effect, LEFT)
    assert lamp(hand).when.effect == "appears"
    hand.qtbot.mouseClick(rows(hand).when.conditions[1][1], LEFT)
    assert lamp(hand).when == When("appears", (Taken(3),))


def test_conditions_of_its_own_are_given_up_for_those_of_its_prefab(hand):
    hand.session.apply(set_prefab(hand.handle.data, "Lamp", when=When("opens", (Cleared(),))))
    hand.settle()
    when = rows(hand).when
    assert when.own.isHidden() and when.when.all_of == (Cleared(),)
    when.add_condition("taken")
    assert lamp(hand).when == When("opens", (Cleared(), Taken()))
    hand.qtbot.mouseClick(when.own, LEFT)
    assert lamp(hand).when is None and when.when.all_of == (Cleared(),)


def test_the_switch_that_a_condition_speaks_of_is_pointed_at_on_the_table(hand):
    rows(hand).when.add_condition("switch on")
    rows(hand).point_at(0)
    hand.stroke((8, 20))
    assert lamp(hand).when == When("opens", (SwitchOn(2),))
    assert [pick.number for pick in hand.session.picking.entries] == [1], "what is picked stays"
    choices = [words for words, _ in rows(hand).when.choices(0, "thing")]
    assert choices == ["point at it on the table…", "Bush 2"]


def test_a_thread_leads_to_what_the_condition_speaks_of(hand):
    def picture():
        hand.settle(60)
        image = hand.window.table.grab().toImage()
        at = hand.at((10, 15))
        return [image.pixel(at.x(), at.y() + dy) for dy in range(-40, 40)]

    before = picture()
    rows(hand).when.add_condition("switch on")
    rows(hand).when.set_field(0, "thing", 2)
    assert picture() != before


def test_a_mark_stands_at_things_with_a_role(hand):
    hand.session.picking.pick([])
    at = hand.at((8, 10))

    def corner():
        hand.settle(60)
        image = hand.window.table.grab().toImage()
        return [image.pixel(at.x() + dx, at.y() - 14) for dx in range(14)]

    before = corner()
    hand.session.apply(set_prefab(hand.handle.data, "Lamp", role=Pickup()))
    assert corner() != before


def test_whether_it_counts_goes_round(hand):
    told = []
    for _ in range(3):
        hand.qtbot.mouseClick(rows(hand).counts, LEFT)
        told.append(lamp(hand).counts)
    assert told == [True, False, None]


def test_a_region_is_drawn_with_a_hand_and_seen(hand):
    hand.handle.add_brush(RegionBrush("Nave"))
    hand.key(Qt.Key.Key_B)
    hand.session.hands.take("left", "Nave")
    hand.stroke((2, 2), (5, 9))
    region = hand.session.room.region("Nave")
    assert region.plane("inside").sum() == 32
    hand.settle(60)
    at = hand.at((4, 6))
    shown = hand.window.table.grab().toImage().pixelColor(at)
    hand.session.hands.take("left", "Water")
    hand.settle(60)
    assert hand.window.table.grab().toImage().pixelColor(at) != shown


def test_a_door_is_led_to_a_door_of_another_room_and_that_back(hand):
    attic = hand.handle.add_room("Attic", (12, 12))
    stand(attic, Thing("Bush", 3, 4, role=Door(by="acting on it")))
    rows(hand).put_role(Door())
    assert rows(hand).sentence.more_choices("door") is None, "no room yet"
    rows(hand).set_role_field("room", "Attic")
    choices = dict(rows(hand).sentence.more_choices("door"))
    assert list(choices) == ["where that room starts", "Bush at 4, 3", "Bush at 4, 3, and back"]
    choices["Bush at 4, 3"]()
    assert lamp(hand).role == Door(room="Attic", door=1)
    choices["Bush at 4, 3, and back"]()
    there = attic.data.layers["things"].things[1]
    assert there.role == Door("acting on it", hand.session.room_name, 1)
    hand.session.undo()
    assert attic.data.layers["things"].things[1].role.room == ""


def test_what_is_no_door_is_not_led_to(hand):
    name = hand.session.room_name
    rows(hand).put_role(Door())
    with pytest.raises(BadValue, match=r"Bush .* a door"):
        link_doors(
            hand.handle.data, (name, Pick("things", 1)), (name, Pick("things", 2)), back=True
        )
