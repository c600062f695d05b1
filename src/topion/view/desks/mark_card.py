"""Cards of marks as they are drawn: same a filled square, open a ring, named a swatch with letters,
and the cell itself a diamond in the colour of its material."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from topion.model.project import Project
from topion.view import style
from topion.weaving.rules import NAMED, OPEN, SAME, CardOfMarks

_UNKNOWN = "#8a8a8a"


def colour_of_material(project: Project, material: str) -> str:
    """That of the brush that lays it; grey where none does."""
    return next((b.colour for b in project.brushes.values() if b.material == material), _UNKNOWN)


def draw_card(
    painter: QPainter,
    rect: QRectF,
    card: CardOfMarks,
    project: Project,
    own: str,
    failed: tuple[tuple[int, int], ...] = (),
    middle: bool = True,
) -> None:
    """own : the material of the cell itself.  failed : marks that did not fit where one points.
    middle : whether the middle is the cell itself."""
    side = len(card)
    painter.fillRect(rect, style.ink("card"))
    for y, row in enumerate(card):
        for x, mark in enumerate(row):
            cell = cell_rect(rect, side, (y, x))
            painter.setPen(QPen(style.ink("line"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if (y, x) in failed:
                painter.fillRect(cell, style.ink("buoy", 70))
            painter.drawRect(cell)
            if middle and y == x == side // 2:
                _diamond(painter, cell, colour_of_material(project, own))
            else:
                _mark(painter, cell, mark, project)


def cell_rect(rect: QRectF, side: int, at: tuple[int, int]) -> QRectF:
    """Where a mark is drawn."""
    step = rect.width() / side
    return QRectF(rect.left() + at[1] * step, rect.top() + at[0] * step, step, step)


def mark_at(rect: QRectF, side: int, point: QPointF) -> tuple[int, int] | None:
    """The mark at a point of a card; None beside it."""
    if not rect.contains(point):
        return None
    step = rect.width() / side
    y, x = int((point.y() - rect.top()) / step), int((point.x() - rect.left()) / step)
    return min(y, side - 1), min(x, side - 1)


def _mark(painter: QPainter, cell: QRectF, mark: str, project: Project) -> None:
    inset = cell.width() * 0.2
    inner = cell.adjusted(inset, inset, -inset, -inset)
    ink = style.ink("ink")
    if mark == SAME:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ink)
        painter.drawRoundedRect(inner, 1.5, 1.5)
    elif mark == OPEN:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(ink, max(1.3, cell.width() / 13)))
        painter.drawEllipse(inner)
    elif mark.startswith(NAMED):
        _swatch(painter, cell, mark[len(NAMED) :], project)


def _swatch(painter: QPainter, cell: QRectF, name: str, project: Project) -> None:
    colour = QColor(colour_of_material(project, name))
    inset = cell.width() * 0.12
    inner = cell.adjusted(inset, inset, -inset, -inset)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    painter.drawRoundedRect(inner, 2, 2)
    if cell.width() >= 12:
        painter.setFont(style.font(max(7, int(cell.width() * 0.44)), bold=True))
        painter.setPen(QColor("#fbfaf5" if colour.lightness() < 140 else "#22303a"))
        painter.drawText(inner, Qt.AlignmentFlag.AlignCenter, letters(name))


def letters(name: str) -> str:
    """Two letters that stand for a material."""
    parts = name.split()
    return (parts[0][0] + parts[1][0] if len(parts) > 1 else name[:2]).capitalize()


def _diamond(painter: QPainter, cell: QRectF, colour: str) -> None:
    half, middle = cell.width() * 0.33, cell.center()
    painter.setPen(QPen(style.ink("ink"), 1))
    painter.setBrush(QColor(colour))
    painter.drawPolygon(
        QPolygonF(
            middle + QPointF(dx, dy) for dx, dy in ((0, -half), (half, 0), (0, half), (-half, 0))
        )
    )
