"""Piling: the nearest part of a cell in which a body touches no other."""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Positions
from topion.model.prefab import Prefab, Stance, Thing, turned_offsets
from topion.model.project import Project
from topion.things.ground import Ground, Spots
from topion.things.verdict import allowed_spots

_FARTHEST = 2  # cells
_TOUCH = 1 - 1e-4  # cells of one cell's size that lie so far apart only touch


def body_middles(prefab: Prefab, at: Positions, stance: Stance) -> NDArray[np.float64]:
    """(n, k, axes) the middles of the cells of bodies at (n, axes)."""
    own = turned_offsets(prefab, stance.turn, stance.mirrored, at.shape[1], stance.tip)
    return at[:, None] + own


def middles_of(project: Project, things: list[Thing], axes: int) -> NDArray[np.float64]:
    """(m, axes) of all cells of all these bodies."""
    found = [np.empty((0, axes))]
    for thing in things:
        prefab = project.prefabs.get(thing.prefab)
        if prefab is not None:
            at = np.array([thing.at[-axes:]])
            found.append(body_middles(prefab, at, thing.stance)[0])
    return np.concatenate(found)


def nearest_free(
    ground: Ground, spots: Spots, parts: int, taken: NDArray[np.float64]
) -> tuple[float, ...] | None:
    """Of the middles of parts of cells round the first of `spots`, the nearest at which the body
    meets none of the (m, axes) cells that are taken, and which no rule refuses; None for none.

    parts : to a cell.
    """
    start = spots.positions[0]
    near = taken[(np.abs(taken - start) < _FARTHEST + 34).all(axis=1)]
    steps = np.arange(-_FARTHEST * parts, _FARTHEST * parts + 1) / parts
    ways = np.array([(0.0,) * (len(start) - 2) + way for way in itertools.product(steps, steps)])
    ways = ways[np.lexsort((ways[:, -2], -ways[:, -1], (ways**2).sum(axis=1)))]
    tried = np.round(start + ways, 6)
    stance = Stance(spots.prefab.name, spots.turn, spots.mirrored, spots.tip)
    bodies = body_middles(spots.prefab, tried, stance)
    free = np.ones(len(tried), bool)
    for cell in near:
        free &= ~(np.abs(bodies - cell) < _TOUCH).all(axis=2).any(axis=1)
    rows = np.flatnonzero(free)
    if not len(rows):
        return None
    asked = Spots(spots.prefab, tried[rows], spots.turn, spots.mirrored, tip=spots.tip)
    allowed = np.flatnonzero(allowed_spots(ground, asked))
    return tuple(tried[rows[allowed[0]]].tolist()) if len(allowed) else None
