"""A label with words in several colours of the design, also after a change of theme."""

from __future__ import annotations

import re

from PyQt6.QtCore import QEvent
from PyQt6.QtWidgets import QLabel

from topion.view import style

_NAMED = re.compile(r"color:@(\w+)")


def inked(html: str, colour: str) -> str:
    """Rich text in a colour by its name in the design, for an Inked label to say."""
    return f"<span style='color:@{colour}'>{html}</span>"


class Inked(QLabel):
    """Says rich text whose colours are given as `color:@name`."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self._said = ""
        if text:
            self.say(text)

    def say(self, text: str) -> None:
        """Show rich text."""
        self._said = text
        self.setText(_NAMED.sub(lambda found: f"color:{style.name(found[1])}", text))

    def changeEvent(self, event: QEvent | None) -> None:
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.StyleChange and self._said:
            self.say(self._said)
