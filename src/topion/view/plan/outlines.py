"""What rooms have to do with others, looked for on a thread: nobody waits for rooms to be read."""

from __future__ import annotations

import time

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from topion.errors import TopionError
from topion.model.project import Project
from topion.view.session import Session
from topion.view.tasks import Step, Worker
from topion.walk.links import Doors, doors_of, known_doors, share_doors

_LOOK_S = 1.0  # between two looks at what came
_MOST_THINGS, _MOST_CELLS = 2000, 200_000  # of rooms that are looked through at once


class Outlines(QObject):
    """known : by room, what was found last.  Signals: changed() when there is more or other."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.known: dict[str, Doors] = {}
        self._session = session
        self._worker: Worker | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._begin)

    @property
    def busy(self) -> bool:
        """Whether rooms are still looked through."""
        return self._worker is not None or self._soon.isActive()

    def refresh(self) -> None:
        """The project may have changed: what is quick to find is known at once."""
        project, waits = self._session.project, False
        found: dict[str, Doors] = {}
        for name in project.rooms:
            doors, fresh = known_doors(project, name)
            if not fresh and _is_quick(project, name):
                doors, fresh = doors_of(project, name), True
            waits |= not fresh
            if doors is None:
                doors = self.known.get(name)
            if doors is not None:
                found[name] = doors
        self.known = found
        if waits and self._worker is None:
            self._soon.start(0)

    def _begin(self) -> None:
        if self._worker is not None:
            return
        project = self._session.project
        share_doors(project)
        stale = [name for name in project.rooms if not known_doors(project, name)[1]]
        if not stale:
            return
        blank = [name for name in stale if name not in self.known]
        frozen = project.frozen()

        def work(step: Step) -> dict[str, Doors]:
            if blank:  # their sizes first
                return {name: _head(frozen, name) for name in blank}
            end = time.monotonic() + _LOOK_S
            for name in stale:
                step(name)
                doors_of(frozen, name)
                if time.monotonic() > end:
                    break
            return {}

        self._worker = Worker(work, "Plan")
        self._worker.finished.connect(self._came)
        self._worker.begin()

    def _came(self) -> None:
        worker, self._worker = self._worker, None
        found = worker.result if worker is not None else None
        for name, doors in (found or {}).items():
            self.known.setdefault(name, doors)
        self.refresh()
        self.changed.emit()

    def stop(self) -> None:
        """Look for no more."""
        self._soon.stop()
        if self._worker is not None:
            self._worker.let_go()
            self._worker = None


def _is_quick(project: Project, name: str) -> bool:
    room = project.rooms.peek(name)
    return (
        room is not None
        and room.box.size <= _MOST_CELLS
        and (sum(len(layer.things) for layer in room.layers.values()) <= _MOST_THINGS)
    )


def _head(project: Project, name: str) -> Doors:
    """Its size, at least."""
    try:
        return Doors(info=project.rooms.info(name))
    except TopionError:  # it is said where that room is opened or surveyed
        return Doors()
