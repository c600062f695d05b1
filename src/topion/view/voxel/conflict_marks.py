"""Where both sides of a merge changed the same in a voxel room: the edges of boxes."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPen

from topion.edit.conflicts import box_of
from topion.grid.boxes import Box
from topion.model.conflict import Conflict
from topion.model.room import Room
from topion.render.eye import Eye
from topion.view import style

_CORNERS = np.array([(z, y, x) for z in (0, 1) for y in (0, 1) for x in (0, 1)], float)
_EDGES = ((0, 1), (0, 2), (0, 4), (1, 3), (1, 5), (2, 3), (2, 6), (3, 7), (4, 5), (4, 6), (5, 7),
          (6, 7))  # fmt: skip


def draw_deep_conflicts(painter: QPainter, room: Room, eye: Eye, current: Conflict | None) -> None:
    """Over a voxel room: the edges of the boxes round them."""
    for conflict in room.conflicts:
        box = box_of(room, conflict)
        if box is None:
            continue
        lo = (0,) * (3 - len(box.lo)) + box.lo
        hi = (room.info.size[0],) * (3 - len(box.hi)) + box.hi
        wide = 3.0 if conflict == current else 1.6
        draw_boxes(painter, eye, [Box(lo, hi)], style.ink("ochre"), wide)


def draw_boxes(
    painter: QPainter, eye: Eye, boxes: Iterable[Box], ink: QColor, wide: float = 1.6
) -> None:
    """The edges of boxes of cells."""
    painter.setPen(QPen(ink, wide))
    for box in boxes:
        lo, hi = np.array(box.lo, float), np.array(box.hi, float)
        points = eye.near(lo + _CORNERS * (hi - lo))
        for a, b in _EDGES:
            (y0, x0), (y1, x1) = points[a, :2].tolist(), points[b, :2].tolist()
            painter.drawLine(QPointF(x0, y0), QPointF(x1, y1))
