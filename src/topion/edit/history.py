"""Undo as a row of Edits with a playhead."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field, replace

from topion.errors import TopionError
from topion.model.edit import Dirty, Edit, Record, folded
from topion.model.project import Project

Listener = Callable[[tuple[Dirty, ...]], None]


@dataclass(frozen=True, eq=False)
class Moment:
    """A place of the playhead, as long as the Edits before it are the same.  last : the Edit
    before it; None at the start."""

    at: int
    last: Edit | None


@dataclass
class History:
    """Edits in order; those before `at` are on, the rest can be redone.

    saved : what the folder holds; None if nobody knows.  unproven : so many of the first Edits
    come out of a file, and are checked before they are put on or taken off.  marks : names of
    moments, by how many Edits lie before them.
    """

    project: Project
    edits: list[Edit] = field(default_factory=list)
    at: int = 0
    saved: Moment | None = field(default_factory=lambda: Moment(0, None))
    listeners: list[Listener] = field(default_factory=list)
    unproven: int = 0
    marks: dict[int, str] = field(default_factory=dict)
    refusal: TopionError | None = None  # why nothing may be changed, while that is so
    _merge_key: object = None
    _untold: list[tuple[Dirty, ...]] = field(default_factory=list)

    def apply(
        self,
        edit: Edit,
        merge_key: object = None,
        *,
        tell: bool = True,
        kept: Edit | None = None,
    ) -> bool:
        """Put `edit` on and keep it; what could be redone is gone.  False if it is empty.

        With the same `merge_key` as the last Edit the two become one in the history, so that
        a slider pulled across leaves one entry: `edit` must be planned after that last one.
        Without `tell` the listeners hear of it at the next `tell_untold`: for work on a thread.
        kept : the same Edit sealed, where somebody did that already.
        """
        if not edit:
            return False
        if self.refusal is not None:
            raise self.refusal
        merges = merge_key is not None and merge_key == self._merge_key and self.at > 0
        at = self.at - merges
        if merges or kept is None:
            kept = (self.edits[at].followed_by(edit) if merges else edit).sealed()
        self._write(edit.records)
        self.edits[at:] = [kept]
        self._drop_marks(self.at)
        self.at, self.unproven = at + 1, min(self.unproven, at)
        self._merge_key = merge_key
        self._tell(kept, tell)
        return True

    def apply_by_parts(self, edit: Edit, kept: Edit, records: int) -> Iterator[int]:
        """Put a large Edit on, so many records with each step, and keep it at the last one; yields
        how many are on.  Nobody hears of it before that, and nothing else may be put on meanwhile.

        A generator that is closed before its end leaves all as it was.  kept : the Edit sealed.
        """
        if self.refusal is not None:
            raise self.refusal
        done: list[Record] = []
        try:
            for first in range(0, len(edit.records), records):
                part = edit.records[first : first + records]
                self._write(part)
                done += part
                yield len(done)
        except BaseException:
            for record in reversed(done):
                record.inverted().write(self.project)
            raise
        self.edits[self.at :] = [kept]
        self._drop_marks(self.at)
        self.at, self.unproven, self._merge_key = self.at + 1, min(self.unproven, self.at), None
        self._tell(kept, True)

    def lay_instead(self, at: int, plans: Iterable[Callable[[], Edit]]) -> bool:
        """Take the Edits behind `at` off, and keep what is planned then, one upon the other, as
        one Edit in their place; False if that is nothing.  Listeners hear of it once.

        After an error the Edits that were on are on again.
        """
        if self.refusal is not None:
            raise self.refusal
        old, dirty = self.edits[at : self.at], []
        done: list[Edit] = []
        try:
            for edit in reversed(old):
                self._write(edit.inverted().records, checked=self.at - 1 < self.unproven)
                self.at -= 1
            for plan in plans:
                edit = plan()
                self._write(edit.records)
                done.append(edit)
        except BaseException:
            for edit in reversed(done):
                self._write(edit.inverted().records)
            for edit in self.edits[self.at : at + len(old)]:
                self._write(edit.records)
            self.at = at + len(old)
            raise
        dirty = [part for edit in (*old, *done) for part in edit.dirty()]
        last = done[-1] if done else Edit("")
        whole = replace(last, records=folded(tuple(r for edit in done for r in edit.records)))
        self.edits[at:] = [whole.sealed()] if whole else []
        self.at, self._merge_key = at + bool(whole), None
        self.unproven = min(self.unproven, at)
        self._drop_marks(at)
        self._untold.append(tuple(dirty))
        self.tell_untold()
        return bool(whole)

    # --- marks ----------------------------------------------------------------------------

    def mark(self, at: int, name: str) -> None:
        """Name the moment after the first `at` Edits; an empty name takes the mark away."""
        if not 0 <= at <= len(self.edits):
            return
        if name:
            self.marks[at] = name
        else:
            self.marks.pop(at, None)
        self._untold.append(())
        self.tell_untold()

    def _drop_marks(self, beyond: int) -> None:
        for at in [at for at in self.marks if at > beyond]:
            del self.marks[at]

    # --- the playhead ---------------------------------------------------------------------

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
        for edit in self.way_to(at):
            self.step_to(at, edit, tell=tell)
        return True

    def way_to(self, at: int) -> list[Edit]:
        """What is written one after the other to get there: Edits, or their opposites."""
        if self.at > at:
            return [edit.inverted() for edit in reversed(self.edits[at : self.at])]
        return self.edits[self.at : at]

    def step_to(self, at: int, edit: Edit, *, tell: bool = True) -> None:
        """One stroke nearer to `at`.  edit : the next of `way_to`, perhaps unpacked."""
        if self.refusal is not None:
            raise self.refusal
        self._merge_key = None
        back = self.at > at
        self._write(edit.records, checked=self.at - back < self.unproven)
        self.at += -1 if back else 1
        self._tell(edit, tell)

    def cells_between(self, at: int) -> int:
        """How many cells would be written on the way of the playhead to `at`."""
        lo, hi = sorted((max(0, at), self.at))
        return sum(edit.cells_written for edit in self.edits[lo:hi])

    def moment(self) -> Moment:
        """Where the playhead is now; `mark_saved` takes it once that was written."""
        return Moment(self.at, self.edits[self.at - 1] if self.at else None)

    def place_of(self, moment: Moment) -> int | None:
        """Where that moment is among the Edits; None once it was undone and replaced."""
        if moment.last is None:
            return moment.at if moment.at == 0 else None
        known = self.edits[moment.at - 1 : moment.at]
        return moment.at if known and known[0] is moment.last else None

    @property
    def saved_at(self) -> int | None:
        """The place of the playhead at the last save, None once that state is gone."""
        return None if self.saved is None else self.place_of(self.saved)

    @property
    def changed(self) -> bool:
        """Whether there is anything to save."""
        return self.saved_at != self.at

    def forget(self, count: int) -> None:
        """Let go of the first `count` Edits, which are on; they can be undone no longer."""
        del self.edits[:count]
        self.at -= count
        self.marks = {at - count: name for at, name in self.marks.items() if at >= count}
        self.unproven = max(0, self.unproven - count)
        if self.saved is not None:
            at = self.saved.at - count
            self.saved = Moment(at, self.saved.last if at else None) if at >= 0 else None

    def seal(self) -> None:
        """Let the next Edit stand alone, whatever its merge key."""
        self._merge_key = None

    def mark_saved(self, moment: Moment | None = None) -> None:
        """The folder holds what was shown at that moment, or now."""
        self.saved = moment or self.moment()
        self._merge_key = None

    def take_up(self, edit: Edit) -> None:
        """Put on an Edit that was kept elsewhere, behind the playhead, and tell nobody.

        Raises DoesNotFit, with all as before, if the project does not stand as it did for it.
        """
        self._write(edit.records, checked=True)
        self.edits[self.at :] = [edit]
        self.at += 1

    def take_back(self) -> None:
        """The opposite of `take_up`: the Edit before the playhead is off and forgotten."""
        edit = self.edits[self.at - 1]
        self._write(edit.inverted().records, checked=True)
        self.at -= 1
        del self.edits[self.at :]

    def _write(self, records: tuple[Record, ...], *, checked: bool = False) -> None:
        """All or nothing: after an error the project stands as before."""
        done: list[Record] = []
        try:
            for record in records:
                if checked:
                    record.check(self.project)
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
        problem: Exception | None = None
        for dirty in untold:
            for listener in list(self.listeners):
                try:
                    listener(dirty)
                except Exception as found:  # the others, and the journal, still hear of it
                    problem = problem or found
        if problem is not None:
            raise problem
