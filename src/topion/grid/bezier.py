"""Cubic Bézier curves through points, and how long they are, for any number of axes.

A curve is a row of (m, 4, axes) control points: from the first to the last of each, pulled by the
two between.  Positions are cells; whole numbers are the middles of cells.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Positions

Bend = Literal["smooth", "corner", "free"]
Cubics = NDArray[np.float64]  # (m, 4, axes)
_PARTS = 32  # of a cubic, the lengths of which are kept
_LEAST = 1e-9  # cells; what is shorter has no length
_MOST_SAMPLES = 1 << 16
# nodes and weights of the Gauss-Legendre quadrature on 0 to 1, exact to degree 9
_NODES, _WEIGHTS = (a / 2 for a in np.polynomial.legendre.leggauss(5))
_NODES = _NODES + 0.5


def handles(
    points: Positions,
    bends: Sequence[Bend],
    free: tuple[Positions, Positions],
    *,
    closed: bool,
) -> tuple[Positions, Positions]:
    """(n, axes) each: where the curve is pulled to before and after each of (n, axes) points,
    counted from the point.

    A smooth point has those of the centripetal Catmull-Rom spline (Yuksel, Schaefer and Keyser,
    Parameterization and applications of Catmull-Rom curves, 2011), which makes neither loops nor
    cusps; a corner has a third of the way to its neighbour; a free one has its own.
    """
    before, after = _neighbours(points, closed)
    here = np.asarray(points, np.float64)
    one, two = before - here, after - here
    d1, d2 = (np.maximum(np.linalg.norm(v, axis=1, keepdims=True), _LEAST) ** 0.5
              for v in (one, two))  # fmt: skip
    way = (one * -(d2 / d1) + two * (d1 / d2)) / (d1 + d2)  # the slope of the spline there
    back, on = -way * d1 / 3, way * d2 / 3
    corner = np.array([bend == "corner" for bend in bends])[:, None]
    own = np.array([bend == "free" for bend in bends])[:, None]
    back = np.where(own, free[0], np.where(corner, one / 3, back))
    on = np.where(own, free[1], np.where(corner, two / 3, on))
    return back, on


def _neighbours(points: Positions, closed: bool) -> tuple[Positions, Positions]:
    """The points before and after each; beyond the ends of an open curve, straight on."""
    points = np.asarray(points, np.float64)
    before, after = np.roll(points, 1, axis=0), np.roll(points, -1, axis=0)
    if not closed and len(points) > 1:
        before[0] = 2 * points[0] - points[1]
        after[-1] = 2 * points[-1] - points[-2]
    return before, after


def cubics(points: Positions, pulls: tuple[Positions, Positions], *, closed: bool) -> Cubics:
    """The curve through points with what `handles` gave."""
    before, after = pulls
    row = np.stack([points, points + after, np.roll(points + before, -1, axis=0),
                    np.roll(points, -1, axis=0)], axis=1)  # fmt: skip
    return row if closed and len(points) > 1 else row[:-1]


def at(curve: Cubics, t: NDArray[np.float64]) -> Positions:
    """(n, axes) places of (n, 4, axes) cubics at (n,) t from 0 to 1."""
    s, t = 1 - t[:, None], t[:, None]
    a, b, c, d = (curve[:, k] for k in range(4))
    return np.asarray(s * s * s * a + 3 * s * s * t * b + 3 * s * t * t * c + t * t * t * d)


def slope(curve: Cubics, t: NDArray[np.float64]) -> Positions:
    """(n, axes) the way they go there, in cells a unit of t."""
    s, t = 1 - t[:, None], t[:, None]
    ab, bc, cd = (curve[:, k + 1] - curve[:, k] for k in range(3))
    return np.asarray(3 * (s * s * ab + 2 * s * t * bc + t * t * cd))


def bend_of(curve: Cubics, t: NDArray[np.float64]) -> Positions:
    """(n, axes) how that changes: the second derivative."""
    s, t = 1 - t[:, None], t[:, None]
    a, b, c, d = (curve[:, k] for k in range(4))
    return np.asarray(6 * (s * (c - 2 * b + a) + t * (d - 2 * c + b)))


def cut(curve: NDArray[np.float64], t: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The two parts of one (4, axes) cubic, by the construction of de Casteljau."""
    left, right, row = [], [], curve
    while len(row):
        left.append(row[0])
        right.append(row[-1])
        row = row[:-1] + t * (row[1:] - row[:-1])
    return np.array(left), np.array(right[::-1])


