"""One window per project: a lock that the system takes back even after a crash."""

from __future__ import annotations

import fcntl
import hashlib
from io import TextIOWrapper
from pathlib import Path

from topion.edit.journal import state_folder
from topion.errors import TopionError


class OnlyLooking(TopionError):
    """A change was asked of a project that another window has open."""

    def __init__(self, name: str) -> None:
        super().__init__(f"{name} is open in another window, so this one only looks")


class ProjectLock:
    """Held from `take` to `release`, or until the process ends."""

    def __init__(self, folder: Path, place: Path | None = None) -> None:
        key = hashlib.sha256(str(folder.resolve()).encode()).hexdigest()[:24]
        self._path = (place or state_folder()) / f"{key}.lock"
        self._file: TextIOWrapper | None = None

    def take(self) -> bool:
        """False if another window holds it.  Where locks cannot be kept, nobody is kept out."""
        try:
            self._path.parent.mkdir(parents=True, exist_ok=True)
            file = self._path.open("w")
        except OSError:
            return True
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            file.close()
            return False
        except OSError:
            file.close()
            return True
        self._file = file
        return True

    def release(self) -> None:
        if self._file is not None:
            self._file.close()
            self._file = None
