"""The journal: every Edit reaches a small SQLite file before the next frame.

After a crash the strokes since the last save are laid again; after a plain restart undo still
reaches back.  The journal belongs to the folder as it was last saved or opened: if anything
else has changed that since, the journal is let go rather than laid over the wrong room.
"""

from __future__ import annotations

import hashlib
import json
import os
import sqlite3
from contextlib import closing
from pathlib import Path

from topion.edit.history import History
from topion.edit.serial import edit_from_plain, edit_to_plain
from topion.errors import TopionError
from topion.model.edit import Dirty, Edit

_MOST_KEPT = 2000
_TABLES = """
CREATE TABLE IF NOT EXISTS edits (number INTEGER PRIMARY KEY, edit TEXT NOT NULL);
CREATE TABLE IF NOT EXISTS gone (number INTEGER PRIMARY KEY, edit TEXT NOT NULL);
CREATE TABLE IF NOT EXISTS state (key TEXT PRIMARY KEY, value TEXT NOT NULL);
"""


def state_folder() -> Path:
    """Where journals lie: `topion/journals` in the XDG state folder."""
    base = os.environ.get("XDG_STATE_HOME") or Path.home() / ".local" / "state"
    return Path(base) / "topion" / "journals"


def fingerprint(folder: Path) -> str:
    """A hash of names, sizes and times of all files of a project folder."""
    digest = hashlib.sha256()
    for path in sorted(p for p in folder.rglob("*") if p.is_file()):
        about = path.stat()
        name = path.relative_to(folder).as_posix()
        digest.update(f"{name}\0{about.st_size}\0{about.st_mtime_ns}\n".encode())
    return digest.hexdigest()


class Journal:
    """Follows one history.  A journal that cannot be written is dropped; the work goes on.

    The folder holds the first `saved_at` Edits, and then those that are *gone*: they were on
    when it was saved, and were undone and replaced since.  So the way from it is always known.
    """

    def __init__(self, history: History, folder: Path, place: Path | None = None) -> None:
        self._history, self.folder = history, folder
        key = hashlib.sha256(str(folder.resolve()).encode()).hexdigest()[:24]
        self.path = (place or state_folder()) / f"{key}.sqlite"
        self._known: list[Edit] = []
        self._saved_at = 0
        self._gone: list[Edit] = []
        self._base: sqlite3.Connection | None = None

    def start(self) -> int:
        """Take up what an earlier run left, then follow.  Returns how many strokes that were
        not saved have been laid again."""
        recovered = 0
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
            self._base = sqlite3.connect(self.path, isolation_level=None)
            self._base.executescript(
                f"PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;{_TABLES}"
            )
            if not self._history.edits:
                recovered = self._take_up()
        except (sqlite3.Error, OSError):
            self.close()
            return 0
        if not self._known:
            self.mark_saved()
        self._history.listeners.append(self._follow)
        return recovered

    def _take_up(self) -> int:
        """Put the kept Edits into the history and lay those that were not saved."""
        state = self._state()
        if not state or state.get("fingerprint") != fingerprint(self.folder):
            return 0
        try:
            edits, gone = self._kept("edits"), self._kept("gone")
            saved_at, at = int(state["saved_at"]), int(state["at"])
            if not 0 <= saved_at <= len(edits) or not 0 <= at <= len(edits):
                return 0
            self._lay_again(edits, gone, saved_at, at)
        except (TopionError, KeyError, ValueError, TypeError, IndexError):
            return 0
        self._known, self._saved_at, self._gone = edits, saved_at, gone
        return abs(at - saved_at) + len(gone)

    def _kept(self, table: str) -> list[Edit]:
        rows = self._run(f"SELECT edit FROM {table} ORDER BY number")
        return [edit_from_plain(json.loads(text)) for (text,) in rows]

    def _lay_again(self, edits: list[Edit], gone: list[Edit], saved_at: int, at: int) -> None:
        """From the state of the folder to that of the journal; after an error all is as before."""
        history = self._history
        saved = edits[:saved_at] + gone
        history.edits[:], history.at, forked = saved, len(saved), False
        try:
            history.jump(saved_at)
            history.edits[:], forked = edits, True
            history.saved_at = None if gone else saved_at
            history.jump(at)
        except Exception:
            if forked:
                history.jump(saved_at)
                history.edits[:] = saved
            history.jump(len(saved))
            history.edits.clear()
            history.at = history.saved_at = 0
            raise

    def mark_saved(self) -> None:
        """The folder now holds what the history shows; older Edits are let go in time."""
        history = self._history
        spare = min(len(history.edits) - _MOST_KEPT, history.at)
        if spare > 0:
            del history.edits[:spare]
            history.at -= spare
            history.saved_at = history.at
        self._known, self._saved_at, self._gone = [], history.at, []
        self._write({"fingerprint": self._fingerprint()})

    def close(self) -> None:
        """Follow no more; what is kept stays for the next run."""
        if self._follow in self._history.listeners:
            self._history.listeners.remove(self._follow)
        if self._base is not None:
            self._base.close()
        self._base = None

    def _follow(self, dirty: tuple[Dirty, ...]) -> None:
        self._write({})

    def _fingerprint(self) -> str:
        try:
            return fingerprint(self.folder)
        except OSError:
            return ""

    def _write(self, state: dict[str, str]) -> None:
        """Bring the file in line with the history, all of it or nothing."""
        if self._base is None:
            return
        edits = self._history.edits
        same = min(len(self._known), len(edits))
        while same and self._known[same - 1] is not edits[same - 1]:
            same -= 1
        forked = same < self._saved_at and bool(self._known)
        if forked:
            self._gone[:0] = self._known[same : self._saved_at]
            self._saved_at = same
        fresh = [(n, _text(edits[n])) for n in range(same, len(edits))]
        try:
            with closing(self._base.cursor()) as cursor:
                cursor.execute("BEGIN")
                cursor.execute("DELETE FROM edits WHERE number >= ?", (same,))
                cursor.executemany("INSERT INTO edits VALUES (?, ?)", fresh)
                if forked or state:
                    gone = [(n, _text(edit)) for n, edit in enumerate(self._gone)]
                    cursor.execute("DELETE FROM gone")
                    cursor.executemany("INSERT INTO gone VALUES (?, ?)", gone)
                places = {"saved_at": str(self._saved_at), "at": str(self._history.at)}
                values = {**state, **places}
                cursor.executemany("INSERT OR REPLACE INTO state VALUES (?, ?)", values.items())
                cursor.execute("COMMIT")
        except sqlite3.Error:
            self.close()
            return
        self._known = list(edits)

    def _run(self, query: str) -> list[tuple[str, ...]]:
        return [] if self._base is None else self._base.execute(query).fetchall()

    def _state(self) -> dict[str, str]:
        return {row[0]: row[1] for row in self._run("SELECT key, value FROM state")}


def _text(edit: Edit) -> str:
    return json.dumps(edit_to_plain(edit))