@dataclass(frozen=True, eq=False)
class Measured:
    """A curve that is known by its length.  closed : it ends where it begins."""

    curve: Cubics
    closed: bool = False

    @cached_property
    def _steps(self) -> NDArray[np.float64]:
        """(m, parts) lengths of equal parts of t, by Gauss-Legendre quadrature."""
        many = len(self.curve)
        t = (np.arange(_PARTS)[:, None] + _NODES) / _PARTS
        rows = np.repeat(self.curve, t.size, axis=0)
        fast = np.linalg.norm(slope(rows, np.tile(t.reshape(-1), many)), axis=1)
        return np.asarray((fast.reshape(many, _PARTS, -1) * _WEIGHTS).sum(axis=2) / _PARTS)

    @cached_property
    def _ends(self) -> NDArray[np.float64]:
        """(m * parts + 1,) the length up to each of them."""
        return np.concatenate([[0.0], np.cumsum(self._steps)])

    @property
    def length(self) -> float:
        """In cells."""
        return float(self._ends[-1])

    @cached_property
    def corners(self) -> NDArray[np.float64]:
        """(m + 1,) the length up to each of its points; of a closed one, the last is the first."""
        return self._ends[::_PARTS]

    def wrapped(self, far: NDArray[np.float64]) -> NDArray[np.float64]:
        """Lengths within the curve: round again where it is closed, else held at the ends."""
        if self.closed and self.length > _LEAST:
            return np.asarray(np.mod(far, self.length))
        return np.clip(far, 0.0, self.length)

    def params(self, far: NDArray[np.float64]) -> tuple[NDArray[np.intp], NDArray[np.float64]]:
        """(n,) which cubic, and t in it, at (n,) lengths from its beginning."""
        far = self.wrapped(np.asarray(far, np.float64))
        part = np.clip(np.searchsorted(self._ends, far, side="right") - 1, 0,
                       len(self._ends) - 2)  # fmt: skip
        number, inner = part // _PARTS, part % _PARTS
        start = inner / _PARTS
        step, rest = self._steps.reshape(-1)[part], far - self._ends[part]
        width = np.divide(rest, step, out=np.zeros_like(rest), where=step > _LEAST) / _PARTS
        rows = self.curve[number]
        for _ in range(2):  # Newton's method: the length from the beginning of the part
            t = start[:, None] + width[:, None] * _NODES
            every = np.repeat(rows, len(_NODES), axis=0)
            fast = np.linalg.norm(slope(every, t.reshape(-1)), axis=1).reshape(t.shape)
            over = (fast * _WEIGHTS).sum(axis=1) * width - rest
            here = np.linalg.norm(slope(rows, start + width), axis=1)
            width = np.clip(width - np.divide(over, here, out=np.zeros_like(over),
                                              where=here > _LEAST), 0, 1 / _PARTS)  # fmt: skip
        return number, start + width

    def places(self, far: NDArray[np.float64]) -> tuple[Positions, Positions]:
        """(n, axes) positions at (n,) lengths, and the way it goes there, one cell long."""
        number, t = self.params(np.atleast_1d(far))
        rows = self.curve[number]
        way = slope(rows, t)
        still = np.linalg.norm(way, axis=1) < 1e-6  # a point pulled by nothing: where it goes next
        if still.any():
            near = np.clip(t[still] + np.where(t[still] < 0.5, 1e-3, -1e-3), 0, 1)
            way[still] = slope(rows[still], near)
        size = np.linalg.norm(way, axis=1, keepdims=True)
        return at(rows, t), np.divide(way, size, out=np.zeros_like(way), where=size > _LEAST)

    def samples(self, apart: float = 0.25) -> Positions:
        """(n, axes) places so many cells apart at most, with all of its points."""
        apart = max(apart, self.length / _MOST_SAMPLES)
        parts = [self._ends[[0]]]
        for lo, hi in zip(self.corners[:-1], self.corners[1:], strict=True):
            count = int(np.clip(np.ceil((hi - lo) / apart), 1, _MOST_SAMPLES))
            parts.append(np.linspace(lo, hi, count + 1)[1:])
        far = np.concatenate(parts)
        if self.closed:
            far[-1] = 0.0
        return self.places(far)[0]

    def nearest(self, point: Sequence[float]) -> tuple[float, float]:
        """The length at which it comes nearest to a place, and how far that is away, in cells;
        axes that the place does not give do not count."""
        goal = np.asarray(point, np.float64)
        many = int(np.clip(self.length * 4, 16, _MOST_SAMPLES))
        far = np.linspace(0.0, self.length, many)
        away = self._away(far, goal)
        best = float(far[int(away.argmin())])
        step = self.length / many
        for _ in range(6):  # finer and finer round the best
            far = np.linspace(best - step, best + step, 17)
            if not self.closed:
                far = np.clip(far, 0, self.length)
            away = self._away(far, goal)
            best, step = float(far[int(away.argmin())]), step / 8
        best = float(self.wrapped(np.array([best]))[0])
        return best, float(self._away(np.array([best]), goal)[0])

    def _away(self, far: NDArray[np.float64], goal: Positions) -> NDArray[np.float64]:
        found = self.places(far)[0][:, -len(goal) :]
        return np.asarray(np.linalg.norm(found - goal, axis=1))


def simplified(points: Positions, most: float) -> NDArray[np.intp]:
    """Which of (n, axes) points are left of a way so that none of it is farther than `most` cells
    from what is drawn through them: Ramer (1972), Douglas and Peucker (1973)."""
    keep = np.zeros(len(points), bool)
    keep[[0, -1]] = True
    spans = [(0, len(points) - 1)]
    while spans:
        lo, hi = spans.pop()
        if hi - lo < 2:
            continue
        away = _from_segment(points[lo + 1 : hi], points[lo], points[hi])
        far = int(away.argmax())
        if away[far] > most:
            keep[lo + 1 + far] = True
            spans += [(lo, lo + 1 + far), (lo + 1 + far, hi)]
    return np.flatnonzero(keep)


def _from_segment(points: Positions, a: Positions, b: Positions) -> NDArray[np.float64]:
    along = b - a
    size = float(along @ along)
    t = np.clip((points - a) @ along / size, 0, 1) if size > _LEAST else np.zeros(len(points))
    return np.asarray(np.linalg.norm(points - (a + t[:, None] * along), axis=1))
