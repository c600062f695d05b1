"""From points to cells: lines, boxes, nibs; for any number of axes."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np

from topion.grid.arrays import CellList, Positions
from topion.grid.boxes import Box


def line_cells(start: Sequence[int], end: Sequence[int]) -> CellList:
    """The cells of a straight line, both ends included, each step touching the last.

    One cell for each step along the longest axis (the midpoint line of Bresenham 1965 in
    integer form). Returns (n, ndim), start first; n is the longest extent + 1.
    """
    a, b = np.asarray(start, np.intp), np.asarray(end, np.intp)
    steps = int(np.abs(b - a).max(initial=0))
    if steps == 0:
        return a[None, :].copy()
    t = np.arange(steps + 1, dtype=np.intp)[:, None]
    return a + np.floor_divide(2 * t * (b - a) + steps, 2 * steps)


def path_cells(points: CellList) -> CellList:
    """The cells of a polyline through (n, ndim) cells, without gaps, each cell once, in order."""
    if len(points) < 2:
        return points.copy()
    parts = [line_cells(a, b) for a, b in itertools.pairwise(points)]
    return first_of_each(np.concatenate(parts))


def at_pitch(points: Positions, pitch: float) -> Positions:
    """(m, ndim) positions along a polyline through (n, ndim) `points`, `pitch` cells from each
    other, the first where it begins."""
    steps = np.linalg.norm(np.diff(points, axis=0), axis=1)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    wanted = np.arange(0.0, along[-1] + 1e-9, pitch)
    columns = [np.interp(wanted, along, points[:, axis]) for axis in range(points.shape[1])]
    return np.stack(columns, axis=1)


def box_between(a: Sequence[int], b: Sequence[int]) -> Box:
    """The box with the cells `a` and `b` in opposite corners, both included."""
    return Box(
        tuple(min(p, q) for p, q in zip(a, b, strict=True)),
        tuple(max(p, q) + 1 for p, q in zip(a, b, strict=True)),
    )


def outline_cells(box: Box) -> CellList:
    """The cells of `box` that touch its border."""
    cells = box.cells()
    lo, hi = np.array(box.lo), np.array(box.hi) - 1
    return cells[((cells == lo) | (cells == hi)).any(axis=1)]


def first_of_each(cells: CellList) -> CellList:
    """`cells` without repeats, in the order of their first coming."""
    if len(cells) < 2:
        return cells
    lo = cells.min(axis=0)
    span = cells.max(axis=0) - lo + 1
    flat = np.ravel_multi_index(tuple((cells - lo).T), tuple(span))
    _, first = np.unique(flat, return_index=True)
    return cells[np.sort(first)]


def nib_offsets(width: int, ndim: int = 2, *, round_: bool = False) -> CellList:
    """Offsets of a square or round nib `width` cells wide; even widths lean to the start."""
    lo = -(width // 2)
    box = Box((lo,) * ndim, (lo + width,) * ndim)
    offsets = box.cells()
    if round_ and width > 2:
        centre = lo + (width - 1) / 2
        offsets = offsets[((offsets - centre) ** 2).sum(axis=1) <= (width / 2) ** 2]
    return offsets


def widened(
    cells: CellList, width: int, *, round_: bool = False, across: int | None = None
) -> CellList:
    """Every cell that a nib of `width` cells covers on its way through `cells`.

    across : an axis along which the nib is only one cell thick.
    """
    if width <= 1:
        return cells
    offsets = nib_offsets(width, cells.shape[1], round_=round_)
    if across is not None:
        offsets = offsets[offsets[:, across] == 0]
    return first_of_each((cells[:, None, :] + offsets).reshape(-1, cells.shape[1]))
