"""The beats of a stroke that lays at a rate while its button is held."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer

Position = tuple[float, ...]


class Beats:
    """rate : a second.  at : where the pointer is now, in cells."""

    def __init__(
        self, parent: QObject, rate: float, at: Position, beat: Callable[[], object]
    ) -> None:
        self.rate, self.at = rate, at
        self.count = 1
        self._timer = QTimer(parent)
        self._timer.setInterval(round(1000 / rate))
        self._timer.timeout.connect(lambda: self._go_on(beat))
        self._timer.start()

    def _go_on(self, beat: Callable[[], object]) -> None:
        self.count += 1
        beat()

    def stop(self) -> None:
        """The button came up."""
        self._timer.stop()
        self._timer.deleteLater()

    def words(self) -> str:
        """What stands at the pointer."""
        return f"{self.rate:g} a second · {self.count} so far"
