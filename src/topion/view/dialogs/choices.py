"""A choice of several, with a plain ▾ that shows that there are more."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QComboBox

from topion.view import style

_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


class Choice(QComboBox):
    """One of several texts."""

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setPen(style.ink("soft"))
        painter.drawText(self.rect().adjusted(0, 0, -10, 0), _RIGHT, "▾")
