"""Regions of the room, washed over its cells with their names."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen

from topion.brushes.kind import brush_or_none
from topion.brushes.region import RegionBrush
from topion.grid.boxes import Box
from topion.model.layer import Layer
from topion.view import style
from topion.view.hands import HANDS
from topion.view.session import Session
from topion.view.table.camera import Camera
from topion.view.table.compose import image_of
from topion.view.table.ghost import PlannedGhost
from topion.view.table.overlay import label

Seen = Callable[[NDArray[np.float64]], NDArray[np.float64]]
INKS = {"view": "tidal", "zone": "ochre", "trigger": "buoy", "": "ochre"}
_INSIDE, _EDGE = 56, 150  # how solid


def shows_regions(session: Session) -> bool:
    """Whether one of the hands draws regions."""
    brushes = (brush_or_none(session.project, session.hands[hand]) for hand in HANDS)
    return session.has_room and any(isinstance(brush, RegionBrush) for brush in brushes)


def draw_regions(painter: QPainter, session: Session, camera: Camera, ghost: PlannedGhost) -> None:
    """Over the table of a flat room, while one of the hands draws them; as the ghost has them."""
    if not shows_regions(session):
        return
    for _, layer in ghost.room_then().regions():
        if layer.info.shown:
            _draw_region(painter, layer, camera)


def _draw_region(painter: QPainter, layer: Layer, camera: Camera) -> None:
    inside = layer.plane("inside") > 0
    if not inside.any():
        return
    box = Box.of_cells(np.argwhere(inside))
    own = inside[box.slices]
    padded = np.pad(own, 1)
    whole = padded[:-2, 1:-1] & padded[2:, 1:-1] & padded[1:-1, :-2] & padded[1:-1, 2:]
    ink = style.ink(INKS[layer.info.purpose])
    rgba = np.zeros((*own.shape, 4), np.uint8)
    rgba[own] = (ink.red(), ink.green(), ink.blue(), _EDGE)
    rgba[own & whole, 3] = _INSIDE
    target = camera.rect_of(box.lo[0], box.lo[1], box.hi[0], box.hi[1])
    painter.drawImage(target, image_of(rgba))
    words = f"{layer.info.name} · {layer.info.purpose or 'zone'}"
    label(painter, QPointF(target.left() + 6, target.top() + 6), words)


def draw_deep_regions(painter: QPainter, session: Session, seen: Seen, ghost: PlannedGhost) -> None:
    """Over the table of a voxel room: the box round each region.  seen : tells where (n, 3) places
    are on the screen, as (y, x, depth)."""
    if not shows_regions(session):
        return
    for _, layer in ghost.room_then().regions():
        cells = np.argwhere(layer.plane("inside"))
        if not len(cells) or not layer.info.shown:
            continue
        lo, hi = cells.min(axis=0), cells.max(axis=0) + 1
        ends = np.array([[(lo, hi)[i][0], (lo, hi)[j][1], (lo, hi)[k][2]]
                         for i in (0, 1) for j in (0, 1) for k in (0, 1)], float)  # fmt: skip
        places = [QPointF(x, y) for y, x, _ in seen(ends).tolist()]
        painter.setPen(QPen(style.ink(INKS[layer.info.purpose]), 1.8, Qt.PenStyle.DashLine))
        for a in range(8):
            for bit in (1, 2, 4):
                if not a & bit:
                    painter.drawLine(places[a], places[a | bit])
        label(painter, places[4] + QPointF(4, -4), f"{layer.info.name} · {layer.info.purpose}")
