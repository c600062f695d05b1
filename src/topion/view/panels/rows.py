"""Rows of settings: a label, a track, a value that can be typed."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QMenu, QPushButton, QWidget

from topion.brushes.kind import Setting, Value
from topion.grid.orient import TIPS
from topion.grid.told import cell_told
from topion.view import style
from topion.view.panels.fields import bold

LABEL_WIDTH, VALUE_WIDTH = 66, 62
AXIS_COLOURS = {"up": "ink", "south": "tidal", "east": "buoy"}  # as the compass has them
_AXIS_KEYS = {"up": "T", "south": "Ctrl+T", "east": "Shift+T"}
_DICE = ((0.3, 0.3), (0.7, 0.7), (0.5, 0.5), (0.3, 0.7), (0.7, 0.3))


class Track(QWidget):
    """A slider with one or two grips.  Signals: moved(list of float) while pulled; let_go()
    when released; reset() on double-click."""

    moved = pyqtSignal(list)
    let_go = pyqtSignal()
    reset = pyqtSignal()

    def __init__(self, setting: Setting, values: list[float]) -> None:
        super().__init__()
        self.setting, self.values = setting, values
        self._grip: int | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(setting.label)
        self.setFixedHeight(20)

    def sizeHint(self) -> QSize:
        return QSize(104, 20)

    def _x(self, value: float) -> float:
        span = self.setting.hi - self.setting.lo or 1.0  # of a setting with one value only
        share = min(1.0, max(0.0, (value - self.setting.lo) / span))
        return 6 + share * (self.width() - 12)

    def _value(self, x: float) -> float:
        share = min(1.0, max(0.0, (x - 6) / max(1, self.width() - 12)))
        raw = self.setting.lo + share * (self.setting.hi - self.setting.lo)
        return round(round(raw / self.setting.step) * self.setting.step, 6)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = self.height() / 2
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(style.ink("rail"))
        painter.drawRoundedRect(QRectF(2, middle - 2, self.width() - 4, 4), 2, 2)
        grips = [self._x(v) for v in self.values]
        start = grips[0] if len(grips) > 1 else 2
        painter.setBrush(style.ink("ink"))
        painter.drawRoundedRect(QRectF(start, middle - 2, max(0, grips[-1] - start), 4), 2, 2)
        painter.setBrush(style.ink("buoy"))
        for x in grips:
            painter.drawRoundedRect(QRectF(x - 4, middle - 7, 8, 14), 2, 2)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(style.ink("tidal"), 1))
            painter.drawRoundedRect(QRectF(0.5, 1.5, self.width() - 1, self.height() - 3), 4, 4)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        gaps = [abs(self._x(v) - event.position().x()) for v in self.values]
        self._grip = gaps.index(min(gaps))
        self._pull(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._grip is not None:
            self._pull(event.position().x())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._grip is not None:
            self._grip = None
            self.let_go.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self._grip = None
        self.reset.emit()

    def _pull(self, x: float) -> None:
        if self._grip is not None:
            self.set_value(self._grip, self._value(x))

    def set_value(self, grip: int, value: float) -> None:
        values = list(self.values)
        values[grip] = value
        values.sort()
        if values != self.values:
            self.values = values
            self.update()
            self.moved.emit(values)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None:
            event.ignore()
            return
        coarse = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        value = self.values[-1] + step * coarse * self.setting.step
        value = min(self.setting.hi, max(self.setting.lo, round(value, 6)))
        self.set_value(len(self.values) - 1, value)
        self.let_go.emit()


_WIDEST_CHOICES = 18  # letters of choices that fit side by side


class SettingRow(QWidget):
    """One setting.  changed(value) is called with each new value, `done` when a pull ends."""

    def __init__(
        self,
        setting: Setting,
        value: Value,
        default: Value,
        choices: tuple[str, ...],
        changed: Callable[[Any], None],
        done: Callable[[], None],
    ) -> None:
        super().__init__()
        self.setting, self.changed, self.done = setting, changed, done
        self.default = default
        self.value = value
        self._shown: Callable[[Any], None] = lambda _: None
        self.line = QHBoxLayout(self)
        self.line.setContentsMargins(0, 1, 0, 1)
        self.line.setSpacing(8)
        label = QLabel(setting.label)
        label.setFixedWidth(LABEL_WIDTH)
        self.line.addWidget(label)
        tip = setting.hint or setting.label
        {
            "number": self._number,
            "range": self._number,
            "switch": self._switch,
            "choice": self._choice,
            "seed": self._seed,
            "text": self._text,
            "about": self._about,
            "cell": self._cell,
        }[setting.form](choices)
        self.setToolTip(tip)

    def show_value(self, value: Value) -> None:
        """Show a value that was set elsewhere."""
        self.value = value
        self._shown(value)

    def _number(self, _: object) -> None:
        many = self.setting.form == "range"

        def listed(value: Value) -> list[float]:
            return [float(v) for v in value] if many else [float(value)]

        track = Track(self.setting, listed(self.value))
        edit = QLineEdit(_said(self.value, self.setting.unit))
        edit.setAcceptDrops(False)
        edit.setObjectName("number")
        edit.setAlignment(Qt.AlignmentFlag.AlignRight)
        edit.setFixedWidth(VALUE_WIDTH)
        edit.setAccessibleName(f"{self.setting.label}, typed")
        edit.setToolTip("Type a value, also beyond the slider; double-click the slider to reset")

        def send(values: list[float]) -> None:
            kind = int if isinstance(self.default, int) else float
            self.changed(tuple(values) if many else kind(values[0]))

        def typed() -> None:
            values = _read_numbers(edit.text(), 2 if many else 1)
            if values is None:
                edit.setText(_said(self.value, self.setting.unit))
            elif values != listed(self.value):
                send(sorted(values))
                self.done()
                edit.setText(_said(self.value, self.setting.unit))

        def shown(value: Value) -> None:
            track.values = listed(value)
            track.update()
            if not edit.hasFocus():
                edit.setText(_said(value, self.setting.unit))

        def reset() -> None:
            self.changed(self.default)
            self.done()

        track.moved.connect(send)
        track.let_go.connect(self.done)
        track.reset.connect(reset)
        edit.editingFinished.connect(typed)
        self._shown = shown
        self.line.addWidget(track, 1)
        self.line.addWidget(edit)

    def _switch(self, _: object) -> None:
        button = QPushButton()
        button.setObjectName("plain")
        button.setAccessibleName(self.setting.label)

        def shown(value: Value) -> None:
            button.setText("yes" if value else "no")
            button.setFont(style.font(13, bold=bool(value)))

        def press() -> None:
            self.changed(not self.value)
            self.done()

        shown(self.value)
        self._shown = shown
        button.clicked.connect(press)
        self.line.addStretch(1)
        self.line.addWidget(button)

    def _choice(self, choices: tuple[str, ...]) -> None:
        """A few choices stand side by side, the chosen one bold; many are in a menu."""

        def pick(choice: str) -> None:
            self.changed(choice)
            self.done()

        self.line.addStretch(1)
        if len(choices) > 4 or sum(map(len, choices)) > _WIDEST_CHOICES:
            self._choice_menu(choices, pick)
            return
        buttons = {choice: QPushButton(choice) for choice in choices}
        for choice, button in buttons.items():
            button.setObjectName("plain")
            button.setAccessibleName(f"{self.setting.label}: {choice}")
            button.clicked.connect(lambda _, c=choice: pick(c))
            self.line.addWidget(button)

        def shown(value: Value) -> None:
            for choice, button in buttons.items():
                bold(button, choice == value)

        shown(self.value)
        self._shown = shown

    def _choice_menu(self, choices: tuple[str, ...], pick: Callable[[str], None]) -> None:
        button = QPushButton()
        button.setObjectName("plain")
        button.setAccessibleName(self.setting.label)
        menu = QMenu(button)
        for choice in choices:
            menu.addAction(choice or self.setting.none, lambda c=choice: pick(c))
        button.setMenu(menu)

        def shown(value: Value) -> None:
            button.setText(f"{value or self.setting.none} ▾")

        shown(self.value)
        self._shown = shown
        self.line.addWidget(button)

    def _seed(self, _: object) -> None:
        edit = QLineEdit(str(self.value))
        edit.setAcceptDrops(False)
        edit.setObjectName("number")
        edit.setAlignment(Qt.AlignmentFlag.AlignRight)
        edit.setAccessibleName(f"{self.setting.label}, typed")
        edit.setFixedWidth(VALUE_WIDTH)
        dice = Dice()

        def typed() -> None:
            if edit.text().strip().isdigit():
                self.changed(int(edit.text()) % (1 << 31))
                self.done()
            else:
                edit.setText(str(self.value))

        def roll() -> None:
            self.changed((int(self.value) * 1103515245 + 12345) % 10_000)
            self.done()

        edit.editingFinished.connect(typed)
        dice.clicked.connect(roll)
        self._shown = lambda value: edit.setText(str(value))
        self.line.addStretch(1)
        self.line.addWidget(edit)
        self.line.addWidget(dice)

    def _about(self, choices: tuple[str, ...]) -> None:
        """A button for each axis: a quarter further about it.  What is sent is the axis."""
        said = QLabel()
        said.setFont(style.font(13, bold=True))
        self.line.addWidget(said)
        self.line.addStretch(1)
        for axis in choices:
            button = QPushButton(axis if len(choices) > 1 else "a quarter")
            button.setObjectName("plain")
            button.setFont(style.font(bold=True))
            style.tint(button, AXIS_COLOURS[axis])
            button.setAccessibleName(f"A quarter about {axis}")
            button.setToolTip(f"A quarter about {axis} ({_AXIS_KEYS[axis]})")
            button.clicked.connect(lambda _, a=axis: (self.changed(a), self.done()))
            self.line.addWidget(button)

        def shown(value: Value) -> None:
            tip, quarters = divmod(int(value), 4)
            said.setText(f"{quarters * 90}°{' ·' if tip else ''}")
            said.setToolTip(TIPS[tip])

        shown(self.value)
        self._shown = shown

    def _cell(self, _: object) -> None:
        """A cell, typed: `x, y` or `x, y, z`; emptied, the first one."""
        edit = QLineEdit(_cell_said(self.value))
        edit.setAcceptDrops(False)
        edit.setObjectName("number")
        edit.setAlignment(Qt.AlignmentFlag.AlignRight)
        edit.setPlaceholderText("first cell")
        edit.setFixedWidth(VALUE_WIDTH + 24)
        edit.setAccessibleName(f"{self.setting.label}, typed")

        def typed() -> None:
            found = _read_cell(edit.text())
            if found is not None and found != tuple(self.value):
                self.changed(found)
                self.done()
            edit.setText(_cell_said(self.value))

        def shown(value: Value) -> None:
            if not edit.hasFocus():
                edit.setText(_cell_said(value))

        edit.editingFinished.connect(typed)
        self._shown = shown
        self.line.addStretch(1)
        self.line.addWidget(edit)

    def _text(self, _: object) -> None:
        edit = QLineEdit(str(self.value))
        edit.setAcceptDrops(False)
        edit.setAccessibleName(self.setting.label)
        edit.editingFinished.connect(lambda: (self.changed(edit.text()), self.done()))
        self._shown = lambda value: edit.setText(str(value))
        self.line.addWidget(edit, 1)


class Dice(QPushButton):
    """Rolls a new seed."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("plain")
        self.setFixedSize(22, 22)
        self.setToolTip("Roll the dice: another pattern (R)")
        self.setAccessibleName("Roll the dice")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        hover = self.underMouse() or self.hasFocus()
        painter.setPen(QPen(style.ink("buoy" if hover else "ink"), 1.3))
        painter.drawRoundedRect(QRectF(3.5, 3.5, 15, 15), 3.5, 3.5)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(style.ink("buoy" if hover else "ink"))
        for y, x in _DICE:
            painter.drawEllipse(QRectF(3.5 + x * 15 - 1.4, 3.5 + y * 15 - 1.4, 2.8, 2.8))


def _said(value: Value, unit: str) -> str:
    if isinstance(value, tuple):
        return "–".join(f"{v:g}" for v in value)
    text = f"{value:g}"
    return f"{text}{unit}" if unit in ("°", "×") else f"{text} {unit}".strip()


def _cell_said(cell: Value) -> str:
    """A cell as rulers count it, x first."""
    return cell_told(cell)


def _read_cell(text: str) -> tuple[int, ...] | None:
    """The cell that is meant, in array order; none for other text, the empty one for nothing."""
    parts = text.replace(",", " ").split()
    try:
        return tuple(int(part) for part in reversed(parts))
    except ValueError:
        return None


def _read_numbers(text: str, count: int) -> list[float] | None:
    cleaned = "".join(c if c.isdigit() or c in ".,-" else " " for c in text.replace("–", " "))
    try:
        found = [float(part.replace(",", ".")) for part in cleaned.split()]
    except ValueError:
        return None
    if not found or not all(math.isfinite(v) for v in found):
        return None
    if count == 2 and len(found) == 1:
        found = found * 2
    return found if len(found) == count else None
