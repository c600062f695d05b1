"""Small parts that desks are built of: headings, hairlines, words to choose from."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QPushButton, QWidget

from topion.view import style
from topion.view.dialogs.choices import Choice


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
        for text, value in values.items():
            button = QPushButton(text)
            button.setObjectName("plain")
            button.clicked.connect(lambda _, v=value: self.chosen(v))
            self.buttons[value] = button
            line.addWidget(button)

    def show_value(self, value: Any) -> None:
        """Show which is in use."""
        for known, button in self.buttons.items():
            on = known == value
            colour = style.name("ink" if on else "soft")
            weight = "bold" if on else "normal"
            button.setStyleSheet(f"color: {colour}; font-weight: {weight}; padding: 1px 4px;")
            button.setAccessibleDescription("in use" if on else "")


def heading(text: str) -> QLabel:
    """The small spaced heading of a part."""
    label = QLabel(text)
    label.setFont(style.heading())
    label.setStyleSheet(f"color: {style.name('soft')}")
    return label


def hairline() -> QFrame:
    """From side to side."""
    line = QFrame()
    line.setFixedHeight(1)
    line.setStyleSheet(f"background: {style.name('line')};")
    return line


def add_row(grid: QGridLayout, label: str, widget: QWidget) -> QLabel:
    """A label and what it speaks of; returns the label."""
    row, text = grid.rowCount(), QLabel(label)
    grid.addWidget(text, row, 0)
    grid.addWidget(widget, row, 1)
    return text


def fill(choice: Choice, texts: list[str], now: str) -> None:
    """Offer these, with one of them in use."""
    if texts != [choice.itemText(n) for n in range(choice.count())]:
        choice.clear()
        choice.addItems(texts)
    choice.setCurrentText(now)
