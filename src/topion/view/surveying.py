"""The survey of the open project, kept up to date on a thread after every change."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from topion.errors import TopionError
from topion.survey import Finding, Ledger
from topion.survey.judging import Judged, judged
from topion.survey.ledger import known_check
from topion.view.session import Session
from topion.view.tasks import Worker
from topion.walk.found import share_found
from topion.walk.links import share_doors

SOON_MS = 250
_IDLE_MS = 1500  # after which the checks that take long are asked


class Surveying(QObject):
    """Asks the checks about what changed; of changes meanwhile the last counts.  Those that take
    long are asked once nothing has changed for a while.

    findings, judged : all that is known.  count : of those that were not accepted.  known : all
    checks have answered once.  doing : what is being done, in a word or two.
    Signals: changed() when the findings may be others; began() when there is other work.
    """

    changed = pyqtSignal()
    began = pyqtSignal()

    def __init__(self, session: Session, after_ms: int = SOON_MS) -> None:
        """after_ms : until it looks for the first time."""
        super().__init__()
        self.findings: list[Finding] = []
        self.judged: list[Judged] = []
        self.known = False
        self.doing = ""
        self._late_under_way = False
        self._session = session
        self._worker: Worker | None = None
        self._soon, self._late = self._timer(SOON_MS, False), self._timer(_IDLE_MS, True)
        self.use(session, after_ms)

    def _timer(self, after_ms: int, slow: bool) -> QTimer:
        timer = QTimer(self)
        timer.setSingleShot(True)
        timer.setInterval(after_ms)
        timer.timeout.connect(lambda: self._ask(slow))
        return timer

    def use(self, session: Session, after_ms: int = SOON_MS) -> None:
        """Survey another project."""
        self.stop()
        self._session = session
        self.findings, self.judged, self.known = [], [], False
        session.changed.connect(lambda _: self._on_changed())
        self._soon.start(after_ms)

    def _on_changed(self) -> None:
        if self._worker is not None and self._late_under_way:
            self._worker.let_go()  # what it found stays in what copies share
            self._worker = None
        self._late.stop()
        self._judge()
        self._soon.start(SOON_MS)

    @property
    def count(self) -> int:
        """How many count."""
        return sum(not one.word for one in self.judged)

    @property
    def busy(self) -> bool:
        """Whether findings of the last change are still to come."""
        waits = self._soon.isActive() or self._late.isActive()
        return waits or self._worker is not None

    def _ask(self, slow: bool) -> None:
        if self._worker is not None:
            (self._late if slow else self._soon).start()
            return
        share_doors(self._session.project)
        share_found(self._session.project)
        frozen = self._session.project.frozen()
        ledger = self._session.handle.ledger.copy()

        def work(_: Callable[[str], None]) -> Ledger:
            ledger.bring_up_to_date(frozen, slow=slow)
            return ledger

        self._late_under_way = slow
        self._say("finding ways…" if slow else "looking…")
        self._worker = Worker(work, "Survey")
        self._worker.finished.connect(self._take)
        self._worker.begin()

    def _say(self, doing: str) -> None:
        self.doing = doing
        self.began.emit()

    def _take(self) -> None:
        worker, self._worker = self._worker, None
        self._say("")
        if worker is None or not isinstance(worker.result, Ledger):
            return
        self._session.handle.ledger = worker.result
        if self._late_under_way:
            self.known = True
        else:
            self._late.start()
        self._judge()

    def _judge(self) -> None:
        """Tell anew what counts."""
        project = self._session.project
        self.findings = self._session.handle.ledger.findings(project)
        self.judged = judged(project, self.findings)
        self.changed.emit()

    def fix(self, finding: Finding, choice: str = "") -> None:
        """Do what the check of a finding offers, or say that nothing can be done by itself.

        choice : which of several ways.
        """
        session, check = self._session, known_check(finding.by, in_room=bool(finding.room))
        try:
            edit = check.fix(session.project, finding, choice) if check is not None else None
        except TopionError as problem:
            session.said.emit(str(problem))
            return
        if edit is None:
            session.said.emit(f"{finding.by}: nothing here can be done by itself; go there and see")
        else:
            session.apply(edit)

    def stop(self) -> None:
        """Ask no more."""
        self._soon.stop()
        self._late.stop()
        if self._worker is not None:
            self._worker.let_go()
            self._worker = None
