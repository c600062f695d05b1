"""Outlines and handles of pieces in a voxel room, as the eye sees them."""

from __future__ import annotations

import itertools
from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter

from topion.brushes.shape import Handle
from topion.grid.boxes import Box
from topion.model.piece import Piece
from topion.render.eye import Eye
from topion.view.pulls import Pulls
from topion.view.session import Session
from topion.view.table.piece_marks import PieceMarks

_ROOMY_PX = 130.0  # from which corners have handles beside those of the sides
_CORNERS = np.array(list(itertools.product((0, 1), repeat=3)), float)
_EDGES = [(a, b) for a, b in itertools.combinations(range(8), 2)
          if np.abs(_CORNERS[a] - _CORNERS[b]).sum() == 1]  # fmt: skip


class SpaceMarks(PieceMarks):
    """eye : that of the table, which moves."""

    def __init__(self, session: Session, eye: Callable[[], Eye], pulls: Pulls) -> None:
        super().__init__(session, pulls)
        self._eye = eye

    def point(self, at: tuple[float, ...]) -> QPointF:
        y, x, _ = self._eye().near(np.array([at], float) + 0.5)[0].tolist()
        return QPointF(x, y)

    def _corners(self, box: Box) -> list[QPointF]:
        at = np.array(box.lo) + _CORNERS * np.array(box.shape)
        return [QPointF(x, y) for y, x, _ in self._eye().near(at).tolist()]

    def handles(self, piece: Piece) -> tuple[Handle, ...]:
        """On the sides that are seen, and at corners where there is room for them."""
        found, forward = super().handles(piece), self._eye().forward
        seen = self.rect(piece.box)
        wide = min(seen.width(), seen.height()) > _ROOMY_PX
        return tuple(
            h for h in found
            if h.point >= 0
            or (sum(map(abs, h.sides)) == 1 and float(np.dot(h.sides, forward)) < 0)
            or (sum(map(abs, h.sides)) == 3 and wide)
            or sum(map(abs, h.sides)) == 2
        )  # fmt: skip

    def rect(self, box: Box) -> QRectF:
        seen = self._corners(box)
        xs, ys = [p.x() for p in seen], [p.y() for p in seen]
        return QRectF(min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys))

    def trace_box(self, painter: QPainter, box: Box, inset: float) -> None:
        seen = self._corners(box)
        for a, b in _EDGES:
            painter.drawLine(seen[a], seen[b])
