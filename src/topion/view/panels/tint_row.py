"""A row of In hand that gives a brush a colour of the palette: its swatches, and two words."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from topion.brushes.kind import Setting
from topion.brushes.tint import AS_IS, OWN
from topion.model.palette import Palette
from topion.view import style
from topion.view.panels.fields import bold, choice_button
from topion.view.panels.palette import paint_swatch

_SIDE, _PITCH = 15, 19
_WORDS = {AS_IS: "as is", OWN: "own"}
_TIPS = {AS_IS: "Leave what a cell has", OWN: "The colour that tiles have by themselves"}


class TintRow(QWidget):
    """changed(number) is called with what is chosen; a row as others of In hand are."""

    def __init__(self, setting: Setting, palette: Callable[[], Palette],
                 changed: Callable[[int], object], done: Callable[[], object]) -> None:  # fmt: skip
        super().__init__()
        self.setting = setting
        self._changed, self._done = changed, done
        self.setToolTip(setting.hint)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 3)
        column.setSpacing(2)
        line = QHBoxLayout()
        line.addWidget(QLabel(setting.label))
        line.addStretch(1)
        self.words = {}
        for number, word in _WORDS.items():
            button = choice_button(word, f"{setting.label}: {_TIPS[number].lower()}")
            button.clicked.connect(lambda _, n=number: self._choose(n))
            self.words[number] = button
            line.addWidget(button)
        column.addLayout(line)
        self.grid = SwatchGrid(setting.label, palette, self._choose)
        column.addWidget(self.grid)

    def _choose(self, number: int) -> None:
        self._changed(number)
        self._done()

    def show_value(self, value: int) -> None:
        """Show a value that was set elsewhere."""
        for number, button in self.words.items():
            bold(button, number == value)
        self.grid.show_value(value)


class SwatchGrid(QWidget):
    """The colours of the palette as small swatches; the chosen one is framed."""

    def __init__(self, name: str, palette: Callable[[], Palette],
                 chosen: Callable[[int], object]) -> None:  # fmt: skip
        super().__init__()
        self._palette, self._chosen = palette, chosen
        self._value = 0
        self.setMouseTracking(True)
        self.setAccessibleName(f"{name}: colours")

    def show_value(self, value: int) -> None:
        """Frame that colour."""
        self._value = value
        rows = -(-len(self._palette()) // self._columns())
        self.setFixedHeight(max(1, rows) * _PITCH)
        self.update()

    def resizeEvent(self, event: object) -> None:
        self.show_value(self._value)

    def _columns(self) -> int:
        return max(1, self.width() // _PITCH)

    def swatch_rect(self, place: int) -> QRectF:
        """Where the colour at a place of the palette is seen."""
        row, column = divmod(place, self._columns())
        return QRectF(column * _PITCH + 2, row * _PITCH + 2, _SIDE, _SIDE)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        palette = self._palette()
        for place, tint in enumerate(palette):
            rect = self.swatch_rect(place)
            paint_swatch(painter, rect, tint)
            if tint.number == self._value:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(style.ink("buoy"), 2))
                painter.drawRoundedRect(rect.adjusted(-1.5, -1.5, 1.5, 1.5), 3, 3)
        if not palette:
            painter.setPen(style.ink("soft"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, "no colours yet (F5)")

    def _place_at(self, point: QPointF) -> int | None:
        places = range(len(self._palette()))
        return next((n for n in places if self.swatch_rect(n).contains(point)), None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        place = self._place_at(event.position()) if event else None
        if place is not None:
            self._chosen(self._palette()[place].number)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        place = self._place_at(event.position()) if event else None
        self.setToolTip("" if place is None else self._palette()[place].name)
