"""All things of a prefab: here, in the room, in the world."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt

from tests.rooms import stand
from topion.edit.pieces import Pick
from topion.model.prefab import Thing

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def picker(designer):
    """Bushes in view and beyond it, and in another room; one of them picked."""
    numbers = stand(designer.room, Thing("Bush", 10, 14), Thing("Bush", 12, 17), Thing("Lamp", 8, 8),
                    Thing("Bush", 23, 0))  # fmt: skip
    other = designer.handle.add_room("Shed", (8, 8), 4)
    stand(other, Thing("Bush", 3, 3))
    designer.key(Qt.Key.Key_S)
    designer.session.picking.pick([Pick("things", numbers[0])])
    designer.settle(80)
    return designer


def rows(hand):
    return hand.window.right.picked.alike


def test_all_in_the_room(picker):
    picker.qtbot.mouseClick(rows(picker).room, LEFT)
    assert {t.prefab for _, t in picker.session.picking.things()} == {"Bush"}
    assert len(picker.session.picking.things()) == 3


def test_all_in_view(picker):
    picker.window.table.centre_on((11, 15))
    picker.window.table.camera.step = 10
    picker.window.table.centre_on((11, 15))
    picker.settle(60)
    picker.qtbot.mouseClick(rows(picker).here, LEFT)
    at = sorted((t.y, t.x) for _, t in picker.session.picking.things())
    assert at == [(10, 14), (12, 17)]


def test_how_many_in_each_room_and_a_click_goes_there(picker):
    menu = rows(picker).menu("Bush", [("Yard", 3), ("Shed", 1), ("Void", 0)])
    told = [action.text() for action in menu.actions()]
    assert told == ["4 Bush in 2 rooms", "Yard\t3", "Shed\t1"]
    menu.actions()[2].trigger()
    picker.settle(80)
    assert picker.session.room_name == "Shed"
    assert [(t.y, t.x) for _, t in picker.session.picking.things()] == [(3, 3)]


def test_things_of_several_prefabs_have_no_such_row(picker):
    layer = picker.room.data.layers["things"]
    picker.session.picking.pick([Pick("things", n) for n in layer.things])
    picker.settle(60)
    assert not rows(picker).isVisible() and rows(picker).prefab() == ""
