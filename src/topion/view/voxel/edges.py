"""Pulling the sides of a voxel room: with the lasso, handles at its floor and its near corner."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen

from topion.brushes.shape import pulled_box
from topion.edit.rooms import resize_room
from topion.grid.boxes import Box
from topion.grid.rays import Ray, nearest_on_line
from topion.render.eye import Eye
from topion.view import style
from topion.view.session import Session
from topion.view.table.overlay import label
from topion.view.voxel.overlay import box_lines

_GRIP_PX = 9.0  # round a handle, in which a press grips it
_RADIUS_PX = 5.0
Side = tuple[int, int]  # (axis, -1 the first side or 1 the last)
_WORDS: dict[Side, str] = {
    (0, -1): "floor", (0, 1): "ceiling", (1, -1): "north side", (1, 1): "south side",
    (2, -1): "west side", (2, 1): "east side",
}  # fmt: skip


class SpaceEdges:
    """side : that which is pulled, while a drag is in progress."""

    def __init__(self, session: Session, eye: Callable[[], Eye],
                 meets: Callable[[QPointF], object]) -> None:  # fmt: skip
        """meets : what can be picked at a point; it goes before a handle."""
        self.session, self._eye, self._meets = session, eye, meets
        self.side: Side | None = None
        self._start, self._by = 0.0, 0

    @property
    def is_shown(self) -> bool:
        """With the lasso, as long as nothing is picked."""
        session = self.session
        return session.has_room and session.gestures.picking and not session.picking

    def _places(self) -> dict[Side, np.ndarray]:
        """Where handles are: of walls, halfway along their foot; of floor and ceiling, at the
        corner that is nearest to the eye."""
        size = np.array(self.session.room.info.size, float)
        foot = np.array([0.0, size[1] / 2, size[2] / 2])
        near = np.where(np.array(self._eye().forward) < 0, size, 0.0)
        found: dict[Side, np.ndarray] = {}
        for axis in (1, 2):
            for way, at in ((-1, 0.0), (1, size[axis])):
                found[axis, way] = foot.copy()
                found[axis, way][axis] = at
        for way, at in ((-1, 0.0), (1, size[0])):
            found[0, way] = np.array([at, near[1], near[2]])
        return found

    def point(self, side: Side) -> QPointF:
        """Where on the screen the handle of a side is seen."""
        y, x, _ = self._eye().near(self._places()[side][None])[0].tolist()
        return QPointF(x, y)

    def at(self, point: QPointF) -> Side | None:
        """The side that a press there would grip."""
        if not self.is_shown:
            return None
        away = {side: (self.point(side) - point).manhattanLength() for side in self._places()}
        nearest = min(away, key=lambda side: away[side])
        return nearest if away[nearest] <= _GRIP_PX and not self._meets(point) else None

    def _along(self, side: Side, ray: Ray) -> float:
        z, y, x = self._places()[side].tolist()
        return nearest_on_line(ray, (z, y, x), side[0])

    def press(self, point: QPointF, ray: Ray) -> bool:
        """Begin to pull; False where there is no handle."""
        self.side, self._by = self.at(point), 0
        if self.side is not None:
            self._start = self._along(self.side, ray)
        return self.side is not None

    def drag(self, ray: Ray) -> None:
        """The pointer went there."""
        if self.side is not None:
            self._by = round(self._along(self.side, ray) - self._start)

    def box(self) -> Box:
        """The room as large as it is pulled, counted from what it is."""
        axis, way = self.side or (0, 0)
        sides, by = [0, 0, 0], [0, 0, 0]
        sides[axis], by[axis] = way, self._by
        return pulled_box(self.session.room.box, tuple(sides), tuple(by))

    def release(self) -> None:
        """Make the room as large as it was pulled."""
        box = self.box()
        self.side = None
        if box != self.session.room.box:
            shift = tuple(-v for v in box.lo)
            self.session.try_(resize_room, self.session.room_name, box.shape, shift)

    def drop(self) -> bool:
        """As it was; False if nothing is pulled."""
        was, self.side = self.side, None
        return was is not None

    def draw(self, painter: QPainter, hover: QPointF | None) -> None:
        """The handles, and the room as it is pulled."""
        if self.side is not None and hover is not None:
            self._draw_box(painter, Qt.PenStyle.DashLine)
            depth, height, width = self.box().shape
            label(painter, hover + QPointF(16, 10), f"room becomes {width} × {height} × {depth}")
            return
        if not self.is_shown:
            return
        gripped = self.at(hover) if hover is not None else None
        if gripped is not None and hover is not None:
            self._draw_box(painter, Qt.PenStyle.DotLine)
            label(painter, hover + QPointF(16, 10), f"pull the {_WORDS[gripped]}")
        for side in self._places():
            filled = side == gripped
            painter.setPen(QPen(style.ink("tidal"), 2.0))
            painter.setBrush(style.ink("tidal") if filled else style.ink("card"))
            painter.drawEllipse(self.point(side), _RADIUS_PX, _RADIUS_PX)

    def _draw_box(self, painter: QPainter, line: Qt.PenStyle) -> None:
        seen = [QPointF(x, y) for y, x, _ in self._eye().near(box_lines(self.box())).tolist()]
        painter.setPen(QPen(style.ink("tidal"), 1.6, line))
        for a, b in zip(seen[::2], seen[1::2], strict=True):
            painter.drawLine(a, b)
