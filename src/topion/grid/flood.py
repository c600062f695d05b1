"""Flood: the cells like the one under the pointer, connected or all of them.

A window round the start is labelled first; only if the region touches its edge is a larger
one looked at, so the cost follows the region and not the room.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import scipy  # its parts are loaded at first use

from topion.grid.arrays import CellMask
from topion.grid.boxes import Box

_FIRST_HALF_SIDE = 112
_GROWTH = 4


def flood_box(
    cells: np.ndarray, start: Sequence[int], *, corners: bool = False
) -> tuple[Box, CellMask]:
    """The connected region of cells equal to the one at `start`.

    cells : (h, w) or (d, h, w), any dtype.  start : a cell inside it.
    corners : also step over corners (8 or 26 neighbours instead of 4 or 6).
    Returns the smallest box round the region and its mask in that box.
    Raises IndexError if `start` lies outside.
    """
    whole = Box.of_shape(cells.shape)
    at = tuple(int(v) for v in start)
    if not Box(at, tuple(v + 1 for v in at)).meets(whole):
        raise IndexError(f"cell {at} lies outside the room")
    half = _FIRST_HALF_SIDE
    while True:
        window = Box(at, tuple(v + 1 for v in at)).grown(half).clipped(whole)
        region = _region(cells[window.slices], cells[at], at, window, corners)
        if window == whole or not _touches_inner_edge(region, window, whole):
            return _tight(region, window)
        half = half * _GROWTH if half == _FIRST_HALF_SIDE else max(cells.shape)


def _region(
    part: np.ndarray, value: object, at: tuple[int, ...], window: Box, corners: bool
) -> CellMask:
    alike = part == value
    if alike.all():
        return alike
    structure = scipy.ndimage.generate_binary_structure(part.ndim, part.ndim if corners else 1)
    labels, _ = scipy.ndimage.label(alike, structure)
    return np.asarray(labels == labels[tuple(a - o for a, o in zip(at, window.lo, strict=True))])


def _touches_inner_edge(region: CellMask, window: Box, whole: Box) -> bool:
    """Whether the region reaches a side of the window that is not a side of the room."""
    for axis in range(region.ndim):
        if window.lo[axis] > whole.lo[axis] and region.take(0, axis).any():
            return True
        if window.hi[axis] < whole.hi[axis] and region.take(-1, axis).any():
            return True
    return False


def _tight(region: CellMask, window: Box) -> tuple[Box, CellMask]:
    lo, hi = [], []
    for axis in range(region.ndim):
        others = tuple(a for a in range(region.ndim) if a != axis)
        filled = np.flatnonzero(region.any(axis=others))
        lo.append(int(filled[0]))
        hi.append(int(filled[-1]) + 1)
    inner = Box(tuple(lo), tuple(hi))
    box = Box(
        tuple(a + o for a, o in zip(lo, window.lo, strict=True)),
        tuple(b + o for b, o in zip(hi, window.lo, strict=True)),
    )
    return box, region[inner.slices]


def flood_cells(
    cells: np.ndarray, start: Sequence[int], *, corners: bool = False, everywhere: bool = False
) -> np.ndarray:
    """(n, ndim) cells of the flood in array order; `everywhere` takes all equal cells."""
    if everywhere:
        return np.argwhere(cells == cells[tuple(int(v) for v in start)])
    box, region = flood_box(cells, start, corners=corners)
    return np.argwhere(region) + np.array(box.lo)
