"""Scenes of the warm stroke and of what rooms are worn in."""

from __future__ import annotations

from PyQt6.QtCore import Qt

from topion.brushes.kind import brush_named
from topion.demo.brinehollow import ROOM
from topion.demo.cellar import ROOM as CELLAR
from topion.demo.cellar_looks import FLOOD, LAMPLIGHT, THEME
from topion.demo.island import ROOM as ISLAND
from topion.edit.wear import wear
from topion.view.player import Player, Shot

_PICTURES_MS = 1800  # in which the pictures of looks are made


def keep_warm(hand: Player, shot: Shot) -> None:
    """Reeds are laid, and laid again in place by the settings of their brush."""
    window, session = hand.window, hand.window.session
    session.open_room(ROOM)
    window.table.look_at((22, 44), 1.0)
    window.rack.show_bay("Fields")
    session.hands.take("left", "Reed bed")
    session.handle.history.mark(session.handle.history.at, "before the reeds")
    hand.stroke((29, 35), (27, 38), (28, 44), (26, 50), (28, 56), (27, 61))
    for field, value in (("radius", 4.0), ("density", 1.0), ("spacing", 0.9)):
        session.hands.set_field(brush_named(session.project, "Reed bed"), field, value)
    hand.hover((33, 66))
    hand.settle(500)
    shot("warm")
    hand.tap(Qt.Key.Key_Return)
    session.undo()


def compare(hand: Player, shot: Shot) -> None:
    """Pump Cellar: its tint maps side by side, and in its other theme."""
    window, session = hand.window, hand.window.session
    session.open_room(CELLAR)
    window.table.look_at((15, 8), 2.0)
    window.rack.show_bay("Looks")
    session.hands.take("left", "Lamp glow")
    session.hands.take("right", "Lamp glow")
    _wear(hand, tint=LAMPLIGHT)
    window.show_looks()
    hand.settle(_PICTURES_MS)
    hand.hover((13, 26))
    shot("looks-tints")
    window.looks.put_away()
    _wear(hand, theme=THEME, tint=FLOOD)
    window.table.fit()
    hand.hover((9, 25))
    hand.settle(500)
    shot("looks-theme")
    _wear(hand, theme="", tint="")


def dusk(hand: Player, shot: Shot) -> None:
    """Lamp Island with the lights it can stand in."""
    window, session = hand.window, hand.window.session
    session.open_room(ISLAND)
    hand.settle(1200)
    window.table.centre_on((4, 38, 2))
    window.show_looks()
    hand.settle(_PICTURES_MS)
    window.looks.show_part("light")
    hand.settle(300)
    shot("looks-dusk")
    window.looks.put_away()
    window.table.fit()


def _wear(hand: Player, *, theme: str | None = None, tint: str | None = None) -> None:
    session = hand.window.session
    ids = {layer.info.name: known for known, layer in session.room.tint_maps()}
    worn = ids.get(tint, "") if tint is not None else None
    if theme is not None:
        session.try_(wear, session.room_name, theme=theme)
    if worn is not None:
        session.try_(wear, session.room_name, tint=worn)
