"""Keeps a project safe while it is open: its lock and its journal."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from topion.edit.journal import Journal, Mark
from topion.edit.journals import journals_of, take_lock
from topion.edit.lock import OnlyLooking, PathLock
from topion.edit.resume import BASE, Kept, Resumed, lay_onto
from topion.edit.serial import edit_to_plain
from topion.edit.whole import whole
from topion.errors import TopionError
from topion.formats.files import Marks, marks_of, state_of
from topion.formats.store import store_of
from topion.model.edit import Edit
from topion.scripting import ProjectHandle, Saving, fresh_id


class Keeper:
    """Keeps the journal of a project; while another window has it open this one only looks.

    resumed : what the journal brought back.  left : strokes that were not saved before somebody
    else changed the files, to be laid on them or left out.
    """

    def __init__(self, handle: ProjectHandle, unsaved: Kept | None = None) -> None:
        """unsaved : the journal of a project without a folder, on whose base `handle` stands."""
        self._handle = handle
        self._journal: Journal | None = None
        self._lock: PathLock | None = None
        self._mark: Mark | None = None
        self._state = ""
        self.resumed = Resumed()
        self.left: tuple[Kept, int] | None = None
        self._on_problem: Callable[[str], None] = lambda _: None
        if handle.folder is None:
            self._begin_unsaved(unsaved)
        elif self._is_alone():
            self._begin()

    # --- beginning ------------------------------------------------------------------------

    def _is_alone(self) -> bool:
        """Take the lock of the folder; without it nothing may be changed."""
        handle = self._handle
        if self._lock is not None:
            self._lock.release()
        assert handle.folder is not None
        self._lock = PathLock(handle.folder)
        alone = self._lock.take()
        handle.history.refusal = None if alone else OnlyLooking(handle.name)
        handle.locked = handle.folder.resolve() if alone else None
        return alone

    def _about(self) -> dict[str, str]:
        folder = self._handle.folder
        place = "" if folder is None else str(folder.resolve())
        known = self._handle.data.id or "at" + hashlib.sha256(place.encode()).hexdigest()[:16]
        return {"id": known, "name": self._handle.name, "folder": place, "base": "", "promised": ""}

    def _begin(self) -> None:
        """Take up what an earlier run left of the project in its folder."""
        handle = self._handle
        assert handle.folder is not None
        about, state = self._about(), self._folder_state()
        self._journal = Journal(handle.history, about)
        earlier = journals_of(about["id"], handle.folder.resolve())
        fits = next(((k, at) for k in earlier if (at := k.place_of(state)) is not None), None)
        if handle.history.edits or fits is None:
            self._journal.begin(state)
        else:
            self.resumed = self._journal.resume(*fits, state)
        strays = (kept for kept in earlier if fits is None or kept.path != fits[0].path)
        for kept in strays:
            if kept.unsaved() and self.left is None:
                self.left = kept, kept.saved_at
            elif not kept.unsaved():
                kept.set_aside()

    def _begin_unsaved(self, kept: Kept | None) -> None:
        """Keep a project that has no folder, from its base on."""
        handle = self._handle
        if not handle.data.id:
            handle.data.id = fresh_id()
        about = self._about()
        if kept is not None:
            self._journal = Journal(handle.history, kept.about)
            self._lock = take_lock(kept.path)
            self.resumed = self._journal.resume(kept, kept.base_at, BASE)
            return
        about["base"] = json.dumps(edit_to_plain(whole(handle.data)))
        self._journal = Journal(handle.history, about)
        self._lock = take_lock(self._journal.path)
        self._journal.begin(BASE)

    def _folder_state(self) -> str:
        """The state of the folder by content; slow for many rooms."""
        store = store_of(self._handle.data)
        assert self._handle.folder is not None
        marks: Marks = {}
        with suppress(OSError, TopionError):
            marks = marks_of(self._handle.folder.resolve(), store.marks if store else {})
        return state_of((name, mark.digest) for name, mark in marks.items())

    def prepare(self, edit: Edit) -> None:
        """A large Edit will be laid soon: do on this thread what can be done of keeping it."""
        edit.dirty()
        if self._journal is not None:
            self._journal.prepare(edit)

    def flush(self) -> None:
        """Wait until all strokes are on the disk; for threads."""
        if self._journal is not None:
            self._journal.flush()

    # --- what is wrong --------------------------------------------------------------------

    @property
    def problem(self) -> str:
        """Why strokes are not kept at the moment; empty while all is well."""
        return self._journal.problem if self._journal is not None else ""

    def hear_problems(self, heard: Callable[[str], None]) -> None:
        """Call that whenever it changes."""
        if self._journal is not None:
            self._journal.on_problem = heard
        self._on_problem = heard

    def lay_left(self, lay: Callable[[Edit], object] | None = None) -> Resumed:
        """Lay the strokes that were left on the files as they are now; `lay` puts one on."""
        assert self.left is not None
        kept, after = self.left
        resumed = lay_onto(self._handle.history, kept, after, lay)
        self.leave_out()
        return resumed

    def leave_out(self) -> Path:
        """Go on without them; their file is kept aside."""
        assert self.left is not None
        kept, self.left = self.left[0], None
        return kept.set_aside()

    # --- saving ---------------------------------------------------------------------------

    def follow_folder(self) -> Path | None:
        """Where the folder is by now, if somebody moved it; None if it is gone."""
        handle = self._handle
        if handle.folder is None or self._lock is None:
            return handle.folder
        place = self._lock.place()
        if place is not None and place != handle.folder.resolve():
            store = store_of(handle.data)
            if store is not None:
                store.folder = place
            handle.folder = handle.locked = place
            return place
        return place and handle.folder

    def may_write(self, folder: Path) -> bool:
        """Whether no other window has that folder open."""
        if folder.resolve() == self._handle.locked or not folder.exists():
            return True
        lock = PathLock(folder)
        alone = lock.take()
        lock.release()
        return alone

    def begin_saving(self, folder: Path) -> Callable[[str], None]:
        """Remember where we are; what is returned hears the state that the folder will have."""
        journal = self._journal
        if journal is None:
            return lambda _: None
        mark = self._mark = journal.mark()

        def promise(state: str) -> None:
            self._state = state
            journal.promise(mark, state, str(folder.resolve()))

        return promise

    def saved(self, saving: Saving, before: Path | None) -> None:
        """The project was written to its folder, perhaps a new one.  before : the old one."""
        journal, mark, folder = self._journal, self._mark, self._handle.folder
        assert folder is not None
        same = before is None or before.resolve() == folder.resolve()
        if journal is not None and mark is not None and same:
            if before is None and self._lock is not None:
                self._lock.release()
                self._lock = None
                self._is_alone()
            journal.saved(mark, self._state, self._about())
            return
        if journal is not None:
            journal.discard()
            journal.close()
        if self._is_alone():
            self._begin()
            self.hear_problems(self._on_problem)

    def discard(self) -> None:
        """What was not saved is not wanted."""
        if self._journal is not None:
            self._journal.discard()

    def close(self) -> None:
        """Let go of the project; what the journal holds stays for the next time."""
        if self._journal is not None:
            self._journal.close()
        if self._lock is not None:
            self._lock.release()
        self._handle.locked = None
