"""How a whole is shared out, as a bar."""

from __future__ import annotations

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from topion.view import style

_HIGH = 10  # px


class ShareBar(QWidget):
    """A bar of parts."""

    def __init__(self, words: str) -> None:
        """words : what is shared out."""
        super().__init__()
        self.parts: list[tuple[int, str]] = []
        self.setFixedHeight(_HIGH)
        self.setAccessibleName(words)

    def show_parts(self, parts: list[tuple[int, str]]) -> None:
        """(how many, ink) of each."""
        self.parts = parts
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, left = QPainter(self), 0.0
        whole = sum(count for count, _ in self.parts)
        for count, ink in self.parts:
            wide = self.width() * count / max(1, whole)
            painter.fillRect(QRectF(left, 0, wide, _HIGH), style.ink(ink))
            left += wide
