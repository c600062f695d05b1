"""The survey of the open project, kept up to date on a thread after every change."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from topion.survey import Finding, Ledger
from topion.view.session import Session
from topion.view.tasks import Worker
from topion.walk.links import share_doors

_SOON_MS = 600


class Surveying(QObject):
    """Asks the checks about what changed; of changes meanwhile the last counts.

    Signals: changed() when the findings may be others.
    """

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.findings: list[Finding] = []
        self._session = session
        self._worker: Worker | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_SOON_MS)
        self._soon.timeout.connect(self._ask)
        self.use(session)

    def use(self, session: Session) -> None:
        """Survey another project."""
        self.stop()
        self._session = session
        self.findings = []
        session.changed.connect(lambda _: self._soon.start())
        self._soon.start()

    @property
    def busy(self) -> bool:
        """Whether findings of the last change are still to come."""
        return self._soon.isActive() or (self._worker is not None and self._worker.isRunning())

    def _ask(self) -> None:
        if self._worker is not None and self._worker.isRunning():
            self._soon.start()
            return
        share_doors(self._session.project)
        frozen = self._session.project.frozen()
        ledger = self._session.handle.ledger.copy()

        def work(step: Callable[[str], None]) -> Ledger:
            ledger.bring_up_to_date(frozen, step)
            return ledger

        self._worker = Worker(work, "Survey")
        self._worker.finished.connect(self._take)
        self._worker.begin()

    def _take(self) -> None:
        if self._worker is None or not isinstance(self._worker.result, Ledger):
            return
        self._session.handle.ledger = self._worker.result
        self.findings = self._worker.result.findings(self._session.project)
        self.changed.emit()

    def stop(self) -> None:
        """Ask no more."""
        self._soon.stop()
        if self._worker is not None:
            self._worker.let_go()
            self._worker = None
