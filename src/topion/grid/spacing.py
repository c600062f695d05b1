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
from functools import cached_property, lru_cache
from typing import Any

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion import progress
from topion.grid.hashing import hashed, mixed

_NEAR = sorted(
    ((dy, dx) for dy in range(-2, 3) for dx in range(-2, 3) if abs(dy * dx) < 4 and (dy or dx)),
    key=lambda step: step[0] ** 2 + step[1] ** 2,
)
_STEPS_AT_ONCE = 4
_MOST_TABLES = 64  # of either kind that are kept
_made: set[tuple[float, ...]] = set()
_DENSE_ROUNDS = 5  # of darts into whole cells, before squares are cut
_MOST_CUTS = 24
_LEAST = 1.0 + 1e-9  # a breath above 1, so that scaling cannot round below it
_NOWHERE = 1e9
_ODD = np.uint64(0x9E3779B97F4A7C15)
_WORST = np.uint64(0xFFFF_FFFF_FFFF_FFFF)
Places = NDArray[np.complex128]  # y + x · i, so that both come with one look-up


@dataclass(frozen=True, eq=False)
class PointTile:
    """Points in [0, period)², at least 1 apart also across the sides.

    points : (n, 2).  ranks : (n,) in [0, 1), evenly spread; lower ones come first.
    """

    period: float
    points: NDArray[np.float64]
    ranks: NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class PointPairs:
    """Points of a tile that lie close to each other, also across its sides.

    first, second : (m,) places in the tile.  step : (m, 2) which repeat of the tile the second
    stands in, counted from that of the first.  gap : (m,) distances.
    """

    first: NDArray[np.intp]
    second: NDArray[np.intp]
    step: NDArray[np.intp]
    gap: NDArray[np.float64]

    @cached_property
    def by_step(self) -> list[tuple[tuple[int, int], NDArray[np.intp]]]:
        """The places of the pairs in each of the steps that occur."""
        found = []
        for step in np.unique(self.step, axis=0):
            mine = np.flatnonzero((self.step == step).all(axis=1))
            found.append(((int(step[0]), int(step[1])), mine))
        return found


def tables_made(seed: int, reach: float = 0.0) -> bool:
    """Whether the tile of a seed, and its pairs for a reach above 0, were made already."""
    return (seed,) in _made and (not reach or (seed, reach) in _made)


@lru_cache(maxsize=_MOST_TABLES)
def point_pairs(seed: int, reach: float, period: int = 64) -> PointPairs:
    """All pairs of the tile of a seed that are closer than `reach`, each once."""
    tile = point_tile(seed, period)
    pairs = scipy.spatial.cKDTree(tile.points, boxsize=tile.period).query_pairs(
        reach, output_type="ndarray"
    )
    first, second = pairs[:, 0], pairs[:, 1]
    off = tile.points[second] - tile.points[first]
    step = -np.round(off / tile.period).astype(np.intp)
    gap = np.linalg.norm(off + step * tile.period, axis=1)
    _made.add((seed, reach))
    return PointPairs(first, second, step, gap)


@lru_cache(maxsize=_MOST_TABLES)
def point_tile(seed: int, period: int = 64, levels: int = 5) -> PointTile:
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
    _made.add((seed,))
    return PointTile(float(period), points, ranks)


def fill_torus(
    seed: int, period: float, radius: float, first: NDArray[np.float64] | None = None
) -> NDArray[np.float64]:
    """Sow [0, period)² to fullness at `radius`, keeping the points of `first`.

    Returns (n, 2) points, those of `first` ahead.  `period` must be at least 5 radii.
    """
    cells = int(np.ceil(period / (radius * _LEAST / np.sqrt(2.0))))
    side = period / cells
    board = _Board(cells, (radius * _LEAST / side) ** 2)
    found = [np.empty((0, 2)) if first is None else first]
    if first is not None:
        inner = np.minimum(np.floor(first / side), cells - 1).astype(np.intp)
        board.put(_home(inner[:, 0], inner[:, 1], cells), _complex(first / side))
    squares = _Squares.whole(cells)
    for round_ in range(_DENSE_ROUNDS + _MOST_CUTS):
        progress.step("sowing")
        squares = squares.kept(board.free.take(squares.home))
        if round_ >= _DENSE_ROUNDS:
            squares = squares.quartered()
        if round_ >= _DENSE_ROUNDS - 1:
            squares = squares.kept(~board.covers(squares))
        if not len(squares.home):
            break
        at, priority = squares.darts(seed, round_)
        open_ = np.flatnonzero(~board.hits(squares.home, at))
        home, at = board.winners(squares.home[open_], at[open_], priority[open_])
        board.put(home, at)
        found.append(at.view(np.float64).reshape(-1, 2) * side)
    return np.concatenate(found)


def _complex(points: NDArray[np.float64]) -> Places:
    """(n, 2) points as (n,) numbers y + x · i."""
    return np.ascontiguousarray(points, np.float64).view(np.complex128)[:, 0]


def _home(row: NDArray[np.intp], column: NDArray[np.intp], cells: int) -> NDArray[np.intp]:
    """Index of a cell in the arrays of a board, which repeat two cells all round."""
    return (row + 2) * (cells + 4) + column + 2


