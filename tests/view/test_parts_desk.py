"""A composite prefab made of what is picked, and its parts edited on their desk."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QInputDialog

from tests.rooms import stand
from tests.view.designer import Designer
from topion.edit.composites import composite_made
from topion.edit.picked import Picks
from topion.edit.pieces import Pick
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.model.prefab import Thing
from topion.render.composites import composite_look
from topion.view.desks.parts_desk import PartsDesk
from topion.view.desks.prefab_desk import PrefabDesk

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def hand(designer, monkeypatch):
    """A pond of 2 × 1 cells and a bush on it are picked, and made one thing by the key."""
    room = designer.room
    room.lay("Water", box=((6, 6), (7, 8)))
    stand(room, Thing("Bush", 6, 6))
    layer = room.data.id_of("Things")
    number = next(iter(room.data.layers[layer].things))
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Basin", True))
    designer.key(Qt.Key.Key_S)
    designer.session.layer_id = room.data.id_of("Ground")
    designer.session.picking.pick([Pick(layer, number)], Area.of_box(Box((6, 6), (7, 8))))
    designer.key(Qt.Key.Key_T, CTRL | SHIFT)
    designer.settle(60)
    return designer


def parts(hand) -> PartsDesk:
    hand.window.desks.open_parts("Basin")
    hand.settle(120)
    desk = hand.window.desks.desk
    assert isinstance(desk, PartsDesk)
    return desk


def in_parts(hand, desk) -> Designer:
    """The same hands over the table of the desk."""
    inner = Designer.__new__(Designer)
    inner.window, inner.qtbot, inner.table = hand.window, hand.qtbot, desk.tables.shown
    inner.session, inner.handle = desk.ground.session, desk.ground.session.handle
    return inner


def test_a_key_makes_one_thing_of_what_is_picked_and_opens_its_desk(hand):
    desk = hand.window.desks.desk
    assert isinstance(desk, PrefabDesk)
    assert desk.facts.parts.isVisible()
    basin = hand.handle.data.prefab("Basin")
    assert basin.footprint == ("##",)
    assert "Basin" in hand.handle.data.brushes


def test_a_stroke_among_the_parts_changes_all_that_are_placed(hand):
    hand.window.desks.close_desk()
    stand(hand.room, Thing("Basin", 16, 16))
    hand.session.gestures.use("drag")
    desk = parts(hand)
    before = hand.handle.data.prefab("Basin")
    inner = in_parts(hand, desk)
    inner.session.hands.take("left", "Water")
    inner.settle(60)
    inner.stroke((1, 2))
    hand.settle(60)
    after = hand.handle.data.prefab("Basin")
    assert after.footprint == ("#.", "##")
    assert after.picture.size_px[0] > before.picture.size_px[0]
    hand.window.desks.close_desk()
    hand.settle(120)
    seen = hand.pixels((15, 16))
    hand.session.undo()
    hand.settle(120)
    assert hand.handle.data.prefab("Basin") == before
    assert hand.pixels((15, 16)) != seen


def test_undo_on_the_desk_shows_the_parts_as_they_were(hand):
    hand.session.gestures.use("drag")
    desk = parts(hand)
    inner = in_parts(hand, desk)
    inner.session.hands.take("left", "Water")
    inner.settle(60)
    inner.stroke((1, 2))
    hand.session.undo()
    hand.settle(120)
    inner = in_parts(hand, desk)
    assert inner.session.room.info.size == (5, 6)
    assert hand.handle.data.prefab("Basin").footprint == ("##",)


def test_parts_that_were_all_lifted_stay_and_it_is_said(hand):
    said = []
    hand.session.said.connect(said.append)
    hand.session.gestures.use("drag")
    desk = parts(hand)
    inner = in_parts(hand, desk)
    before = hand.handle.data.prefab("Basin")
    inner.session.picking.pick(
        [Pick(k, n) for k, layer in inner.session.room.layers.items() for n in layer.things],
        Area.of_box(inner.session.room.box),
    )
    inner.session.picking.set_over("all layers")
    inner.session.picking.remove()
    hand.settle(60)
    assert hand.handle.data.prefab("Basin") == before
    assert any("at least one cell or thing" in text for text in said)


def test_the_parts_of_a_prefab_without_them_are_not_shown(hand):
    said = []
    hand.session.said.connect(said.append)
    hand.window.desks.close_desk()
    hand.window.desks.open_parts("Lamp")
    assert hand.window.desks.desk is None
    assert said


def test_parts_of_a_voxel_room_are_painted_in_space_and_its_model_follows(modeller):
    room = modeller.handle.room("Isle")
    room.lay("Stones", box=((3, 4, 5), (3, 5, 7)))
    picks = Picks((), Area.of_box(Box((3, 4, 5), (4, 6, 8))), ("blocks",))
    edit = composite_made(modeller.handle.data, "Isle", picks, "Plinth", composite_look)
    modeller.session.apply(edit)
    modeller.window.desks.open_parts("Plinth")
    desk = modeller.window.desks.desk
    table = desk.tables.shown
    modeller.qtbot.waitUntil(table.settled, timeout=5000)
    desk.ground.session.hands.take("left", "Stones")
    at = table.face_centre(0, 0, 2, 2).toPoint()
    modeller.qtbot.mouseMove(table, at)
    modeller.qtbot.mouseClick(table, Qt.MouseButton.LeftButton, pos=at)
    modeller.settle(80)
    plinth = modeller.handle.data.prefab("Plinth")
    assert plinth.height == 2 and plinth.model.cells[16:32, :16, :16].all()
    modeller.session.undo()
    assert modeller.handle.data.prefab("Plinth").height == 1
