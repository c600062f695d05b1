"""Maximal Poisson-disk sets on a torus: no two points closer than 1, no room for another.

Darts are thrown into the squares that are not yet covered; squares that stay open are cut in
four until each is covered by one disk (Ebeida et al., "A simple algorithm for maximal
Poisson-disk sampling in high dimensions", Computer Graphics Forum 31, 2012).  All rounds work
on arrays, and every dart is a hash of seed and place.

Points also get a rank: coarse sets are sown first and kept, so the first points of the order
are themselves evenly spread, and a density becomes a threshold on the rank.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from topion.grid.hashing import hashed, unit

_NEAR = np.array(
    [(dy, dx) for dy in range(-2, 3) for dx in range(-2, 3) if abs(dy * dx) < 4], np.intp
)
_MOST_CUTS = 24
_LEAST = 1.0 + 1e-9  # a breath above 1, so that scaling cannot round below it


@dataclass(frozen=True, eq=False)
class PointTile:
    """Points in [0, period)², at least 1 apart also across the sides.

    points : (n, 2).  ranks : (n,) in [0, 1), evenly spread; lower ones come first.
    """

    period: float
    points: NDArray[np.float64]
    ranks: NDArray[np.float64]


@lru_cache(maxsize=8)
def point_tile(seed: int, period: int = 128, levels: int = 5) -> PointTile:
    """The tile of a seed, made once and kept."""
    points = np.empty((0, 2))
    starts = [0]
    for level in range(levels - 1, -1, -1):
        points = fill_torus(seed + level, float(period), 2.0 ** (level / 2), points)
        starts.append(len(points))
    order = np.concatenate(
        [
            lo + np.argsort(hashed(seed, np.arange(lo, hi)), kind="stable")
            for lo, hi in itertools.pairwise(starts)
        ]
    )
    points = points[order]
    ranks = (np.arange(len(points)) + 0.5) / max(1, len(points))
    points.flags.writeable = ranks.flags.writeable = False
    return PointTile(float(period), points, ranks)


def fill_torus(
    seed: int, period: float, radius: float, first: NDArray[np.float64] | None = None
) -> NDArray[np.float64]:
    """Sow [0, period)² to fullness at `radius`, keeping the points of `first`.

    Returns (n, 2) points, those of `first` ahead.  `period` must be at least 5 radii.
    """
    least = radius * _LEAST
    cells = int(np.ceil(period / (least / np.sqrt(2.0))))
    board = _Board(cells, period / cells, period, least)
    found = [np.empty((0, 2)) if first is None else first]
    board.put(found[0])
    squares = np.arange(cells * cells, dtype=np.intp)
    corner = np.stack(np.divmod(squares, cells), axis=1) * board.side
    size = board.side
    for round_ in range(4 * _MOST_CUTS):
        keep = board.is_free(squares)
        squares, corner = squares[keep], corner[keep]
        if not len(squares):
            break
        open_ = board.open_squares(squares, corner, size)
        squares, corner = squares[open_], corner[open_]
        darts = _darts(seed, round_, squares, corner, size)
        sound = board.free_of_points(squares, darts)
        at, new = board.winners(
            squares[sound], darts[sound], hashed(seed ^ 1, at_bits(darts[sound]))
        )
        board.put_at(at, new)
        found.append(new)
        if round_ >= 2:
            squares, corner, size = _quartered(squares, corner, size)
        if size < board.side * 2.0**-_MOST_CUTS:
            break
    return np.concatenate(found)


def at_bits(points: NDArray[np.float64]) -> NDArray[np.uint64]:
    """(n,) one number for each point, for hashing."""
    bits = np.ascontiguousarray(points).view(np.uint64)
    return np.asarray(bits[:, 0] ^ (bits[:, 1] >> np.uint64(7)) ^ (bits[:, 1] << np.uint64(31)))


def _darts(
    seed: int,
    round_: int,
    squares: NDArray[np.intp],
    corner: NDArray[np.float64],
    size: float,
) -> NDArray[np.float64]:
    place = at_bits(corner).view(np.int64)
    along = [unit(seed, squares, place, 2 * round_ + axis) for axis in (0, 1)]
    return corner + size * np.stack(along, axis=1)


def _quartered(
    squares: NDArray[np.intp], corner: NDArray[np.float64], size: float
) -> tuple[NDArray[np.intp], NDArray[np.float64], float]:
    half = size / 2
    steps = np.array([(0, 0), (0, half), (half, 0), (half, half)])
    return np.repeat(squares, 4), (corner[:, None] + steps).reshape(-1, 2), half


class _Board:
    """A torus of cells so small that each holds one point at the most."""

    def __init__(self, cells: int, side: float, period: float, radius: float) -> None:
        self.cells, self.side, self.period, self.radius = cells, side, period, radius
        self.pitch = cells + 4  # two cells of the far side repeated all round
        self.points = np.full((self.pitch * self.pitch, 2), 1e9)
        self._near = _NEAR[:, 0] * self.pitch + _NEAR[:, 1]

    def _home(self, squares: NDArray[np.intp]) -> NDArray[np.intp]:
        ys, xs = np.divmod(squares, self.cells)
        return (ys + 2) * self.pitch + xs + 2

    def put(self, points: NDArray[np.float64]) -> None:
        cell = np.floor(points / self.side).astype(np.intp).clip(0, self.cells - 1)
        self.put_at(cell[:, 0] * self.cells + cell[:, 1], points)

    def put_at(self, squares: NDArray[np.intp], points: NDArray[np.float64]) -> None:
        """Write points into their cells, and into the repeated rim."""
        ys, xs = np.divmod(squares, self.cells)
        for shift_y in (-self.cells, 0, self.cells):
            for shift_x in (-self.cells, 0, self.cells):
                y, x = ys + shift_y + 2, xs + shift_x + 2
                here = (y >= 0) & (y < self.pitch) & (x >= 0) & (x < self.pitch)
                if here.any():
                    shift = np.array([shift_y, shift_x]) / self.cells * self.period
                    self.points[y[here] * self.pitch + x[here]] = points[here] + shift

    def is_free(self, squares: NDArray[np.intp]) -> NDArray[np.bool_]:
        return self.points[self._home(squares), 0] > 1e8

    def _near_points(self, squares: NDArray[np.intp]) -> NDArray[np.float64]:
        return self.points.take(self._home(squares)[:, None] + self._near, axis=0)

    def open_squares(
        self, squares: NDArray[np.intp], corner: NDArray[np.float64], size: float
    ) -> NDArray[np.bool_]:
        """Squares that no single disk covers wholly."""
        off = np.abs(self._near_points(squares) - (corner + size / 2)[:, None])
        far = off + size / 2  # to the farthest corner, each axis
        return np.asarray(((far * far).sum(axis=2) >= self.radius**2).all(axis=1))

    def free_of_points(
        self, squares: NDArray[np.intp], darts: NDArray[np.float64]
    ) -> NDArray[np.bool_]:
        off = self._near_points(squares) - darts[:, None]
        return np.asarray(((off * off).sum(axis=2) >= self.radius**2).all(axis=1))

    def winners(
        self,
        squares: NDArray[np.intp],
        darts: NDArray[np.float64],
        priority: NDArray[np.uint64],
    ) -> tuple[NDArray[np.intp], NDArray[np.float64]]:
        """Of darts thrown at once, those with no better one closer than the radius."""
        order = np.argsort(priority, kind="stable")
        squares, darts = squares[order], darts[order]
        squares, first = np.unique(squares, return_index=True)
        darts = darts[first]
        thrown = _Board(self.cells, self.side, self.period, self.radius)
        thrown.put_at(squares, darts)
        rank = np.full(self.pitch * self.pitch, np.iinfo(np.intp).max)
        ys, xs = np.divmod(squares, self.cells)
        for shift_y in (-self.cells, 0, self.cells):
            for shift_x in (-self.cells, 0, self.cells):
                y, x = ys + shift_y + 2, xs + shift_x + 2
                here = (y >= 0) & (y < self.pitch) & (x >= 0) & (x < self.pitch)
                rank[y[here] * self.pitch + x[here]] = first[here]
        near = self._home(squares)[:, None] + self._near
        off = thrown.points.take(near, axis=0) - darts[:, None]
        close = (off * off).sum(axis=2) < self.radius**2
        beaten = (close & (rank.take(near) < first[:, None])).any(axis=1)
        return squares[~beaten], darts[~beaten]
