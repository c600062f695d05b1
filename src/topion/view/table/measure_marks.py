"""Distance, angle and area between a press and the pointer, while a key is held."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from topion.grid.measure import measured
from topion.view import style

Position = tuple[float, ...]


def draw_measure(
    painter: QPainter, start: tuple[Position, QPointF], end: tuple[Position, QPointF]
) -> None:  # fmt: skip
    """start, end : positions in cells, and where they are seen."""
    (a, first), (b, last) = start, end
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for ink, wide in (("card", 4.0), ("ink", 1.6)):
        painter.setPen(QPen(style.ink(ink), wide))
        painter.drawLine(first, last)
    for at in (first, last):
        painter.setPen(QPen(style.ink("card"), 1.0))
        painter.setBrush(style.ink("ink"))
        painter.drawEllipse(at, 3.2, 3.2)
    painter.setFont(style.font(12, bold=True))
    text = measured(a, b).told()
    wide = painter.fontMetrics().horizontalAdvance(text) + 16
    place = QRectF(last.x() + 14, last.y() + 12, wide, 22)
    painter.setPen(QPen(style.ink("ink"), 1.0))
    painter.setBrush(style.ink("card"))
    painter.drawRoundedRect(place, 4, 4)
    painter.setPen(style.ink("ink"))
    painter.drawText(place, Qt.AlignmentFlag.AlignCenter, text)
    painter.setBrush(Qt.BrushStyle.NoBrush)
