"""A hand that works a window with real events."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt

from topion.view.window import Window


class Designer:
    """Works the window as a person would: by pixels and keys."""

    def __init__(self, window: Window, qtbot) -> None:
        self.window, self.qtbot, self.table = window, qtbot, window.table
        self.session = window.session
        self.handle = window.session.handle

    def at(self, cell) -> QPoint:
        return self.table.cell_centre(*cell).toPoint()

    def hover(self, cell) -> None:
        self.qtbot.mouseMove(self.table, self.at(cell))
        self.settle()

    def press(
        self, cell, button=Qt.MouseButton.LeftButton, modifier=Qt.KeyboardModifier.NoModifier
    ):
        self.qtbot.mouseMove(self.table, self.at(cell))
        self.qtbot.mousePress(self.table, button, modifier, self.at(cell))

    def move(self, cell) -> None:
        self.qtbot.mouseMove(self.table, self.at(cell))

    def let_go(self, cell, button=Qt.MouseButton.LeftButton) -> None:
        self.qtbot.mouseRelease(self.table, button, pos=self.at(cell))
        self.settle()

    def stroke(self, *cells, button=Qt.MouseButton.LeftButton) -> None:
        self.press(cells[0], button)
        for cell in cells[1:]:
            self.move(cell)
        self.let_go(cells[-1], button)

    def key(self, key, modifier=Qt.KeyboardModifier.NoModifier) -> None:
        self.qtbot.keyClick(self.table, key, modifier)
        self.settle()

    def hold(self, key) -> None:
        self.settle()  # what the display still has to tell of windows would let go of the key
        self.qtbot.keyPress(self.table, key)

    def release(self, key) -> None:
        self.qtbot.keyRelease(self.table, key)

    def settle(self, ms: int = 20) -> None:
        self.qtbot.wait(ms)

    @property
    def room(self):
        return self.handle.room(self.session.room_name)

    def material(self, cell) -> str:
        return self.room.material(*cell)

    def pixels(self, cell):
        """The colours the window shows in a cell, without its outermost pixels."""
        image = self.table.grab().toImage()
        middle = self.at(cell)
        half = int(self.table.camera.px / 2) - 2
        return [
            image.pixelColor(middle.x() + dx, middle.y() + dy).name()
            for dy in range(-half, half)
            for dx in range(-half, half)
        ]

    def shown(self, cell) -> str:
        """The commonest colour of a cell in the window."""
        found = self.pixels(cell)
        return max(set(found), key=found.count)
