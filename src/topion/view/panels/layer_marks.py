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
