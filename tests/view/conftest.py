"""A real window on a small project, and a hand that works it with real events."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QApplication

from tests.rooms import small_room
from topion.view import style
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


@pytest.fixture(autouse=True)
def state_of_its_own(tmp_path, monkeypatch) -> None:
    """Journals of tests stay in the test's folder."""
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))


@pytest.fixture
def designer(qtbot) -> Designer:
    style.use_dark(False)
    app = QApplication.instance()
    style.load_fonts()
    style.dress(app)
    window = Window(small_room((24, 32)).project)
    window.session.handle.history.mark_saved()
    qtbot.addWidget(window, before_close_func=lambda w: w.session.handle.history.mark_saved())
    window.show()
    qtbot.waitExposed(window)
    window.table.camera.step = 8  # 4 px tiles, 4 × larger
    window.table.centre_on((12, 16))
    made = Designer(window, qtbot)
    made.session.hands.take("right", "Stones")
    made.session.hands.take("left", "Water")
    made.settle()
    return made
