"""The first full cell a ray meets, and where it crosses a plane or comes near a line.

Points are corner coordinates (z, y, x) in cells: cell i reaches from i to i + 1.
The walk through cells is that of Amanatides and Woo, "A fast voxel traversal algorithm for
ray tracing" (Eurographics 1987).
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import CellMask
from topion.grid.boxes import Box
from topion.grid.orient import NORMALS, face_of

Point = tuple[float, ...]


class Ray(NamedTuple):
    """origin and direction, (z, y, x)."""

    origin: Point
    direction: Point

    def at(self, distance: float) -> Point:
        return tuple(o + distance * d for o, d in zip(self.origin, self.direction, strict=True))


class Hit(NamedTuple):
    """A full cell, the face through which the ray came, and how far along the ray."""

    cell: tuple[int, int, int]
    face: int
    distance: float

    @property
    def before(self) -> tuple[int, int, int]:
        """The cell in front of the face."""
        z, y, x = (int(c + n) for c, n in zip(self.cell, NORMALS[self.face], strict=True))
        return z, y, x


def span_in_box(ray: Ray, box: Box) -> tuple[float, float, int] | None:
    """Where the ray enters and leaves the box, and the axis it enters by; None if it misses."""
    enter, leave, axis = 0.0, math.inf, -1
    for i, (o, d) in enumerate(zip(ray.origin, ray.direction, strict=True)):
        if abs(d) < 1e-12:
            if not box.lo[i] <= o < box.hi[i]:
                return None
            continue
        near, far = sorted(((box.lo[i] - o) / d, (box.hi[i] - o) / d))
        if near > enter:
            enter, axis = near, i
        leave = min(leave, far)
    return (enter, leave, axis) if enter < leave else None


def first_hit(full: CellMask, ray: Ray) -> Hit | None:
    """The first True cell of (d, h, w) `full` along the ray."""
    for cell, axis, distance in cells_along(full.shape, ray):
        if full[cell]:
            return Hit(cell, _entered(ray, axis), distance)
    return None


def cells_along(
    shape: tuple[int, ...], ray: Ray
) -> Iterator[tuple[tuple[int, int, int], int, float]]:
    """The cells of a box of that shape which a ray goes through, one after the other: (cell, the
    axis along which it is entered, distance).

    Amanatides and Woo, A Fast Voxel Traversal Algorithm for Ray Tracing, Eurographics 1987.
    """
    span = span_in_box(ray, Box.of_shape(shape))
    if span is None:
        return
    distance, leave, axis = span
    inner = ray.at(distance + 1e-9)
    cell = [min(max(math.floor(v), 0), n - 1) for v, n in zip(inner, shape, strict=True)]
    step = [1 if d > 0 else -1 for d in ray.direction]
    pitch = [abs(1 / d) if abs(d) > 1e-12 else math.inf for d in ray.direction]
    following = [
        (cell[i] + (step[i] > 0) - ray.origin[i]) / ray.direction[i]
        if pitch[i] < math.inf
        else math.inf
        for i in range(3)
    ]
    while True:
        yield (cell[0], cell[1], cell[2]), axis, distance
        axis = following.index(min(following))
        distance = following[axis]
        cell[axis] += step[axis]
        if distance > leave or not 0 <= cell[axis] < shape[axis]:
            return
        following[axis] += pitch[axis]


def _entered(ray: Ray, axis: int) -> int:
    """The face by which a ray enters a cell along `axis`; one that starts inside looks down."""
    if axis < 0:
        return 0
    normal = np.zeros(3, np.intp)
    normal[axis] = -1 if ray.direction[axis] > 0 else 1
    return face_of(normal)


def crossing(ray: Ray, axis: int, level: float) -> Point | None:
    """Where the ray crosses the plane `axis` = level; None if it runs along or away from it."""
    if abs(ray.direction[axis]) < 1e-9:
        return None
    distance = (level - ray.origin[axis]) / ray.direction[axis]
    return ray.at(distance) if distance > 0 else None


def nearest_on_line(ray: Ray, through: Point, axis: int) -> float:
    """The coordinate along `axis` of the point on the line through `through` (parallel to the
    axis) that comes nearest to the ray; that of `through` where both are parallel."""
    d: NDArray[np.float64] = np.array(ray.direction, float)
    e = np.zeros(3)
    e[axis] = 1.0
    w = np.array(through, float) - np.array(ray.origin, float)
    b, dd = float(d @ e), float(d @ d)
    bottom = dd - b * b
    if bottom < 1e-12:
        return float(through[axis])
    along = (b * float(d @ w) - dd * float(e @ w)) / bottom
    return float(through[axis] + along)
