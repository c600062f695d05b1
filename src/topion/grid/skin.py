"""Thin parts of a closed mesh that fill no voxel, and the voxels that stand for them.

Surfaces come as cells of a grid three times as fine as the voxels.
"""

from __future__ import annotations

from itertools import product

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.grid.arrays import CellMask

FINE = 3  # fine cells along a voxel
_GAP = 2 * FINE  # of fine cells: the rest of a gap that was not worth a voxel by its share


def thin_voxels(solid: CellMask, fine: NDArray[np.intp]) -> NDArray[np.intp]:
    """The fewest voxels, about, that bring a whole surface within half a voxel of a solid, and
    join what hangs together.

    solid : (d, h, w), voxels that are filled already.  fine : (n, 3) cells of the surface in the
    fine grid, each once, in voxels that are not.  Returns (m, 3) voxels that `solid` lacks.  A
    plane always lies that near to the voxels that are half full behind it, so only what is
    thinner than a voxel is found.
    """
    filled = np.pad(solid, 1)
    added = [np.empty((0, 3), np.intp)]
    for lacking in (_far, _between, _apart):
        while True:
            left = fine[lacking(filled, fine)]
            if not len(left):
                break
            chosen = _chosen(left, filled.shape)
            filled[tuple((chosen + 1).T)] = True
            added.append(chosen)
    return np.concatenate(added)


def _far(filled: CellMask, fine: NDArray[np.intp]) -> NDArray[np.bool_]:
    return ~_near(filled, fine)


def _between(filled: CellMask, fine: NDArray[np.intp]) -> NDArray[np.bool_]:
    """(n,) whether a fine cell lies in a voxel that would join two filled ones: the surface runs
    through it along an axis, something is filled before and behind, and nothing beside."""
    shape = filled.shape
    keys = np.ravel_multi_index(tuple((fine // FINE + 1).T), shape)
    voxels, owner = np.unique(keys, return_inverse=True)
    at = np.stack(np.unravel_index(voxels, shape), axis=1)
    joins = np.zeros(len(voxels), bool)
    for axis in range(3):
        layers = np.zeros((len(voxels), FINE), bool)
        layers[owner, fine[:, axis] % FINE] = True
        through = layers.all(axis=1) & ~filled[tuple(at.T)]
        planes = []
        for step in (-1, 0, 1):
            found = np.zeros(len(voxels), bool)
            for side in product((-1, 0, 1), repeat=2):
                shift = np.insert(np.array(side), axis, step)
                found |= filled[tuple((at + shift).T)]
            planes.append(found)
        joins |= through & planes[0] & planes[2] & ~planes[1]
    return joins[owner]


def _apart(filled: CellMask, fine: NDArray[np.intp]) -> NDArray[np.bool_]:
    """(n,) whether a fine cell lies in a gap between two pieces of what is filled: a short stretch
    of surface that leads from one to the other."""
    joins = np.zeros(len(fine), bool)
    pieces, count = scipy.ndimage.label(filled, np.ones((3, 3, 3), bool))
    open_ = np.flatnonzero(~filled[tuple((fine // FINE + 1).T)])
    if count < 2 or not len(open_):
        return joins
    fine = fine[open_]
    lowest, highest = np.full(len(fine), count + 1), np.zeros(len(fine), np.intp)
    for shift in product((-1, 0, 1), repeat=3):
        piece = pieces[tuple(((fine + shift) // FINE + 1).T)]
        lowest = np.where(piece > 0, np.minimum(lowest, piece), lowest)
        highest = np.maximum(highest, piece)
    stretch, lengths = _stretches(fine)
    first, last = np.full(len(lengths), count + 1), np.zeros(len(lengths), np.intp)
    np.minimum.at(first, stretch, lowest)
    np.maximum.at(last, stretch, highest)
    joins[open_] = ((last > first) & (lengths <= _GAP))[stretch]
    return joins


def _stretches(fine: NDArray[np.intp]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """(n,) the number of the connected stretch of surface of each fine cell; and of each stretch
    how many fine cells it has along its longest side."""
    low = fine.min(axis=0) - 1
    shape = tuple((fine.max(axis=0) - low + 2).tolist())
    keys = np.ravel_multi_index(tuple((fine - low).T), shape)
    order = np.argsort(keys)
    known = keys[order]
    pairs = []
    for shift in product((-1, 0, 1), repeat=3):
        if shift > (0, 0, 0):  # the others are the same pairs the other way
            other = np.ravel_multi_index(tuple((fine - low + shift).T), shape)
            place = np.searchsorted(known, other).clip(max=len(known) - 1)
            met = np.flatnonzero(known[place] == other)
            pairs.append(np.stack([met, order[place[met]]]))
    rows, columns = np.concatenate(pairs, axis=1)
    links = scipy.sparse.coo_matrix((np.ones(len(rows), bool), (rows, columns)), (len(fine),) * 2)
    count, stretch = scipy.sparse.csgraph.connected_components(links, directed=False)
    lo, hi = np.full((count, 3), np.iinfo(np.intp).max), np.zeros((count, 3), np.intp)
    np.minimum.at(lo, stretch, fine)
    np.maximum.at(hi, stretch, fine)
    return np.asarray(stretch, np.intp), (hi - lo + 1).max(axis=1)


def _near(filled: CellMask, fine: NDArray[np.intp]) -> NDArray[np.bool_]:
    """(n,) whether a fine cell lies in a filled voxel, or in the half of its own that is turned
    to one.  filled : padded by one voxel."""
    voxel, part = fine // FINE + 1, fine % FINE
    near = np.zeros(len(fine), bool)
    for shift in product((-1, 0, 1), repeat=3):
        turned = np.ones(len(fine), bool)
        for axis, step in enumerate(shift):
            if step:
                turned &= part[:, axis] <= 1 if step < 0 else part[:, axis] >= 1
        turned &= ~near
        at = voxel[turned] + shift
        near[turned] = filled[tuple(at.T)]
    return near


def _chosen(fine: NDArray[np.intp], padded: tuple[int, ...]) -> NDArray[np.intp]:
    """Voxels that hold some of the fine cells, without those whose share lies wholly in the half
    turned to a neighbour that holds more (or as much, and comes first)."""
    shape = tuple(side - 2 for side in padded)
    keys = np.ravel_multi_index(tuple((fine // FINE).T), shape)
    voxels, owner, counts = np.unique(keys, return_inverse=True, return_counts=True)
    part = fine % FINE
    lowest, highest = np.full((len(voxels), 3), FINE), np.zeros((len(voxels), 3), np.intp)
    np.minimum.at(lowest, owner, part)
    np.maximum.at(highest, owner, part)
    at = np.stack(np.unravel_index(voxels, shape), axis=1)
    dropped = np.zeros(len(voxels), bool)
    for shift in product((-1, 0, 1), repeat=3):
        if not any(shift):
            continue
        covered = np.ones(len(voxels), bool)
        for axis, step in enumerate(shift):
            if step:
                covered &= highest[:, axis] <= 1 if step < 0 else lowest[:, axis] >= 1
        other = at + shift
        covered &= ((other >= 0) & (other < shape)).all(axis=1)
        mine = np.flatnonzero(covered)
        key = np.ravel_multi_index(tuple(other[mine].T), shape)
        place = np.searchsorted(voxels, key).clip(max=len(voxels) - 1)
        known = voxels[place] == key
        mine, place = mine[known], place[known]
        more = (counts[place] > counts[mine]) | (
            (counts[place] == counts[mine]) & (voxels[place] < voxels[mine])
        )
        dropped[mine[more]] = True
    return np.asarray(at[~dropped], np.intp)
