"""A designer in a voxel room."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPoint, QPointF

from tests.view.designer import Designer


class Modeller(Designer):
    """A designer in a voxel room: points at faces, or at cells of the work plane."""

    def at(self, cell) -> QPoint:
        """A cell as (z, y, x), or (face, z, y, x) for the middle of one of its sides."""
        if len(cell) == 4:
            return self.table.face_centre(*cell).toPoint()
        work, eye = self.session.planes.here, self.table.eye
        middle = np.array(cell, float) + 0.5
        if work.aim == "plane":  # the face of the cell on which the plane is drawn
            middle[work.axis] = cell[work.axis] + (1.0 if eye.forward[work.axis] > 0 else 0.0)
        y, x, _ = eye.seen(middle[None])[0].tolist()
        return QPointF(x, y).toPoint()

    def picture(self) -> np.ndarray:
        """(h, w, 3) what the table shows."""
        self.qtbot.waitUntil(self.table.settled, timeout=5000)
        image = self.table.grabFramebuffer()
        image = image.convertToFormat(image.Format.Format_RGBA8888)
        data = image.constBits().asstring(image.sizeInBytes())
        return np.frombuffer(data, np.uint8).reshape(image.height(), image.width(), 4)[..., :3]

    def away(self) -> None:
        """The pointer leaves the table, and with it the ghost."""
        self.table.leaveEvent(None)
        self.settle()
