"""A button whose words end in dots where the room for them is short."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import QPushButton, QStyleOptionButton

_LEAST_PX, _ASIDE_PX = 48, 8  # wide; of the style's own
_DOTS = Qt.TextElideMode.ElideMiddle


class ElidedButton(QPushButton):
    """As wide as its words if it can be, and never the reason that a window grows.  A `▾` at their
    end, or a `•`, stays."""

    def minimumSizeHint(self) -> QSize:
        whole = super().minimumSizeHint()
        return QSize(min(whole.width(), _LEAST_PX), whole.height())

    def initStyleOption(self, option: QStyleOptionButton | None) -> None:
        super().initStyleOption(option)
        if option is not None:
            wide = self.width() - _ASIDE_PX
            option.text = self.fontMetrics().elidedText(self.text(), _DOTS, wide)