@dataclass(frozen=True, eq=False)
class _Squares:
    """Parts of cells in which a point may still find room; lengths in cells."""

    home: NDArray[np.intp]
    corner: Places
    number: NDArray[np.uint64]  # its own for each, for hashing
    size: float = 1.0

    @classmethod
    def whole(cls, cells: int) -> _Squares:
        row, column = (axis.reshape(-1) for axis in np.indices((cells, cells)))
        number = np.arange(cells * cells, dtype=np.uint64)
        return cls(_home(row, column, cells), row + 1j * column, number)

    def kept(self, keep: NDArray[np.bool_]) -> _Squares:
        at = np.flatnonzero(keep)
        if len(at) == len(self.home):
            return self
        return _Squares(self.home[at], self.corner[at], self.number[at], self.size)

    def quartered(self) -> _Squares:
        half = self.size / 2
        steps = np.array([0, half * 1j, half, half + half * 1j])
        parts = np.arange(4, dtype=np.uint64)
        return _Squares(
            np.tile(self.home, 4),
            (self.corner + steps[:, None]).reshape(-1),
            (self.number * np.uint64(4) + parts[:, None]).reshape(-1),
            half,
        )

    def darts(self, seed: int, round_: int) -> tuple[Places, NDArray[np.uint64]]:
        """One position in each square, and a priority that differs for each; lower is better."""
        key = mixed(self.number + mixed(np.uint64((seed * 64 + round_) & 0xFFFFFFFFFFFF)))
        at = np.empty(len(key), np.complex128)
        at.real, at.imag = key >> np.uint64(32), key & np.uint64(0xFFFFFFFF)
        at *= self.size / (1 << 32)
        at += self.corner
        return at, key * _ODD


class _Board:
    """A torus of cells so small that each holds one point at the most.

    places : of the points by cell.  free : cells without one; those of the rim do not count.
    """

    def __init__(self, cells: int, radius_squared: float) -> None:
        self.cells, self.least = cells, radius_squared
        pitch = cells + 4
        self.places = np.full(pitch * pitch, _NOWHERE * (1 + 1j))
        self.free = np.ones(pitch * pitch, bool)
        self.near = tuple(int(dy) * pitch + int(dx) for dy, dx in _NEAR)
        index = np.arange(pitch) - 2
        wrapped = index % cells
        self._rim = np.flatnonzero((index < 0) | (index >= cells))
        self._source, self._shift = wrapped + 2, (index - wrapped).astype(np.float64)

    def put(self, home: NDArray[np.intp], at: Places) -> None:
        self.places[home], self.free[home] = at, False
        _repeat_rim(self.places, self._rim, self._source, self._shift)

    def hits(self, home: NDArray[np.intp], at: Places) -> NDArray[np.bool_]:
        """Which darts fall closer than the radius to a point."""
        return self._within(home, at, 0.0)

    def covers(self, squares: _Squares) -> NDArray[np.bool_]:
        """Which squares lie wholly in the disk of one point."""
        half = squares.size / 2
        return self._within(squares.home, squares.corner + half * (1 + 1j), half)

    def _within(self, home: NDArray[np.intp], at: Places, half: float) -> NDArray[np.bool_]:
        """Which squares of that half side lie in one disk, to their farthest corner.

        Nearer cells decide most, so after every few of them the decided ones are left out.
        """
        found = np.zeros(len(home), bool)
        left = np.arange(len(home))
        for first in range(0, len(self.near), _STEPS_AT_ONCE):
            hit = np.zeros(len(left), bool)
            for step in self.near[first : first + _STEPS_AT_ONCE]:
                hit |= self._squared(home + step, at, half) < self.least
            found[left[hit]] = True
            open_ = np.flatnonzero(~hit)
            left, home, at = left[open_], home[open_], at[open_]
        return found

    def _squared(self, near: NDArray[np.intp], at: Places, half: float) -> NDArray[np.float64]:
        """(n,) squared distances from the points of cells to the farthest corners of squares."""
        off = self.places.take(near)
        off -= at
        flat = off.view(np.float64)
        if half:
            np.abs(flat, out=flat)
            flat += half
        flat *= flat
        return np.asarray(flat[::2] + flat[1::2])

    def winners(
        self, home: NDArray[np.intp], at: Places, priority: NDArray[np.uint64]
    ) -> tuple[NDArray[np.intp], Places]:
        """Of darts thrown at once, those with no better one closer than the radius."""
        order = np.argsort(priority)[::-1]  # of two in a cell the better is last
        thrown = _Board(self.cells, self.least)
        best = np.full(len(thrown.free), -1, np.intp)
        best[home[order]] = order
        best = best[best >= 0]
        home, at, priority = home[best], at[best], priority[best]
        thrown.put(home, at)
        ranks = np.full(len(thrown.free), _WORST)
        ranks[home] = priority
        _repeat_rim(ranks, thrown._rim, thrown._source, None)
        beaten = np.zeros(len(home), bool)
        for step in self.near:
            near = home + step
            close = thrown._squared(near, at, 0.0) < self.least
            beaten |= close & (ranks.take(near) < priority)
        won = np.flatnonzero(~beaten)
        return home[won], at[won]


def _repeat_rim(
    flat: NDArray[np.generic],
    rim: NDArray[np.intp],
    source: NDArray[np.intp],
    shift: NDArray[np.float64] | None,
) -> None:
    """Copy the far side into the rim of a square array, in place; places move by whole periods."""
    pitch = len(source)
    square: NDArray[Any] = flat.reshape(pitch, pitch)
    square[:, rim] = square[:, source[rim]]
    if shift is not None:
        square[:, rim] += 1j * shift[rim]
    square[rim] = square[source[rim]]
    if shift is not None:
        square[rim] += shift[rim][:, None]
