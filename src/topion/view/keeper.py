"""Keeps a project safe while it is open: its lock and its journal."""

from __future__ import annotations

from topion.edit.journal import Journal
from topion.edit.lock import OnlyLooking, ProjectLock
from topion.scripting import ProjectHandle


class Keeper:
    """Keeps a journal of a project that has a folder; another window then only looks.

    recovered : strokes that the journal brought back when it was taken up.
    """

    def __init__(self, handle: ProjectHandle) -> None:
        self._handle = handle
        self._journal: Journal | None = None
        self._lock: ProjectLock | None = None
        self.recovered = self._start()

    def _start(self) -> int:
        folder, history = self._handle.folder, self._handle.history
        if folder is None:
            return 0
        if self._lock is not None:
            self._lock.release()
        self._lock = ProjectLock(folder)
        if not self._lock.take():
            history.refusal = OnlyLooking(self._handle.name)
            return 0
        history.refusal = None
        self._journal = Journal(history, folder)
        return self._journal.start()

    def saved(self) -> None:
        """The project was written to its folder, perhaps a new one."""
        if self._journal is not None and self._journal.folder == self._handle.folder:
            self._journal.mark_saved()
            return
        if self._journal is not None:
            self._journal.close()
        self._start()

    def close(self) -> None:
        """Let go of the project; what the journal holds stays for the next time."""
        if self._journal is not None:
            self._journal.close()
        if self._lock is not None:
            self._lock.release()
