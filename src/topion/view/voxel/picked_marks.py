"""The area that is picked in a voxel room, and the box that is drawn to pick one."""

from __future__ import annotations

from itertools import product

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.grid.meshing import Quads
from topion.view import style
from topion.view.lasso import Lasso
from topion.view.session import Session
from topion.view.table.overlay import label
from topion.view.voxel.ghost import LARGEST_WASH, wash
from topion.view.voxel.piece_marks import SpaceMarks


class SpacePicked:
    """What is drawn of it, for the table that has the card."""

    def __init__(self, session: Session, lasso: Lasso, marks: SpaceMarks) -> None:
        self.session, self.lasso, self._marks = session, lasso, marks

    def _boxes(self) -> list[tuple[Box, str]]:
        """Boxes whose edges are drawn, and the colour of each."""
        found = []
        area = self.session.picking.area
        if area is not None:
            found.append((area.box, "buoy"))
        drawn = self.lasso.area() if self.lasso else None
        if drawn is not None:
            found.append((drawn.box, "tidal" if self.lasso.how == "less" else "buoy"))
        return found

    def hull(self) -> tuple[Area, Quads] | None:
        """The hull of the cells that are picked and hold something; None for none."""
        area, room = self.session.picking.area, self.session.room
        if area is None or max(area.box.shape) > LARGEST_WASH:
            return None
        box = area.box.clipped(room.box)
        full = np.zeros(box.shape, bool)
        for layer_id in self.session.picking.layers():
            layer = room.layers[layer_id]
            if layer.info.traits.shows:
                full |= layer.plane("material")[box.slices] > 0
        cells = np.argwhere(full & area.within(box)) + np.array(box.lo)
        found = wash(cells, area.box)
        return None if found is None else (area, found)

    def bounds(self) -> QRectF:
        """Round all that is picked, as it is seen."""
        whole = QRectF()
        for _, thing in self.session.picking.things():
            at = self._marks.point((thing.z, thing.y, thing.x))
            whole = whole.united(QRectF(at.x() - 14, at.y() - 28, 28, 42))
        if self.session.picking.area is not None:
            whole = whole.united(self._marks.rect(self.session.picking.area.box))
        return whole

    def frame(self) -> QRectF:
        """Round the bodies of the things that are picked."""
        whole = QRectF()
        for _, thing in self.session.picking.things():
            prefab = self.session.project.prefabs.get(thing.prefab)
            tall = 1.0 if prefab is None else prefab.height * thing.scale
            for z, y, x in product((0.0, tall), (-0.5, 0.5), (-0.5, 0.5)):
                at = self._marks.point((thing.z + z - 0.5, thing.y + y, thing.x + x))
                whole = whole.united(QRectF(at.x() - 1, at.y() - 1, 2, 2))
        return whole

    def draw(self, painter: QPainter, hover: QPointF | None) -> None:
        """The edges of the area, and of the box that is drawn with its size."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for box, name in self._boxes():
            for pen in (QPen(QColor(255, 255, 255, 200), 3.6), QPen(style.ink(name), 1.8)):
                painter.setPen(pen)
                self._marks.trace_box(painter, box, 0.0)
        area = self.lasso.area() if self.lasso else None
        if area is not None and hover is not None:
            depth, height, width = area.box.shape
            raised = " · click sets the height" if self.lasso.raising else ""
            label(painter, hover + QPointF(16, 10), f"{width} × {height} × {depth}{raised}")
