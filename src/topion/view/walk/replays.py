"""Whether recordings still end as they did, asked on a thread after every change."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from topion.errors import TopionError
from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.recording import Recording
from topion.view.session import Session
from topion.view.tasks import Worker
from topion.walk.replay import difference, end_of, last_state

_SOON_MS = 500
_MOST_EDITS = 200  # that are looked through for the one since which a recording differs


@dataclass(frozen=True)
class Answer:
    """told : how it differs; nothing if it does not.  since : the label of the Edit that did it."""

    told: str = ""
    since: str = ""


class Replays(QObject):
    """answers : by name.  Signals: changed() when they may be others."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.answers: dict[str, Answer] = {}
        self._session = session
        self._worker: Worker | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_SOON_MS)
        self._soon.timeout.connect(self._ask)
        session.changed.connect(self._on_changed)
        self._soon.start()

    @property
    def busy(self) -> bool:
        """Whether answers are still to come."""
        return self._soon.isActive() or (self._worker is not None and self._worker.isRunning())

    def _on_changed(self, dirty: object) -> None:
        self._soon.start()

    def _ask(self) -> None:
        if self._worker is not None and self._worker.isRunning():
            self._soon.start()
            return
        project = self._session.project.frozen()
        recordings = dict(project.shelf("recordings"))
        if not recordings:
            self.answers = {}
            self.changed.emit()
            return
        history = self._session.handle.history
        edits = list(history.edits[max(0, history.at - _MOST_EDITS) : history.at])

        def work(step: Callable[[str], None]) -> dict[str, Answer]:
            found = {}
            for name, recording in recordings.items():
                step(name)
                found[name] = answer_of(project, recording, edits, partial(step, name))
            return found

        self._worker = Worker(work, "Recordings")
        self._worker.finished.connect(self._take)
        self._worker.begin()

    def _take(self) -> None:
        if self._worker is not None and isinstance(self._worker.result, dict):
            self.answers = self._worker.result
            self.changed.emit()

    def stop(self) -> None:
        """Ask no more."""
        self._soon.stop()
        self._session.changed.disconnect(self._on_changed)
        if self._worker is not None:
            self._worker.let_go()
            self._worker = None


def answer_of(
    project: Project, recording: Recording, edits: list[Edit], step: Callable[[], object]
) -> Answer:
    """Whether a recording ends as it did; and if not, the first of the last Edits with which it
    does not.  project : frozen, with those Edits."""
    told = _told(project, recording)
    if not told:
        return Answer()
    high, back = len(edits), 1  # it differs after `high` of them
    low = max(0, high - back)
    while low and _told(_before(project, edits, low), recording):
        step()
        high, back = low, 2 * back
        low = max(0, high - back)
    if high == 0 or _told(_before(project, edits, low), recording):
        return Answer(told)
    while high - low > 1:
        step()
        middle = (low + high) // 2
        if _told(_before(project, edits, middle), recording):
            high = middle
        else:
            low = middle
    return Answer(told, edits[high - 1].label)


def _before(project: Project, edits: list[Edit], count: int) -> Project:
    """The project with only so many of the Edits."""
    scratch = project.frozen()
    for edit in reversed(edits[count:]):
        for record in edit.inverted().records:
            record.write(scratch)
    return scratch


def _told(project: Project, recording: Recording) -> str:
    try:
        return difference(recording.end, end_of(last_state(project, recording)))
    except TopionError as problem:
        return str(problem)
