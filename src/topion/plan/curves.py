"""Threads as curves: cubic Bezier curves that leave each room by its nearest edge."""

from __future__ import annotations

import math
from itertools import pairwise

from topion.plan.sheet import Point, Rect
from topion.plan.threads import Thread

_LEAST, _MOST, _SHARE = 9.0, 64.0, 0.45  # cells that a thread goes straight out, of its length
_TOWARDS = 0.7  # how much an edge counts that lies towards the other end
_BEYOND = 0.3  # of that length, at least beyond the edge
_CLOSE = 6.0  # cells between doors that are joined straight

Curve = tuple[Point, Point, Point, Point]


def curve_of(thread: Thread) -> Curve:
    """Its four points on the sheet."""
    return curve(thread.here.point, thread.here.spot.rect, thread.point, thread.end.rect)


def curve(start: Point, inside: Rect | None, end: Point, into: Rect | None) -> Curve:
    """The four points of a curve between two points of the sheet; it leaves each rect by its
    nearest edge.  It is straight where both are close to each other."""
    long = math.hypot(end[0] - start[0], end[1] - start[1])
    if long < _CLOSE:
        return start, start, end, end
    reach = max(_LEAST, min(_MOST, long * _SHARE))
    return start, _out(start, end, inside, reach), _out(end, start, into, reach), end


def _out(point: Point, other: Point, rect: Rect | None, reach: float) -> Point:
    """A point outside of a rect, straight from a point in it through an edge that is near, or that
    lies towards the other point."""
    if rect is None:
        return point
    dy, dx = other[0] - point[0], other[1] - point[1]
    gaps = {(-1, 0): point[0] - rect.top, (1, 0): rect.bottom - point[0],
            (0, -1): point[1] - rect.left, (0, 1): rect.right - point[1]}  # fmt: skip
    (oy, ox), gap = min(
        gaps.items(), key=lambda item: item[1] - _TOWARDS * (item[0][0] * dy + item[0][1] * dx)
    )
    far = max(reach, max(0.0, gap) + reach * _BEYOND)
    return point[0] + oy * far, point[1] + ox * far


def point_on(points: Curve, t: float) -> Point:
    """The point of a curve at t from 0 to 1 (de Casteljau)."""
    row = list(points)
    while len(row) > 1:
        row = [(a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t)
               for a, b in pairwise(row)]  # fmt: skip
    return row[0]
