"""The nearest of some points, for many places at once."""

from __future__ import annotations

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.grid.arrays import Positions

_FEW = 1 << 18  # pairs up to which all are measured; a tree, and loading SciPy, costs more


class Nearest:
    """Points to which distances are asked for.  points : (n, axes), n at least 1."""

    def __init__(self, points: Positions) -> None:
        self.points = points
        self._tree: scipy.spatial.cKDTree | None = None

    def __len__(self) -> int:
        return len(self.points)

    def to(
        self, places: Positions, own: NDArray[np.intp] | None = None
    ) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
        """(m,) distance from each of (m, axes) places to its nearest point, and (m,) which.

        own : (m,) a point that does not count for the place, -1 for none; where no other is
        left, the distance is infinite.
        """
        if len(places) * len(self) <= _FEW:
            return self._by_pairs(places, own)
        return self._by_tree(places, own)

    def _by_pairs(
        self, places: Positions, own: NDArray[np.intp] | None
    ) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
        gap = np.sqrt(((places[:, None] - self.points) ** 2).sum(axis=2))
        rows = np.arange(len(places))
        if own is not None:
            mine = own >= 0
            gap[rows[mine], own[mine]] = np.inf
        best = np.argmin(gap, axis=1)
        return gap[rows, best], best

    def _by_tree(
        self, places: Positions, own: NDArray[np.intp] | None
    ) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
        if self._tree is None:
            self._tree = scipy.spatial.cKDTree(self.points)
        count = 1 if own is None else min(2, len(self))
        gap, row = self._tree.query(places, k=[*range(1, count + 1)])
        if own is not None:
            gap = np.where(row == own[:, None], np.inf, gap)
        best = np.argmin(gap, axis=1)
        rows = np.arange(len(places))
        return np.asarray(gap[rows, best]), np.asarray(row[rows, best], np.intp)
