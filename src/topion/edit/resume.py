"""Taking up what an earlier run left in its journal."""

from __future__ import annotations

import json
import shutil
import sqlite3
from collections.abc import Callable, Iterable
from contextlib import suppress
from dataclasses import dataclass, field, replace
from pathlib import Path

from topion.edit.history import History, Moment
from topion.edit.log import Log, Row, Stack, stack_of
from topion.edit.serial import edit_from_plain
from topion.errors import TopionError
from topion.model.edit import Edit, Record
from topion.model.project import Project
from topion.model.sound import check_library, check_room

BASE = "base"  # the state of a project without a folder from which its log goes on


@dataclass(frozen=True)
class Kept:
    """A journal of an earlier run, as far as its log could be read.

    about : id, name and folder of the project; `promised` is where a first save was to go, and
    `base` the text of the Edit that makes the project a log without a folder starts from.
    states : see `Log.states`.  whole : whether all of the log could be read.
    """

    path: Path
    about: dict[str, str]
    rows: list[Row]
    states: list[tuple[int, str]]
    whole: bool

    @classmethod
    def read(cls, path: Path) -> Kept | None:
        """None for a file that is no journal, or cannot be read at all."""
        try:
            log = Log(path)
        except (sqlite3.Error, OSError):
            return None
        try:
            rows, whole = log.rows()
            return cls(path, log.about(), rows, log.states(), whole)
        except (sqlite3.Error, ValueError, OverflowError):
            return None
        finally:
            log.close()

    @property
    def folder(self) -> str:
        return self.about.get("folder", "")

    def stack(self, after: int | None = None) -> Stack:
        """The history at the end of the log, or where it was so long."""
        return stack_of(row for row in self.rows if after is None or row.seq <= after)

    def place_of(self, state: str) -> int | None:
        """The seq behind which the folder held that state, the latest of several."""
        return next((after for after, known in reversed(self.states) if known == state), None)

    @property
    def saved_at(self) -> int:
        """The seq of the latest state."""
        return self.states[-1][0] if self.states else 0

    @property
    def base_at(self) -> int:
        """The seq at which a project without a folder is as its base makes it."""
        return self.place_of(BASE) or 0

    def way(self, after: int) -> tuple[list[Row], list[Row]]:
        """What is to be taken back, and then laid, to get from a seq to the end."""
        before, end = self.stack(after), self.stack()
        same = _common(before, end)
        return list(reversed(before.rows[same : before.at])), list(end.rows[same : end.at])

    def unsaved(self, after: int | None = None) -> int:
        """How many strokes lie between a seq, or the latest state, and the end of the log."""
        back, on = self.way(self.saved_at if after is None else after)
        return len(back) + len(on)

    def set_aside(self, *, copy: bool = False) -> Path:
        """Keep the file under a name that is not looked for again."""
        target = self.path.with_suffix(".aside")
        with suppress(OSError):
            if copy:
                shutil.copyfile(self.path, target)
            else:
                self.path.replace(target)
        return target


def _common(a: Stack, b: Stack) -> int:
    """How many Edits that are on in both are the same."""
    same = 0
    for one, other in zip(a.rows[: a.at], b.rows[: b.at], strict=False):
        if one.seq != other.seq:
            break
        same += 1
    return same


@dataclass
class Resumed:
    """strokes : that were not saved and are back.  lost : that could not be laid.  damaged : the
    log ends before its end.

    branch : the Edits that were on when the folder was saved.
    """

    strokes: int = 0
    lost: int = 0
    damaged: bool = False
    branch: list[Edit] = field(default_factory=list)


def lay_between(history: History, before: Stack, end: Stack) -> Resumed:
    """Bring a project from one place of its log to another, as far as it can be done.

    The history comes to hold the Edits before, and what was undone behind; it must be empty.
    What does not fit is left with all behind it, and the project is sound whatever the log holds.
    """
    same = _common(before, end)
    edits = _read_last(before.rows[: before.at])
    history.edits[:] = edits
    history.at = history.unproven = len(edits)
    history.saved = Moment(len(edits), edits[-1] if edits else None)
    resumed = Resumed(branch=list(edits))
    forgotten = before.at - len(edits)
    on = end.rows[same : end.at]
    wanted = before.at - same + len(on)
    with suppress(Exception):  # whatever an earlier run left: what was laid till then stays
        while history.at + forgotten > same:
            history.take_back()
            resumed.strokes += 1
        for row in on:
            history.take_up(_edit(row))
            resumed.strokes += 1
    resumed.lost = wanted - resumed.strokes
    if resumed.strokes and not _is_sound(history.project):
        _back(history, resumed.branch, max(0, same - forgotten))
        resumed.strokes, resumed.lost = 0, wanted
    elif not resumed.lost:
        history.edits += _read_first(end.rows[end.at :])
    history.unproven = len(history.edits)
    return resumed


def _back(history: History, branch: list[Edit], same: int) -> None:
    """To the state of the folder, from wherever the laying ended."""
    while history.at > same:
        history.take_back()
    for edit in branch[history.at :]:
        history.take_up(edit)


def _is_sound(project: Project) -> bool:
    try:
        check_library(project)
        for room in project.rooms.read_ones():
            check_room(project, room.info.name, room)
            if project.rooms.peek(room.info.name) is not room:
                return False
    except (TopionError, KeyError):
        return False
    return True


def _edit(row: Row) -> Edit:
    return edit_from_plain(json.loads(row.edit or ""))


def _read_first(rows: Iterable[Row]) -> list[Edit]:
    """The Edits of rows up to the first that cannot be read."""
    found: list[Edit] = []
    with suppress(Exception):
        for row in rows:
            found.append(_edit(row))
    return found


def _read_last(rows: Iterable[Row]) -> list[Edit]:
    """The Edits of rows behind the last that cannot be read."""
    found: list[Edit] = []
    for row in reversed(list(rows)):
        try:
            found.append(_edit(row))
        except Exception:
            break
    return found[::-1]


# --- files that were changed meanwhile ----------------------------------------------------


def lay_onto(
    history: History, kept: Kept, after: int, lay: Callable[[Edit], object] | None = None
) -> Resumed:
    """Lay what was logged behind a seq on a project that is another one by now: each stroke
    makes there what it made, as far as what it was laid on is still there.

    lay : puts an Edit on; by default the history does.
    """
    back, on = kept.way(after)
    resumed = Resumed()
    for row, backwards in (*((row, True) for row in back), *((row, False) for row in on)):
        with suppress(Exception):
            edit = _edit(row)
            made = onto(history.project, edit.inverted() if backwards else edit)
            if made:
                (lay or history.apply)(made)
                resumed.strokes += 1
                continue
        resumed.lost += 1
    return resumed


def onto(project: Project, edit: Edit) -> Edit:
    """An Edit planned elsewhere, made to fit this project; what cannot be made is left out."""
    scratch = project.frozen()
    records: list[Record] = []
    for record in edit.records:
        made = record.onto(scratch)
        if made is not None:
            made.check(scratch)
            made.write(scratch)
            records.append(made)
    return replace(edit, records=tuple(records))
