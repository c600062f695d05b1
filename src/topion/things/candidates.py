"""Candidates of a field: fixed by the seed alone, on the whole plane.

A tile of Poisson-disk points is repeated and scaled to the spacing.  Which prefab stands on a
candidate, and which candidates give way to one that needs more room, is fixed too.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Positions
from topion.grid.boxes import Box
from topion.grid.hashing import hashed, seed_of, unit
from topion.grid.spacing import PointPairs, PointTile, point_pairs, point_tile
from topion.things.field import Field

_ROUNDS = 3  # of giving way; each settles all but a few of the crowded places


@dataclass(frozen=True, eq=False)
class Candidates:
    points: Positions  # (n, 2), cell corners at whole numbers
    ranks: NDArray[np.float64]
    keys: NDArray[np.uint64]  # one hash each, the same wherever the window lies
    repeat: NDArray[np.intp]  # (n, 2) which repeat of the tile of points it stands in
    place: NDArray[np.intp]  # (n,) its place in that tile

    def kept(self, keep: NDArray[Any]) -> Candidates:
        return Candidates(
            self.points[keep],
            self.ranks[keep],
            self.keys[keep],
            self.repeat[keep],
            self.place[keep],
        )

    def moved(self, first: tuple[int, ...]) -> Candidates:
        """The same, counted from the room's first cell instead of the origin of chance."""
        return replace(self, points=self.points - np.array(first)) if any(first) else self


def widest_factor(field: Field) -> float:
    """The largest of its spacing factors; 0 where all are alike."""
    factors = {sown.spacing for sown in field.sown}
    return max(factors) if max(factors) > 1 else 0.0


def static_candidates(
    field: Field, area: Box, first: tuple[int, ...]
) -> tuple[Candidates, NDArray[np.intp], NDArray[np.bool_]]:
    """Candidates in `area`, their kinds, and which give way to a neighbour.

    A prefab with a larger spacing clears its surroundings; who gives way to whom is decided
    among all candidates of the plane, in a few rounds of "lowest rank near me stays".
    first : the first cell of the room, as chance counts it.
    """
    area = area.shifted(first)
    factors = np.array([sown.spacing for sown in field.sown])
    widest = float(factors.max()) * field.spacing
    halo = 0.0 if widest <= field.spacing else 2 * _ROUNDS * widest
    tile = point_tile(field.seed)
    found = _in_window(tile, field.spacing, area, halo, field.seed)
    kinds = _kinds(field, found.keys)
    if not halo:
        return found.moved(first), kinds, np.zeros(len(kinds), bool)
    pairs = _pairs_of(found, point_pairs(field.seed, float(factors.max())), factors[kinds])
    crowded = _crowded(found, pairs)
    inside = (found.points >= area.lo) & (found.points < area.hi)
    rows = np.flatnonzero(inside.all(axis=1))
    return found.kept(rows).moved(first), kinds[rows], crowded[rows]


def _in_window(tile: PointTile, spacing: float, area: Box, halo: float, seed: int) -> Candidates:
    """Points of the repeated tile that lie in `area` grown by `halo` cells."""
    pitch = tile.period * spacing
    lo, hi = np.array(area.lo) - halo, np.array(area.hi) + halo
    first, last = np.floor(lo / pitch).astype(int), np.ceil(hi / pitch).astype(int)
    parts = []
    for ty in range(first[0], last[0]):
        for tx in range(first[1], last[1]):
            here = tile.points * spacing + np.array([ty, tx]) * pitch
            inside = np.flatnonzero(((here >= lo) & (here < hi)).all(axis=1))
            repeat = np.broadcast_to(np.array([ty, tx], np.intp), (len(inside), 2))
            keys = hashed(seed, ty, tx, inside)
            parts.append((here[inside], tile.ranks[inside], keys, repeat, inside))
    return Candidates(*(np.concatenate(part) for part in zip(*parts, strict=True)))


def _kinds(field: Field, keys: NDArray[np.uint64]) -> NDArray[np.intp]:
    weights = np.array([sown.weight for sown in field.sown])
    edges = np.cumsum(weights) / weights.sum()
    draw = unit(seed_of("kind"), keys.view(np.int64))
    return np.searchsorted(edges, draw, side="right").clip(0, len(weights) - 1)


def _pairs_of(
    found: Candidates, near: PointPairs, factors: NDArray[np.float64]
) -> NDArray[np.intp]:
    """(m, 2) rows of candidates that stand closer than the larger of their spacings."""
    lo = found.repeat.min(axis=0) - 1
    span = found.repeat.max(axis=0) - lo + 2
    size = int(max(found.place.max(), near.first.max(initial=0), near.second.max(initial=0))) + 1
    rows = np.full((*span, size), -1, np.intp)
    at = found.repeat - lo
    rows[at[:, 0], at[:, 1], found.place] = np.arange(len(found.place))
    pairs = []
    for step, mine in near.by_step:
        inner = rows[1:-1, 1:-1, near.first[mine]]
        y, x = 1 + step[0], 1 + step[1]
        other = rows[y : y + span[0] - 2, x : x + span[1] - 2, near.second[mine]]
        gap = np.broadcast_to(near.gap[mine], inner.shape)
        both = (inner >= 0) & (other >= 0)
        a, b = inner[both], other[both]
        close = gap[both] < np.maximum(factors[a], factors[b])
        pairs.append(np.stack([a[close], b[close]], axis=1))
    return np.concatenate(pairs) if pairs else np.empty((0, 2), np.intp)


def _crowded(found: Candidates, pairs: NDArray[np.intp]) -> NDArray[np.bool_]:
    """Which candidates give way, so that each pair keeps the larger of its two spacings."""
    order = found.ranks + found.keys * 1e-24
    swap = order[pairs[:, 0]] > order[pairs[:, 1]]
    pairs[swap] = pairs[swap][:, ::-1]
    stays = np.zeros(len(order), bool)
    out = np.zeros(len(order), bool)
    for _ in range(_ROUNDS):
        live = pairs[~out[pairs].any(axis=1)]
        beaten = np.zeros(len(order), bool)
        beaten[live[:, 1]] = True
        stays |= ~out & ~beaten
        out[live[stays[live[:, 0]]][:, 1]] = True
    return ~stays
