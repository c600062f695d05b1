"""The ghost: what a press would lay, drawn from the same plan that the press applies."""

from __future__ import annotations

import numpy as np
from PyQt6.QtGui import QImage

from topion.brushes.gestures import Gesture, cell_of
from topion.brushes.kind import LaysScrap, SoftEdged
from topion.brushes.scraps import turned
from topion.grid.arrays import Rgba
from topion.grid.boxes import Box
from topion.model.edit import Edit
from topion.model.room import Room
from topion.render.scraps import scrap_picture
from topion.render.shadow import Shadow
from topion.render.sprites import overhang_cells
from topion.things.field import Sows
from topion.things.verdict import Verdict
from topion.view.hands import Hand
from topion.view.session import Session
from topion.view.table.compose import composed

MOST_GHOST_THINGS = 2_000  # spots at which rules are asked
_MOST_REACHED = 200_000  # cells in reach of one press with a soft edge
MOST_GHOST_CELLS = 60_000  # beyond, only the outline is shown until the release
_MOST_FLOODED_ROOM = 1 << 20


class PlannedGhost:
    """What the ghosts of all tables share: the plan of the stroke, and the verdict on a thing."""

    session: Session
    edit: Edit | None
    verdict: Verdict | None
    too_large: bool
    grown: Box | None = None  # the room as large as the stroke makes it, counted from what it is
    large: tuple[Box, Rgba] | None = None  # of a stamp too large to be planned at every move
    _shadow: Shadow | None = None

    def forget(self) -> None:
        """The project was changed or replaced."""
        self.clear()
        self._shadow = None

    def clear(self) -> None:
        """Show nothing."""
        raise NotImplementedError

    def shadow(self) -> Shadow:
        """The room as it would be after the planned Edit."""
        if self._shadow is None:
            self._shadow = Shadow(self.session.project, self.session.room_name)
        assert self.edit is not None
        self._shadow.show(self.edit)
        return self._shadow

    def room_then(self) -> Room:
        """The room as it would be after the planned Edit, as long as it does not grow by it; as it
        is where nothing is planned."""
        return self.shadow().room if self.edit and self.grown is None else self.session.room

    def shift(self) -> tuple[int, ...]:
        """Where the first cell of the room comes to lie by the planned Edit; notes the new edge."""
        now, then = self.session.room.info, self.shadow().room.info
        back = now.origin or (0,) * now.axes
        to = then.origin or (0,) * now.axes
        shift = tuple(a - b for a, b in zip(back, to, strict=True))
        if now.size != then.size:
            lo = tuple(-v for v in shift)
            self.grown = Box(lo, tuple(a + n for a, n in zip(lo, then.size, strict=True)))
        return shift

    def changed_box(self, edit: Edit, axes: int, *, cells: bool) -> Box:
        """Round all that an Edit changes in the room, after it has grown; without what only moves
        because it grew.  cells : of cells alone, where that has so many axes."""
        room = self.session.room_name
        records = list(edit.records)
        sizes = [n for n, record in enumerate(records)
                 if record.dirty().room == room and record.dirty().box is None
                 and not record.dirty().layer]  # fmt: skip
        box = Box((0,) * axes, (0,) * axes)
        for record in records[sizes[-1] + 1 if sizes else 0 :]:
            dirty = record.dirty()
            mine = dirty.room == room and (dirty.cells or not cells)
            if mine and dirty.box is not None and len(dirty.box.lo) == axes:
                box = box.union(dirty.box)
        return box

    def plan(self, hand: Hand, points: np.ndarray, gesture: Gesture) -> bool:
        """Plan for the pointer's way `points`; whether there is anything to show."""
        session = self.session
        self.too_large = is_large(session, hand, points, gesture)
        if self.too_large:
            self.large = self._large(hand, points)
            return False
        marks = session.marks(hand, points, gesture)
        self.too_large = marks is not None and len(marks.cells) > most_in_ghost(session, hand)
        if marks is None or self.too_large:
            return False
        self.edit = session.plan_marks(hand, marks)
        self.verdict = session.verdict_at(hand, points[-1:])
        return bool(self.edit)

    def stamp_box(self, hand: Hand, points: np.ndarray) -> Box | None:
        """Where a stamp in that hand would lie; None for other brushes."""
        brush = self.session.hands.in_hand(hand)
        if not isinstance(brush, LaysScrap) or not len(points):
            return None
        lo = cell_of(points[-1:])[0] + np.array(brush.corner_of(brush.way))
        hi = lo + np.array(brush.way.shape(brush.content.size))
        return Box(tuple(lo.tolist()), tuple(hi.tolist()))

    def _large(self, hand: Hand, points: np.ndarray) -> tuple[Box, Rgba] | None:
        """Where a large stamp would lie, and a small picture of it."""
        brush, box = self.session.hands.in_hand(hand), self.stamp_box(hand, points)
        if not isinstance(brush, LaysScrap) or box is None:
            return None
        made = turned(self.session.project, brush.content, brush.way).scrap
        key = (id(made), self.session.project.stamp("brushes"))
        if self._pictured is None or self._pictured[0] != key:
            self._pictured = (key, scrap_picture(self.session.project, made))
        return box, self._pictured[1]

    _pictured: tuple[object, Rgba] | None = None


