"""The kinds of placement rules that can be added, as buttons."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from topion.view.panels.fields import heading
from topion.view.panels.new_rules import NEW_RULES

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
