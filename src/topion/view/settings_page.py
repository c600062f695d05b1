"""The settings: look, strokes, mouse, pen and keys, in the place of all else."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from topion.formats.symbols.legend_files import legends_folder
from topion.logbook import cache_home, state_home
from topion.view import settings, style
from topion.view.commands import Commands
from topion.view.panels.key_list import KeyList
from topion.view.panels.top_bar import Mark, paint_bar
from topion.view.table.strokes import swap_hands

_SLICES = {"none": 0.0, "½ s": 0.5, "1 s": 1.0, "2 s": 2.0}


class _Bar(QWidget):
    """The top line."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(46)
        line = QHBoxLayout(self)
        line.setContentsMargins(10, 0, 12, 0)
        line.setSpacing(9)
        name = QLabel("Settings")
        name.setFont(style.font(16, bold=True))
        self.done = QPushButton("Done")
        self.done.setObjectName("strong")
        self.done.setToolTip("Back to where you were (Esc)")
        line.addWidget(Mark())
        line.addWidget(name)
        line.addStretch(1)
        line.addWidget(self.done)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_bar(self)


class Words(QWidget):
    """A few values side by side of which one is in use.  chosen : hears of another."""

    def __init__(self, label: str, values: dict[str, Any], now: object,
                 chosen: Callable[[Any], object]) -> None:  # fmt: skip
        super().__init__()
        self.buttons: dict[Any, QPushButton] = {}
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(0)
        for number, (text, value) in enumerate(values.items()):
            place = "first" if not number else "last" if number == len(values) - 1 else ""
            button = QPushButton(text)
            button.setObjectName(f"segment{place}")
            button.setCheckable(True)
            button.setFixedHeight(26)
            button.setAccessibleName(f"{label}: {text}")
            button.setToolTip(f"{label}: {text}")
            button.clicked.connect(lambda _, v=value: self._take(v, chosen))
            self.buttons[value] = button
            line.addWidget(button)
        line.addStretch(1)
        self.show_value(now)

    def show_value(self, value: object) -> None:
        """Show which is in use."""
        for known, button in self.buttons.items():
            button.setChecked(known == value)

    def _take(self, value: object, chosen: Callable[[Any], object]) -> None:
        self.show_value(value)
        chosen(value)


