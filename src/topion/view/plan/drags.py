"""What the pointer does on the sheet while its button is down."""

from __future__ import annotations

import math
from typing import Protocol

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from topion.edit.pieces import Pick
from topion.plan.sheet import Point, Rect, Spot, around, rects_of, snapped
from topion.plan.threads import Port
from topion.view import style
from topion.view.plan.chips import chip
from topion.view.plan.curves import way
from topion.view.plan.sheet_drawing import draw_paths
from topion.view.plan.sheet_looks import Looks
from topion.view.plan.work import PlanWork

PORT_REACH_PX = 11.0
_SNAP_PX = 9.0
_GRID = 0.5  # cells


class Drag(Protocol):
    """One way of dragging; `to` is a point of the view in px."""

    def to(self, at: QPointF, free: bool) -> None:
        """The pointer came there.  free : snap to nothing; a link leads one way only."""

    def end(self) -> None:
        """The button came up: do it."""

    def draw(self, painter: QPainter) -> None:
        """Show what would be done."""


def port_at(work: PlanWork, looks: Looks, at: QPointF, reach: float = PORT_REACH_PX) -> Port | None:
    """The nearest door within `reach` px of a point of the view."""
    best, found = reach, None
    for port in work.ports.values():
        place = looks.camera.to_px(port.point)
        far = math.hypot(place.x() - at.x(), place.y() - at.y())
        if far <= best:
            best, found = far, port
    return found


class Pan:
    """Moves the view."""

    def __init__(self, looks: Looks, at: QPointF) -> None:
        self._looks, self._last = looks, at

    def to(self, at: QPointF, free: bool) -> None:
        camera = self._looks.camera
        camera.left += at.x() - self._last.x()
        camera.top += at.y() - self._last.y()
        self._last = at

    def end(self) -> None:
        """Nothing else."""

    def draw(self, painter: QPainter) -> None:
        """Nothing else."""


class MoveRooms:
    """Moves the picked rooms; they snap to edges of others, else to half cells."""

    def __init__(self, work: PlanWork, looks: Looks, at: QPointF) -> None:
        self._work, self._looks = work, looks
        self._from = looks.camera.to_cells(at)
        self._names = sorted(work.places)
        own = around([work.spots[name].rect for name in self._names])
        self._rect = own or Rect(0, 0, 0, 0)
        self._others = rects_of(s for s in work.spots.values() if s.name not in work.places)
        self._step: Point = (0.0, 0.0)

    def to(self, at: QPointF, free: bool) -> None:
        now = self._looks.camera.to_cells(at)
        by = now[0] - self._from[0], now[1] - self._from[1]
        if not free and self._work.snaps:
            reach = _SNAP_PX / self._looks.camera.px
            more = snapped(self._rect.moved(by), self._others, reach, _GRID)
            by = by[0] + more[0], by[1] + more[1]
        self._step = by
        self._looks.shift = dict.fromkeys(self._names, by)

    def end(self) -> None:
        self._looks.shift = {}
        spots = self._work.spots
        to = {name: (round(spots[name].rect.top + self._step[0], 4),
                     round(spots[name].rect.left + self._step[1], 4))
              for name in self._names if name in spots}  # fmt: skip
        if any(self._step) and to:
            self._work.move(to)

    def draw(self, painter: QPainter) -> None:
        """The rooms themselves are drawn where they come to lie."""


class DrawLink:
    """Draws a thread from a door to another one, or to a room with a start."""

    def __init__(self, work: PlanWork, looks: Looks, here: Port) -> None:
        self._work, self._looks, self._here = work, looks, here
        self._at: QPointF | None = None
        self._port: Port | None = None
        self._spot: Spot | None = None
        self._one_way = False

    def to(self, at: QPointF, free: bool) -> None:
        self._at, self._one_way = at, free
        port = port_at(self._work, self._looks, at, 1.6 * PORT_REACH_PX)
        self._port = port if port is not None and port.key != self._here.key else None
        spot = self._work.spot_at(self._looks.camera.to_cells(at))
        self._spot = spot if self._port is None and spot is not self._here.spot else None
        self._looks.hot_port = self._port.key if self._port is not None else None
        self._looks.hot_spot = self._spot.name if self._spot is not None else ""

    @property
    def _back(self) -> bool:
        """Whether the other door leads back: it leads nowhere yet, or here."""
        door = self._port.door if self._port is not None else None
        return door is not None and not self._one_way and door.to in ("", self._here.door.room)

    def end(self) -> None:
        if self._at is None:
            return
        if self._port is not None:
            self._work.link(self._here, self._port, back=self._back)
        elif self._spot is not None:
            self._work.link(self._here, self._spot, back=False)

    def draw(self, painter: QPainter) -> None:
        if self._at is None:
            return
        camera = self._looks.camera
        into = self._port.spot.rect if self._port is not None else None
        end = self._port.point if self._port is not None else camera.to_cells(self._at)
        path = way(self._here.point, self._here.spot.rect, end, into)
        draw_paths(painter, camera, [path], "buoy", both=self._back)
        if self._port is not None:
            told = "both ways" if self._back else "one way"
            chip(painter, self._at + QPointF(0, -24), [(told, True)], "buoy")
        elif self._spot is not None:
            words = [("to where ", False), (self._spot.title, True), (" starts", False)]
            chip(painter, self._at + QPointF(0, -24), words, "buoy")


