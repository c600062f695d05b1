"""Materials proposed for a picture of tiles, by who stands beside whom.

What stands at each side of a tile tells whether the material goes on there.  Tiles are joined into
groups so that the group at a side follows as well as can be from the tile: always the two are
joined by which least of that is lost (agglomerative information bottleneck, Slonim and Tishby
1999), and of all numbers of groups that is taken for which the greatest share is told.  What the
middles of tiles look like is counted as one more thing that stands beside them.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Rgba

Shares = NDArray[np.float64]
MOST_TILES = 400  # that are joined pair by pair; rarer ones are put to the group they are most like
_MOST_GROUPS = 12
_SIDES = ((0, 1), (0, -1), (1, 0), (-1, 0))


def who_beside_whom(tiles: NDArray[np.intp], count: int) -> NDArray[np.intp]:
    """(4 · count, count) how often each tile stands at each side of each tile.

    tiles : (h, w) numbers below `count`, -1 for none.
    """
    found = []
    for dy, dx in _SIDES:
        there = np.full_like(tiles, -1)
        height, width = tiles.shape
        to = (slice(max(0, -dy), height - max(0, dy)), slice(max(0, -dx), width - max(0, dx)))
        of = (slice(max(0, dy), height + min(0, dy)), slice(max(0, dx), width + min(0, dx)))
        there[to] = tiles[of]
        both = (tiles >= 0) & (there >= 0)
        pairs = tiles[both] * count + there[both]
        found.append(np.bincount(pairs, minlength=count * count).reshape(count, count))
    return np.concatenate(found)


def colours_in_the_middle(pictures: Sequence[Rgba]) -> Shares:
    """(27, n) how much the middle of each picture has of 27 colours, shared between the nearest.

    The rim of a tile may show what lies beside it; its middle shows what it is.
    """
    out = np.zeros((27, len(pictures)))
    for number, picture in enumerate(pictures):
        height, width = picture.shape[:2]
        part = picture[height // 3 : -(-2 * height // 3), width // 3 : -(-2 * width // 3)]
        mean = part[..., :3].reshape(-1, 3).mean(axis=0) / 255 * 2
        low = np.minimum(mean.astype(int), 1)
        for corner in np.ndindex(2, 2, 2):
            near = 1 - np.abs(mean - (low + corner))
            out[np.ravel_multi_index(tuple(low + corner), (3, 3, 3)), number] += near.prod()
    return out


def groups_of(
    beside: NDArray[np.intp], wanted: int = 0, colours: Shares | None = None
) -> NDArray[np.intp]:
    """(n,) the group of each tile, numbered from 0 by how often their tiles stand anywhere.

    beside : (4 n, n), see `who_beside_whom`.  wanted : so many groups; 0 for as many as tell most.
    colours : (k, n) shares that count as much as all that stands beside a tile.
    """
    count = beside.shape[1]
    if colours is not None:
        beside = np.concatenate([beside, colours * beside.sum(axis=0)])
    often = beside.sum(axis=0)
    if not often.sum() or count < 2:
        return np.zeros(count, np.intp)
    main = np.argsort(-often, kind="stable")[:MOST_TILES]
    main = main[often[main] > 0]
    share = beside[:, main] / beside[:, main].sum()
    share = share[share.sum(axis=1) > 0]
    steps = _joined(share)
    group = _after(steps, len(main), wanted or _best_count(steps, share))
    return _numbered(_with_the_rest(beside, main, group), often)


def _joined(share: Shares) -> list[tuple[int, int]]:
    """Which group is joined to which, step by step, until one is left."""
    columns, weight = share.T.copy(), share.sum(axis=0)
    alive = np.ones(len(columns), bool)
    cost = np.full((len(columns),) * 2, np.inf)
    for at in range(len(columns)):
        cost[at, :at] = _lost(columns, weight, at)[:at]
    steps = []
    for _ in range(len(columns) - 1):
        keep, gone = sorted(divmod(int(cost.argmin()), len(columns)))
        steps.append((keep, gone))
        columns[keep] += columns[gone]
        weight[keep] += weight[gone]
        alive[gone] = False
        cost[gone], cost[:, gone] = np.inf, np.inf
        new = np.where(alive, _lost(columns, weight, keep), np.inf)
        cost[keep, :keep], cost[keep + 1 :, keep] = new[:keep], new[keep + 1 :]
    return steps


def _lost(columns: Shares, weight: Shares, at: int) -> Shares:
    """(n,) what is lost of what sides tell when a group is joined to each of them."""
    both = columns + columns[at]
    told = _plog(both).sum(axis=1) - _plog(weight + weight[at])
    return np.asarray(_told(columns, weight) + _told(columns[at : at + 1], weight[at]) - told)


def _told(columns: Shares, weight: Shares) -> Shares:
    return np.asarray(_plog(columns).sum(axis=1) - _plog(weight))


def _plog(values: Shares) -> Shares:
    return np.asarray(values * np.log2(np.maximum(values, 1e-300)))


def _after(steps: list[tuple[int, int]], count: int, groups: int) -> NDArray[np.intp]:
    """(count,) the group of each when so many are left."""
    group = np.arange(count)
    for keep, gone in steps[: max(0, count - groups)]:
        group[group == gone] = keep
    return group


def _best_count(steps: list[tuple[int, int]], share: Shares) -> int:
    """The number of groups of which the tile beside them tells the greatest share."""
    count = share.shape[1]
    best = (-1.0, min(2, count))
    for groups in range(2, min(_MOST_GROUPS, count) + 1):
        group = _after(steps, count, groups)
        joint = np.stack([share[:, group == g].sum(axis=1) for g in np.unique(group)], axis=1)
        weight = joint.sum(axis=0)
        known = _plog(joint).sum() - _plog(joint.sum(axis=1)).sum() - _plog(weight).sum()
        best = max(best, (float(known / -_plog(weight).sum()), groups))
    return best[1]


def _with_the_rest(
    beside: NDArray[np.intp], main: NDArray[np.intp], group: NDArray[np.intp]
) -> NDArray[np.intp]:
    """(n,) groups of all: those that were not joined go where their surroundings are likeliest."""
    names = np.unique(group)
    sums = np.stack([beside[:, main[group == g]].sum(axis=1) for g in names]) + 0.5
    likely = np.log(sums / sums.sum(axis=1, keepdims=True))
    out = names[(likely @ beside).argmax(axis=0)]
    out[main] = group
    return np.asarray(out)


def _numbered(group: NDArray[np.intp], often: NDArray[np.intp]) -> NDArray[np.intp]:
    names, place = np.unique(group, return_inverse=True)
    weight = np.bincount(place, weights=often)
    rank = np.empty(len(names), np.intp)
    rank[np.argsort(-weight, kind="stable")] = np.arange(len(names))
    return np.asarray(rank[place])
