"""Errors nobody foresaw never close the window: logged, said once, and the work goes on."""

from __future__ import annotations

import sys
import threading
import time
from contextlib import suppress
from types import TracebackType
from typing import Any, Protocol, TextIO

from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import QApplication

_QUIET_S = 5.0  # the same error is said again only after that


class Watched(Protocol):
    """The window, as far as this needs it."""

    def say(self, text: str) -> None: ...
    def drop_work(self) -> None:
        """Forget the stroke in progress and whatever else was begun."""


class _Unforeseen(QObject):
    """Signals: met(sentence), from whatever thread."""

    met = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.window: Any = None
        self._said: dict[str, float] = {}
        queued = Qt.ConnectionType.QueuedConnection
        self.met.connect(self._tell, queued)  # type: ignore[call-arg]

    def take(self, problem: BaseException) -> None:
        """Log an error, and tell the window when it comes to itself."""
        import traceback

        from topion.logbook import noted

        sentence = noted(problem)
        # locals of the frames go now: a painter among them would still hold its widget
        traceback.clear_frames(problem.__traceback__)
        now = time.monotonic()
        if now - self._said.get(sentence, -_QUIET_S) >= _QUIET_S:
            self._said[sentence] = now
            self.met.emit(sentence)

    def _tell(self, sentence: str) -> None:
        if self.window is None:
            return
        self.window.drop_work()
        self.window.say(f"{sentence[0].upper()}{sentence[1:]}. All finished strokes are kept")


_one: list[_Unforeseen] = []
_crashes: list[TextIO] = []


def _hook(kind: type[BaseException], problem: BaseException, trace: TracebackType | None) -> None:
    if issubclass(kind, KeyboardInterrupt | SystemExit):
        sys.__excepthook__(kind, problem, trace)
        app = QApplication.instance()
        if app is not None:
            app.quit()
        return
    if problem.__traceback__ is None:
        problem = problem.with_traceback(trace)
    if _one:
        _one[0].take(problem)


def install() -> None:
    """From now on: what is raised in slots, events, timers and threads is caught here."""
    if not _one:
        _one.append(_Unforeseen())
    sys.excepthook = _hook
    threading.excepthook = lambda args: _hook(
        args.exc_type, args.exc_value or args.exc_type(), args.exc_traceback
    )
    _note_crashes()


def watch(window: Watched) -> None:
    """Tell that window."""
    if _one:
        _one[0].window = window


def _note_crashes() -> None:
    """What ends the process without an error still leaves a trace of where it was."""
    import faulthandler

    from topion.logbook import state_home

    if faulthandler.is_enabled():
        return
    with suppress(OSError, ValueError):
        state_home().mkdir(parents=True, exist_ok=True)
        _crashes.append((state_home() / "crash.log").open("a"))
        faulthandler.enable(_crashes[0])
