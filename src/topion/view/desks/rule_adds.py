"""The kinds of placement rules that can be added, as buttons."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from topion.things.rules import (
    AtLeast,
    AtMost,
    Beside,
    ClearOf,
    FacesAway,
    FromEdge,
    Headroom,
    InZone,
    KeepsCells,
    LevelFooting,
    Near,
    NotInSight,
    NotOn,
    On,
    OnlyIn,
    RuleKind,
)
from topion.view.panels.fields import heading

# Words, and a rule to begin with.
NEW_RULES: dict[str, Callable[[], RuleKind]] = {
    "on …": lambda: On(carries=True),
    "not on …": lambda: NotOn(tags=("water",)),
    "clear of …": lambda: ClearOf(2.0),
    "near …": lambda: Near(3.0, "anything"),
    "beside …": lambda: Beside("wall"),
    "keeps its cells": KeepsCells,
    "faces away": FacesAway,
    "headroom": lambda: Headroom(2),
    "level footing": LevelFooting,
    "from the edge": lambda: FromEdge(1),
    "at most …": lambda: AtMost(10),
    "at least …": lambda: AtLeast(1),
    "not in sight of …": lambda: NotInSight("anything"),
    "only in …": lambda: OnlyIn(("inside",)),
    "in a region …": InZone,
}
_IN_A_ROW = 5


class RuleAdds(QWidget):
    """add : called with the words of the kind that is asked for."""

    def __init__(self, add: Callable[[str], object]) -> None:
        super().__init__()
        lines = QVBoxLayout(self)
        lines.setContentsMargins(14, 0, 14, 0)
        lines.addWidget(heading("Add a rule"))
        self.buttons: dict[str, QPushButton] = {}
        for start in range(0, len(NEW_RULES), _IN_A_ROW):
            line = QHBoxLayout()
            line.setSpacing(6)
            for words in list(NEW_RULES)[start : start + _IN_A_ROW]:
                button = QPushButton(words)
                button.setToolTip(f"Add a rule: {NEW_RULES[words]().sentence()}")
                button.clicked.connect(lambda _, w=words: add(w))
                self.buttons[words] = button
                line.addWidget(button)
            line.addStretch(1)
            lines.addLayout(line)
