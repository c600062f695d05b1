"""Meshes of triangles to voxels: the cells a surface crosses, and those whose middles lie inside.

Points are (z, y, x) in voxels; voxel i reaches from i to i + 1.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import product

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

Triangles = NDArray[np.float64]  # (n, 3, 3): three corners each
Step = Callable[[float], object]  # told the share that is done
_SAMPLES, _SAMPLES_OF_MANY = 5, 3  # along each side of a voxel, to see how full it is
_FEW = 64  # voxels a side
_LONGEST_EDGE = 6.0  # voxels; longer triangles are split before they are tried
_TRIED_AT_ONCE = 1 << 20
_OFF_GRID = np.array([3.1e-6, 1.7e-6])  # so that no upright meets an edge exactly


def _part_of(step: Step, number: int, parts: int) -> Step:
    return lambda share: step((number + share) / parts)


def _in_parts(
    counts: NDArray[np.intp], step: Step
) -> Iterator[tuple[NDArray[np.intp], NDArray[np.intp]]]:
    """Each row as often as it counts, and the number of each time within its row, in parts that
    stay small in memory; `step` is told after each part."""
    ends = np.cumsum(counts)
    first = 0
    while first < len(counts):
        done = int(ends[first - 1]) if first else 0
        last = max(first + 1, int(np.searchsorted(ends, done + _TRIED_AT_ONCE, side="right")))
        rows = np.repeat(np.arange(first, last), counts[first:last])
        starts = ends[first:last] - counts[first:last] - done
        yield rows, np.arange(len(rows)) - np.repeat(starts, counts[first:last])
        first = last
        step(first / len(counts))


def surface_voxels(
    triangles: Triangles,
    size: tuple[int, int, int],
    step: Step = lambda _: None,
) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """The voxels of a (d, h, w) box that triangles cross.

    Returns (n, 3) voxels and (n,) which triangle crosses.
    step : called with the share that is done.
    """
    parts, owner = _split(triangles)
    lo = np.floor(parts.min(axis=1)).astype(np.intp).clip(0, np.array(size) - 1)
    hi = np.floor(parts.max(axis=1)).astype(np.intp).clip(0, np.array(size) - 1)
    spans = hi - lo + 1
    counts = spans.prod(axis=1)
    cells, which = [np.empty((0, 3), np.intp)], [np.empty(0, np.intp)]
    for rows, number in _in_parts(counts, step):
        wide = spans[rows]
        rest, x = np.divmod(number, wide[:, 2])
        z, y = np.divmod(rest, wide[:, 1])
        at = lo[rows] + np.stack([z, y, x], axis=1)
        hit = _crossing(parts, rows, at)
        cells.append(at[hit])
        which.append(owner[rows[hit]])
    return np.concatenate(cells), np.concatenate(which)


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


def _crossing(parts: Triangles, rows: NDArray[np.intp], at: NDArray[np.intp]) -> NDArray[np.intp]:
    """Which of the pairs of a triangle and a voxel meet.

    The test is that of Akenine-Möller, "Fast 3D triangle-box overlap testing" (2001): a plane
    that parts them is looked for among thirteen; each only tries what is left.
    """
    edges = parts[:, [1, 2, 0]] - parts
    normals = np.cross(edges[:, 0], edges[:, 1])
    offset = normals[:, 0] * parts[:, 0, 0]
    reach = 0.5 * np.abs(normals[:, 0])
    for axis in (1, 2):
        offset += normals[:, axis] * parts[:, 0, axis]
        reach += 0.5 * np.abs(normals[:, axis])
    away = offset[rows]
    for axis in range(3):
        away -= normals[rows, axis] * (at[:, axis] + 0.5)
    left = np.flatnonzero(np.abs(away) <= reach[rows])
    for axis in range(3):
        lo, hi = parts[:, :, axis].min(axis=1), parts[:, :, axis].max(axis=1)
        middle = at[left, axis] + 0.5
        row = rows[left]
        left = left[(lo[row] <= middle + 0.5) & (hi[row] >= middle - 0.5)]
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
            most = 0.5 * (np.abs(along_j) + np.abs(along_k))
            left = left[(np.minimum(p, q) <= most) & (np.maximum(p, q) >= -most)]
    return left


def inside_voxels(
    triangles: Triangles,
    size: tuple[int, int, int],
    step: Step = lambda _: None,
    *,
    by_winding: bool = True,
) -> NDArray[np.bool_]:
    """(d, h, w): voxels whose middle lies inside a closed mesh.

    Uprights through the middles are cut by the triangles; a middle lies inside where what was
    entered below has not been left again (its winding number is not zero), so that bodies may
    overlap.  Without `by_winding`, for triangles that look either way, where an odd number lies
    below.  See Foley et al., "Computer Graphics: Principles and Practice", on both rules.
    """
    depth, height, width = size
    turns = np.zeros((depth + 1, height * width), np.int32)
    plan = triangles[:, :, 1:]
    lo = np.ceil(plan.min(axis=1) - 0.5).astype(np.intp).clip(0, (height, width))
    hi = np.ceil(plan.max(axis=1) - 0.5).astype(np.intp).clip(0, (height, width))
    spans = (hi - lo).clip(0)
    counts = spans.prod(axis=1)
    for rows, number in _in_parts(counts, step):
        y, x = np.divmod(number, spans[rows, 1])
        column = lo[rows] + np.stack([y, x], axis=1)
        _cut(triangles[rows], column, turns, width, by_winding)
    below = np.cumsum(turns[:-1], axis=0)
    return np.asarray(below != 0 if by_winding else below % 2 == 1).reshape(size)


def full_voxels(
    triangles: Triangles,
    size: tuple[int, int, int],
    step: Step = lambda _: None,
) -> NDArray[np.bool_]:
    """(d, h, w): the voxels that a closed mesh fills best.

    Samples of each voxel tell how full it is; about half full is the rule, and what exactly is
    so chosen that all together have the volume of all samples, as far as shares that are equal
    stay together.
    """
    depth, height, width = size
    samples = _SAMPLES if max(size) <= _FEW else _SAMPLES_OF_MANY
    fine = triangles * (samples, 1, 1)
    full = np.zeros(size, np.uint8)
    spots = [((n + 0.5) / samples - 0.5) for n in range(samples)]
    for number, (y, x) in enumerate(product(spots, spots)):
        inside = inside_voxels(
            fine - (0, y, x), (depth * samples, height, width),
            _part_of(step, number, samples**2),
        )  # fmt: skip
        full += inside.reshape(depth, samples, height, width).sum(axis=1, dtype=np.uint8)
    return _about_half(full, samples**3)


def _about_half(full: NDArray[np.uint8], most: int) -> NDArray[np.bool_]:
    """Where `full` of `most` samples are about half, and together make up all samples.

    Voxels that are equally full are told apart by how full those around them are, so that what
    is symmetric stays so.
    """
    counts = np.bincount(full.reshape(-1), minlength=most + 1)
    wanted = int(np.rint((counts * np.arange(len(counts))).sum() / most))
    more = counts[::-1].cumsum()[::-1]  # voxels with so many samples or more
    lowest, highest = most * 3 // 8, most * 5 // 8 + 1
    level = int(np.searchsorted(-more[lowest : highest + 1], -wanted)) + lowest
    if level <= lowest or level > highest:
        return np.asarray(full >= min(level, highest))
    solid = full >= level  # no more than wanted; the level below would be as many or more
    around = full.astype(np.int32)
    for axis in range(full.ndim):
        around = scipy.ndimage.correlate1d(around, np.ones(5, np.int32), axis, mode="constant")
    equal = full == level - 1
    values, sizes = np.unique(-around[equal], return_counts=True)
    totals = np.concatenate([[0], np.cumsum(sizes)]) + int(more[level])
    kept = int(np.abs(totals - wanted).argmin())
    return np.asarray(solid | (equal & (around >= -values[kept - 1]) if kept else solid))


def surface_samples(
    triangles: Triangles, spacing: float, step: Step = lambda _: None
) -> Iterator[tuple[NDArray[np.float64], NDArray[np.intp]]]:
    """Points on triangles, none farther than `spacing` from the next, in parts.

    Yields (n, 3) points and (n,) which triangle.
    """
    edges = triangles[:, [1, 2, 0]] - triangles
    lengths = np.sqrt((edges**2).sum(axis=2))
    row, longest = np.arange(len(triangles)), lengths.argmax(axis=1)
    a, b, c = (triangles[row, (longest + k) % 3] for k in range(3))
    base = lengths[row, longest]
    area = np.sqrt((np.cross(b - a, c - a) ** 2).sum(axis=1))
    across = (base / spacing).astype(np.intp) + 1  # steps along the longest edge, and up
    up = (area / np.maximum(base, 1e-12) / spacing).astype(np.intp) + 1
    counts = (across + 1) * (up + 1)
    for rows, number in _in_parts(counts, step):
        high, along = np.divmod(number, across[rows] + 1)
        v = high / up[rows]
        u = along / across[rows] * (1 - v)
        points = a[rows] + u[:, None] * (b - a)[rows] + v[:, None] * (c - a)[rows]
        yield points, rows


def voted_voxels(
    triangles: Triangles,
    size: tuple[int, int, int],
    step: Step = lambda _: None,
) -> NDArray[np.bool_]:
    """(d, h, w): voxels whose middle lies inside by odd counts along two of the three axes, for
    meshes that are not wholly closed: a line through a hole is outvoted (Nooruddin and Turk,
    "Simplification and Repair of Polygonal Models Using Volumetric Techniques", 2003)."""
    votes = np.zeros(size, np.uint8)
    for axis in range(3):
        turn = [axis, (axis + 1) % 3, (axis + 2) % 3]
        seen = (size[turn[0]], size[turn[1]], size[turn[2]])
        inside = inside_voxels(
            triangles[..., turn], seen, _part_of(step, axis, 3),
            by_winding=False,
        )  # fmt: skip
        votes += inside.transpose(np.argsort(turn))
    return np.asarray(votes >= 2)


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
