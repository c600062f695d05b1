"""Over the room of the legend desk: how the files are read."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QPaintEvent
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QLineEdit, QWidget

from topion.model.legend import Reading
from topion.view import style
from topion.view.desks.parts import paint_paper
from topion.view.legend.work import LegendWork
from topion.view.panels.fields import number_field

_ITSELF = "by itself"
_TEXT = (
    ("form", "Read as", {_ITSELF: "auto", "signs": "signs", "codes": "codes", "runs": "runs"},
     "How a row is written: a sign a cell; codes with commas, tabs or blanks between; runs like "
     "12#3."),
    ("parts", "parted by", {_ITSELF: "auto", "blank lines": "blank lines", "titles": "titles",
                            "nothing": "none"}, "What stands between the rooms of a file"),
    ("encoding", "in", {_ITSELF: "auto", "UTF-8": "utf-8", "Latin-1": "latin-1"},
     "The encoding of the files"),
)  # fmt: skip


class ReadingBar(QWidget):
    """Signals: asked(a Reading) when files shall be read in another way."""

    asked = pyqtSignal(object)

    def __init__(self, work: LegendWork) -> None:
        super().__init__()
        self.work = work
        self.setFixedHeight(40)
        self._line = QHBoxLayout(self)
        self._line.setContentsMargins(12, 0, 12, 0)
        self._line.setSpacing(6)
        self.choices: dict[str, QComboBox] = {}
        self.fields: dict[str, QLineEdit] = {}
        if work.of_pictures:
            self._number("cell_px", "A cell is", "px", "Px of the picture that make a cell; empty "
                                                       "to find that")  # fmt: skip
            self._number("near", "colours alike within", "", "Colours that differ by no more are "
                                                             "one: 0 to 255")  # fmt: skip
        else:
            for name, label, values, tip in _TEXT:
                self._choice(name, label, values, tip)
            self._number("comments", "comments", "", "Signs with blanks between; empty "
                                                                "for the usual ones")  # fmt: skip
        self._line.addStretch(1)
        work.changed.connect(self.refresh)
        self.refresh()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_paper(self, "bottom")

    def _label(self, text: str) -> None:
        label = QLabel(text)
        style.tint(label, "soft")
        self._line.addWidget(label)

    def _choice(self, name: str, label: str, values: dict[str, str], tip: str) -> None:
        self._label(label)
        choice = QComboBox()
        choice.setToolTip(tip)
        choice.setAccessibleName(f"{label.capitalize()}: {tip}")
        for text, value in values.items():
            choice.addItem(text, value)
        choice.activated.connect(lambda _: self._ask(**{name: choice.currentData()}))
        self.choices[name] = choice
        self._line.addWidget(choice)

    def _number(self, name: str, label: str, unit: str, tip: str) -> None:
        self._label(label)
        field = number_field(tip, 44 if name == "comments" else 30)
        field.editingFinished.connect(lambda: self._typed(name, field.text().strip()))
        self.fields[name] = field
        self._line.addWidget(field)
        if unit:
            self._label(unit)

    # --- done ---------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show how the files were read."""
        for name, choice in self.choices.items():
            choice.setCurrentIndex(choice.findData(getattr(self.work.reading, name)))
        for name, field in self.fields.items():
            value = getattr(self.work.reading, name)
            field.setText("" if name == "cell_px" and not value else str(value))

    def _typed(self, name: str, text: str) -> None:
        if name == "comments":
            self._ask(comments=text)
            return
        known = getattr(self.work.reading, name)
        most = 512 if name == "cell_px" else 255
        value = int(text) if text.isdigit() and int(text) <= most else 0 if not text else known
        self._ask(**{name: value})
        self.refresh()

    def _ask(self, **values: Any) -> None:
        reading: Reading = replace(self.work.reading, **values)
        if reading != self.work.reading:
            self.asked.emit(reading)
