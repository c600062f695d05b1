"""Reads how remembered projects are now, one after the other, on a thread."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QImage

from topion.formats.recents import Look, Recent, look_at
from topion.view.table.compose import image_of
from topion.view.tasks import Worker


class Seen:
    """A look with its pictures as images."""

    def __init__(self, look: Look) -> None:
        self.look = look
        self.picture: QImage | None = None
        if look.picture is not None:
            self.picture = image_of(look.picture).copy()
        self.small = [image_of(rgba).copy() for rgba in look.small]


class Looking(QObject):
    """Signals: seen(path) when one was looked at.  known : what was seen, by path."""

    seen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.known: dict[str, Seen] = {}
        self._line: list[Recent] = []
        self._worker: Worker | None = None

    def look_at(self, recents: list[Recent]) -> None:
        """Look at these, in this order; what was seen before is looked at again."""
        self._line = list(recents)
        if self._worker is None:
            self._next()

    def _next(self) -> None:
        if not self._line:
            return
        recent = self._line.pop(0)
        worker = Worker(lambda _: Seen(look_at(recent)), f"Looking at {recent.name}")
        worker.finished.connect(lambda: self._came(worker, recent))
        self._worker = worker
        worker.begin()

    def _came(self, worker: Worker, recent: Recent) -> None:
        self._worker = None
        found = worker.result
        if not isinstance(found, Seen):
            found = Seen(Look(recent, problem=worker.problem))
        self.known[recent.path] = found
        self.seen.emit(recent.path)
        self._next()

    def stop(self) -> None:
        """Look no longer."""
        self._line = []
        if self._worker is not None:
            self._worker.let_go()
            self._worker = None
