"""The frame round things that are picked: pulled at its top they turn, at a corner they scale."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from topion.edit.handling import middle_of, turn_step
from topion.model.prefab import Thing
from topion.view import style
from topion.view.pulls import Pulls
from topion.view.session import Session

Knob = Literal["turn", "scale"]
_REACH_PX = 9.0
_STEM_PX = 24.0
_ROOM_PX = 8.0  # between what is picked and its frame
_MOST = 400  # things that are turned as the pointer goes


class Knobs:
    """Where they are seen, and how.  bounds : of what is picked, in px of the screen."""

    def __init__(self, session: Session, pulls: Pulls, bounds: Callable[[], QRectF]) -> None:
        self.session, self.pulls, self._bounds = session, pulls, bounds

    def things(self) -> list[Thing]:
        """What they pull: things without an area or pieces beside them."""
        session = self.session
        picking = session.picking
        if not session.has_room or not session.gestures.picking or picking.area is not None:
            return []
        things = [thing for _, thing in picking.things()]
        return things if len(things) == len(picking.entries) and len(things) <= _MOST else []

    def middle(self) -> tuple[float, ...]:
        """About which they turn and scale, in cells."""
        return middle_of(self.things(), self.session.room.info.axes)

    def frame(self) -> QRectF:
        """Round all of them, in px."""
        return self._bounds().adjusted(-_ROOM_PX, -_ROOM_PX, _ROOM_PX, _ROOM_PX)

    def places(self) -> list[tuple[Knob, QPointF]]:
        """Of each knob, in px; none where nothing is picked that they could pull."""
        things = self.things()
        if not things:
            return []
        frame = self.frame()
        found: list[tuple[Knob, QPointF]] = []
        if turn_step(self.session.project, things):
            found.append(("turn", QPointF(frame.center().x(), frame.top() - _STEM_PX)))
        corners = (frame.topLeft(), frame.topRight(), frame.bottomLeft(), frame.bottomRight())
        return [*found, *(("scale", corner) for corner in corners)]

    def at(self, point: QPointF) -> Knob | None:
        """The knob within reach of a point of the screen."""
        for knob, place in self.places():
            if math.hypot(place.x() - point.x(), place.y() - point.y()) <= _REACH_PX:
                return knob
        return None

    def draw(self, painter: QPainter) -> None:
        """The frame and its knobs, while nothing else is dragged."""
        pull = self.pulls.now
        if pull is not None and not pull.knob:
            return
        places = self.places()
        if not places:
            return
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if len(self.session.picking.entries) > 1:
            for pen in (QPen(QColor(255, 255, 255, 200), 3.0),
                        QPen(style.ink("buoy"), 1.2, Qt.PenStyle.DashLine)):  # fmt: skip
                painter.setPen(pen)
                painter.drawRect(self.frame())
        for knob, place in places:
            self._draw_knob(painter, knob, place, held=pull is not None and pull.knob == knob)

    def _draw_knob(self, painter: QPainter, knob: Knob, at: QPointF, *, held: bool) -> None:
        if knob == "turn":
            foot = QPointF(at.x(), at.y() + _STEM_PX)
            for pen in (QPen(QColor(255, 255, 255, 220), 3.6), QPen(style.ink("buoy"), 1.6)):
                painter.setPen(pen)
                painter.drawLine(at, foot)
        painter.setPen(QPen(style.ink("buoy"), 1.6))
        painter.setBrush(style.ink("buoy") if held else QColor(255, 255, 255))
        if knob == "scale":
            painter.drawRect(QRectF(at.x() - 4, at.y() - 4, 8, 8))
            return
        painter.drawEllipse(at, 7.0, 7.0)
        painter.setPen(QPen(QColor(255, 255, 255) if held else style.ink("buoy"), 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawArc(QRectF(at.x() - 3.5, at.y() - 3.5, 7, 7), 0, 270 * 16)
        tip = QPointF(at.x() + 3.5, at.y())
        painter.drawLine(tip, tip + QPointF(-2.4, -2.0))
        painter.drawLine(tip, tip + QPointF(2.0, -2.4))
