"""Short hints at the hands, each of which goes away once what it tells was done."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QObject, pyqtSignal

from topion.view import settings

MOST = 3  # shown at once


@dataclass(frozen=True)
class Hint:
    """name : of what was done.  text : how it is done, in a few words.

    when : `painting`, `picking`, `curve` while points of one are clicked, or nothing for always.
    deep : only in voxel rooms.
    """

    name: str
    text: str
    when: str = ""
    deep: bool | None = None


HINTS = (
    Hint("laid", "drag to lay", "painting"),
    Hint("curve", "click points; Enter ends", "curve"),
    Hint("other-hand", "right: the other brush", "painting"),
    Hint("lifted", "hold E to lift instead", "painting"),
    Hint("panned", "hold Space to pan"),
    Hint("turned-view", "middle drag turns the view", deep=True),
    Hint("raised", "Page Up raises the work plane", "painting", deep=True),
    Hint("taken", "Alt picks what is there", "painting"),
    Hint("undone", "Ctrl+Z takes a stroke back"),
    Hint("card", "1 … 0 take a card", "painting"),
    Hint("gesture", "hold B for one box", "painting", deep=False),
    Hint("picked", "S: pick, pull, move things", "painting"),
    Hint("picked-more", "Shift picks one more", "picking"),
    Hint("copied", "Ctrl drag duplicates", "picking"),
    Hint("below", "Tab: what is below", "picking"),
    Hint("walked", "W walks the room"),
    Hint("found", "Ctrl+K finds anything"),
    Hint("keys", "F1 shows the keys"),
)


class Hints(QObject):
    """Signals: changed() when one was done.  Kept in the settings."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._done = set(settings.done_hints())

    def did(self, name: str) -> None:
        """That was done: its hint is not shown again."""
        if name not in self._done and any(hint.name == name for hint in HINTS):
            self._done.add(name)
            settings.remember_hints(frozenset(self._done))
            self.changed.emit()

    def renew(self) -> None:
        """As the settings say now."""
        self._done = set(settings.done_hints())
        self.changed.emit()

    def shown(self, gesture: str, *, deep: bool) -> list[str]:
        """The next few that were not done yet."""
        mode = {"lasso": "picking", "curve": "curve"}.get(gesture, "painting")
        return [hint.text for hint in HINTS
                if hint.name not in self._done and hint.when in ("", mode)
                and hint.deep in (None, deep)][:MOST]  # fmt: skip
