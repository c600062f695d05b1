"""A curve as the marks of a stroke, so that any brush can be laid along it."""

from __future__ import annotations

import numpy as np

from topion.brushes.gestures import cell_of
from topion.brushes.kind import BrushKind
from topion.brushes.marks import Marks, Place
from topion.grid.arrays import Positions
from topion.grid.lines import path_cells
from topion.model.curve import Curve
from topion.things.along import grounded

_APART = 0.3  # cells from one position to the next


def marks_along(place: Place, curve: Curve, brush: BrushKind) -> Marks:
    """What a pointer would mark that went along the curve with the brush in hand.

    Of a curve on the ground these are the cells above what carries there, or the blocks themselves
    for brushes that mean those.
    """
    way, knots = (_lifted(place, curve, brush, at)
                  for at in (curve.line.samples(_APART), curve.places))  # fmt: skip
    if curve.closed:
        way, knots = (np.concatenate([at, at[:1]]) for at in (way, knots))
    cells = path_cells(cell_of(way))
    across = 0 if way.shape[1] == 3 else None
    return Marks(cells, way, across=across, knots=(cell_of(knots),), drawn=(way,), by="drag")


def _lifted(place: Place, curve: Curve, brush: BrushKind, at: Positions) -> Positions:
    if not (curve.on_ground and curve.axes == 3):
        return at
    found = grounded(place.project, place.room, at)
    found[:, 0] = np.ceil(found[:, 0]) - (1 if brush.meets else 0)
    return np.maximum(found, [0, -np.inf, -np.inf])
