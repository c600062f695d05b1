"""The reach of the room that is walked, searched on a thread and again after every change."""

from __future__ import annotations

import time
from dataclasses import replace

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from topion.model.figure import Figure
from topion.view.tasks import Step, Worker
from topion.walk.reach import Reach, reach_from
from topion.walk.state import State
from topion.walk.strides import Strides

_SOON_MS = 120


class Reaching(QObject):
    """reach : of the last search that ended, None before.  seconds : that it took.

    Signals: changed() when there is another reach, or it is searched for.
    """

    changed = pyqtSignal()
    _early = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.reach: Reach | None = None
        self.seconds = 0.0
        self.on = False
        self._begun: State | None = None
        self._worker: Worker | None = None
        self._strides: dict[tuple[Figure, str], Strides] = {}
        self._early.connect(self._take_early)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_SOON_MS)
        self._soon.timeout.connect(self._ask)

    @property
    def busy(self) -> bool:
        """Whether a search is under way or about to be."""
        return self._soon.isActive() or self._worker is not None

    def show(self, on: bool) -> None:
        """Search from now on, or no longer."""
        self.on = on
        if on and self._begun is not None:
            self._soon.start()
        elif not on:
            self.stop()
        self.changed.emit()

    def search_from(self, begun: State) -> None:
        """Search from a moment on; what was searched for before is not waited for."""
        if self.reach is not None and self.reach.begun.room != begun.room:
            self.reach = None
        self._begun = begun
        if self.on:
            self._soon.start()
            self.changed.emit()

    def _ask(self) -> None:
        begun = self._begun
        if begun is None:
            return
        self._let_go()
        key = (begun.world.figure, begun.world.stage(begun.room).view)
        strides = self._strides.pop(key, None)
        used = strides or Strides(begun.world, key[1])

        def work(step: Step) -> tuple[Reach, Strides, float]:
            started = time.perf_counter()
            found = reach_from(begun, used, step, early=self._early.emit)
            return found, used, time.perf_counter() - started

        self._worker = Worker(work, "Reach")
        self._worker.finished.connect(lambda: self._take(key))
        self._worker.begin()
        self.changed.emit()

    def _take(self, key: tuple[Figure, str]) -> None:
        worker, self._worker = self._worker, None
        if worker is not None and isinstance(worker.result, tuple):
            self.reach, strides, self.seconds = worker.result
            self._strides = {**self._strides, key: strides}
        self.changed.emit()

    def _take_early(self, reach: Reach) -> None:
        """Show what is known before the figure changes anything; more comes."""
        if self._worker is not None and reach.begun is self._begun:
            known = tuple(place for place in reach.places if place.found)
            self.reach = replace(reach, places=known)  # of the others nothing is known yet
            self.changed.emit()

    def _let_go(self) -> None:
        if self._worker is not None:
            self._worker.let_go()
            self._worker = None

    def stop(self) -> None:
        """Search no more."""
        self._soon.stop()
        self._let_go()
