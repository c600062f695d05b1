"""Fields, words to click and labelled rows of the panels."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from topion.view import style

LABEL = 84


def number_field(tip: str, wide: int = 38) -> QLineEdit:
    """A field for a number."""
    edit = QLineEdit()
    edit.setObjectName("number")
    edit.setAcceptDrops(False)
    edit.setAlignment(Qt.AlignmentFlag.AlignRight)
    edit.setFixedWidth(wide)
    edit.setToolTip(tip)
    edit.setAccessibleName(tip)
    return edit


def choice_button(text: str, tip: str) -> QPushButton:
    """One of some words that are chosen by a click."""
    button = QPushButton(text)
    button.setObjectName("plain")
    button.setToolTip(tip)
    button.setAccessibleName(tip)
    return button


def heading(text: str) -> QLabel:
    """The small spaced heading of a part."""
    label = QLabel(text)
    label.setFont(style.heading())
    style.tint(label, "soft")
    return label


def labelled(text: str, *parts: QWidget) -> QWidget:
    """A row: its name, and what belongs to it at the right."""
    row = QWidget()
    line = QHBoxLayout(row)
    line.setContentsMargins(0, 1, 0, 1)
    line.setSpacing(5)
    label = QLabel(text)
    label.setMinimumWidth(LABEL)
    line.addWidget(label)
    line.addStretch(1)
    for part in parts:
        line.addWidget(part)
    return row


def bold(button: QPushButton, on: bool, size_px: int = 13) -> None:
    """Whether it is the chosen one."""
    button.setFont(style.font(size_px, bold=on))
    style.tint(button, "ink" if on else "soft")


def narrow_column() -> QVBoxLayout:
    """Rows close below each other, without a margin."""
    made = QVBoxLayout()
    made.setContentsMargins(0, 0, 0, 0)
    made.setSpacing(2)
    return made
