"""A few numbers as small bars."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from topion.view import style

_LEAST_PX = 2.0


class Bars(QWidget):
    """Shares from 0 to 1, each in an ink."""

    def __init__(self, name: str, wide: int = 78, high: int = 14) -> None:
        super().__init__()
        self.setFixedSize(QSize(wide, high))
        self.setAccessibleName(name)
        self.setToolTip(name)
        self._shares: list[tuple[float, str]] = []

    def show_shares(self, shares: Iterable[tuple[float, str]]) -> None:
        """Show these: how high, and in which ink."""
        self._shares = list(shares)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        wide = self.width() / max(1, len(self._shares))
        for number, (share, ink) in enumerate(self._shares):
            high = _LEAST_PX + share * (self.height() - _LEAST_PX)
            bar = QRectF(number * wide, self.height() - high, wide - 1.5, high)
            painter.fillRect(bar, style.ink(ink))
