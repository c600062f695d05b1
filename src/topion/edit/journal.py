"""The journal: every Edit reaches a small file before the next frame.

It is a log of what happened since states of the project's own files that are known by content
(`topion.edit.log`).  Whatever moment a crash, a cut-off save or a full disk meets, the folder
holds one of these states, and what was done since is laid again; undo reaches back past it.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from uuid import uuid4

from topion.edit.history import History
from topion.edit.log import Log, Rows
from topion.edit.resume import BASE, Kept, Resumed, lay_between
from topion.edit.serial import edit_to_plain
from topion.logbook import state_home
from topion.model.edit import Dirty, Edit

SUFFIX = ".sqlite"
_MOST_KEPT = 2000


def state_folder() -> Path:
    """Where journals lie: `topion/journals` in the XDG state folder."""
    return state_home() / "journals"


@dataclass(frozen=True, eq=False)
class Mark:
    """Where the history is when a save begins.  seq : of the log; None while it lags behind.

    edits : those that are on.  generation : of the log, which may be written anew meanwhile.
    """

    seq: int | None
    edits: list[Edit]
    generation: int


class Journal:
    """Follows one history.

    about : id, name, folder and base of the project; see `Kept`.
    problem : why strokes are not kept at the moment; empty while all is well.
    on_problem : called when that changes.
    """

    def __init__(self, history: History, about: dict[str, str], place: Path | None = None) -> None:
        self._history, self.about = history, dict(about)
        self._place = place or state_folder()
        self.path = self._new_path()
        self.problem = ""
        self.on_problem: Callable[[str], None] = lambda _: None
        self._log: Log | None = None
        self._generation = 0
        self._known: list[Edit] = []
        self._known_at = 0
        self._texts: dict[int, tuple[Edit, str]] = {}  # made ahead, by id
        self._branch: list[Edit] = []  # the Edits that were on in the state below
        self._state = BASE

    def _new_path(self) -> Path:
        return self._place / f"{self.about['id'][:32]}-{uuid4().hex[:8]}{SUFFIX}"

    # --- beginning ------------------------------------------------------------------------

    def begin(self, state: str) -> None:
        """Follow from here on: the folder holds `state`, which is what the history shows; without
        a folder the base of `about` is that, and the state BASE."""
        history = self._history
        self._branch, self._state = history.edits[: history.at], state
        self._renew()
        history.listeners.insert(0, self._follow)  # before any view, which may fail

    def resume(self, kept: Kept, after: int, state: str) -> Resumed:
        """Lay what was logged behind a seq, at which the project stood as it does now, and
        follow that file from here on.  state : of the folder, now as then."""
        resumed = lay_between(self._history, kept.stack(after), kept.stack())
        resumed.damaged = not kept.whole
        if not resumed.lost and not resumed.damaged:
            self._history.marks = marks_of(kept.about.get("marks", "[]"), self._history)
        if resumed.lost or resumed.damaged:
            kept.set_aside(copy=True)
        self.path = kept.path
        self._branch, self._state = resumed.branch, state
        self._renew()
        self._history.listeners.insert(0, self._follow)
        return resumed

    # --- following ------------------------------------------------------------------------

    def _follow(self, dirty: tuple[Dirty, ...] = ()) -> None:
        """Bring the file in line with the history, all of it or nothing."""
        history = self._history
        same = _shared(self._known, history.edits)
        fresh = history.edits[same:]
        if self._log is None or not self._log.is_there or (same < len(self._known) and not fresh):
            self._renew()
            return
        rows: Rows = [(same + n, self._text(edit)) for n, edit in enumerate(fresh)]
        self._tell_marks()
        if history.at != (len(history.edits) if fresh else self._known_at):
            rows.append((history.at, None))
        if rows and self._try(lambda log: log.append(rows)):
            self._known, self._known_at = list(history.edits), history.at

    def _tell_marks(self) -> None:
        """The names of moments, where they are not as they were told."""
        told = json.dumps(sorted(self._history.marks.items()))
        if told != self.about.get("marks", "[]"):
            self.about["marks"] = told
            self._try(lambda log: log.tell(marks=told))

    def _renew(self) -> None:
        """Write the whole log: the branch that was saved, its state, and from there to now."""
        if self._log is not None and not self._log.is_there:
            self._close_log()
        if not self._try(lambda _: None):
            return  # before all is made text for nothing
        history = self._history
        same = _shared(self._branch, history.edits)
        self.about["marks"] = json.dumps(sorted(history.marks.items()))
        before: Rows = [(n, self._text(edit)) for n, edit in enumerate(self._branch)]
        behind: Rows = [(n, self._text(edit)) for n, edit in enumerate(history.edits) if n >= same]
        behind.append((history.at, None))
        self._generation += 1
        if self._try(lambda log: log.renew(before, self._state, behind, self.about)):
            self._known, self._known_at = list(history.edits), history.at

    def _try(self, work: Callable[[Log], None]) -> bool:
        """Write; what fails is said, stays said, and is tried again with the next stroke."""
        try:
            if self._log is None:
                self._place.mkdir(parents=True, exist_ok=True)
                self._log = Log(self.path)
            work(self._log)
        except (sqlite3.Error, OSError, ValueError) as problem:
            reason = getattr(problem, "strerror", None) or str(problem)
            self._say(f"Strokes are not kept safe: {self._place} cannot be written ({reason})")
            return False
        self._say("")
        return True

    def _say(self, problem: str) -> None:
        if problem != self.problem:
            self.problem = problem
            self.on_problem(problem)

    def flush(self) -> None:
        """Wait until what was logged is on the disk; for threads."""
        log = self._log
        if log is not None:
            with suppress(OSError):
                log.flush()

    def prepare(self, edit: Edit) -> None:
        """Make the text of a large Edit that will be laid soon; for threads."""
        self._texts = {id(edit): (edit, text_of(edit))}

    def _text(self, edit: Edit) -> str:
        known = self._texts.pop(id(edit), None)
        return known[1] if known is not None and known[0] is edit else text_of(edit)

    # --- saving ---------------------------------------------------------------------------

    def mark(self) -> Mark:
        """Where we are, to be remembered while a save is under way."""
        history = self._history
        seq = None
        if self._log is not None and self._log.is_there and not self.problem:
            with suppress(sqlite3.Error):
                seq = self._log.last()
        return Mark(seq, history.edits[: history.at], self._generation)

    def promise(self, mark: Mark, state: str, folder: str) -> None:
        """A save is about to put that state in place, or fails to: the folder will tell."""
        if mark.seq is None or mark.generation != self._generation or self._log is None:
            return
        with suppress(sqlite3.Error, OSError):  # it is said with the next stroke
            if not self.about["folder"]:
                self._log.tell(promised=folder)
            self._log.add_state(mark.seq, state)

    def saved(self, mark: Mark, state: str, about: dict[str, str]) -> None:
        """The folder holds the state; what lies far back is let go."""
        history = self._history
        old, same_id = self.path, about["id"] == self.about["id"]
        self._branch, self._state = mark.edits, state
        self.about = {**about, "promised": "", "marks": self.about.get("marks", "[]")}
        spare = min(len(history.edits) - _MOST_KEPT, history.at, len(mark.edits))
        forgets = spare > _MOST_KEPT // 4 and _shared(mark.edits, history.edits) >= spare
        if forgets:
            history.forget(spare)
            self._branch = mark.edits[spare:]
        if not same_id:
            self._close_log()
            self.path = self._new_path()
        seq = mark.seq if mark.generation == self._generation else None
        if forgets or not same_id or seq is None or self._log is None or self._is_long(seq):
            self._renew()
        else:
            self._try(lambda log: log.confirm(seq, state, self.about))
        if old != self.path and not self.problem:
            remove(old)

    def _is_long(self, seq: int) -> bool:
        """Whether the log holds much that was undone and replaced."""
        return seq > 2 * len(self._history.edits) + _MOST_KEPT

    def discard(self) -> None:
        """What was not saved is not wanted: the next opening finds the state of the folder."""
        if not self.about["folder"]:
            self._close_log()
            remove(self.path)
            return
        rows: Rows = [(n, self._text(edit)) for n, edit in enumerate(self._branch)]
        self._try(lambda log: log.renew(rows, self._state, [], self.about))

    def close(self) -> None:
        """Follow no more; what is kept stays for the next run, unless there is nothing."""
        if self._follow in self._history.listeners:
            self._history.listeners.remove(self._follow)
        self._close_log()
        history = self._history
        if not self.about["folder"] and history.at == len(history.edits) == len(self._branch):
            remove(self.path)

    def _close_log(self) -> None:
        if self._log is not None:
            with suppress(sqlite3.Error):
                self._log.close()
        self._log = None


def marks_of(text: str, history: History) -> dict[int, str]:
    """Named moments as a log has them; what means nothing here is left out."""
    try:
        pairs = [(at, name) for at, name in json.loads(text)]
    except (ValueError, TypeError):
        return {}
    most = len(history.edits)
    return {at: name[:80] for at, name in pairs
            if isinstance(at, int) and 0 <= at <= most and isinstance(name, str)}  # fmt: skip


def remove(path: Path) -> None:
    """Take a journal away with what SQLite keeps beside it."""
    for suffix in ("", "-wal", "-shm"):
        with suppress(OSError):
            path.with_name(path.name + suffix).unlink(missing_ok=True)


def _shared(a: list[Edit], b: list[Edit]) -> int:
    """How many Edits at the start are the very same."""
    same = min(len(a), len(b))
    while same and a[same - 1] is not b[same - 1]:
        same -= 1
    return same


def text_of(edit: Edit) -> str:
    """An Edit as it stands in a log."""
    return json.dumps(edit_to_plain(edit))
