"""The lasso: a way or a box that is drawn to pick what lies in it."""

from __future__ import annotations

import numpy as np

from topion.brushes.gestures import cell_of
from topion.grid.areas import Area, enclosed
from topion.grid.lines import box_between
from topion.view.picking import How
from topion.view.session import Session

Position = tuple[float, ...]
_STILL = 0.35  # cells; a press that moves no farther draws nothing


class Lasso:
    """way : where the pointer went, in cells; empty while nothing is drawn.  how : see Picking.

    raising : the base of a box in space is drawn, and its height follows the pointer.
    """

    def __init__(self, session: Session) -> None:
        self.session = session
        self.way: list[Position] = []
        self.how: How = "new"
        self.raising = False

    def __bool__(self) -> bool:
        return bool(self.way)

    def press(self, at: Position, how: How) -> None:
        """Begin to draw."""
        self.way, self.how, self.raising = [at, at], how, False

    def drag(self, at: Position) -> None:
        """The pointer went there."""
        if self.is_box:
            self.way[-1] = at
        else:
            self.way.append(at)

    @property
    def is_box(self) -> bool:
        """Whether a box is drawn, and not a way round."""
        return self.session.picking.way() != "lasso"

    @property
    def moved(self) -> bool:
        """Whether it was drawn, and not only pressed."""
        return bool(self.way) and float(np.abs(np.ptp(np.array(self.way), axis=0)).max()) > _STILL

    def area(self) -> Area | None:
        """What it encloses so far."""
        if not self.moved:
            return None
        way = np.array(self.way)
        if not self.is_box:
            return enclosed(way)
        corners = cell_of(way[[0, -1]])
        return Area.of_box(box_between(corners[0], corners[1]))

    def release(self) -> None:
        """Pick what it encloses; nothing, where it was only pressed on open ground."""
        area, how = self.area(), self.how
        self.drop()
        if area is not None:
            self.session.picking.take_area(area, how)
        elif how == "new":
            self.session.picked.pick(None)

    def drop(self) -> bool:
        """Forget what is drawn; False if nothing is."""
        was, self.way, self.raising = bool(self.way), [], False
        return was
