"""Small labels on the sheet: what a thread waits for, where the world starts, what is missed."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen

from topion.view import style

Words = Sequence[tuple[str, bool]]  # parts of a line, and whether they are bold
_PAD, _HIGH = 8.0, 22.0
_LINE = 17.0


def width_of(words: Words, size_px: int = 12) -> float:
    """px that a line takes."""
    return sum(QFontMetricsF(style.font(size_px, bold=bold)).horizontalAdvance(text)
               for text, bold in words)  # fmt: skip


def draw_words(
    painter: QPainter, left: float, middle: float, words: Words, ink: str = "ink", size_px: int = 12
) -> float:  # fmt: skip
    """A line, part by part; where it ends."""
    painter.setPen(style.ink(ink))
    for text, bold in words:
        painter.setFont(style.font(size_px, bold=bold))
        wide = painter.fontMetrics().horizontalAdvance(text)
        place = QRectF(left, middle - 12, wide + 4, 24)
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, text)
        left += wide
    return left


def chip(
    painter: QPainter, middle: QPointF, words: Words, edge: str = "line", ink: str = "ink"
) -> QRectF:  # fmt: skip
    """A line on a small card; where it lies."""
    wide = width_of(words) + 2 * _PAD
    rect = QRectF(middle.x() - wide / 2, middle.y() - _HIGH / 2, wide, _HIGH)
    painter.setPen(QPen(style.ink(edge), 1.0))
    painter.setBrush(style.ink("card"))
    painter.drawRoundedRect(rect, 3.5, 3.5)
    draw_words(painter, rect.left() + _PAD, middle.y(), words, ink)
    return rect


def callout(painter: QPainter, point: QPointF, title: Words, text: str, right: bool) -> QRectF:
    """Two lines on a card, with a line to what they speak of; right : it stands right of that."""
    wide = max(width_of(title), width_of([(text, False)])) + 2 * _PAD + 6
    left = point.x() + 30 if right else point.x() - 30 - wide
    rect = QRectF(left, point.y() - _LINE - 4, wide, 2 * _LINE + 8)
    painter.setPen(QPen(style.ink("buoy"), 1.4))
    painter.drawLine(point, QPointF(rect.left() if right else rect.right(), point.y()))
    painter.setPen(QPen(style.ink("ink"), 1.0))
    painter.setBrush(style.ink("card"))
    painter.drawRoundedRect(rect, 3.5, 3.5)
    painter.fillRect(QRectF(rect.left() + 1, rect.top() + 2, 4, rect.height() - 4),
                     style.ink("buoy"))  # fmt: skip
    draw_words(painter, rect.left() + _PAD + 5, rect.top() + 13, title)
    draw_words(painter, rect.left() + _PAD + 5, rect.top() + 13 + _LINE, [(text, False)], "soft")
    return rect
