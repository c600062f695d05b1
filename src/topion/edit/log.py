"""The log of one project in a small SQLite file: what was laid, undone and saved, in order.

A row of `log` puts an Edit at a place among the others and cuts off what was behind it, or, with
no Edit, moves the playhead.  A row of `states` says that the folder held that state when the log
was so long; a save that was cut off leaves two of them, and the folder tells which one is true.
"""

from __future__ import annotations

import os
import sqlite3
import threading
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

_TABLES = """
CREATE TABLE IF NOT EXISTS log (seq INTEGER PRIMARY KEY, at INTEGER NOT NULL, edit TEXT);
CREATE TABLE IF NOT EXISTS states (number INTEGER PRIMARY KEY, after INTEGER NOT NULL,
                                   state TEXT NOT NULL);
CREATE TABLE IF NOT EXISTS about (key TEXT PRIMARY KEY, value TEXT NOT NULL);
"""
MOST_BYTES = 1 << 29
Rows = list[tuple[int, str | None]]  # the place of an Edit and its text, or of the playhead


@dataclass(frozen=True)
class Row:
    """seq : its number.  at : the place of the Edit, or of the playhead without one."""

    seq: int
    at: int
    edit: str | None


@dataclass(frozen=True)
class Stack:
    """The Edits as the history had them: rows in order, and the place of the playhead."""

    rows: tuple[Row, ...] = ()
    at: int = 0


def stack_of(rows: Iterable[Row]) -> Stack:
    """Where a history stood at the end of these rows; one that cannot stand there ends them."""
    stack: list[Row] = []
    at = 0
    for row in rows:
        if not 0 <= row.at <= len(stack):
            break
        if row.edit is None:
            at = row.at
        else:
            stack[row.at :] = [row]
            at = row.at + 1
    return Stack(tuple(stack), at)


class Log:
    """One file.  Every method may raise sqlite3.Error; a write is whole or not at all.

    Threads may share it: a save says what it is about to do from its own.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self._turn = threading.RLock()
        self._base = sqlite3.connect(path, isolation_level=None, check_same_thread=False)
        try:
            self._base.executescript(
                f"PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;{_TABLES}"
            )
            self._inode = path.stat().st_ino
        except (sqlite3.Error, OSError):
            self._base.close()
            raise
        except ValueError as problem:  # names in it are no text
            self._base.close()
            raise sqlite3.DatabaseError(str(problem)) from None

    @property
    def is_there(self) -> bool:
        """Whether the file is still where it was made."""
        try:
            return self.path.stat().st_ino == self._inode
        except OSError:
            return False

    def flush(self) -> None:
        """Wait until all of it is on the disk, for the case of a power cut; for threads.

        Only the file of what was written last: a second handle on the first one would, once
        closed, take SQLite's locks of this process with it.
        """
        handle = os.open(f"{self.path}-wal", os.O_RDONLY | os.O_CLOEXEC)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)

    def close(self) -> None:
        with self._turn:
            self._base.close()

    @contextmanager
    def _all_or_nothing(self) -> Iterator[sqlite3.Connection]:
        with self._turn:
            self._base.execute("BEGIN IMMEDIATE")
            try:
                yield self._base
                self._base.execute("COMMIT")
            except BaseException:
                if self._base.in_transaction:
                    self._base.execute("ROLLBACK")
                raise

    # --- reading --------------------------------------------------------------------------

    def about(self) -> dict[str, str]:
        """What is told of the project: id, folder, name, base."""
        rows = self._base.execute("SELECT key, value FROM about").fetchall()
        return {str(key): str(value) for key, value in rows}

    def rows(self) -> tuple[list[Row], bool]:
        """The log, and whether all of it could be read: else it ends before what is damaged."""
        found: list[Row] = []
        size = 0
        try:
            for seq, at, edit in self._base.execute("SELECT seq, at, edit FROM log ORDER BY seq"):
                row = _sound_row(seq, at, edit)
                size += len(row.edit or "")
                if size > MOST_BYTES:
                    return found, False
                found.append(row)
        except (sqlite3.Error, ValueError, OverflowError):
            return found, False
        return found, True

    def states(self) -> list[tuple[int, str]]:
        """(length of the log by its last seq, state of the folder), the oldest first."""
        found = self._base.execute("SELECT after, state FROM states ORDER BY number").fetchall()
        if not all(isinstance(after, int) for after, _ in found):
            raise ValueError("a state has no place")
        return [(after, str(state)) for after, state in found]

    def last(self) -> int:
        """The seq of the last row; 0 for an empty log."""
        (seq,) = self._base.execute("SELECT max(seq) FROM log").fetchone()
        return int(seq or 0)

    # --- writing --------------------------------------------------------------------------

    def tell(self, **about: str) -> None:
        with self._all_or_nothing() as base:
            _put_about(base, about)

    def append(self, rows: Rows) -> None:
        """Further (at, edit) rows."""
        with self._all_or_nothing() as base:
            base.executemany("INSERT INTO log (at, edit) VALUES (?, ?)", rows)

    def add_state(self, after: int, state: str) -> None:
        """The folder will hold, or holds, what the log up to that seq made."""
        with self._all_or_nothing() as base:
            base.execute("INSERT INTO states (after, state) VALUES (?, ?)", (after, state))

    def confirm(self, after: int, state: str, about: dict[str, str]) -> None:
        """The folder holds what the log up to that seq made, and nothing older."""
        with self._all_or_nothing() as base:
            base.execute("DELETE FROM states")
            base.execute("INSERT INTO states (after, state) VALUES (?, ?)", (after, state))
            _put_about(base, about)

    def renew(
        self,
        before: Rows,
        state: str | None,
        behind: Rows,
        about: dict[str, str],
    ) -> None:
        """Other rows instead of all: some, the state of the folder behind them, and the rest."""
        with self._all_or_nothing() as base:
            base.execute("DELETE FROM log")
            base.execute("DELETE FROM states")
            base.executemany("INSERT INTO log (at, edit) VALUES (?, ?)", before)
            if state is not None:
                base.execute(
                    "INSERT INTO states (after, state)"
                    " SELECT coalesce(max(seq), 0), ? FROM log", (state,)
                )  # fmt: skip
            base.executemany("INSERT INTO log (at, edit) VALUES (?, ?)", behind)
            _put_about(base, about)


def _put_about(base: sqlite3.Connection, about: dict[str, str]) -> None:
    base.executemany("INSERT OR REPLACE INTO about VALUES (?, ?)", about.items())


def _sound_row(seq: object, at: object, edit: object) -> Row:
    if not isinstance(seq, int) or not isinstance(at, int) or not isinstance(edit, str | None):
        raise ValueError("a row of the log holds something else")
    return Row(seq, at, edit)
