"""Pulling the edge of a flat room: a press just outside it, and a drag."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter

from topion.brushes.shape import pulled_box
from topion.edit.rooms import resize_room
from topion.grid.boxes import Box
from topion.view.session import Session
from topion.view.table.camera import Camera
from topion.view.table.overlay import draw_new_edge

_BAND_PX = 8.0  # outside the edge, in which it can be gripped
_CORNER_PX = 18.0
Sides = tuple[int, int]  # (y, x): -1 the first side, 0 none, 1 the last
CURSORS: dict[Sides, Qt.CursorShape] = {
    (0, 1): Qt.CursorShape.SizeHorCursor, (0, -1): Qt.CursorShape.SizeHorCursor,
    (1, 0): Qt.CursorShape.SizeVerCursor, (-1, 0): Qt.CursorShape.SizeVerCursor,
    (1, 1): Qt.CursorShape.SizeFDiagCursor, (-1, -1): Qt.CursorShape.SizeFDiagCursor,
    (1, -1): Qt.CursorShape.SizeBDiagCursor, (-1, 1): Qt.CursorShape.SizeBDiagCursor,
}  # fmt: skip


class Edges:
    """sides : those that are pulled, while a drag is in progress."""

    def __init__(self, session: Session, camera: Camera) -> None:
        self.session, self.camera = session, camera
        self.sides: Sides | None = None
        self._start = QPointF()
        self._by = (0, 0)

    def at(self, point: QPointF) -> Sides | None:
        """Which sides a press there would grip."""
        if not self.session.has_room or self.session.room.info.axes != 2:
            return None
        height, width = self.session.room.info.size
        rect = self.camera.rect_of(0, 0, height, width)
        outer = rect.adjusted(-_BAND_PX, -_BAND_PX, _BAND_PX, _BAND_PX)
        if rect.contains(point) or not outer.contains(point):
            return None
        near_top, near_left = point.y() - rect.top(), point.x() - rect.left()
        near_foot, near_right = rect.bottom() - point.y(), rect.right() - point.x()
        y = -1 if near_top < 0 else 1 if near_foot < 0 else 0
        x = -1 if near_left < 0 else 1 if near_right < 0 else 0
        if not y:
            y = -1 if near_top < _CORNER_PX else 1 if near_foot < _CORNER_PX else 0
        if not x:
            x = -1 if near_left < _CORNER_PX else 1 if near_right < _CORNER_PX else 0
        return (y, x)

    def press(self, point: QPointF) -> bool:
        """Begin to pull; False where there is no edge."""
        self.sides = self.at(point)
        self._start, self._by = point, (0, 0)
        return self.sides is not None

    def drag(self, point: QPointF) -> None:
        """The pointer went there."""
        way = (point - self._start) / self.camera.px
        self._by = (round(way.y()), round(way.x()))

    def box(self) -> Box:
        """The room as large as it is pulled, counted from what it is."""
        return pulled_box(self.session.room.box, self.sides or (0, 0), self._by)

    def release(self) -> None:
        """Make the room as large as it was pulled."""
        box = self.box()
        self.sides = None
        if box != self.session.room.box:
            shift = tuple(-v for v in box.lo)
            self.session.try_(resize_room, self.session.room_name, box.shape, shift)

    def drop(self) -> bool:
        """As it was; False if nothing is pulled."""
        was, self.sides = self.sides, None
        return was is not None

    def draw(self, painter: QPainter) -> None:
        """The edge as it is pulled."""
        if self.sides is not None:
            draw_new_edge(painter, self.camera, self.box(), "room becomes")
