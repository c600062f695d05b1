"""The figure of the project: its size, speeds and jump."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from topion.model.figure import PLAIN_FIGURE, Figure
from topion.view import style
from topion.view.desks.parts import Switches, add_row
from topion.view.panels.fields import choice_button, heading, number_field
from topion.view.walk.jump_drawing import JumpDrawing

_FIELDS = {
    "wide": ("Wide", "c", "Cells it is wide"),
    "high": ("High", "c", "Cells it is high"),
    "speed": ("Speed", "c/s", "Cells it runs in a second"),
    "jump_height": ("Jump height", "c", "Cells its feet come up"),
    "jump_length": ("Jump length", "c", "Cells it comes, running, until it is as high again"),
    "climb": ("Climb", "c/s", "Cells it climbs in a second"),
    "step": ("Step", "c", "Edges up to so high are walked up"),
    "coyote": ("Jumps late", "s", "Seconds after an edge in which it can still jump"),
}


class FigurePanel(QWidget):
    """put : called with a field of the figure and its new value."""

    def __init__(self) -> None:
        super().__init__()
        self.put: Callable[[str, Any], object] = lambda *_: None
        self.figure = PLAIN_FIGURE
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the figure")
        self.name.setToolTip("What the figure is called")
        self.name.editingFinished.connect(self._rename)
        self.drawing = JumpDrawing()
        self.drawing.put = lambda field, value: self.put(field, value)
        self.fields: dict[str, QLineEdit] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.others = choice_button("others ▾", "Another figure of the project, or a new one")
        head = QHBoxLayout()
        head.addWidget(heading("Figure"), 1)
        head.addWidget(self.others)
        column.addLayout(head)
        column.addWidget(self.name)
        column.addWidget(self.drawing)
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(0, 1)
        for row, (field, (label, unit, tip)) in enumerate(_FIELDS.items()):
            edit = number_field(f"{label}: {tip}", 54)
            edit.editingFinished.connect(partial(self._type, field))
            self.fields[field] = edit
            sign = QLabel(unit)
            style.tint(sign, "soft")
            for place, part in enumerate((QLabel(label), edit, sign)):
                grid.addWidget(part, row, place)
        column.addLayout(grid)
        more = QGridLayout()
        more.setColumnStretch(1, 1)
        self.slopes = Switches({"walks": "walks", "slides": "slides"})
        self.slopes.setToolTip("What it does on slopes of 1 : 1")
        self.slopes.chosen = lambda value: self.put("slopes", value)
        add_row(more, "Steep slopes", self.slopes)
        self.gravity = Switches({"down": "down", "up": "up"})
        self.gravity.setToolTip("Where it falls to, seen from the side; G turns it in the walk")
        self.gravity.chosen = lambda value: self.put("gravity", value)
        add_row(more, "Gravity", self.gravity)
        column.addLayout(more)

    def show_figure(self, figure: Figure) -> None:
        """Show another one, or the same as it is now."""
        self.figure = figure
        if not (self.name.hasFocus() and self.name.isModified()):
            self.name.setText(figure.name)
        self.drawing.show_figure(figure)
        for field, edit in self.fields.items():
            if not (edit.hasFocus() and edit.isModified()):
                edit.setText(f"{getattr(figure, field):g}")
        self.slopes.show_value(figure.slopes)
        self.gravity.show_value(figure.gravity)

    def _rename(self) -> None:
        name = self.name.text().strip()
        if self.name.isModified() and name and name != self.figure.name:
            self.name.setModified(False)
            self.put("name", name)

    def _type(self, field: str) -> None:
        edit = self.fields[field]
        if not edit.isModified():
            return
        edit.setModified(False)
        try:
            value = float(edit.text().replace(",", "."))
        except ValueError:
            self.show_figure(self.figure)
            return
        if value != getattr(self.figure, field):
            self.put(field, value)
