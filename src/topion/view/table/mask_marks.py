"""Cells under a mask, washed and edged over the table of a flat room."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QColor, QPainter

from topion.grid.boxes import Box
from topion.view.table.camera import Camera
from topion.view.table.compose import image_of

_MOST_SEEN = 1 << 22  # cells in view of which each is marked


def seen_part(
    mask: NDArray[np.bool_], box: Box, camera: Camera, view: QRectF
) -> tuple[NDArray[np.bool_], Box]:
    """The part of a mask, which lies over `box`, that is in view; none of it where that is too
    much to be told apart."""
    lo = np.floor(np.array(camera.to_cells(view.topLeft())) + 0.5).astype(int) - 1
    hi = np.floor(np.array(camera.to_cells(view.bottomRight())) + 0.5).astype(int) + 2
    seen = Box(tuple(lo.tolist()), tuple(hi.tolist())).clipped(box)
    if not seen.size or seen.size > _MOST_SEEN:
        return np.zeros((0, 0), bool), Box((0, 0), (0, 0))
    return mask[seen.slices_from(box.lo)], seen


def wash(
    painter: QPainter, mask: NDArray[np.bool_], box: Box, camera: Camera, ink: QColor, solid: int
) -> None:
    """Lay a colour over the cells.  solid : 0 to 255."""
    rgba = np.zeros((*mask.shape, 4), np.uint8)
    rgba[mask] = (ink.red(), ink.green(), ink.blue(), solid)
    painter.drawImage(camera.rect_of(*box.lo, *box.hi), image_of(rgba))


def draw_edges(painter: QPainter, mask: NDArray[np.bool_], box: Box, camera: Camera) -> None:
    """The lines between the cells and all others, each run of them as one."""
    padded = np.pad(mask, 1).astype(np.int8)
    for axis in (0, 1):
        step = np.diff(padded, axis=axis) != 0
        for at, row in enumerate(step if axis == 0 else step.T):
            ends = np.flatnonzero(np.diff(np.pad(row.astype(np.int8), 1)))
            for a, b in zip(ends[::2].tolist(), ends[1::2].tolist(), strict=True):
                cells = ((at, a - 1), (at, b - 1)) if axis == 0 else ((a - 1, at), (b - 1, at))
                first, last = (_corner(box.lo[0] + y, box.lo[1] + x, camera) for y, x in cells)
                painter.drawLine(first, last)


def _corner(y: int, x: int, camera: Camera) -> QPointF:
    """The north-west corner of a cell."""
    return QPointF(camera.left + x * camera.px, camera.top + y * camera.px)
