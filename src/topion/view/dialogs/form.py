"""What the dialogs that fill in a form share: numbers, the line of a refusal, the buttons."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLabel, QSpinBox, QVBoxLayout

from topion.view import style


def spin(value: int, most: int, tip: str, least: int = 1) -> QSpinBox:
    """A field for a whole number."""
    made = QSpinBox()
    made.setRange(least, most)
    made.setValue(value)
    made.setToolTip(tip)
    made.setAccessibleName(tip)
    return made


def problem_line() -> QLabel:
    """The line in which a refusal is shown."""
    line = QLabel()
    line.setWordWrap(True)
    style.tint(line, "buoy")
    return line


def finish(
    dialog: QDialog,
    form: QFormLayout,
    words: str,
    does: Callable[[], object],
    problem: QLabel | None = None,
) -> None:
    """Lay a dialog out: its form, the line of a refusal, and the buttons to do it or not."""
    buttons = QDialogButtonBox()
    make = buttons.addButton(words, QDialogButtonBox.ButtonRole.AcceptRole)
    if make is not None:
        make.setObjectName("strong")
    buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
    buttons.accepted.connect(does)
    buttons.rejected.connect(dialog.reject)
    layout = QVBoxLayout(dialog)
    layout.addLayout(form)
    if problem is not None:
        layout.addWidget(problem)
    layout.addWidget(buttons)
