"""Dragging with the lasso: picked pieces are moved, copied, or pulled by a handle."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from topion.brushes.shape import Handle
from topion.edit.pieces import Pick, shape_of
from topion.model.edit import Edit
from topion.model.piece import Piece
from topion.view.session import Session

Position = tuple[float, ...]


@dataclass
class Pull:
    """One drag.  start : where it began, in cells.  handle : None for a move.

    pick : the piece that is pulled, or that was pressed.  copies : they are dragged away from what
    stays.  by : cells so far.
    """

    start: Position
    pick: Pick
    handle: Handle | None = None
    copies: bool = False
    by: tuple[int, ...] = ()


class Pulls:
    """The drag in progress, if any, and the Edit that its end would apply."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.now: Pull | None = None
        self.edit: Edit | None = None

    def press(
        self, at: Position, cell: tuple[int, ...], *, more: bool = False, copies: bool = False
    ) -> bool:
        """Pick what lies in the cell and begin to move it; False where nothing lies.

        more : beside what is picked, or no longer.
        """
        pieces = self.session.pieces
        here = [pick for pick, _ in pieces.here(cell)]
        known = next((pick for pick in here if pick in pieces.picks), None)
        if more:
            if here:
                pieces.add(known or here[0])
            return bool(here)
        if known is None:
            self.session.picked.pick(None)
            pieces.pick(here[:1])
            known = here[0] if here else None
        if known is None:
            return False
        self.now = Pull(at, known, copies=copies)
        return True

    def grip(self, at: Position, pick: Pick, handle: Handle) -> None:
        """Begin to pull a handle of a piece."""
        self.now = Pull(at, pick, handle)

    def drag(self, at: Position) -> bool:
        """Plan for the pointer there; whether that is another Edit than before."""
        pull = self.now
        if pull is None:
            return False
        by = tuple(int(v) for v in np.rint(np.subtract(at, pull.start)))
        if by == pull.by:
            return False
        pull.by = by
        self.edit = self._planned(pull)
        return True

    def _planned(self, pull: Pull) -> Edit | None:
        if not any(pull.by):
            return None
        pieces = self.session.pieces
        if pull.handle is not None:
            return pieces.plan_pull(pull.pick, pull.handle, pull.by)
        if pull.copies:
            found = pieces.plan_copy(pull.by)
            return found[0] if found else None
        return pieces.plan_move(pull.by)

    def release(self) -> None:
        """Apply what was planned."""
        pull, edit, self.now, self.edit = self.now, self.edit, None, None
        if pull is None or edit is None:
            return
        if pull.copies:
            self.session.pieces.duplicate(pull.by)
        else:
            self.session.apply(edit)

    def drop(self) -> bool:
        """As it was; False if nothing is dragged."""
        was, self.now, self.edit = self.now, None, None
        return was is not None

    def before_and_after(self) -> tuple[Piece, Piece] | None:
        """The pulled piece as it was and as it would be."""
        if self.now is None or self.edit is None or not self.edit:
            return None
        changes = (c for record in self.edit.records for c in record.entries())
        found = next((c for c in changes if c.number == self.now.pick.number), None)
        if found is None or found.before is None or found.after is None:
            return None
        return found.before, found.after

    def words(self) -> tuple[str, str]:
        """What stands at the pointer: the size or the place as it would be, and as it was."""
        found = self.before_and_after()
        if found is None or self.now is None:
            return ("", "")
        before, after = found
        brush = shape_of(self.session.project, after)
        if self.now.handle is None or brush is None:
            return tuple(", ".join(map(str, p.box.lo[::-1])) for p in (after, before))  # type: ignore[return-value]
        return brush.measure(after), brush.measure(before)
