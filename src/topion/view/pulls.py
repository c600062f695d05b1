"""Dragging with the lasso: what is picked is moved, copied, or pulled by a handle of a piece."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from topion.brushes.shape import Handle
from topion.edit.handling import QUARTER, scaled_by, sized, spun, turn_step, turned_by
from topion.edit.layers import move_contents
from topion.edit.picked_moves import verdict_of_move
from topion.edit.pieces import Pick, shape_of
from topion.errors import TopionError
from topion.grid.told import cell_told
from topion.model.curve import Curve
from topion.model.edit import Edit
from topion.model.piece import Piece
from topion.model.prefab import Thing, snapped_to
from topion.things.verdict import Verdict
from topion.view.picking import How
from topion.view.session import Session

Position = tuple[float, ...]
_MOST_MOVED = 1 << 18  # cells of a layer that are moved at each step of the pointer


@dataclass
class Pull:
    """One drag.  start : where it began, in cells.  handle : None for a move.

    pick : the thing or piece that is pulled or was pressed; None for an area of cells.  copies :
    they are dragged away from what stays.  by : cells so far.  layer : all that lies in that one
    is moved, and in those that are attached to it.  knob : of the frame round things, that are
    turned or scaled about `middle`.  amount : degrees or times so far.
    """

    start: Position
    pick: Pick | None = None
    handle: Handle | None = None
    copies: bool = False
    by: tuple[float, ...] = ()
    layer: str = ""
    knob: Literal["", "turn", "scale"] = ""
    middle: Position = ()
    amount: float = 0.0


class Pulls:
    """The drag in progress, if any, and the Edit that its end would apply."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.now: Pull | None = None
        self.edit: Edit | None = None
        self.fine = False  # a knob moves by small steps

    def press(
        self, at: Position, here: list[Pick], cell: tuple[int, ...], how: How, *, copies: bool
    ) -> bool:
        """Pick the uppermost of what lies there and begin to move it; False where nothing does
        that can be picked.

        how : in place of what is picked, beside it, or out of it.  copies : see Pull.
        """
        picking = self.session.picking
        known = next((pick for pick in here if pick in picking.entries), None)
        if how != "new":
            target = known or next(iter(here), None)
            if target is not None:
                gone = how == "less" or known is not None
                picking.take([target], None, "less" if gone else "more")
            return target is not None
        if known is None and picking.holds(cell):
            self.now = Pull(at, None, copies=copies)
            return True
        if known is None and here:
            picking.take(here[:1], None, "new")
            known = here[0]
        if known is None:
            return False
        self.now = Pull(at, known, copies=copies)
        return True

    def press_layer(self, at: Position) -> None:
        """Begin to move all that lies in the layer worked on."""
        session = self.session
        if session.layer_id not in session.room.layers:
            session.said.emit("Choose a layer in the stack first, then drag what lies in it")
            return
        self.now = Pull(at, layer=session.layer_id)

    def grip(self, at: Position, pick: Pick, handle: Handle) -> None:
        """Begin to pull a handle of a piece or a curve."""
        self.now = Pull(at, pick, handle)

    def turn(self, at: Position, knob: Literal["turn", "scale"], middle: Position) -> None:
        """Begin to pull a knob of the frame round things."""
        self.now = Pull(at, knob=knob, middle=middle, amount=0.0 if knob == "turn" else 1.0)

    def drag(self, at: Position) -> bool:
        """Plan for the pointer there; whether that is another Edit than before."""
        pull = self.now
        if pull is None:
            return False
        if pull.knob:
            return self._drag_knob(pull, at)
        way = tuple(float(v) for v in np.subtract(at, pull.start))
        by: tuple[float, ...] = tuple(round(v) for v in way)
        if self._bends(pull):
            by = self._bent(pull, way)
        elif pull.handle is None and not pull.layer:
            by = self.session.picking.snapped(way)
        if by == pull.by:
            return False
        pull.by = by
        self.edit = self._planned(pull)
        return True

    def _bends(self, pull: Pull) -> bool:
        """Whether a point or a handle of a curve is pulled."""
        return pull.handle is not None and pull.pick in dict(self.session.curves.there())

    def _bent(self, pull: Pull, way: tuple[float, ...]) -> tuple[float, ...]:
        """A point comes to lie on middles of cells or of parts of them, a handle anywhere."""
        assert pull.handle is not None
        if pull.handle.pulls or self.fine:
            return tuple(round(v, 2) for v in way)
        goal = np.array(pull.handle.at) + way
        plan = snapped_to(goal[None, -2:], self.session.hands.cell_parts)[0]
        return (*(float(round(v)) for v in way[:-2]),
                *(round(float(v), 6) for v in plan - np.array(pull.handle.at[-2:])))  # fmt: skip

    def _drag_knob(self, pull: Pull, at: Position) -> bool:
        session, things = self.session, dict(self.session.picking.things())
        if pull.knob == "turn":
            step = turn_step(session.project, things.values())
            fine = self.fine and step < QUARTER
            amount = turned_by(pull.start, at, pull.middle, 1.0 if fine else step or QUARTER)
        else:
            amount = scaled_by(pull.start, at, pull.middle, 0.01 if self.fine else 0.1)
        if amount == pull.amount:
            return False
        pull.amount = amount
        plan = spun if pull.knob == "turn" else sized
        try:
            self.edit = plan(session.project, session.room_name, things, amount,
                             override=session.hands.overriding)  # fmt: skip
        except TopionError as problem:
            session.said.emit(str(problem))
            self.edit = None
        return True

    def _planned(self, pull: Pull) -> Edit | None:
        if not any(pull.by):
            return None
        if pull.layer:
            return self._planned_layer(pull)
        if pull.handle is not None and pull.pick is not None:
            if self._bends(pull):
                return self.session.curves.plan_pull(pull.pick, pull.handle, pull.by,
                                                     apart=self.fine)  # fmt: skip
            steps = tuple(round(v) for v in pull.by)
            return self.session.pieces.plan_pull(pull.pick, pull.handle, steps)
        return self.session.picking.plan_move(pull.by, copies=pull.copies)

    def _planned_layer(self, pull: Pull) -> Edit | None:
        session, steps = self.session, tuple(round(v) for v in pull.by)
        if session.room.box.size > _MOST_MOVED:
            return Edit("Move what lies in the layer")  # planned on a thread, when it is let go
        try:
            return move_contents(session.project, session.room_name, pull.layer, steps)
        except TopionError as problem:
            session.said.emit(str(problem))
            return None

    def release(self) -> None:
        """Apply what was planned; a refusal is said."""
        pull, edit, self.now, self.edit = self.now, self.edit, None, None
        if pull is None or edit is None:
            return
        steps = tuple(round(v) for v in pull.by)
        if pull.layer and not edit and self.session.room.box.size > _MOST_MOVED:
            self.session.do_aside(
                edit.label,
                lambda place: move_contents(place.project, place.room_name, pull.layer, steps),
            )
        elif pull.handle is not None or pull.layer or pull.knob:
            self.session.apply(edit)
        elif pull.copies:
            self.session.picking.duplicate(pull.by)
        else:
            self.session.picking.move(pull.by, seats=self.session.picking.area is None)

    def drop(self) -> bool:
        """As it was; False if nothing is dragged."""
        was, self.now, self.edit = self.now, None, None
        return was is not None

    def before_and_after(self) -> tuple[Piece, Piece] | None:
        """The pulled piece as it was and as it would be."""
        before, after = self._changed()
        if isinstance(before, Piece) and isinstance(after, Piece):
            return before, after
        return None

    def _changed(self) -> tuple[object, object]:
        """What was pressed, before and after; None for none."""
        if self.now is None or self.now.pick is None or not self.edit:
            return None, None
        changes = (c for record in self.edit.records for c in record.entries())
        found = next((c for c in changes if c.number == self.now.pick.number), None)
        return (None, None) if found is None else (found.before, found.after)

    @property
    def moves_layer(self) -> bool:
        """Whether all that lies in a layer is dragged."""
        return self.now is not None and bool(self.now.layer)

    @property
    def is_refused(self) -> bool:
        """Whether what is dragged may not be laid where it is."""
        return self.edit is not None and not self.edit and bool(self.edit.refused)

    def verdict(self) -> Verdict | None:
        """Why the one thing that is dragged may not stand where it would come; None where it may,
        and for several."""
        pull, picks = self.now, self.session.picking.picks()
        if pull is None or pull.knob or self.edit is None or self.edit:
            return None
        if len(picks.entries) != 1:
            return None
        things = self.session.picking.things()
        if not things or picks.area is not None or not self.edit.refused:
            return None
        return verdict_of_move(self.session.project, self.session.room_name, *things[0], pull.by)

    def words(self) -> tuple[str, str]:
        """What stands at the pointer: the size or the place as it would be, and as it was; or why
        it may not be, and nothing."""
        pull, (before, after) = self.now, self._changed()
        if pull is None or self.edit is None:
            return "", ""
        if self.is_refused:
            return self.edit.refused[0], ""
        if pull.knob:
            return (f"{pull.amount:+g}°" if pull.knob == "turn" else f"× {pull.amount:g}"), ""
        if isinstance(before, Thing) and isinstance(after, Thing):
            return _spot(after, len(pull.by)), _spot(before, len(pull.by))
        if isinstance(before, Curve) and isinstance(after, Curve):
            return f"{after.length:.1f} cells", f"{before.length:.1f} cells"
        if isinstance(before, Piece) and isinstance(after, Piece):
            brush = shape_of(self.session.project, after)
            if pull.handle is None or brush is None:
                return _corner(after), _corner(before)
            return brush.measure(after), brush.measure(before)
        return f"by {', '.join(f'{v:+g}' for v in reversed(pull.by))}", ""


def _spot(thing: Thing, axes: int) -> str:
    return ", ".join(f"{v:g}" for v in thing.at[-axes:][::-1])


def _corner(piece: Piece) -> str:
    return cell_told(piece.box.lo)
