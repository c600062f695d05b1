"""The sentence over the foot of the table that is seen for a few seconds."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QTimer
from PyQt6.QtWidgets import QLabel, QWidget

_SAID_MS = 4200
_WIDEST, _NARROWEST, _FOOT = 640, 200, 14
_HOME_FOOT = 210  # above the foot of Home


class Said(QLabel):
    """window : over which it lies, above what stands over the table, too."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.setObjectName("said")
        self.hide()
        self._hush = QTimer(self)
        self._hush.setSingleShot(True)
        self._hush.timeout.connect(self.hide)

    def say(self, text: str, table: QWidget | None) -> None:
        """Show a sentence over the foot of a part of the window; None for Home."""
        window = self.parentWidget()
        assert window is not None
        area = table if table is not None else window
        self.setText(text)
        most = max(_NARROWEST, min(_WIDEST, area.width() - 60))
        self.setWordWrap(False)
        self.setMinimumWidth(0)
        self.setMaximumWidth(area.width())
        if self.sizeHint().width() > most:
            self.setWordWrap(True)
            self.setFixedWidth(most)
        self.adjustSize()
        left = (area.width() - self.width()) // 2
        foot = area.height() - (self.height() + _FOOT if table is not None else _HOME_FOOT)
        self.move(area.mapTo(window, QPoint(left, foot)) if table is not None
                  else QPoint(left, foot))  # fmt: skip
        self.show()
        self.raise_()
        self._hush.start(_SAID_MS)
