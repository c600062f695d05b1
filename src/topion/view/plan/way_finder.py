"""The way through the world, looked for on a thread once the survey knows what is reached."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from topion.plan.ways import Ways, share_ways, ways_through
from topion.view.session import Session
from topion.view.surveying import Surveying
from topion.view.tasks import Step, Worker
from topion.walk.found import share_found
from topion.walk.links import share_doors


class WayFinder(QObject):
    """ways : what was found last; None until then.  Signals: changed()."""

    changed = pyqtSignal()

    def __init__(self, session: Session, surveying: Surveying) -> None:
        super().__init__()
        self.ways: Ways | None = None
        self._session, self._surveying = session, surveying
        self._worker: Worker | None = None
        self._at: object = None  # what it was looked for

    @property
    def busy(self) -> bool:
        """Whether it is looked for."""
        return self._worker is not None

    def _now(self) -> object:
        project = self._session.project
        rooms = tuple(project.rooms.revision(name) for name in project.rooms)
        return rooms, project.stamp("prefabs", "tilesets", "blocks", "figures", "placements")

    def begin_if_known(self) -> None:
        """Look for it where something changed since, as soon as nothing else is looked for."""
        surveying = self._surveying
        if self._worker is not None or not surveying.known or surveying.busy:
            return
        now = self._now()
        if now == self._at:
            return
        self._at = now
        for share in (share_doors, share_found, share_ways):
            share(self._session.project)
        frozen = self._session.project.frozen()

        def work(step: Step) -> Ways:
            return ways_through(frozen, step)

        self._worker = Worker(work, "Way through the world")
        self._worker.finished.connect(self._came)
        self._worker.begin()

    def _came(self) -> None:
        worker, self._worker = self._worker, None
        if worker is not None and isinstance(worker.result, Ways):
            self.ways = worker.result
        self.changed.emit()
        self.begin_if_known()

    def stop(self) -> None:
        """Look no more."""
        if self._worker is not None:
            self._worker.let_go()
            self._worker = None
