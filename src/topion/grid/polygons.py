"""Polygons in space to triangles, concave ones too.

Polygons come as one flat list of corners and the number of corners of each.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right

import numpy as np
from numpy.typing import NDArray

Corners = NDArray[np.intp]


def triangulated(
    points: NDArray[np.float64], corners: Corners, sizes: NDArray[np.intp]
) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Triangles that fill polygons.

    points : (p, 3).  corners : (sum of sizes,) rows of `points`, polygon after polygon.
    sizes : (n,) corners of each polygon; those of fewer than three have no triangles.
    Returns (t, 3) rows of `points`, turning as their polygon does, and (t,) which polygon.
    """
    starts = np.cumsum(sizes) - sizes
    found, owner = [np.empty((0, 3), np.intp)], [np.empty(0, np.intp)]
    for size in np.unique(sizes[sizes >= 3]).tolist():
        which = np.flatnonzero(sizes == size)
        loops = corners[starts[which][:, None] + np.arange(size)]
        convex = _convex(points[loops])
        fans = np.stack([np.zeros(size - 2, np.intp), np.arange(1, size - 1),
                         np.arange(2, size)], 1)  # fmt: skip
        found.append(loops[convex][:, fans].reshape(-1, 3))
        owner.append(np.repeat(which[convex], size - 2))
        for number in np.flatnonzero(~convex).tolist():
            ears = _ears(points[loops[number]])
            found.append(loops[number][ears])
            owner.append(np.full(len(ears), which[number]))
    return np.concatenate(found), np.concatenate(owner)


def _normals(loops: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n, 3) of polygons (n, k, 3), as long as twice their area (Newell's method; Sutherland,
    Sproull and Schumacker, "A Characterization of Ten Hidden-Surface Algorithms", 1974)."""
    away = loops - loops[:, :1]
    return np.asarray(np.cross(away, np.roll(away, -1, axis=1)).sum(axis=1))


def _convex(loops: NDArray[np.float64]) -> NDArray[np.bool_]:
    """(n,) whether no corner of a polygon (n, k, 3) turns back."""
    if loops.shape[1] == 3:
        return np.ones(len(loops), bool)
    edges = np.roll(loops, -1, axis=1) - loops
    turns = np.cross(np.roll(edges, 1, axis=1), edges)
    along = np.einsum("nki,ni->nk", turns, _normals(loops))
    least = 1e-9 * np.abs(along).max(axis=1, initial=0)
    return np.asarray((along >= -least[:, None]).all(axis=1))


def _ears(loop: NDArray[np.float64]) -> NDArray[np.intp]:
    """(k - 2, 3) triangles of one polygon (k, 3), by cutting ears (Meisters, "Polygons Have
    Ears", 1975).  A cut can make ears only of the corners beside it (O'Rourke, "Computational
    Geometry in C", 1998), and only corners that turn back can be in the way.  Where a polygon
    crosses itself and has no ear left, the rest is a fan."""
    flat = _flattened(loop)
    count = len(loop)
    before, after = np.roll(np.arange(count), 1), np.roll(np.arange(count), -1)
    back = _side(flat[before], flat, flat[after]) <= 0
    turned = np.flatnonzero(back)
    turned = turned[np.argsort(flat[turned, 0], kind="stable")]
    found: list[tuple[int, int, int]] = []
    at = 0
    waiting = dict.fromkeys(range(count))  # first in, first out: ears all round, fewer slivers
    while waiting and len(found) < count - 3:
        ear = next(iter(waiting))
        del waiting[ear]
        one, two = int(before[ear]), int(after[ear])
        if back[ear] or not _is_ear(flat, (one, ear, two), turned, back):
            continue
        found.append((one, ear, two))
        after[one], before[two], back[ear] = two, one, False
        for beside in (one, two):
            back[beside] = _side(*flat[[before[beside], beside, after[beside]]]) <= 0
            waiting.setdefault(beside)
        at = two
    left = [at]
    while after[left[-1]] != at:
        left.append(int(after[left[-1]]))
    found += [(left[0], left[n], left[n + 1]) for n in range(1, len(left) - 1)]
    return np.array(found, np.intp)


def _flattened(loop: NDArray[np.float64]) -> NDArray[np.float64]:
    """(k, 2): a polygon seen from the side it looks to, turning counter-clockwise."""
    normal = _normals(loop[None])[0]
    axis = int(np.abs(normal).argmax())
    flat = np.delete(loop, axis, axis=1)
    return flat if (normal[axis] > 0) == (axis != 1) else flat[:, ::-1]


def _is_ear(
    flat: NDArray[np.float64],
    corners: tuple[int, int, int],
    turned: NDArray[np.intp],
    back: NDArray[np.bool_],
) -> bool:
    """Whether no corner lies in a triangle, of those that turned `back` and still do; `turned`
    are they from left to right."""
    a, b, c = flat[list(corners)]
    reach = [min(a[0], b[0], c[0]), max(a[0], b[0], c[0])]
    lo = bisect_left(turned, reach[0], key=lambda at: flat[at, 0])
    hi = bisect_right(turned, reach[1], key=lambda at: flat[at, 0])
    near = turned[lo:hi]
    others = flat[near[back[near]]]
    inside = (_side(a, b, others) >= 0) & (_side(b, c, others) >= 0) & (_side(c, a, others) >= 0)
    others = others[inside]
    # a corner that lies where one of these lies belongs to a cut that leads to a hole
    same = (others[:, None] == flat[list(corners)][None]).all(axis=2).any(axis=1)
    return bool(same.all())


def _side(
    a: NDArray[np.float64], b: NDArray[np.float64], points: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Positive for points left of the line from a to b; each (..., 2)."""
    along, away = b - a, points - a
    return np.asarray(along[..., 0] * away[..., 1] - along[..., 1] * away[..., 0])
