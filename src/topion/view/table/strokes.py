"""From pointer events to strokes; what the tables of all rooms share.

A table says where in the room a point of the screen lies and how its camera moves; which
hand a button is, how a stroke grows, is dropped, is laid or picked, is the same for all.
"""

from __future__ import annotations

import time

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QCursor, QKeyEvent, QMouseEvent, QTabletEvent

from topion.brushes.shape import Handle
from topion.survey.at_cursor import lying_at
from topion.view.hands import Hand
from topion.view.lasso import Lasso
from topion.view.pulls import Pulls
from topion.view.table.beats import Beats
from topion.view.table.ghost import is_large
from topion.view.table.lasso_strokes import LassoStrokes, Position, cell_at

BUTTONS: dict[Qt.MouseButton, Hand] = {
    Qt.MouseButton.LeftButton: "left",
    Qt.MouseButton.RightButton: "right",
}


_PEN_S = 0.25  # after which a pen that is not heard is away


def swap_hands(swapped: bool) -> None:
    """Let the right button hold the left hand, for those who use the mouse with their left."""
    left, right = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton
    BUTTONS[left], BUTTONS[right] = ("right", "left") if swapped else ("left", "right")


class Strokes(LassoStrokes):
    """Mixed into a widget.  A table gives `session`, `ready`, `position_at`, `drag_view`,
    `stale_ghost` and, where it has more to a stroke than its way, `begin_stroke` and
    `stroke_goes_on`."""

    hand: Hand | None = None  # of the stroke in progress
    hover: QPointF | None = None
    space = False
    measured_from: Position | None = None  # while that key is held
    anchored_at: Position | None = None  # where the ghost stays while its anchor is pointed at
    beats: Beats | None = None  # of a stroke that lays at a rate

    def start_strokes(self) -> None:
        """No stroke is in progress."""
        self.points: list[Position] = []
        self.pen = (0.0, 1.0)  # when it was heard last, and how hard it pressed
        self._presses: list[float] = []  # at each of the points
        self.times: list[float] = []  # at which they came, in seconds
        self.clicks: list[Position] = []  # of a curve that is not yet done
        self.pulls = Pulls(self.session)
        self.lasso = Lasso(self.session)
        self.dragging: tuple[QPointF, bool] | None = None  # last point, and whether it turns

    # --- pointer --------------------------------------------------------------------------

    def tabletEvent(self, event: QTabletEvent | None) -> None:
        """A pen: what it does comes as events of a mouse; how hard it presses is kept."""
        if event is None:
            return
        lifted = event.type() == QEvent.Type.TabletRelease
        self.pen = (0.0 if lifted else time.monotonic(), event.pressure())
        event.ignore()  # so that the events of a mouse follow

    def _press_now(self) -> float:
        """How hard the pen presses; wholly where there is none."""
        since, pressure = self.pen
        return pressure if time.monotonic() - since < _PEN_S else 1.0

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self.is_at_work:
            return
        self.setFocus()
        button = event.button()
        if button == Qt.MouseButton.MiddleButton or (self.space and button in BUTTONS):
            shifted = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
            self.dragging = (event.position(), not (self.space or shifted))
            self.setCursor(QCursor(Qt.CursorShape.ClosedHandCursor))
            return
        if button not in BUTTONS or self.pulls.now is not None:
            return
        hand = BUTTONS[button]
        if self.clicks:
            self._click(hand, event.position())
            return
        if self.hand is not None:
            return
        if hand == "left" and self._press_preview(event.position()):
            return
        if event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.pick(hand, event.position())
            return
        if self.session.hands.measuring:
            self.measured_from = self.position_at(event.position())
            self.update()
            return
        if self.session.hands.shifting and hand == "left":
            start = self.pull_position(event.position())
            if start is not None:
                self.pulls.press_layer(start)
            return
        if self.session.gestures.picking:
            self._press_lasso(event, hand)
            return
        self.hand = hand
        self.session.warm.cool()
        self.begin_stroke(event.position())
        at = self.position_at(event.position())
        if at is None:
            self.hand = None
            return
        self.points, self.times = [at], [time.monotonic()]
        self._presses = [self._press_now()]
        self._tell_pressures()
        self._begin_beats(at)
        if self.session.gestures.now.kind == "curve":
            self.clicks = [at]
        self.session.gestures.stroke_began()
        self.update()

    def measure_ends(self) -> tuple[Position, Position] | None:
        """What is measured, while that key is held: from where it, or a button, was pressed, to the
        pointer."""
        if not self.session.hands.measuring or self.hover is None:
            self.measured_from = None
            return None
        now = self.position_at(self.hover)
        if self.measured_from is None:
            self.measured_from = now
        return None if now is None or self.measured_from is None else (self.measured_from, now)

    def _click(self, hand: Hand, point: QPointF) -> None:
        """One more point of a curve, that of the first one ends it; with the other button, one
        less."""
        at = self.position_at(point)
        if hand == self.hand and at is not None:
            ends = len(self.clicks) > 2 and cell_at(at) == cell_at(self.clicks[0])
            self.clicks.append(at)
            if ends:
                self.points = list(self.clicks)
                self.end_curve()
                return
        elif hand != self.hand:
            self.clicks.pop()
        if not self.clicks:
            self.drop_stroke()
            return
        self.points = [*self.clicks, at] if at is not None else list(self.clicks)
        self.stale_ghost()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """The end of a curve; or a point of a trail goes."""
        if event is None:
            return
        point = event.position()
        grip = self.handle_at(point) if self.session.gestures.picking else None
        if grip is not None and grip[1].point >= 0 and not grip[1].inserts:
            if not self._is_curve(grip[0]):
                self.session.pieces.without_point(grip[0], grip[1].point)
            elif not grip[1].pulls:
                self.session.curves.take_point(grip[1].point)
                self.session.curves.remove_points()
        elif not self.end_curve() and not self._add_point(point):
            self.mousePressEvent(event)

    def end_curve(self) -> bool:
        """Lay the curve through what was clicked; False if none is drawn."""
        if not self.clicks:
            return False
        self.points, self.clicks = self.clicks, []
        self.end_stroke()
        return True

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self.is_at_work:
            return
        point = event.position()
        if self.dragging is not None:
            last, turning = self.dragging
            self.dragging = (point, turning)
            self.drag_view(point - last, turning)
        self.hover = point
        grip = self.session.grip
        if grip is not None and grip.pulls:
            pulled = self.pull_position(point, Handle(grip.middle()))
            if pulled is not None:
                grip.drag(pulled)
            return
        if self.lasso:
            self._draw_lasso(point)
            self.stale_ghost()
        if self.pulls.now is not None:
            self.pulls.fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            pulled = self.pull_position(point, self.pulls.now.handle)
            if pulled is not None and self.pulls.drag(pulled):
                self.stale_ghost()
        at = self.position_at(point)
        if self.clicks:
            self.points = [*self.clicks, at] if at is not None else list(self.clicks)
        elif self.dragging is None and self.hand is not None and at is not None:
            if self.beats is None:
                self._point_to(at)
            else:
                self.beats.at = at
        self.session.point_at(None if at is None else cell_at(at))
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self.dragging is not None:
            self.session.did.emit("turned-view" if self.dragging[1] else "panned")
            self.dragging = None
            self.show_cursor()
            self.stale_ghost()
            return
        if self.session.grip is not None and self.session.grip.pulls:
            self.session.grip.release()
            return
        if self.lasso:
            if not self.lasso.raising and not self.lasso_goes_on():
                self._draw_lasso(event.position())
                self._end_lasso()
            return
        if self.pulls.now is not None:
            if BUTTONS.get(event.button()) == "left":
                at = self.pull_position(event.position(), self.pulls.now.handle)
                if at is not None:
                    self.pulls.drag(at)
                self.pulls.release()
                self.stale_ghost()
            return
        if self.hand is None or BUTTONS.get(event.button()) != self.hand or self.clicks:
            return
        if not self.is_at_work:
            self.drop_stroke()
            return
        at = self.position_at(event.position())
        if at is not None and self.beats is None:
            self._point_to(at)
        if not self.stroke_goes_on():
            self.end_stroke()

    def _point_to(self, at: Position) -> None:
        self.points.append(at)
        self.times.append(time.monotonic())
        self._presses.append(self._press_now())
        self._tell_pressures()

    def _tell_pressures(self) -> None:
        """The session plans with them; a mouse has none."""
        known = np.array(self._presses)
        self.session.pressures = known if (known < 1.0).any() else np.ones(0)

    def end_stroke(self) -> None:
        """Lay what was drawn."""
        hand, points = self.hand, np.array(self.points)
        self.hand, self.points = None, []
        self._end_beats()
        if hand is not None:
            self._lay(hand, points)
        self.stale_ghost()

    def _lay(self, hand: Hand, points: np.ndarray) -> None:
        """Apply what the ghost showed; very large strokes are planned off the GUI thread."""
        session, gesture = self.session, self.session.gestures.now
        if is_large(session, hand, points, gesture):
            session.lay_aside(hand, points, gesture)
        else:
            session.lay(hand, points, gesture, self._cuts(len(points)))

    def _cuts(self, count: int) -> list[int]:
        """After how many points the slices end that a long stroke is kept in."""
        seconds = self.session.slice_s
        if not seconds or self.session.gestures.now.kind != "drag" or len(self.times) < 2:
            return []
        at = [int((time - self.times[0]) / seconds) for time in self.times[:count]]
        return [n for n in range(1, len(at)) if at[n] != at[n - 1]]

    def drop_stroke(self) -> bool:
        """Forget the stroke in progress; False if there is none."""
        if self.session.grip is not None and self.session.grip.drop():
            return True
        if self.pulls.drop() or self.lasso.drop():
            self.stale_ghost()
            return True
        if self.hand is None:
            return False
        self.hand, self.points, self.clicks = None, [], []
        self._end_beats()
        self.stale_ghost()
        return True

    # --- at a rate ------------------------------------------------------------------------

    def _begin_beats(self, at: Position) -> None:
        """A brush that lays at a rate marks where the pointer is at each beat."""
        brush = self.session.hands.in_hand(self.hand) if self.hand else None
        rate = brush.beat() if brush is not None else 0.0
        if rate and self.session.gestures.now.kind == "drag":
            self.beats = Beats(self, rate, at, self._on_beat)

    def _on_beat(self) -> None:
        if self.beats is not None and self.hand is not None:
            self._point_to(self.beats.at)
            self.stale_ghost()

    def _end_beats(self) -> None:
        if self.beats is not None:
            self.beats.stop()
            self.beats = None

    # --- the anchor -----------------------------------------------------------------------

    def hold_anchor(self, held: bool) -> None:
        """While it is held, the ghost stays and the pointer shows which cell of it shall be the
        one that lies under the pointer."""
        if held:
            self.anchored_at = self.position_at(self.hover) if self.hover is not None else None
            self.stale_ghost()
            return
        start, self.anchored_at = self.anchored_at, None
        at = self.anchor_position(self.hover, start) if self.hover and start else None
        if start is not None and at is not None:
            by = tuple(a - b for a, b in zip(cell_at(at), cell_at(start), strict=True))
            if any(by):
                self.session.hands.hold_at(by)
        self.stale_ghost()

    def anchor_position(self, point: QPointF, start: Position) -> Position | None:
        """The position that is meant as an anchor, of a ghost that stays at `start`."""
        return self.position_at(point)

    def pick(self, hand: Hand, point: QPointF) -> None:
        """Take in hand the brush that laid what is uppermost under the pointer; of a brush that
        gives colours, those that are there."""
        cell = self.picked_cell(point)
        session = self.session
        session.warm.cool()
        if cell is not None and session.take_colours(hand, cell):
            return
        found = lying_at(session.project, session.room, cell, session.ahead.has) if cell else ()
        for lying in found:
            if lying.brush:
                session.did.emit("taken")
                session.hands.take(hand, lying.brush)
                return
        session.said.emit("Nothing here that a brush of the rack lays")

    def leaveEvent(self, event: QEvent | None) -> None:
        self.hover = None
        self.session.point_at(None)
        self.update()

    def hold_space(self, held: bool) -> None:
        """While it is held, a drag moves the view."""
        self.space = held
        self.show_cursor()
        self.update()

    def show_cursor(self) -> None:
        """A hand while the view can be moved, else a cross."""
        shape = Qt.CursorShape.OpenHandCursor if self.space else Qt.CursorShape.CrossCursor
        self.setCursor(QCursor(shape))

    def focusNextPrevChild(self, onwards: bool) -> bool:
        """With the lasso, Tab walks down what lies in the cell instead of from part to part."""
        if self.session.gestures.picking and self.hover is not None:
            return False
        return super().focusNextPrevChild(onwards)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        session = self.session
        if event.key() == Qt.Key.Key_Tab and session.gestures.picking and self.hover is not None:
            session.did.emit("below")
            session.picking.pick_next(
                self.entries_under(self.hover)
            )  # it does not reach the window
            return
        event.ignore()  # the window knows all keys
