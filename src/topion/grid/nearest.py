"""The nearest of some points, for many places at once."""

from __future__ import annotations

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.grid.arrays import Positions

_FEW = 1 << 18  # pairs up to which all are measured; a tree, and loading SciPy, costs more


# Rent or buy: pairs are measured until as many were as a tree would have cost (Karlin, Manasse,
# Rudolph and Sleator, Competitive snoopy caching, 1988).


class Nearest:
    """Points to which distances are asked for.  points : (n, axes), n at least 1."""

    def __init__(self, points: Positions) -> None:
        self.points = points
        self._tree: scipy.spatial.cKDTree | None = None
        self._measured = 0  # pairs so far
        self._kept: NDArray[np.intp] = np.empty(0, np.intp)  # the points that are in the tree

    def __len__(self) -> int:
        return len(self.points)

    def to(
        self, places: Positions, own: NDArray[np.intp] | None = None
    ) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
        """(m,) distance from each of (m, axes) places to its nearest point, and (m,) which.

        own : (m,) a point that does not count for the place, -1 for none; where no other is
        left, the distance is infinite.  Of points equally near, any.
        """
        self._measured += len(places) * len(self)
        if self._tree is None and self._measured <= _FEW:
            return self.by_pairs(places, own)
        return self.by_tree(places, own)

    def by_pairs(
        self, places: Positions, own: NDArray[np.intp] | None
    ) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
        """By measuring every pair: for few."""
        gap = np.sqrt(((places[:, None] - self.points) ** 2).sum(axis=2))
        rows = np.arange(len(places))
        if own is not None:
            mine = own >= 0
            gap[rows[mine], own[mine]] = np.inf
        best = np.argmin(gap, axis=1)
        return gap[rows, best], best

    def by_tree(
        self, places: Positions, own: NDArray[np.intp] | None
    ) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
        """By a tree, made once: for many."""
        if self._tree is None:
            self._kept = _two_of_each(self.points)
            self._tree = scipy.spatial.cKDTree(
                self.points[self._kept], balanced_tree=False, compact_nodes=False
            )
        if own is None:
            gap, row = self._tree.query(places)
            return np.asarray(gap), np.asarray(self._kept[row], np.intp)
        count = min(2, len(self._kept))
        gap, row = self._tree.query(places, k=[*range(1, count + 1)])
        row = self._kept[row]
        gap = np.where(row == own[:, None], np.inf, gap)
        best = np.argmin(gap, axis=1)
        rows = np.arange(len(places))
        return np.asarray(gap[rows, best]), np.asarray(row[rows, best], np.intp)


def _two_of_each(points: Positions) -> NDArray[np.intp]:
    """(k,) the first two of points that coincide: no tree can part more of them, and a place
    asks at most about two."""
    order = np.lexsort(points.T)
    same = (points[order[1:]] == points[order[:-1]]).all(axis=1)
    third = np.zeros(len(order), bool)
    third[2:] = same[1:] & same[:-1]
    return np.sort(order[~third])
