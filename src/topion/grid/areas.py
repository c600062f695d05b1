"""Areas: some cells of a box, of any number of axes."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from topion.grid.arrays import CellList, CellMask, Positions
from topion.grid.boxes import Box


@dataclass(frozen=True, eq=False)
class Area:
    """Cells within a box.  mask : of the shape of the box; never written."""

    box: Box
    mask: CellMask

    @classmethod
    def of_box(cls, box: Box) -> Area:
        """All cells of a box."""
        return cls(box, np.ones(box.shape, bool))

    @classmethod
    def of_cells(cls, cells: CellList) -> Area:
        """(n, axes) cells, each of which may come twice."""
        box = Box.of_cells(cells)
        mask = np.zeros(box.shape, bool)
        mask[tuple((cells - np.array(box.lo, np.intp)).T)] = True
        return cls(box, mask)

    @cached_property
    def cells(self) -> CellList:
        """(n, axes) its cells in array order."""
        return np.argwhere(self.mask) + np.array(self.box.lo, np.intp)

    @cached_property
    def size(self) -> int:
        """Number of its cells."""
        return int(np.count_nonzero(self.mask))

    def __bool__(self) -> bool:
        return bool(self.size)

    def holds(self, cells: CellList) -> CellMask:
        """(n,) which of (n, axes) cells belong to it."""
        inside = self.box.holds(cells)
        found = inside.copy()
        found[inside] = self.mask[tuple((cells[inside] - np.array(self.box.lo, np.intp)).T)]
        return found

    def holds_columns(self, columns: CellList) -> CellMask:
        """(n,) which of (n, 2) columns any of its cells lies in."""
        return self.in_plan(2).holds(columns)

    def in_plan(self, axes: int) -> Area:
        """As something of so many axes sees it: from above, where it has one less."""
        if axes == self.mask.ndim:
            return self
        seen = np.asarray(self.mask.any(axis=0))
        return Area(Box(self.box.lo[1:], self.box.hi[1:]), seen)

    def shifted(self, by: tuple[int, ...]) -> Area:
        """The same so many cells on."""
        return Area(self.box.shifted(by), self.mask)

    def within(self, box: Box) -> CellMask:
        """The mask of `box` that says which of its cells belong to the area."""
        out = np.zeros(box.shape, bool)
        both = self.box.clipped(box)
        if both.size:
            out[both.slices_from(box.lo)] = self.mask[both.slices_from(self.box.lo)]
        return out

    def with_(self, other: Area) -> Area:
        """The cells of both."""
        box = self.box.union(other.box)
        return Area(box, self.within(box) | other.within(box))

    def without(self, other: Area) -> Area:
        """Those that do not lie in the other."""
        return Area(self.box, self.mask & ~other.within(self.box)).trimmed()

    def clipped(self, box: Box) -> Area:
        """Those that lie in a box."""
        both = self.box.clipped(box)
        return Area(both, self.within(both)).trimmed()

    def edges(self) -> list[tuple[int, int, int, int]]:
        """Of a flat area, the lines between its cells and others: (y, x) of both ends, cell corners
        being whole; each as long as it goes straight."""
        padded = np.pad(self.mask, 1).astype(np.int8)
        top, left = self.box.lo[-2:]
        found = []
        for across in (False, True):
            steps = np.diff(padded.T if across else padded, axis=0)
            for sign in (1, -1):
                ends = np.diff((steps == sign).astype(np.int8), axis=1, prepend=0, append=0)
                starts, stops = np.argwhere(ends > 0), np.argwhere(ends < 0)
                for (row, a), (_, b) in zip(starts.tolist(), stops.tolist(), strict=True):
                    line = (row, a - 1, row, b - 1)
                    y0, x0, y1, x1 = (line[1], line[0], line[3], line[2]) if across else line
                    found.append((y0 + top, x0 + left, y1 + top, x1 + left))
        return found

    def trimmed(self) -> Area:
        """The same in the smallest box."""
        return Area.of_cells(self.cells)


def enclosed(way: Positions) -> Area:
    """The cells whose middles a closed way runs round, by the even-odd rule.

    way : (n, 2) corners in cells, whole numbers being middles.  Scan conversion of polygons, as
    in Foley et al., Computer Graphics, section 3.6.  No cells for fewer than three corners.
    """
    if len(way) < 3:
        return Area.of_cells(np.empty((0, 2), np.intp))
    lo, hi = np.ceil(way.min(axis=0)).astype(int), np.floor(way.max(axis=0)).astype(int) + 1
    box = Box(tuple(lo.tolist()), tuple(np.maximum(lo, hi).tolist()))
    ys, xs = np.arange(box.lo[0], box.hi[0]), np.arange(box.lo[1], box.hi[1])
    mask = np.zeros(box.shape, bool)
    for (y0, x0), (y1, x1) in zip(way, np.roll(way, -1, axis=0), strict=True):
        rows = np.flatnonzero((ys >= min(y0, y1)) & (ys < max(y0, y1)))
        if len(rows):
            crossing = x0 + (ys[rows] - y0) * (x1 - x0) / (y1 - y0)
            mask[rows] ^= xs >= crossing[:, None]
    return Area(box, mask).trimmed()


def joined(areas: Iterable[Area]) -> Area | None:
    """The cells of all; None for none."""
    found: Area | None = None
    for area in areas:
        found = area if found is None else found.with_(area)
    return found
