"""Where both sides of a merge changed the same, hatched over the table."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen

from topion.edit.conflicts import box_of
from topion.grid.boxes import Box
from topion.model.conflict import CellsConflict, Conflict
from topion.model.room import Room
from topion.view import style
from topion.view.table.camera import Camera
from topion.view.table.mask_marks import draw_edges, seen_part, wash

_FILL, _PITCH = 46, 9  # how solid the wash is; px between lines of the hatch
_HATCHED_PX = 4  # of a cell; smaller ones are washed only
_MOST_HATCHED = 20_000  # cells


def draw_conflicts(
    painter: QPainter, room: Room, camera: Camera, view: QRectF, current: Conflict | None
) -> None:
    """Over a flat room.  current : the one that is spoken of."""
    for conflict in room.conflicts:
        box = box_of(room, conflict)
        if box is None:
            continue
        ink = QColor(style.ink("ochre"))
        painter.setPen(QPen(ink, 3.0 if conflict == current else 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if isinstance(conflict, CellsConflict):
            _draw_cells(painter, conflict, box, camera, view, ink)
        else:
            painter.drawEllipse(camera.rect_of(*box.lo[-2:], *box.hi[-2:]).adjusted(-5, -5, 5, 5))


def _draw_cells(
    painter: QPainter, conflict: CellsConflict, box: Box, camera: Camera, view: QRectF, ink: QColor
) -> None:
    mask, seen = seen_part(conflict.cells.cells > 0, box, camera, view)
    if not mask.any():
        return
    wash(painter, mask, seen, camera, ink, _FILL)
    if camera.px >= _HATCHED_PX and mask.size <= _MOST_HATCHED:
        cells = QPainterPath()
        for y, x in zip(*mask.nonzero(), strict=True):
            top, left = seen.lo[0] + int(y), seen.lo[1] + int(x)
            cells.addRect(camera.rect_of(top, left, top + 1, left + 1))
        painter.save()
        painter.setClipPath(cells, Qt.ClipOperation.IntersectClip)
        _hatch(painter, camera.rect_of(*seen.lo, *seen.hi), ink)
        painter.restore()
    draw_edges(painter, mask, seen, camera)


def _hatch(painter: QPainter, rect: QRectF, ink: QColor) -> None:
    """Lines from corner to corner over what shows below."""
    painter.setPen(QPen(ink, 1.4))
    first = int((rect.left() + rect.top()) // _PITCH) * _PITCH
    for at in range(first, int(rect.right() + rect.bottom()) + _PITCH, _PITCH):
        painter.drawLine(QPointF(at - rect.top(), rect.top()),
                         QPointF(at - rect.bottom(), rect.bottom()))  # fmt: skip
