"""Drawing in turns: pictures that are kept are made a few at a time, so that nothing waits."""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from typing import TypeVar

from PyQt6.QtCore import QObject, QTimer

T = TypeVar("T")
_SHARE_S = 0.014  # of a turn of the event loop


class Turns(QObject):
    """Makes things for a widget as long as its share of the turn lasts; the rest later."""

    def __init__(self, parent: QObject, again: Callable[[], object]) -> None:
        """again : called in a later turn if something had to wait."""
        super().__init__(parent)
        self._again = again
        self._spent_s, self._waits, self._later = 0.0, False, False
        self._next = QTimer(self)
        self._next.setSingleShot(True)
        self._next.setInterval(0)
        self._next.timeout.connect(self._turn)

    def make(self, work: Callable[[], T]) -> T | None:
        """What `work` gives; None if it must wait for another turn."""
        self._next.start()
        if self._later:
            self._later, self._spent_s = False, math.inf
        if self._spent_s > _SHARE_S:
            self._waits = True
            return None
        start = time.perf_counter()
        made = work()
        self._spent_s += time.perf_counter() - start
        return made

    def later(self) -> None:
        """Make nothing in the turn in which it is asked for first: there something else is."""
        self._later = True

    def _turn(self) -> None:
        waited, self._waits, self._spent_s = self._waits, False, 0.0
        if waited:
            self._again()
