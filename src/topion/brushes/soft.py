"""Strokes with a soft edge, over cells of a flat room or columns of a voxel room."""

from __future__ import annotations

from typing import Literal

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.brushes.marks import Marks
from topion.grid.arrays import CellList
from topion.grid.boxes import Box
from topion.grid.lines import first_of_each

Falloff = Literal["smooth", "straight", "round", "sharp"]
_MUCH_LARGER = 16  # times; asking for each cell is dearer than a transform of all


def soft_columns(
    plan: Box, marks: Marks, radius: float, soft: float, curve: Falloff = "smooth"
) -> tuple[CellList, NDArray[np.float64]]:
    """(n, 2) columns inside `plan` the stroke reaches, and how strongly, 0 to 1.

    A drawn path reaches `radius` cells, softly over the last `soft` of them; cells that were
    named one by one are just those.  curve : how it fades out over the soft edge.
    """
    found, share = _reached(plan, marks, radius, soft, curve)
    if marks.within is None:
        return found, share
    inside = marks.within.holds_columns(found)
    return found[inside], share[inside]


def soft_reach(marks: Marks, radius: float) -> Box:
    """Round all columns that such a stroke reaches, in the levels of its marks."""
    box = Box.of_cells(marks.cells)
    by = int(np.floor(radius)) if marks.path is not None else 0
    plan = Box(box.lo[-2:], box.hi[-2:]).grown(by)
    return Box((*box.lo[:-2], *plan.lo), (*box.hi[:-2], *plan.hi))


def _reached(
    plan: Box, marks: Marks, radius: float, soft: float, curve: Falloff
) -> tuple[CellList, NDArray[np.float64]]:
    columns = first_of_each(marks.cells[:, -2:])
    if marks.path is None:
        cells = columns[plan.holds(columns)]
        return cells, np.full(len(cells), marks.strength)
    outer = Box.of_cells(columns).grown(int(np.ceil(radius)))
    box = outer.clipped(plan)
    if not box.size:
        return np.empty((0, 2), np.intp), np.empty(0)
    share = falloff(_distances(columns, outer, box), radius, soft, curve)
    cells = np.argwhere(share > 0)
    return cells + box.lo, share[share > 0] * marks.strength


def _distances(columns: CellList, outer: Box, box: Box) -> NDArray[np.float64]:
    """How far each cell of `box` is from the nearest column; all of these lie in `outer`."""
    if outer.size > _MUCH_LARGER * box.size:
        tree = scipy.spatial.cKDTree(columns)
        found, _ = tree.query(box.cells())
        return np.asarray(found).reshape(box.shape)
    away = np.ones(outer.shape, bool)
    away[tuple((columns - outer.lo).T)] = False
    inner = tuple(slice(a - o, b - o) for a, b, o in zip(box.lo, box.hi, outer.lo, strict=True))
    return np.asarray(scipy.ndimage.distance_transform_edt(away))[inner]


def falloff(
    far: NDArray[np.float64], radius: float, soft: float, curve: Falloff = "smooth"
) -> NDArray[np.float64]:
    """1 within `radius - soft`, 0 beyond `radius`, falling between: in a smooth step, straight,
    round as a dome, or sharply towards a point."""
    soft = min(soft, radius)
    if soft <= 0:
        return (far <= radius).astype(np.float64)
    t = np.clip((radius - far) / soft, 0.0, 1.0)
    match curve:
        case "straight":
            return np.asarray(t)
        case "round":
            return np.asarray(np.sqrt(1 - (1 - t) ** 2))
        case "sharp":
            return np.asarray(t * t)
    return np.asarray(t * t * (3 - 2 * t))
