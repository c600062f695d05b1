"""Scenes of many at once: a fence along a curve, lamps by expression, layers of a field."""

from __future__ import annotations

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QScrollArea, QWidget

from topion.brushes.kind import brush_named
from topion.demo.brinehollow import ROOM
from topion.demo.many import LAMPS
from topion.edit.curves import curve_of
from topion.edit.pieces import Pick
from topion.model.prefab import Thing
from topion.view.player import Player, Shot
from topion.view.session import Session

_ABOVE_PX = 120  # that stay in view of a panel above what is looked at
_MEADOW = (2, 2, 12, 15)  # y, x of its first and last corner
_WIDER = {"x": "9.5 + 6.5*cos(2*pi*t)", "y": "11 + 6.2*sin(2*pi*t)"}


def fence(hand: Player, shot: Shot) -> None:
    """The fence of Sluice Yard picked, with the handles of one of its points."""
    window, session = hand.window, hand.window.session
    session.open_room(ROOM)
    hand.settle(200)
    window.table.look_at((9, 80), 2.0)
    session.gestures.use("lasso")
    layer_id = next(i for i, la in session.room.bottom_up("things") if la.curves)
    pick = Pick(layer_id, next(iter(session.room.layers[layer_id].curves)))
    session.picking.pick([pick])
    session.curves.take_point(len(curve_of(session.room, pick).points) // 2)
    hand.settle(300)
    shot("curve-fence")
    session.picking.pick([])
    session.gestures.use("drag")


def arrange(hand: Player, shot: Shot) -> None:
    """The lamps of the meadow in a wider circle, one of which would stand in the reeds' water."""
    window, session = hand.window, hand.window.session
    window.table.look_at((12, 12), 2.0)
    session.gestures.use("lasso")
    session.picking.pick(_lamps(session))
    if not window.arrange.isVisible():
        window.show_arrange()
    hand.settle(100)
    for name, text in _WIDER.items():
        window.arrange.work.ask(name, text)
    hand.settle(400)
    shot("arrange")
    window.show_arrange()
    session.picking.pick([])
    session.gestures.use("drag")


def _lamps(session: Session) -> list[Pick]:
    y0, x0, y1, x1 = _MEADOW
    found = [
        Pick(layer_id, number)
        for layer_id, layer in session.room.bottom_up("things")
        for number, thing in layer.things.items()
        if _is_lamp(thing) and y0 <= thing.y <= y1 and x0 <= thing.x <= x1
    ]
    return found[:LAMPS]


def _is_lamp(thing: Thing) -> bool:
    return thing.prefab == "Lantern post"


def field_layers(hand: Player, shot: Shot) -> None:
    """Gravel against the fence: what its density is made of, and what it refuses."""
    window, session = hand.window, hand.window.session
    window.rack.show_bay("Fields")
    session.hands.take("left", "Gravel")
    window.table.look_at((9, 80), 2.0)
    window.in_hand.shows.show_on_table("refused")
    hand.settle(700)
    _scroll_to(hand, window.in_hand.density)
    shot("field-layers")


def size_mask(hand: Player, shot: Shot) -> None:
    """Reeds of two sizes, where their size was painted, and some that are held."""
    window, session = hand.window, hand.window.session
    session.hands.take("left", "Reed bed")
    session.hands.set_field(brush_named(session.project, "Reed bed"), "paints", "size")
    session.hands.set_field(brush_named(session.project, "Reed bed"), "scale", 1.6)
    window.table.look_at((38, 14), 2.0)
    window.in_hand.shows.show_on_table("size")
    _scroll_to(hand, window.in_hand.tally)
    hand.press([(35, 10), (35, 12), (36, 14)])
    hand.settle(300)
    shot("size-mask")
    hand.let_go()
    session.undo()
    window.in_hand.shows.show_on_table("nothing")
    session.hands.set_field(brush_named(session.project, "Reed bed"), "paints", "density")
    window.rack.show_bay("Ground")


def _scroll_to(hand: Player, part: QWidget) -> None:
    """Bring a part of a panel into view; once more when all of the panel is there."""
    above = part.parentWidget()
    while above is not None and not isinstance(above, QScrollArea):
        above = above.parentWidget()
    if not isinstance(above, QScrollArea):
        return
    for _ in range(2):
        inside, bar = above.widget(), above.verticalScrollBar()
        if inside is not None and bar is not None:
            bar.setValue(part.mapTo(inside, QPoint(0, 0)).y() - _ABOVE_PX)
        hand.settle(400)