class Lasso:
    """Drawn round rooms, or round things of the room in which it begins."""

    def __init__(self, work: PlanWork, looks: Looks, at: QPointF, more: bool) -> None:
        self._work, self._looks = work, looks
        self._way, self._more = [at], more
        self._spot = work.spot_at(looks.camera.to_cells(at))

    def to(self, at: QPointF, free: bool) -> None:
        self._way.append(at)

    def end(self) -> None:
        loop = QPolygonF(self._way)
        if len(self._way) < 3:
            self._work.pick()
        elif self._spot is not None:
            self._pick_things(self._spot, loop)
        else:
            inside = {
                spot.name for spot in self._work.spots.values()
                if loop.containsPoint(self._looks.camera.to_px(spot.rect.middle),
                                      Qt.FillRule.OddEvenFill)
            }  # fmt: skip
            self._work.pick(inside | (self._work.places if self._more else frozenset()))

    def _pick_things(self, spot: Spot, loop: QPolygonF) -> None:
        session = self._work.session
        if not session.reads_room(spot.room):
            return
        room, found = session.project.room(spot.room), []
        for layer_id, layer in room.bottom_up("things"):
            for number, thing in layer.things.items():
                at = self._looks.camera.to_px(thing_point(spot, thing.y, thing.x))
                if loop.containsPoint(at, Qt.FillRule.OddEvenFill):
                    found.append(Pick(layer_id, number))
        if not found:
            session.said.emit(f"No things of {spot.title} lie there")
        self._work.pick(things=(spot.name, tuple(found)) if found else ("", ()))

    def draw(self, painter: QPainter) -> None:
        path = QPainterPath()
        path.addPolygon(QPolygonF(self._way))
        painter.setPen(QPen(style.ink("buoy"), 1.4, Qt.PenStyle.DashLine))
        painter.setBrush(style.ink("buoy", 26))
        painter.drawPath(path)


def thing_point(spot: Spot, y: float, x: float) -> Point:
    """Where a thing of a placed room lies on the sheet."""
    return spot.rect.top + y + 0.5, spot.rect.left + x + 0.5


class CarryThings:
    """Takes the picked things along, into another room where they are let go over one."""

    def __init__(self, work: PlanWork, looks: Looks, at: QPointF) -> None:
        self._work, self._looks, self._from, self._at = work, looks, at, at

    def to(self, at: QPointF, free: bool) -> None:
        self._at = at
        spot = self._work.spot_at(self._looks.camera.to_cells(at))
        self._looks.hot_spot = spot.name if spot is not None else ""

    @property
    def by(self) -> Point:
        """Cells of the sheet so far."""
        px = self._looks.camera.px
        return (self._at.y() - self._from.y()) / px, (self._at.x() - self._from.x()) / px

    def end(self) -> None:
        self._work.carry(self.by, self._work.spot_at(self._looks.camera.to_cells(self._at)))

    def draw(self, painter: QPainter) -> None:
        for at in things_at(self._work, self._looks):
            _draw_thing(painter, at + self._at - self._from)


def things_at(work: PlanWork, looks: Looks) -> list[QPointF]:
    """Where the picked things lie in the view."""
    name, picks = work.things
    spot = work.spots.get(name)
    room = work.session.project.rooms.peek(spot.room) if spot is not None else None
    if room is None or spot is None:
        return []
    found = []
    for pick in picks:
        layer = room.layers.get(pick.layer)
        thing = layer.things.get(pick.number) if layer is not None else None
        if thing is not None:
            found.append(looks.camera.to_px(thing_point(spot, thing.y, thing.x)))
    return found


def draw_things(painter: QPainter, work: PlanWork, looks: Looks) -> None:
    """Rings round the picked things."""
    for at in things_at(work, looks):
        _draw_thing(painter, at)


def _draw_thing(painter: QPainter, at: QPointF) -> None:
    painter.setBrush(style.ink("buoy", 50))
    for ink, width in (("card", 4.0), ("buoy", 1.8)):
        painter.setPen(QPen(style.ink(ink), width))
        painter.drawEllipse(at, 6.0, 6.0)
