"""Extensions in the window: their commands, and word of those that were switched off."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from PyQt6 import sip
from PyQt6.QtCore import QObject, Qt, pyqtSignal

from topion.errors import TopionError
from topion.extending import COMMANDS, Extension, ExtraCommand, load_extensions
from topion.extending.extension import on_failure
from topion.model.edit import Edit
from topion.view.commands import Command

GROUP = "Extensions"


class ExtensionNews(QObject):
    """Says it in the window when an extension was switched off, from whatever thread.

    Signals: met(sentence).
    """

    met = pyqtSignal(str)

    def __init__(self, window: Any) -> None:
        super().__init__(window)
        self._window = window
        self.met.connect(window.say, Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]
        for one in load_extensions().values():
            if one.off:
                self._tell(one)
        on_failure(self._tell)

    def _tell(self, extension: Extension) -> None:
        if sip.isdeleted(self):  # its window was closed
            return
        what = "nothing of yours was changed; what it made is kept"
        self.met.emit(f"Extension {extension.name} is switched off: {extension.off}; {what}")


def extension_commands(window: Any) -> Iterator[Command]:
    """One for each command that extensions add."""
    for extra in COMMANDS.values():
        yield Command(f"extension {extra.name}", extra.text, _run(window, extra), (), GROUP)


def _run(window: Any, extra: ExtraCommand) -> Any:
    def does() -> None:
        session = window.session
        try:
            found = extra.run(session.project, session.room_name if session.has_room else "")
            if isinstance(found, Edit):
                if not session.apply(found):
                    window.say(
                        found.refused[0] if found.refused else f"{extra.text}: nothing to do"
                    )
            elif found is not None:
                window.say(str(found))
        except TopionError as problem:
            window.say(str(problem))

    return does
