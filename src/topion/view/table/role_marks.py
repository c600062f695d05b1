"""Small marks at things that do something when the room is walked, and threads of conditions."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen

from topion.edit.logic import threads
from topion.grid.boxes import Box
from topion.model.prefab import Thing
from topion.model.walked import role_of
from topion.view import style
from topion.view.session import Session
from topion.view.table.drawn_marks import draw_mark

SIDE_PX = 15.0
_LEAST_PX = 9.0  # of a cell
_MOST = 400

Place = Callable[[Thing], QPointF]  # where the middle of the cell of a thing is seen


def marked_things(session: Session, box: Box | None = None) -> Iterator[Thing]:
    """Things of the room that have a role, within a box of its plan."""
    project, count = session.project, 0
    for _, layer in session.room.bottom_up("things"):
        if not layer.info.shown:
            continue
        near = layer.things_near(box, 2.0) if box is not None else layer.things
        for thing in near.values():
            if role_of(project, thing) is not None:
                yield thing
                count += 1
                if count >= _MOST:
                    return


def draw_roles(painter: QPainter, session: Session, box: Box | None, place: Place, px: float
               ) -> None:  # fmt: skip
    """The marks, at the upper right of their cells.  px : of a cell."""
    if px < _LEAST_PX:
        return
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for thing in marked_things(session, box):
        role = role_of(session.project, thing)
        at = place(thing) + QPointF(px * 0.32, -px * 0.5 - 4)
        frame = QRectF(0, 0, SIDE_PX, SIDE_PX)
        frame.moveCenter(at)
        painter.setPen(QPen(style.ink("ink" if thing.role is not None else "line"), 1))
        painter.setBrush(style.ink("card", 235))
        painter.drawRoundedRect(frame, 3, 3)
        for mark in role.drawing if role is not None else ():
            draw_mark(painter, frame.adjusted(2, 2, -2, -2), mark, 1.3)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def draw_threads(painter: QPainter, session: Session, place: Place) -> None:
    """From what waits to what it waits for, of the thing that was picked first."""
    things = session.picking.things() if session.has_room else []
    if not things:
        return
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for waits, other in threads(session.project, session.room, *things[0]):
        draw_thread(painter, place(waits), place(other))


def draw_thread(painter: QPainter, one: QPointF, two: QPointF) -> None:
    """A slack thread between two points, with a knot at its end."""
    path = QPainterPath(one)
    sag = QPointF(0, min(60.0, abs(two.x() - one.x()) / 4 + 12))
    path.cubicTo(one + (two - one) / 3 + sag, one + (two - one) * (2 / 3) + sag, two)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for pen in (QPen(style.ink("card"), 4), QPen(style.ink("tidal"), 2, Qt.PenStyle.DashLine)):
        painter.setPen(pen)
        painter.drawPath(path)
    painter.setPen(QPen(style.ink("card"), 1.5))
    painter.setBrush(style.ink("tidal"))
    painter.drawEllipse(two, 4, 4)
    painter.setBrush(Qt.BrushStyle.NoBrush)
