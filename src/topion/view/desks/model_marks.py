"""What is drawn over the voxels of a model: the frame beside it, faintly, and named points."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from topion.model.solid import VoxelModel
from topion.render.eye import Eye
from topion.render.faces import Faces, faces_of_quads, model_quads
from topion.view import style
from topion.view.table.overlay import label

_MOST_FACES = 6000
_ALPHA = 84


class ModelMarks:
    """neighbour : the frame that is ghosted; None for none.  now : the frame that is built.
    points : by name, in voxels (z, y, x)."""

    def __init__(self) -> None:
        self.now: VoxelModel | None = None
        self.neighbour: VoxelModel | None = None
        self.points: Mapping[str, tuple[int, int, int]] = {}
        self._made: tuple[object, object, Faces | None] | None = None

    def _faces(self) -> Faces | None:
        """The voxels of the neighbour that are open now."""
        if (
            self._made is None
            or self._made[0] is not self.now
            or self._made[1] is not (self.neighbour)
        ):
            self._made = (self.now, self.neighbour, self._mesh())
        return self._made[2]

    def _mesh(self) -> Faces | None:
        now, other = self.now, self.neighbour
        if now is None or other is None or now.size != other.size:
            return None
        cells = np.where(now.cells > 0, 0, other.cells).astype(np.uint8)
        if not cells.any():
            return None
        only = VoxelModel(cells, other.palette, other.per_cell)
        faces = faces_of_quads(model_quads(only), only.rgb)
        return faces if len(faces) <= _MOST_FACES else None

    def draw(self, painter: QPainter, eye: Eye) -> None:
        """Draw both."""
        faces = self._faces()
        if faces is not None:
            self._draw_ghost(painter, eye, faces)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for name, at in self.points.items():
            y, x, depth = eye.near(np.array([at], float) + 0.5)[0].tolist()
            if depth <= 0 and eye.perspective:
                continue
            painter.setPen(QPen(style.ink("card"), 4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(x, y), 5, 5)
            painter.setPen(QPen(style.ink("buoy"), 2))
            painter.drawEllipse(QPointF(x, y), 5, 5)
            label(painter, QPointF(x + 10, y - 8), name)

    def _draw_ghost(self, painter: QPainter, eye: Eye, faces: Faces) -> None:
        middle = faces.corners + (faces.us + faces.vs) / 2
        towards = middle - eye.place if eye.perspective else eye.forward
        facing = np.flatnonzero((faces.normals * towards).sum(axis=1) < 0)
        depth = eye.near(middle[facing])[:, 2]
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setPen(QPen(QColor(255, 255, 255, _ALPHA), 1))
        for row in facing[np.argsort(-depth)].tolist():
            corner, u, v = faces.corners[row], faces.us[row], faces.vs[row]
            seen = eye.near(np.array([corner, corner + u, corner + u + v, corner + v]))
            red, green, blue = faces.rgb[row].tolist()
            painter.setBrush(QColor(red, green, blue, _ALPHA))
            painter.drawPolygon(QPolygonF([QPointF(x, y) for y, x, _ in seen.tolist()]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
