"""The eye and the lock beside the name of a layer."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from topion.view import style


def paint_eye(painter: QPainter, rect: QRectF, shown: bool) -> None:
    """An open eye, or a shut one."""
    colour = style.ink("ink" if shown else "soft", 200 if shown else 130)
    painter.setPen(QPen(colour, 1.2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    middle = rect.center()
    painter.drawEllipse(middle, 5.5, 3.4)
    if shown:
        painter.setBrush(colour)
        painter.drawEllipse(middle, 1.8, 1.8)
    else:
        painter.drawLine(middle + QPointF(-5, 4), middle + QPointF(5, -4))


def paint_lock(painter: QPainter, rect: QRectF, locked: bool) -> None:
    """A shut lock, or an open one."""
    colour = style.ink("ochre" if locked else "soft", 255 if locked else 120)
    painter.setPen(QPen(colour, 1.2))
    painter.setBrush(colour if locked else Qt.BrushStyle.NoBrush)
    middle = rect.center()
    painter.drawRoundedRect(QRectF(middle.x() - 4, middle.y() - 1, 8, 6), 1.5, 1.5)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    lift = 0 if locked else 1.6
    painter.drawArc(QRectF(middle.x() - 2.6, middle.y() - 5.4 - lift, 5.2, 7.5), 0, 180 * 16)


def paint_ties(
    painter: QPainter, row: QRectF, target: QRectF | None, group: str, lane: int = 0
) -> None:
    """A thread from a layer to the one it moves along with, and the name of its group.

    lane : threads in different ones do not run over each other.
    """
    if target is not None:
        painter.setPen(QPen(style.ink("tidal"), 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        x, top, foot = row.left() + 7.5 - 3 * (lane % 3), row.top() + 22, target.top() + 22
        painter.drawLine(QPointF(x, top), QPointF(x, foot))
        painter.drawLine(QPointF(x, foot), QPointF(row.left() + 11, foot))
        painter.setBrush(style.ink("tidal"))
        painter.drawEllipse(QPointF(x, top), 2.4, 2.4)
    if group:
        painter.setFont(style.font(10))
        wide = painter.fontMetrics().horizontalAdvance(group) + 10
        box = QRectF(row.right() - wide - 4, row.bottom() - 19, wide, 14)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(style.ink("ochre", 50))
        painter.drawRoundedRect(box, 7, 7)
        painter.setPen(style.ink("ink"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, group)
