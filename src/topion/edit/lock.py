"""One window per project: a lock that the system takes back even after a crash."""

from __future__ import annotations

import fcntl
import os
from contextlib import suppress
from pathlib import Path

from topion.errors import TopionError


class OnlyLooking(TopionError):
    """A change was asked of a project that another window has open."""

    def __init__(self, name: str) -> None:
        super().__init__(f"{name} is open in another window, so this one only looks")


class InUse(TopionError):
    """A project is to be written that a window has open."""

    def __init__(self, folder: Path) -> None:
        super().__init__(f"{folder} is open in a window; close it there first, or do it there")


class PathLock:
    """On a folder or a file, wherever it is moved; held from `take` to `release`, or until the
    process ends."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._handle = -1

    def take(self) -> bool:
        """False if somebody else holds it.  Where locks cannot be had, nobody is kept out."""
        try:
            self._handle = os.open(self._path, os.O_RDONLY | os.O_CLOEXEC)
        except OSError:
            return True
        try:
            fcntl.flock(self._handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            self.release()
            return False
        except OSError:
            pass
        return True

    def place(self) -> Path | None:
        """Where what is locked is by now; None if it is gone."""
        if self._handle < 0:
            return self._path if self._path.exists() else None
        here = os.fstat(self._handle)
        for found in (self._path, self._by_handle()):
            with suppress(OSError):
                there = os.stat(found)
                if (there.st_dev, there.st_ino) == (here.st_dev, here.st_ino):
                    return found.resolve()
        return None

    def _by_handle(self) -> Path:
        """Where the system says that it is."""
        try:
            return Path(os.readlink(f"/proc/self/fd/{self._handle}"))
        except OSError:
            return self._path

    def release(self) -> None:
        if self._handle >= 0:
            os.close(self._handle)
        self._handle = -1
