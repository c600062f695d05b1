"""One row of the panel: a property, its expression, what it gives, and what is wrong with it."""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterator

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from topion.arrange.expression import NotAnExpression
from topion.arrange.names import RANDOM, Values
from topion.view import style
from topion.view.panels.bars import Bars
from topion.view.panels.rows import Dice

_LABEL, _BARS, _MOST_BARS = 42, 78, 26
_UNITS = {"x": " cells", "y": " cells", "z": " cells", "turn": "°", "lean": "°", "roll": "°"}


class ArrangeRow(QWidget):
    """Signals: typed(property, text); rolled() for other chances."""

    typed = pyqtSignal(str, str)
    rolled = pyqtSignal()

    def __init__(self, name: str) -> None:
        super().__init__()
        self.name = name
        self._mend = ""
        self.field = QLineEdit()
        self.field.setAccessibleName(f"Expression for {name}")
        self.field.setToolTip(f"What {name} comes to be: a number, or an expression like 5*i")
        self.field.textEdited.connect(lambda text: self.typed.emit(name, text))
        self.dice = Dice()
        self.dice.clicked.connect(lambda _: self.rolled.emit())
        self.told = QLabel()
        self.told.setWordWrap(True)
        self.told.setFont(style.font(12))
        self.told.linkActivated.connect(lambda _: self._take_mend())
        self.bars = Bars("The values, one bar for each", _BARS)
        line = QHBoxLayout()
        line.setSpacing(3)
        label = QLabel(name)
        label.setFixedWidth(_LABEL)
        label.setToolTip(name)
        line.addWidget(label)
        line.addWidget(self.field, 1)
        line.addWidget(self.dice)
        below = QHBoxLayout()
        below.setContentsMargins(_LABEL + 9, 0, 0, 0)
        below.addWidget(self.told, 1)
        below.addWidget(self.bars)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 2)
        whole.setSpacing(1)
        whole.addLayout(line)
        whole.addLayout(below)

    def show_row(
        self, text: str, values: Values | None, wrong: NotAnExpression | None, refused: set[int]
    ) -> None:  # fmt: skip
        """Show what it gives, or why it gives nothing."""
        if text != self.field.text():
            self.field.setText(text)
        self.dice.setVisible(any(f"{name}(" in text.replace(" ", "") for name in RANDOM))
        style.mark(self.field, "wrong", wrong is not None)
        self.bars.setVisible(values is not None)
        self._mend = ""
        if wrong is not None:
            self._mend = wrong.mend if wrong.mend.isidentifier() else ""
            did = f" Did you mean <a href='mend'>{wrong.mend}</a>?" if wrong.mend else ""
            self._say(f"character {wrong.at}: {wrong.reason}.{did} {self.name.capitalize()} stays "
                      "as it is.", "buoy")  # fmt: skip
        elif values is not None and len(values):
            self.bars.show_shares(_shares(values, refused))
            unit = _UNITS.get(self.name, "")
            low, high = float(values.min()), float(values.max())
            span = f"{low:.4g}" if low == high else f"{low:.4g} … {high:.4g}"
            self._say(span + unit, "soft")
        else:
            self._say("", "soft")

    def _say(self, text: str, ink: str) -> None:
        self.told.setText(text)
        self.told.setVisible(bool(text))
        style.tint(self.told, ink)

    def _take_mend(self) -> None:
        """Put the word that was meant where the wrong one stands."""
        text = self.field.text()
        words = [word for word in re.findall(r"[A-Za-z_]\w*", text) if word != self._mend]
        if not self._mend or not words:
            return
        wrong = difflib.get_close_matches(self._mend, words, 1, 0.0)[0]
        self.field.setText(text.replace(wrong, self._mend, 1))
        self.typed.emit(self.name, self.field.text())


def _shares(values: Values, refused: set[int]) -> Iterator[tuple[float, str]]:
    """Of the values, or of some of them where they are many; refused ones in another ink."""
    rows = np.unique(np.linspace(0, len(values) - 1, min(len(values), _MOST_BARS)).astype(int))
    low, span = float(values.min()), float(np.ptp(values)) or 1.0
    for row in rows.tolist():
        yield (float(values[row]) - low) / span, "buoy" if row in refused else "tidal"
