"""What a table gives to those that paint in it, and picking with the lasso on it."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QWidget

from topion.brushes.gestures import cell_of
from topion.brushes.shape import Handle
from topion.edit.pieces import Pick
from topion.view.hands import Hand
from topion.view.knobs import Knobs
from topion.view.lasso import Lasso
from topion.view.picking import How
from topion.view.pulls import Pulls
from topion.view.session import Session
from topion.view.table.curve_marks import CurveMarks

Position = tuple[float, ...]


if TYPE_CHECKING:  # a mix-in: the widget it becomes part of is a plain or an OpenGL one
    _Widget = QWidget
else:
    _Widget = object


class Given(_Widget):
    """What strokes and the lasso ask of the table they are drawn on."""

    session: Session
    knobs: Knobs
    curve_marks: CurveMarks
    pulls: Pulls
    lasso: Lasso

    @property
    def ready(self) -> bool:
        """Whether there is a room to paint in."""
        raise NotImplementedError

    @property
    def axes(self) -> int:
        """Of the rooms that are painted here."""
        raise NotImplementedError

    @property
    def is_at_work(self) -> bool:
        """Whether the room of the session is one that is painted here: another may have come
        under a button that is held."""
        session = self.session
        return self.ready and session.has_room and session.room.info.axes == self.axes

    def position_at(self, point: QPointF) -> Position | None:
        """The position in cells under a point of the screen, for the hand at work."""
        raise NotImplementedError

    def picked_cell(self, point: QPointF) -> tuple[int, ...] | None:
        """The cell whose contents are meant by pointing there."""
        at = self.position_at(point)
        return None if at is None else cell_at(at)

    def drag_view(self, by: QPointF, turning: bool) -> None:
        """Move the camera by px, or turn it where the view can be turned."""
        raise NotImplementedError

    def stale_ghost(self) -> None:
        """Plan and draw the ghost anew at the next frame."""
        raise NotImplementedError

    def handle_at(self, point: QPointF) -> tuple[Pick, Handle] | None:
        """The handle of a picked piece that is meant by pressing there."""
        return None

    def entries_under(self, point: QPointF) -> list[Pick]:
        """The things and pieces that lie under a point of the screen, the nearest first, also
        those that others hide."""
        cell = self.picked_cell(point)
        here = [] if cell is None else self.session.picking.here(cell)
        return self.curve_marks.among(point, here)

    def cells_under(self, point: QPointF) -> list[tuple[int, ...]]:
        """The cells under a point of the screen up to the first that hides what is behind it, the
        nearest first."""
        cell = self.picked_cell(point)
        return [] if cell is None else [cell]

    def entries_seen(self, point: QPointF) -> list[Pick]:
        """Those that nothing hides."""
        return self.entries_under(point)

    def lasso_position(self, point: QPointF) -> Position | None:
        """Where in the room the lasso is drawn."""
        return self.position_at(point)

    def lasso_goes_on(self) -> bool:
        """Whether the lasso wants more after its button came up."""
        return False

    def seen_at(self, at: np.ndarray) -> list[QPointF]:
        """Where (n, axes) places in cells are on the screen, heights being those of seats."""
        raise NotImplementedError

    def sees(self, at: np.ndarray) -> np.ndarray:
        """(n,) which places in cells are in view."""
        frame = QRectF(self.rect())
        return np.array([frame.contains(point) for point in self.seen_at(at)], bool)

    def pull_position(self, point: QPointF, handle: Handle | None = None) -> Position | None:
        """Where in the room a drag of the lasso, by that handle, is in cells."""
        return self.position_at(point)

    def begin_stroke(self, point: QPointF) -> None:
        """A button went down."""

    def stroke_goes_on(self) -> bool:
        """Whether the stroke wants more after its button came up."""
        return False


class LassoStrokes(Given):
    """Pressing and drawing with the lasso, and pulling what is picked."""

    def _press_preview(self, point: QPointF) -> bool:
        """Begin to pull what Arrange shows; False beside it."""
        grip = self.session.grip
        how = grip.at(point) if grip is not None else ""
        if grip is None or how == "":
            return False
        at = self.pull_position(point, Handle(grip.middle()))
        if at is not None:
            grip.press(how, at)
        return at is not None

    def _is_curve(self, pick: Pick) -> bool:
        return pick in dict(self.session.curves.there())

    def _add_point(self, point: QPointF) -> bool:
        """One more point of the picked curve there; False where it does not pass."""
        found = self.curve_marks.place_on(point) if self.session.gestures.picking else None
        if found is not None:
            self.session.curves.add_point(*found)
        return found is not None

    def _press_lasso(self, event: QMouseEvent, hand: Hand) -> None:
        """Grip a handle of what is picked, else pick what lies there, else draw a lasso."""
        point = event.position()
        self.session.gestures.stroke_began()
        if self.lasso:  # its height is set by this click
            self._draw_lasso(point)
            self._end_lasso()
            return
        grip = self.handle_at(point) if hand == "left" else None
        if grip is not None and self._is_curve(grip[0]):
            grip = self._grip_curve(event, *grip)
        if grip is not None:
            at = self.pull_position(point, grip[1])
            if at is not None:
                self.pulls.grip(at, *grip)
            return
        shifted = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        how: How = "less" if hand == "right" else "more" if shifted else "new"
        self.session.did.emit("picked-more" if how == "more" else "picked")
        if hand == "left" and self._press_knob(point):
            return
        if not self._press_picked(event, how):
            start = self.lasso_position(point)
            if start is not None:
                self.lasso.press(start, how)
        self.stale_ghost()

    def _grip_curve(self, event: QMouseEvent, pick: Pick, handle: Handle) -> tuple[Pick, Handle]:
        """Its point is picked then; where one is to be added, it is added first."""
        curves = self.session.curves
        if handle.inserts:
            curve = dict(curves.there())[pick]
            ends = curve.line.corners
            middle = float(ends[handle.point] + ends[handle.point + 1]) / 2
            curves.add_point(pick, middle)
            return pick, Handle(handle.at, point=handle.point + 1)
        if not handle.pulls:
            shifted = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
            if handle.point not in curves.chosen() or shifted:
                curves.take_point(handle.point, more=bool(shifted))
        return pick, handle

    def _press_knob(self, point: QPointF) -> bool:
        """Begin to turn or scale what is picked; False off its knobs."""
        knob = self.knobs.at(point)
        if knob is None:
            return False
        middle = self.knobs.middle()
        at = self.pull_position(point, Handle(middle))
        if at is not None:
            self.pulls.turn(at, knob, middle)
        return True

    def _press_picked(self, event: QMouseEvent, how: How) -> bool:
        """Pick what lies there, or all that is alike; False where a lasso may be drawn."""
        point, picking = event.position(), self.session.picking
        cell = self.picked_cell(point)
        held = [pick for pick in self.entries_under(point) if pick in picking.entries]
        here = held or self.entries_seen(point)
        alike = picking.way() not in ("lasso", "box") and cell is not None
        if alike and cell and (how != "new" or not (held or picking.holds(cell))):
            picking.take_alike(cell, here, how)
            return True
        at = self.pull_position(point)
        if cell is None or at is None:
            return False
        copies = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if not here and not picking.holds(cell):
            here = picking.take_sown(self.cells_under(point))
        return self.pulls.press(at, here, cell, how, copies=copies)

    def _draw_lasso(self, point: QPointF) -> None:
        at = self.lasso_position(point)
        if at is not None:
            self.lasso.drag(at)

    def _end_lasso(self) -> None:
        self.lasso.release()
        self.stale_ghost()


def cell_at(at: Position) -> tuple[int, ...]:
    """The cell that a position lies in."""
    return tuple(int(v) for v in cell_of(np.array([at]))[0])
