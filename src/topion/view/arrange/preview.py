"""Over the table: where each comes to stand, from where it comes, its number, and what refuses."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from topion.arrange.arranging import Arranged
from topion.view import style
from topion.view.arrange.work import ArrangeWork

_MOST_LINES, _MOST_NUMBERS = 400, 120
_RADIUS = 6.0


def draw_preview(painter: QPainter, looks: Any, work: ArrangeWork) -> None:
    """looks : the camera of a flat table, or the eye of a voxel one."""
    found = work.found
    if found is None or work.session.preview is None:
        return
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    places = list(_places(found, looks))
    for number, (start, end) in enumerate(places[:_MOST_LINES]):
        refused = number in found.refused
        painter.setPen(QPen(style.ink("buoy" if refused else "card", 230 if refused else 120), 1.2))
        painter.drawLine(start, end)
    for number, (_, end) in enumerate(places):
        refused = number in found.refused
        ink = "buoy" if refused else "tidal"
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for colour, wide in (("card", 3.4), (ink, 1.6)):
            painter.setPen(QPen(style.ink(colour), wide))
            painter.drawEllipse(end, _RADIUS, _RADIUS)
        if refused:  # told apart without its colour, too
            painter.drawLine(end + QPointF(-4, -4), end + QPointF(4, 4))
            painter.drawLine(end + QPointF(-4, 4), end + QPointF(4, -4))
    if len(places) <= _MOST_NUMBERS:
        for number, (_, end) in enumerate(places):
            _number(painter, end + QPointF(9, -7), number)
    if found.refused:
        first = min(found.refused)
        _why(painter, places[first][1], first, found)
    _told(painter, found)


def ends_of(found: Arranged, looks: Any) -> list[QPointF]:
    """Where all of them come to stand, in px."""
    return [end for _, end in _places(found, looks)]


def _why(painter: QPainter, at: QPointF, number: int, found: Arranged) -> None:
    """Why the first of those that are refused may not stand there."""
    reason = found.refused[number][0]
    title, text = f"Number {number} · {reason.rule}", reason.told()
    painter.setFont(style.font(12))
    wide = painter.fontMetrics().horizontalAdvance(text)
    painter.setFont(style.font(12, bold=True))
    wide = max(wide, painter.fontMetrics().horizontalAdvance(title)) + 22
    view = painter.viewport()
    left = min(max(4.0, at.x() + 16), view.width() - wide - 4)
    rect = QRectF(left, min(at.y() + 14, view.height() - 48), wide, 42)
    painter.setPen(QPen(style.ink("ink"), 1.0))
    painter.setBrush(style.ink("card"))
    painter.drawRoundedRect(rect, 4, 4)
    painter.fillRect(QRectF(rect.left() + 1, rect.top() + 2, 4, rect.height() - 4),
                     style.ink("buoy"))  # fmt: skip
    painter.setPen(style.ink("ink"))
    painter.drawText(rect.adjusted(12, 4, -4, -20), Qt.AlignmentFlag.AlignVCenter, title)
    painter.setFont(style.font(12))
    painter.setPen(style.ink("soft"))
    painter.drawText(rect.adjusted(12, 20, -4, -4), Qt.AlignmentFlag.AlignVCenter, text)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _places(found: Arranged, looks: Any) -> Iterator[tuple[QPointF, QPointF]]:
    """From where each unit comes, and where it comes to stand, in px."""
    for unit, things in zip(found.units, found.after, strict=True):
        at = np.array([thing.at for thing in things])
        middle = (at.min(axis=0) + at.max(axis=0)) / 2
        yield _px(looks, unit.centre), _px(looks, tuple(middle.tolist()))


def _px(looks: Any, at: tuple[float, ...]) -> QPointF:
    z, y, x = at
    if hasattr(looks, "rect_of"):
        point: QPointF = looks.rect_of(y, x, y + 1, x + 1).center()
        return point
    seen = looks.near(np.array([[z + 0.5, y + 0.5, x + 0.5]]))[0]
    return QPointF(float(seen[1]), float(seen[0]))


def _number(painter: QPainter, at: QPointF, number: int) -> None:
    painter.setFont(style.font(11, bold=True))
    place = QRectF(at.x(), at.y() - 8, 34, 16)
    flags = Qt.AlignmentFlag.AlignVCenter
    painter.setPen(style.ink("ink", 200))
    painter.drawText(place.translated(0.8, 0.8), flags, str(number))
    painter.setPen(style.ink("card"))
    painter.drawText(place, flags, str(number))


def summary(found: Arranged) -> str:
    """How many, how many may stand there, and how far they are apart."""
    count, left = len(found.after), len(found.refused)
    parts = [f"{count} arranged", f"{count - left} may stand"]
    parts += [f"{left} refused"] if left else []
    parts += [f"mean spacing {found.spacing:.1f} c"] if count > 1 else []
    return " · ".join(parts)


def _told(painter: QPainter, found: Arranged) -> None:
    painter.setFont(style.font(12, medium=True))
    text = summary(found)
    wide = painter.fontMetrics().horizontalAdvance(text) + 24
    view = painter.viewport()
    rect = QRectF((view.width() - wide) / 2, 32, wide, 24)
    painter.setPen(QPen(style.ink("ink"), 1.0))
    painter.setBrush(style.ink("card"))
    painter.drawRoundedRect(rect, 12, 12)
    painter.setPen(style.ink("buoy" if found.refused else "ink"))
    painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)
    painter.setBrush(Qt.BrushStyle.NoBrush)