class SettingsPage(QWidget):
    """Signals: left() for the way back; dark_asked(); sliced(seconds); said(a sentence)."""

    left = pyqtSignal()
    dark_asked = pyqtSignal()
    sliced = pyqtSignal(float)
    said = pyqtSignal(str)

    def __init__(self, commands: Commands) -> None:
        super().__init__()
        self.commands = commands
        self.bar, self.keys = _Bar(), KeyList(commands)
        self.bar.done.clicked.connect(lambda _: self.left.emit())
        self.keys.changed.connect(self._use_key)
        self.keys.said.connect(self.said.emit)
        self.choices: dict[str, Words] = {}
        self.search = QLineEdit()
        self.search.setPlaceholderText("find a command or a key")
        self.search.setAccessibleName("Find a command or a key")
        self.search.textChanged.connect(self.keys.show_found)
        self.reset = QPushButton("All keys as they were")
        self.reset.clicked.connect(lambda _: self._reset_all())
        left = QWidget()
        left.setFixedWidth(520)
        self._column = QVBoxLayout(left)
        self._column.setContentsMargins(28, 18, 28, 18)
        self._column.setSpacing(7)
        self._fill()
        self._column.addStretch(1)
        right = QVBoxLayout()
        right.setContentsMargins(26, 18, 20, 10)
        right.setSpacing(8)
        head = QHBoxLayout()
        title = QLabel("Keys")
        title.setFont(style.font(16, bold=True))
        head.addWidget(title)
        head.addWidget(self.search, 1)
        head.addWidget(self.reset)
        told = QLabel("Click a key and press another one. Del takes it away.")
        style.tint(told, "soft")
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidget(self.keys)
        self.keys.setObjectName("keys")
        area.setStyleSheet("QScrollArea, #keys { background: transparent; }")
        right.addLayout(head)
        right.addWidget(told)
        right.addWidget(area, 1)
        row = QHBoxLayout()
        row.setSpacing(0)
        row.addWidget(left)
        row.addLayout(right, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.bar)
        column.addLayout(row, 1)

    def _fill(self) -> None:
        self._head("Look")
        self._words("dark", "Colours", {"paper": False, "dark": True}, style.is_dark(), self._dark)
        scales = {f"{round(scale * 100)} %": scale for scale in settings.SCALES}
        self._words("scale", "Size of the interface", scales, settings.scale(), self._scale,
                    "from the next start on")  # fmt: skip
        self._head("Strokes")
        self._words("slices", "Undo of long strokes", _SLICES, settings.slice_s(), self.sliced.emit,
                    "in slices of so long, or none: one stroke, one undo")  # fmt: skip
        self._head("Mouse")
        self._words("swapped", "The left hand is on the", {"left button": False,
                    "right button": True}, settings.swapped(), self._swap)  # fmt: skip
        self._words("wheel", "The wheel", {"zooms": False, "scrolls": True},
                    settings.wheel_scrolls(), settings.remember_wheel_scrolls,
                    "and the other with Ctrl")  # fmt: skip
        self._head("Pen")
        self._words("pen", "How hard it presses scales", {"the nib": "nib",
                    "the strength": "strength", "nothing": "nothing"}, settings.pen(),
                    settings.remember_pen)  # fmt: skip
        self._head("Hints")
        again = QPushButton("Show all hints again")
        again.clicked.connect(lambda _: self._hints_again())
        self._column.addWidget(again, 0, Qt.AlignmentFlag.AlignLeft)
        self._head("Kept")
        for what, where in (("strokes and log", state_home()), ("legends", legends_folder()),
                            ("pictures, made again", cache_home())):  # fmt: skip
            line = QLabel(f"{what}: {where}")
            line.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            line.setFont(style.font(12))
            style.tint(line, "soft")
            self._column.addWidget(line)

    def _head(self, text: str) -> None:
        label = QLabel(text)
        label.setFont(style.font(16, bold=True))
        self._column.addSpacing(8)
        self._column.addWidget(label)

    def _words(
        self, name: str, label: str, values: dict[str, Any], now: object,
        chosen: Callable[[Any], object], more: str = "",
    ) -> None:  # fmt: skip
        words = Words(label, values, now, chosen)
        self.choices[name] = words
        line = QHBoxLayout()
        text = QLabel(label)
        text.setFixedWidth(170)
        line.addWidget(text)
        line.addWidget(words, 1)
        self._column.addLayout(line)
        if more:
            told = QLabel(more)
            told.setContentsMargins(176, 0, 0, 0)
            told.setFont(style.font(12))
            style.tint(told, "soft")
            self._column.addWidget(told)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), style.ink("panel"))
        painter.setPen(style.ink("line"))
        painter.drawLine(520, self.bar.height(), 520, self.height())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        elif event is not None:
            event.accept()  # no command is carried out from here

    # --- changed ------------------------------------------------------------------------------

    def _dark(self, dark: bool) -> None:
        if dark != style.is_dark():
            self.dark_asked.emit()

    def _scale(self, times: float) -> None:
        settings.remember_scale(times)
        self.said.emit(f"The interface is {round(times * 100)} % large from the next start on")

    def _swap(self, on: bool) -> None:
        settings.remember_swapped(on)
        swap_hands(on)

    def _hints_again(self) -> None:
        settings.remember_hints(frozenset())
        self.said.emit("All hints are shown again, until what they tell was done")

    def _use_key(self, command: str, keys: tuple[str, ...] | None) -> None:
        changed = settings.changed_keys()
        for other, known in changed.items():  # of two that would have it, the last one has
            if keys and other != command and set(known) & set(keys):
                settings.remember_keys(other, tuple(key for key in known if key not in keys))
        settings.remember_keys(command, keys)
        self.commands.use_keys(settings.changed_keys())
        self.keys.refresh()

    def _reset_all(self) -> None:
        for name in settings.changed_keys():
            settings.remember_keys(name, None)
        self.commands.use_keys({})
        self.keys.refresh()
