"""A change of theme: what is seen at once, and in steps what is not."""

from __future__ import annotations

import time
from collections.abc import Iterator

from PyQt6 import sip
from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QApplication, QWidget

from topion.view import style

_STEP_S = 0.02  # of dressing, before anything else is done


class Dressing(QObject):
    """Dresses all widgets again in the palette that is in use."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._left: Iterator[QWidget] = iter(())
        self._next = QTimer(self)
        self._next.timeout.connect(self._step)

    def begin(self) -> None:
        """Dress what is seen, and begin with what is not."""
        there = QApplication.allWidgets()
        for widget in there:
            if widget.isVisible():
                style.dress_again(widget)
        self._left = iter([widget for widget in there if not widget.isVisible()])
        self._next.start(0)

    def _step(self) -> None:
        begun = time.perf_counter()
        for widget in self._left:
            if not sip.isdeleted(widget):
                style.dress_again(widget)
            if time.perf_counter() - begun > _STEP_S:
                return
        self._next.stop()
