"""Scenes of what is picked, of a stamp in hand and of a room that grows."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QPointF, Qt

from topion.demo.brinehollow import ROOM
from topion.edit.pieces import Pick
from topion.edit.rooms import set_room
from topion.grid.orient import UP
from topion.view.player import Player, Shot


def light(hand: Player, shot: Shot) -> None:
    """Crates on the quay are picked with the lasso, and all others light up."""
    window, session = hand.window, hand.window.session
    window.table.look_at((19, 56), 2.0)
    session.gestures.use("lasso")
    hand.settle(300)
    hand.stroke((14.2, 53.2), (13.4, 54.2), (13.4, 55.7), (15.6, 55.8), (15.7, 53.3))
    hand.hover((17, 50))
    shot("picked")
    session.picking.pick()
    _handles(hand, shot)
    window.escape()
    session.gestures.use("drag")


def _handles(hand: Player, shot: Shot) -> None:
    """Cones of salt and a bucket between the pans, turned by the knob of their frame."""
    session, table = hand.window.session, hand.window.table
    table.look_at((44, 56), 2.0)
    hand.settle(200)
    near = [Pick(layer_id, number) for layer_id, layer in session.room.bottom_up("things")
            for number, thing in layer.things.items()
            if thing.prefab in ("Salt cone", "Bucket") and thing.x > 49
            and 40 < thing.y < 48]  # fmt: skip
    session.picking.pick(near)
    hand.settle(200)
    knob = next((place for name, place in table.knobs.places() if name == "turn"), None)
    if knob is not None:
        at = table.camera.to_cells(knob)
        away = table.camera.to_cells(knob + QPointF(52, 12))
        hand.press([at, away])
        hand.settle(300)
        shot("handles")
        hand.let_go()
        session.undo()
    session.picking.pick()


def grow(hand: Player, shot: Shot) -> None:
    """A stroke past the western edge of a room that may grow."""
    window, session = hand.window, hand.window.session
    session.apply(set_room(session.project, ROOM, grows=True))
    window.rack.show_bay("Ground")
    window.table.look_at((8, 0), 2.0)
    session.hands.take("left", "Salt grass")
    hand.settle(300)
    hand.press([(9, 3), (8, 0), (7, -3), (8, -6)])
    hand.settle(300)
    shot("growing")
    window.escape()
    hand.let_go()
    session.undo()


def hold_stamp(hand: Player, shot: Shot) -> None:
    """Lamp Island: the jetty in hand, turned, with its axes."""
    window, session = hand.window, hand.window.session
    table: Any = window.table
    window.rack.show_bay("Stamps")
    session.hands.take("left", "Jetty")
    table.zoom(2)
    table.centre_on((4, 33, 27))
    hand.settle(600)
    hand.tap(Qt.Key.Key_T)
    hand.point(table.face_centre(UP, 3, 31, 27))
    hand.settle(600)
    shot("island-stamp")
    hand.tap(Qt.Key.Key_Backspace)
    table.zoom(-2)
    table.fit()
