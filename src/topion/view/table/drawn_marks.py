"""The marks of rules and roles, as they are drawn everywhere."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from topion.model.form import Mark
from topion.view import style


def draw_mark(painter: QPainter, frame: QRectF, mark: Mark, wide: float = 2.0) -> None:
    """A part of the drawing of a rule or a role.  wide : px of its lines."""
    side = frame.width()
    points = [QPointF(frame.left() + x * side, frame.top() + y * side) for y, x in mark.points]
    ink = style.ink(mark.ink)
    painter.setPen(QPen(ink, wide, Qt.PenStyle.DashLine if mark.shape == "dashes" else
                        Qt.PenStyle.SolidLine))  # fmt: skip
    filled = mark.shape in ("dot", "box")
    painter.setBrush(ink if filled else Qt.BrushStyle.NoBrush)
    radius = mark.size * side
    match mark.shape:
        case "dot" | "ring":
            painter.drawEllipse(points[0], radius, radius)
        case "box" | "frame":
            painter.drawRect(QRectF(points[0], points[1]))
        case "line" | "dashes":
            painter.drawPolyline(QPolygonF(points))
        case "cross":
            for way in (1, -1):
                painter.drawLine(points[0] - QPointF(radius, way * radius),
                                 points[0] + QPointF(radius, way * radius))  # fmt: skip
    painter.setBrush(Qt.BrushStyle.NoBrush)