class Ghost(PlannedGhost):
    """edit : the plan.  image : the cells of `box` as they would be.  verdict : of a thing."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.clear()

    def clear(self) -> None:
        """Show nothing, hold nothing."""
        self.edit: Edit | None = None
        self.image: QImage | None = None
        self.box: Box | None = None
        self.verdict: Verdict | None = None
        self.too_large, self.large, self.grown = False, None, None

    def show(self, hand: Hand, points: np.ndarray, gesture: Gesture, view: Box, side: int) -> None:
        """Plan for the pointer's way `points` and draw what of it lies in `view`."""
        self.clear()
        session = self.session
        if session.has_room and self.plan(hand, points, gesture) and self.edit is not None:
            self._draw(self.edit, view, side)

    def show_edit(self, edit: Edit, view: Box, side: int) -> None:
        """Draw what an Edit planned elsewhere would change."""
        self.clear()
        if self.session.has_room and edit:
            self.edit = edit
            self._draw(edit, view, side)

    def _draw(self, edit: Edit, view: Box, side: int) -> None:
        session, shadow = self.session, self.shadow()
        shift = self.shift()
        box = self.changed_box(edit, 2, cells=False)
        reach = overhang_cells(session.project, session.room)
        seen = Box(
            *(tuple(v + d for v, d in zip(s, shift, strict=True)) for s in (view.lo, view.hi))
        )
        near = box.grown(reach) if box.size else box
        if self.grown is not None:  # what is new is seen as a whole
            near = shadow.room.box
        near = near.clipped(shadow.room.box).clipped(seen)
        self.box = near.shifted(tuple(-v for v in shift))
        if near.size:
            self.image = composed(shadow.project, shadow.room, near, side, session.ahead.has)


def most_in_ghost(session: Session, hand: Hand) -> int:
    """How many cells a stroke of that hand may mark to be planned at every move: fewer where
    rules are asked at each."""
    brush = session.hands.in_hand(hand)
    if brush is not None and brush.cells_each() > MOST_GHOST_CELLS:
        return 0
    if brush is not None and brush.most_ghosted():
        return brush.most_ghosted()
    if isinstance(brush, SoftEdged) and (2 * brush.radius) ** 2 > _MOST_REACHED:
        return 0  # planned on a thread
    asks = brush is not None and bool(brush.places()) and not isinstance(brush, Sows)
    return MOST_GHOST_THINGS if asks else MOST_GHOST_CELLS


def is_large(session: Session, hand: Hand, points: np.ndarray, gesture: Gesture) -> bool:
    """Whether a stroke is too large to be planned at every move of the pointer."""
    most = most_in_ghost(session, hand)
    if gesture.kind == "flood":
        least = _MOST_FLOODED_ROOM if most == MOST_GHOST_CELLS else most
        return session.room.box.size > least
    if gesture.kind != "box" or not len(points):
        return len(points) > most
    corners = cell_of(points[[0, -1]])
    return int(np.prod(np.abs(corners[0] - corners[1]) + 1)) > most
