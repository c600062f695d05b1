"""Where both sides of a merge changed the same, hatched over the table."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QRegion

from topion.edit.conflicts import box_of
from topion.grid.boxes import Box
from topion.model.conflict import CellsConflict, Conflict
from topion.model.room import Room
from topion.view import style
from topion.view.table.camera import Camera

_FILL, _MOST_RUNS = 46, 20_000
_PITCH = 9  # px between lines of the hatch


def draw_conflicts(painter: QPainter, room: Room, camera: Camera, current: Conflict | None) -> None:
    """Over a flat room.  current : the one that is spoken of."""
    for conflict in room.conflicts:
        box = box_of(room, conflict)
        if box is None:
            continue
        ink = QColor(style.ink("ochre"))
        wide = 3.0 if conflict == current else 1.6
        painter.setPen(QPen(ink, wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        if isinstance(conflict, CellsConflict):
            mask = conflict.cells.cells > 0
            region = QRegion()
            for run in _runs(mask, box, camera):
                region = region.united(run)
            painter.save()
            painter.setClipRegion(region, Qt.ClipOperation.IntersectClip)
            _hatch(painter, QRectF(region.boundingRect()), ink)
            painter.restore()
            for a, b in _outline(mask, box, camera):
                painter.drawLine(a, b)
        else:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(camera.rect_of(*box.lo[-2:], *box.hi[-2:]).adjusted(-5, -5, 5, 5))


def _hatch(painter: QPainter, rect: QRectF, ink: QColor) -> None:
    """Lines from corner to corner over what shows below, and a thin wash."""
    wash = QColor(ink)
    wash.setAlpha(_FILL)
    painter.fillRect(rect, wash)
    painter.setPen(QPen(ink, 1.4))
    step = rect.left() + rect.top()
    first = int(step // _PITCH) * _PITCH
    for at in range(first, int(rect.right() + rect.bottom()) + _PITCH, _PITCH):
        painter.drawLine(QPointF(at - rect.top(), rect.top()),
                         QPointF(at - rect.bottom(), rect.bottom()))  # fmt: skip


def _runs(mask: np.ndarray, box: Box, camera: Camera) -> Iterator[QRect]:
    padded = np.pad(mask, ((0, 0), (1, 1))).astype(np.int8)
    step = np.diff(padded, axis=1)
    rows, firsts = np.nonzero(step == 1)
    _, lasts = np.nonzero(step == -1)
    for y, a, b in zip(rows[:_MOST_RUNS].tolist(), firsts.tolist(), lasts.tolist(), strict=False):
        top, left = box.lo[0] + y, box.lo[1]
        yield camera.rect_of(top, left + a, top + 1, left + b).toAlignedRect()


def _outline(mask: np.ndarray, box: Box, camera: Camera) -> Iterator[tuple[QPointF, QPointF]]:
    """The sides of cells beyond which there is none of it."""
    padded = np.pad(mask, 1)
    inner = padded[1:-1, 1:-1]
    sides = (
        (inner & ~padded[:-2, 1:-1], (0, 0), (0, 1)), (inner & ~padded[2:, 1:-1], (1, 0), (1, 1)),
        (inner & ~padded[1:-1, :-2], (0, 0), (1, 0)), (inner & ~padded[1:-1, 2:], (0, 1), (1, 1)),
    )  # fmt: skip
    for own, first, last in sides:
        for y, x in np.argwhere(own)[:_MOST_RUNS].tolist():
            top, left = box.lo[0] + y, box.lo[1] + x
            rect = camera.rect_of(top, left, top + 1, left + 1)
            yield _corner(rect, first), _corner(rect, last)


def _corner(rect: QRectF, at: tuple[int, int]) -> QPointF:
    return QPointF(rect.right() if at[1] else rect.left(), rect.bottom() if at[0] else rect.top())
