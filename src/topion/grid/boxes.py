"""Half-open boxes of cells, for any number of axes."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from topion.grid.arrays import CellList


@dataclass(frozen=True, slots=True)
class Box:
    """The cells `lo <= cell < hi` on every axis, in array order."""

    lo: tuple[int, ...]
    hi: tuple[int, ...]

    @classmethod
    def of_shape(cls, shape: Iterable[int]) -> Box:
        hi = tuple(int(n) for n in shape)
        return cls((0,) * len(hi), hi)

    @classmethod
    def of_cells(cls, cells: CellList) -> Box:
        """The smallest box round (n, ndim) cells; an empty box at the origin for none."""
        if not len(cells):
            return cls((0,) * cells.shape[1], (0,) * cells.shape[1])
        return cls(  # axis by axis: many times faster than over both at once
            tuple(int(axis.min()) for axis in cells.T),
            tuple(int(axis.max()) + 1 for axis in cells.T),
        )

    @property
    def shape(self) -> tuple[int, ...]:
        return tuple([b - a if b > a else 0 for a, b in zip(self.lo, self.hi, strict=True)])

    @property
    def size(self) -> int:
        """Number of cells."""
        count = 1
        for a, b in zip(self.lo, self.hi, strict=True):
            if b <= a:
                return 0
            count *= b - a
        return count

    @property
    def slices(self) -> tuple[slice, ...]:
        return tuple(slice(a, b) for a, b in zip(self.lo, self.hi, strict=True))

    def slices_from(self, corner: tuple[int, ...]) -> tuple[slice, ...]:
        """Its slices in an array whose first cell is `corner`."""
        sides = zip(self.lo, self.hi, corner, strict=True)
        return tuple(slice(a - o, b - o) for a, b, o in sides)

    def shifted(self, by: tuple[int, ...]) -> Box:
        """The same box so many cells on."""
        return Box(
            tuple(a + d for a, d in zip(self.lo, by, strict=True)),
            tuple(b + d for b, d in zip(self.hi, by, strict=True)),
        )

    def grown(self, cells: int) -> Box:
        return Box(tuple([a - cells for a in self.lo]), tuple([b + cells for b in self.hi]))

    def clipped(self, other: Box) -> Box:
        """The cells that lie in both; may be empty."""
        lo = tuple([max(a, b) for a, b in zip(self.lo, other.lo, strict=True)])
        hi = [min(a, b) for a, b in zip(self.hi, other.hi, strict=True)]
        return Box(lo, tuple([max(a, b) for a, b in zip(lo, hi, strict=True)]))

    def union(self, other: Box) -> Box:
        """The smallest box round both; an empty one adds nothing."""
        if not self.size:
            return other
        if not other.size:
            return self
        return Box(
            tuple([min(a, b) for a, b in zip(self.lo, other.lo, strict=True)]),
            tuple([max(a, b) for a, b in zip(self.hi, other.hi, strict=True)]),
        )

    def meets(self, other: Box) -> bool:
        return self.clipped(other).size > 0

    def holds(self, cells: CellList) -> np.ndarray:
        """(n,) bool: which of (n, ndim) cells lie inside."""
        inside = np.ones(len(cells), bool)
        for axis, lo, hi in zip(cells.T, self.lo, self.hi, strict=True):
            inside &= axis >= lo
            inside &= axis < hi
        return inside

    def cells(self) -> CellList:
        """All its cells in array order, (n, ndim)."""
        axes = [np.arange(a, b, dtype=np.intp) for a, b in zip(self.lo, self.hi, strict=True)]
        return np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, len(self.lo))
