"""Scenes of rooms that are walked, and of what things wait for."""

from __future__ import annotations

from PyQt6.QtCore import Qt

from topion.demo.alive import ISLAND, YARD
from topion.demo.cellar import ROOM as CELLAR
from topion.demo.loft import ROOM as LOFT
from topion.edit.pieces import Pick
from topion.view.player import Player, Shot
from topion.view.walk.walk_desk import WalkDesk


def conditions(hand: Player, shot: Shot) -> None:
    """The gate of Pump Cellar, with a thread to the wheel that it waits for."""
    window, session = hand.window, hand.window.session
    session.open_room(CELLAR)
    window.table.fit()
    hand.tap(Qt.Key.Key_S)
    session.picking.pick([
        Pick(layer_id, number) for layer_id, layer in session.room.bottom_up("things")
        for number, thing in layer.things.items() if thing.prefab == "Cellar gate"
    ])  # fmt: skip
    hand.settle(400)
    shot("conditions")
    session.picking.pick([])
    hand.tap(Qt.Key.Key_D)


def walk_side(hand: Player, shot: Shot) -> None:
    """The recorded way through the gate, at its end."""
    window, session = hand.window, hand.window.session
    session.open_room(CELLAR)
    hand.settle(300)
    window.walk()
    desk = window.desks.desk
    if not isinstance(desk, WalkDesk):
        return
    desk.play_recording("Way to the gate")
    desk.run.play(False)
    desk.run.seek(len(desk.run.keys) - 1)
    desk.bar.reach.setChecked(True)
    while desk.replays.busy or desk.reaching.busy:
        hand.settle(100)
    hand.settle(300)
    shot("walk-side")
    window.desks.close_desk()


def survey(hand: Player, shot: Shot) -> None:
    """What the survey says of Salt Loft, from which a door leads out and none back in."""
    window = hand.window
    window.session.open_room(LOFT)
    hand.settle(300)
    window.table.fit()
    window.show_survey()
    while window.surveying.busy:
        hand.settle(100)
    hand.settle(200)
    shot("survey")
    window.show_survey()


def plan(hand: Player, shot: Shot) -> None:
    """The plan of the world, with the door to Lamp Island picked."""
    window = hand.window
    window.show_plan()
    desk = window.planning.desk
    if desk is None:
        return
    work = desk.work
    while (work.outlines.busy or work.pictures.busy or window.surveying.busy
           or work.finder.busy):  # fmt: skip
        hand.settle(100)
    desk.view.fit()
    port = next(key for key, port in work.ports.items()
                if (port.door.room, port.door.to) == (YARD, ISLAND))  # fmt: skip
    work.pick(port=port)
    hand.settle(300)
    while work.pictures.busy:
        hand.settle(100)
    shot("plan")
    window.show_plan()
