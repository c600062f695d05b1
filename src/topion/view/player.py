"""A hand that works a window by events, and the pictures it takes."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path

from PyQt6.QtCore import QEvent, QEventLoop, QPointF, Qt, QTimer
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QApplication, QWidget

from topion.view.window import Window

Cell = tuple[float, ...]


def wait(ms: int) -> None:
    """Let the window live for a while."""
    loop = QEventLoop()
    QTimer.singleShot(ms, loop.quit)
    loop.exec()


class Player:
    """A hand that moves the pointer over the table of a window, cell by cell."""

    def __init__(self, window: Window) -> None:
        self.window = window

    def settle(self, ms: int = 25) -> None:
        """Let the window live for a while."""
        wait(ms)

    def _send(
        self,
        kind: QEvent.Type,
        at: QPointF,
        button: Qt.MouseButton,
        held: Qt.MouseButton,
        modifiers: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
    ) -> None:
        table = self.window.table
        place = QPointF(table.mapToGlobal(at.toPoint()))
        QApplication.sendEvent(table, QMouseEvent(kind, at, place, button, held, modifiers))

    def hover(self, cell: Cell) -> None:
        """Point at the middle of a cell."""
        self.point(self.window.table.cell_centre(*cell))

    def point(self, at: QPointF) -> None:
        """Move the pointer, no button held."""
        none = Qt.MouseButton.NoButton
        self._send(QEvent.Type.MouseMove, at, none, none)
        self.settle()

    def press(self, cells: Iterable[Cell], button: Qt.MouseButton = Qt.MouseButton.LeftButton,
              modifiers: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:  # fmt: skip
        """Press on the first cell and move through the others; the button stays down."""
        table = self.window.table
        self.press_at([table.cell_centre(*cell) for cell in cells], button, modifiers)

    def press_at(
        self,
        points: Iterable[QPointF],
        button: Qt.MouseButton = Qt.MouseButton.LeftButton,
        modifiers: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
    ) -> None:
        """The same on points of the table."""
        first, *rest = points
        none = Qt.MouseButton.NoButton
        self._send(QEvent.Type.MouseMove, first, none, none)
        self._send(QEvent.Type.MouseButtonPress, first, button, button, modifiers)
        for point in rest:
            self._send(QEvent.Type.MouseMove, point, none, button, modifiers)
        self._last = rest[-1] if rest else first

    def let_go(self, button: Qt.MouseButton = Qt.MouseButton.LeftButton) -> None:
        """Let the button come up where the pointer is."""
        self._send(QEvent.Type.MouseButtonRelease, self._last, button, Qt.MouseButton.NoButton)
        self.settle()

    def stroke(self, *cells: Cell, button: Qt.MouseButton = Qt.MouseButton.LeftButton) -> None:
        """Press, move and let go over cells."""
        self.press(cells, button)
        self.let_go(button)

    def key(self, key: Qt.Key, down: bool = True) -> None:
        """Press or release a key."""
        kind = QEvent.Type.KeyPress if down else QEvent.Type.KeyRelease
        none = Qt.KeyboardModifier.NoModifier
        QApplication.sendEvent(self.window.table, QKeyEvent(kind, key, none))

    def tap(self, key: Qt.Key) -> None:
        """Press and release a key."""
        self.key(key)
        self.key(key, down=False)

    def shot(self, path: Path, widget: QWidget | None = None) -> Path:
        """A picture of the window, or of a dialog over it."""
        self.settle(150)
        (widget or self.window).grab().save(str(path))
        return path


Shot = Callable[..., None]
