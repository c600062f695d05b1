"""Meshes of triangles to voxels: the cells a surface crosses, and those inside a closed one.

Points are (z, y, x) in voxels; voxel i reaches from i to i + 1.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

Triangles = NDArray[np.float64]  # (n, 3, 3): three corners each
_LONGEST_EDGE = 6.0  # voxels; longer triangles are split before they are tried
_TRIED_AT_ONCE = 1 << 20
_OFF_GRID = np.array([3.1e-6, 1.7e-6])  # so that no upright meets an edge exactly


def surface_voxels(
    triangles: Triangles,
    size: tuple[int, int, int],
    step: Callable[[float], object] = lambda _: None,
) -> tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.bool_]]:
    """The voxels of a (d, h, w) box that triangles cross.

    Returns (n, 3) voxels, (n,) which triangle crosses, and (n,) whether it crosses the core of
    the voxel, the middle half of each side.
    step : called with the share that is done.
    """
    parts, owner = _split(triangles)
    lo = np.floor(parts.min(axis=1)).astype(np.intp).clip(0, np.array(size) - 1)
    hi = np.floor(parts.max(axis=1)).astype(np.intp).clip(0, np.array(size) - 1)
    spans = hi - lo + 1
    counts = spans.prod(axis=1)
    ends = np.cumsum(counts)
    cells, which = [np.empty((0, 3), np.intp)], [np.empty(0, np.intp)]
    deep = [np.empty(0, bool)]
    first = 0
    while first < len(parts):
        done = int(ends[first - 1]) if first else 0
        last = max(first + 1, int(np.searchsorted(ends, done + _TRIED_AT_ONCE, side="right")))
        rows = np.repeat(np.arange(first, last), counts[first:last])
        starts = ends[first:last] - counts[first:last] - done
        number = np.arange(len(rows)) - np.repeat(starts, counts[first:last])
        wide = spans[rows]
        rest, x = np.divmod(number, wide[:, 2])
        z, y = np.divmod(rest, wide[:, 1])
        at = lo[rows] + np.stack([z, y, x], axis=1)
        hit = _crossing(parts, rows, at, 0.5)
        at, rows = at[hit], rows[hit]
        core = np.zeros(len(at), bool)
        core[_crossing(parts, rows, at, 0.25)] = True
        cells.append(at)
        which.append(owner[rows])
        deep.append(core)
        first = last
        step(first / len(parts))
    return np.concatenate(cells), np.concatenate(which), np.concatenate(deep)


def _split(triangles: Triangles) -> tuple[Triangles, NDArray[np.intp]]:
    """Triangles halved along their longest edges until all are short, and whose parts they are."""
    parts, owner = triangles, np.arange(len(triangles))
    done, done_owner = [], []
    while len(parts):
        edges = parts[:, [1, 2, 0]] - parts
        lengths = np.sqrt((edges**2).sum(axis=2))
        longest = lengths.argmax(axis=1)
        long = lengths.max(axis=1) > _LONGEST_EDGE
        done.append(parts[~long])
        done_owner.append(owner[~long])
        parts, owner, longest = parts[long], owner[long], longest[long]
        row = np.arange(len(parts))
        a, b, c = (parts[row, (longest + k) % 3] for k in range(3))
        middle = (a + b) / 2
        parts = np.concatenate([np.stack([a, middle, c], 1), np.stack([middle, b, c], 1)])
        owner = np.concatenate([owner, owner])
    return np.concatenate(done), np.concatenate(done_owner)


def _crossing(
    parts: Triangles, rows: NDArray[np.intp], at: NDArray[np.intp], half: float
) -> NDArray[np.intp]:
    """Which of the pairs of a triangle and a voxel meet, the voxel being `half` a side about
    its middle.

    The test is that of Akenine-Möller, "Fast 3D triangle-box overlap testing" (2001): a plane
    that parts them is looked for among thirteen; each only tries what is left.
    """
    edges = parts[:, [1, 2, 0]] - parts
    normals = np.cross(edges[:, 0], edges[:, 1])
    offset = normals[:, 0] * parts[:, 0, 0]
    reach = half * np.abs(normals[:, 0])
    for axis in (1, 2):
        offset += normals[:, axis] * parts[:, 0, axis]
        reach += half * np.abs(normals[:, axis])
    away = offset[rows]
    for axis in range(3):
        away -= normals[rows, axis] * (at[:, axis] + 0.5)
    left = np.flatnonzero(np.abs(away) <= reach[rows])
    for axis in range(3):
        lo, hi = parts[:, :, axis].min(axis=1), parts[:, :, axis].max(axis=1)
        middle = at[left, axis] + 0.5
        row = rows[left]
        left = left[(lo[row] <= middle + half) & (hi[row] >= middle - half)]
    for j, k in ((1, 2), (2, 0), (0, 1)):  # across the third axis
        for edge in range(3):
            row = rows[left]
            along_j, along_k = edges[row, edge, j], edges[row, edge, k]
            # both ends of the edge lie equally far along it: two corners are enough
            one, two = edge, (edge + 2) % 3
            middle_j, middle_k = at[left, j] + 0.5, at[left, k] + 0.5
            p, q = (
                along_j * (parts[row, corner, k] - middle_k)
                - along_k * (parts[row, corner, j] - middle_j)
                for corner in (one, two)
            )
            most = half * (np.abs(along_j) + np.abs(along_k))
            left = left[(np.minimum(p, q) <= most) & (np.maximum(p, q) >= -most)]
    return left


def inside_voxels(
    triangles: Triangles,
    size: tuple[int, int, int],
    step: Callable[[float], object] = lambda _: None,
    *,
    by_winding: bool = True,
) -> NDArray[np.bool_]:
    """(d, h, w): voxels whose middle lies inside a closed mesh.

    Uprights through the middles are cut by the triangles; a middle lies inside where what was
    entered below has not been left again (its winding number is not zero), so that bodies may
    overlap.  Without `by_winding`, for triangles that look either way, where an odd number lies
    below.
    """
    depth, height, width = size
    turns = np.zeros((depth + 1, height * width), np.int32)
    plan = triangles[:, :, 1:]
    lo = np.ceil(plan.min(axis=1) - 0.5).astype(np.intp).clip(0, (height, width))
    hi = np.ceil(plan.max(axis=1) - 0.5).astype(np.intp).clip(0, (height, width))
    spans = (hi - lo).clip(0)
    counts = spans.prod(axis=1)
    keep = np.flatnonzero(counts)
    ends = np.cumsum(counts[keep])
    first = 0
    while first < len(keep):
        done = int(ends[first - 1]) if first else 0
        last = max(first + 1, int(np.searchsorted(ends, done + _TRIED_AT_ONCE, side="right")))
        rows = np.repeat(keep[first:last], counts[keep[first:last]])
        starts = ends[first:last] - counts[keep[first:last]] - done
        number = np.arange(len(rows)) - np.repeat(starts, counts[keep[first:last]])
        y, x = np.divmod(number, spans[rows, 1])
        column = lo[rows] + np.stack([y, x], axis=1)
        _cut(triangles[rows], column, turns, width, by_winding)
        first = last
        step(first / len(keep))
    below = np.cumsum(turns[:-1], axis=0)
    return np.asarray(below != 0 if by_winding else below % 2 == 1).reshape(size)


def _cut(
    triangles: Triangles,
    column: NDArray[np.intp],
    turns: NDArray[np.int32],
    width: int,
    by_winding: bool,
) -> None:
    """Add to `turns`, in place, where the uprights of columns pass through triangles."""
    point = column + 0.5 + _OFF_GRID
    a, b, c = (triangles[:, corner, 1:] - point for corner in range(3))
    sides = [_cross(a, b), _cross(b, c), _cross(c, a)]
    area = sides[0] + sides[1] + sides[2]
    hit = (np.all([s > 0 for s in sides], axis=0)) | (np.all([s < 0 for s in sides], axis=0))
    hit &= area != 0
    weights = np.stack([sides[1], sides[2], sides[0]], axis=1)[hit] / area[hit, None]
    z = (weights * triangles[hit][:, :, 0]).sum(axis=1)
    level = np.ceil(z - 0.5).astype(np.intp).clip(0, len(turns) - 1)
    flat = column[hit, 0] * width + column[hit, 1]
    np.add.at(turns, (level, flat), np.where(area[hit] > 0, 1, -1) if by_winding else 1)


def _cross(a: NDArray[np.float64], b: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0])
