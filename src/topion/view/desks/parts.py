"""Small parts that desks are built of: headings, hairlines, words to choose from."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal

from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.edit.prefab_sets import MIXED
from topion.view import style
from topion.view.panels.fields import bold


class Switches(QWidget):
    """A few values of which one is in use, side by side as words."""

    def __init__(self, values: dict[str, Any]) -> None:
        super().__init__()
        self.chosen: Callable[[Any], object] = lambda _: None
        self.buttons: dict[Any, QPushButton] = {}
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(2)
        line.addStretch(1)
        self.mixed = QLabel("mixed")
        style.tint(self.mixed, "ochre")
        self.mixed.hide()
        line.addWidget(self.mixed)
        for text, value in values.items():
            button = QPushButton(text)
            button.setObjectName("plain")
            button.clicked.connect(lambda _, v=value: self.chosen(v))
            self.buttons[value] = button
            line.addWidget(button)

    def show_value(self, value: Any) -> None:
        """Show which is in use; MIXED where several differ."""
        self.mixed.setVisible(value is MIXED)
        for known, button in self.buttons.items():
            on = known == value
            bold(button, on)
            button.setAccessibleDescription("in use" if on else "")


def side_column(width: int) -> tuple[QWidget, QVBoxLayout]:
    """A panel at the side of a desk, so many px wide, and what its parts are put into."""
    side = QWidget()
    side.setFixedWidth(width)
    column = QVBoxLayout(side)
    column.setContentsMargins(14, 12, 14, 8)
    column.setSpacing(8)
    return side, column


def lay_page(desk: QWidget, bar: QWidget, *parts: tuple[QWidget, int], foot: QWidget | None = None
             ) -> None:  # fmt: skip
    """A desk: its bar over parts side by side, each with its share of the room; a foot below."""
    row = QHBoxLayout()
    row.setSpacing(0)
    for part, share in parts:
        row.addWidget(part, share)
    page = QVBoxLayout(desk)
    page.setContentsMargins(0, 0, 0, 0)
    page.setSpacing(0)
    page.addWidget(bar)
    page.addLayout(row, 1)
    if foot is not None:
        page.addWidget(foot)


def paint_paper(widget: QWidget, edge: Literal["top", "bottom", "left", "right"]) -> None:
    """The ground of a panel, with a hairline at the edge where another part begins."""
    painter = QPainter(widget)
    painter.fillRect(widget.rect(), style.ink("panel"))
    painter.setPen(style.ink("line"))
    right, foot = widget.width() - 1, widget.height() - 1
    x = right if edge == "right" else 0
    y = foot if edge == "bottom" else 0
    end = (x, foot) if edge in ("left", "right") else (right, y)
    painter.drawLine(x, y, *end)


class Hairline(QWidget):
    """From side to side, in the colours that are in use."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(1)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        QPainter(self).fillRect(self.rect(), style.ink("line"))


def hairline() -> Hairline:
    """From side to side."""
    return Hairline()


def add_row(grid: QGridLayout, label: str, widget: QWidget) -> QLabel:
    """A label and what it speaks of; returns the label."""
    row, text = grid.rowCount(), QLabel(label)
    grid.addWidget(text, row, 0)
    grid.addWidget(widget, row, 1)
    return text


def fill(choice: QComboBox, texts: list[str], now: str) -> None:
    """Offer these, with one of them in use."""
    if texts != [choice.itemText(n) for n in range(choice.count())]:
        choice.clear()
        choice.addItems(texts)
    choice.setCurrentText(now)
