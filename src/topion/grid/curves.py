"""Smooth curves through points, for any number of axes."""

from __future__ import annotations

import numpy as np

from topion.grid.arrays import Positions

_SAMPLES_PER_CELL = 3
_MOST_SAMPLES = 1 << 16


def curve_through(knots: Positions) -> Positions:
    """(m, axes) positions close together along a smooth curve through (n, axes) knots.

    The centripetal Catmull-Rom spline, which passes all of its knots and has neither loops nor
    cusps between them (Catmull and Rom 1974; Yuksel, Schaefer and Keyser 2011).  Knots that follow
    on themselves count once; a curve of one knot is that knot, of two a straight line.
    """
    knots = np.asarray(knots, np.float64)
    apart = np.ones(len(knots), bool)
    apart[1:] = (knots[1:] != knots[:-1]).any(axis=1)
    knots = knots[apart]
    if len(knots) < 2:
        return knots
    # one more knot beyond each end, so that the first and the last stretch are curves too
    every = np.concatenate([[2 * knots[0] - knots[1]], knots, [2 * knots[-1] - knots[-2]]])
    parts = [_stretch(*every[n : n + 4]) for n in range(len(knots) - 1)]
    return np.concatenate([*parts, knots[-1:]])


def _stretch(a: Positions, b: Positions, c: Positions, d: Positions) -> Positions:
    """From `b` up to `c`, by the pyramid of Barry and Goldman (1988)."""
    t0 = 0.0
    t1 = t0 + float(np.linalg.norm(b - a)) ** 0.5
    t2 = t1 + float(np.linalg.norm(c - b)) ** 0.5
    t3 = t2 + float(np.linalg.norm(d - c)) ** 0.5
    count = int(np.clip(np.linalg.norm(c - b) * _SAMPLES_PER_CELL + 1, 2, _MOST_SAMPLES))
    t = np.linspace(t1, t2, count, endpoint=False)[:, None]
    ab = (t1 - t) / (t1 - t0) * a + (t - t0) / (t1 - t0) * b
    bc = (t2 - t) / (t2 - t1) * b + (t - t1) / (t2 - t1) * c
    cd = (t3 - t) / (t3 - t2) * c + (t - t2) / (t3 - t2) * d
    abc = (t2 - t) / (t2 - t0) * ab + (t - t0) / (t2 - t0) * bc
    bcd = (t3 - t) / (t3 - t1) * bc + (t - t1) / (t3 - t1) * cd
    return np.asarray((t2 - t) / (t2 - t1) * abc + (t - t1) / (t2 - t1) * bcd)
