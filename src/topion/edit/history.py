"""Undo as a row of Edits with a playhead."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from topion.errors import TopionError
from topion.model.edit import Dirty, Edit, Record
from topion.model.project import Project

Listener = Callable[[tuple[Dirty, ...]], None]


@dataclass
class History:
    """Edits in order; those before `at` are on, the rest can be redone.

    `saved_at` is the place of the playhead at the last save, None once that state is gone.
    """

    project: Project
    edits: list[Edit] = field(default_factory=list)
    at: int = 0
    saved_at: int | None = 0
    listeners: list[Listener] = field(default_factory=list)
    refusal: TopionError | None = None  # why nothing may be changed, while that is so
    _merge_key: object = None
    _untold: list[tuple[Dirty, ...]] = field(default_factory=list)

    def apply(self, edit: Edit, merge_key: object = None, *, tell: bool = True) -> bool:
        """Put `edit` on and keep it; what could be redone is gone.  False if it is empty.

        With the same `merge_key` as the last Edit the two become one in the history, so that
        a slider pulled across leaves one entry: `edit` must be planned after that last one.
        Without `tell` the listeners hear of it at the next `tell_untold`: for work on a thread.
        """
        if not edit:
            return False
        if self.refusal is not None:
            raise self.refusal
        self._write(edit.records)
        merges = merge_key is not None and merge_key == self._merge_key and self.at > 0
        del self.edits[self.at :]
        if self.saved_at is not None and self.saved_at > self.at - merges:
            self.saved_at = None
        if merges:
            edit = self.edits.pop().followed_by(edit)
            self.at -= 1
        edit = edit.sealed()
        self.edits.append(edit)
        self.at += 1
        self._merge_key = merge_key
        self._tell(edit, tell)
        return True

    def undo(self) -> bool:
        return self.jump(self.at - 1)

    def redo(self) -> bool:
        return self.jump(self.at + 1)

    def jump(self, at: int, *, tell: bool = True) -> bool:
        """Move the playhead so that `at` Edits are on; False if there are not so many."""
        if not 0 <= at <= len(self.edits) or at == self.at:
            return False
        if self.refusal is not None:
            raise self.refusal
        self._merge_key = None
        while self.at > at:
            edit = self.edits[self.at - 1].inverted()
            self._write(edit.records)
            self.at -= 1
            self._tell(edit, tell)
        while self.at < at:
            edit = self.edits[self.at]
            self._write(edit.records)
            self.at += 1
            self._tell(edit, tell)
        return True

    def cells_between(self, at: int) -> int:
        """How many cells would be written on the way of the playhead to `at`."""
        lo, hi = sorted((max(0, at), self.at))
        return sum(edit.cells_written for edit in self.edits[lo:hi])

    @property
    def changed(self) -> bool:
        """Whether there is anything to save."""
        return self.saved_at != self.at

    def seal(self) -> None:
        """Let the next Edit stand alone, whatever its merge key."""
        self._merge_key = None

    def mark_saved(self) -> None:
        self.saved_at = self.at
        self._merge_key = None

    def _write(self, records: tuple[Record, ...]) -> None:
        """All or nothing: after an error the project stands as before."""
        done: list[Record] = []
        try:
            for record in records:
                record.write(self.project)
                done.append(record)
        except BaseException:  # also Ctrl-C: a project is never left half changed
            for record in reversed(done):
                record.inverted().write(self.project)
            raise

    def _tell(self, edit: Edit, tell: bool) -> None:
        self._untold.append(edit.dirty())
        if tell:
            self.tell_untold()

    def tell_untold(self) -> None:
        """Let the listeners hear of what was put on or taken off without telling."""
        untold, self._untold = self._untold, []
        for dirty in untold:
            for listener in list(self.listeners):
                listener(dirty)
