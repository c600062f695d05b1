"""What a field sows: derived from density, seed and rules, never stored one by one.

Candidates are fixed by the seed alone, on the whole plane: a tile of Poisson-disk points,
repeated and scaled to the spacing.  Which prefab stands on a candidate, and which candidates
give way to one that needs more room, is fixed too.  Density is then a threshold on the rank
of a candidate and rules are asked of each alone, so painting in one corner cannot move a
thing in another.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Positions
from topion.grid.boxes import Box
from topion.grid.hashing import hashed, seed_of, unit
from topion.grid.spacing import PointPairs, PointTile, point_pairs, point_tile, tables_made
from topion.model.layer import FULL_DENSITY, Layer
from topion.model.prefab import Thing, standing_cells
from topion.model.project import Project
from topion.model.room import Room
from topion.things.field import Field, field_of
from topion.things.ground import Ground, Spots
from topion.things.rules.kind import RuleKind, known_rules, rules_of
from topion.things.verdict import OUTSIDE, ROOM_FOR_BODY, rule_answers

MOST_SOWN = 4_000_000  # candidates of one field; beyond, a wider spacing is wanted
_POINTS_EACH = 0.7  # candidates in a square of one spacing
_ROUNDS = 3  # of giving way; each settles all but a few of the crowded places


@dataclass(frozen=True, eq=False)
class Tally:
    """wanted : candidates the density asks for.  refused : by reason, in words."""

    wanted: int = 0
    placed: int = 0
    refused: tuple[tuple[str, int], ...] = ()


@dataclass(frozen=True, eq=False)
class Sowing:
    """The things of a field in a window, as arrays of one length n.

    positions : (n, axes).
    prefabs : (n,) index into `names`.  densities : (n,) of the cell each stands in.
    """

    names: tuple[str, ...]
    positions: Positions
    prefabs: NDArray[np.intp]
    scales: NDArray[np.float64]
    turns: NDArray[np.float64]
    mirrored: NDArray[np.bool_]
    densities: NDArray[np.float64]
    ranks: NDArray[np.float64]
    tally: Tally

    def __len__(self) -> int:
        return len(self.positions)

    def thing(self, row: int) -> Thing:
        *level, y, x = self.positions[row].tolist()
        return Thing(
            self.names[int(self.prefabs[row])],
            y,
            x,
            float(self.turns[row]),
            bool(self.mirrored[row]),
            float(self.scales[row]),
            z=level[0] if level else 0.0,
        )

    def at(self, *cell: int) -> list[int]:
        """Rows of the things that stand in the cell."""
        here = (standing_cells(self.positions) == np.array(cell)).all(axis=1)
        return [int(row) for row in np.flatnonzero(here)]


@dataclass(frozen=True, eq=False)
class _Candidates:
    points: Positions  # (n, 2), cell corners at whole numbers
    ranks: NDArray[np.float64]
    keys: NDArray[np.uint64]  # one hash each, the same wherever the window lies
    repeat: NDArray[np.intp]  # (n, 2) which repeat of the tile of points it stands in
    place: NDArray[np.intp]  # (n,) its place in that tile

    def kept(self, keep: NDArray[Any]) -> _Candidates:
        return _Candidates(
            self.points[keep],
            self.ranks[keep],
            self.keys[keep],
            self.repeat[keep],
            self.place[keep],
        )

    def moved(self, first: tuple[int, ...]) -> _Candidates:
        """The same, counted from the room's first cell instead of the origin of chance."""
        return replace(self, points=self.points - np.array(first)) if any(first) else self


def sow(project: Project, room: Room, layer_id: str, window: Box | None = None) -> Sowing:
    """The things of a field layer whose anchors stand in `window`, or in the whole room.

    window : columns seen from above.  Candidates are points of the plan; in a voxel room each
    may stand on every upward surface below and above it.
    Counts (wanted, at most) are a matter of the whole room; with a window they do not hold.
    """
    layer = room.layers[layer_id]
    field = field_of(project, layer)
    painted = _painted_box(layer)
    area = painted if window is None else painted.clipped(window)
    if field is None or not area.size:
        return _nothing(field)
    estimate = int(area.size * _POINTS_EACH / field.spacing**2)
    if estimate > MOST_SOWN:
        return _nothing(
            field, Tally(estimate, 0, ((f"over the {MOST_SOWN:,} sown at once", estimate),))
        )
    names = tuple(sown.prefab for sown in field.sown)
    found, kinds, crowded = _static_candidates(field, area, layer.from_origin((0, 0)))
    density = _density_at(layer, found.points)
    rows = np.flatnonzero(found.ranks < density)
    found, kinds, density = found.kept(rows), kinds[rows], density[rows]
    crowded = crowded[rows]
    refused = {"too close": int(crowded.sum())}
    keep = ~crowded
    ground = Ground(project, room)
    positions, belongs = ground.floor.seats(found.points - 0.5)
    if belongs is not None:
        found, kinds, density = found.kept(belongs), kinds[belongs], density[belongs]
        keep = keep[belongs]
    for number, name in enumerate(names):
        if name not in project.prefabs:
            keep &= kinds != number
            continue
        rows = np.flatnonzero(keep & (kinds == number))
        spots = Spots(project.prefabs[name], positions[rows])
        for reason, bad in _refusals(ground, spots, known_rules(field.rules)):
            refused[reason] = refused.get(reason, 0) + int(bad.sum())
            keep[rows[bad]] = False
    wanted = len(keep)
    if window is None and is_counted(project, field):
        order = found.ranks / np.maximum(density, 1e-9)
        for number, most in _bounds(ground, names, known_rules(field.rules)):
            bound = keep & (kinds == number)
            refused["too many"] = refused.get("too many", 0) + _bound(keep, bound, order, most)
        if field.wanted:
            wanted = field.wanted
            _bound(keep, keep.copy(), order, wanted)
    tally = Tally(wanted, int(keep.sum()), tuple(refused.items()))
    return _dressed(
        field, names, positions[keep], found.kept(keep), kinds[keep], density[keep], tally
    )


def tables_ready(field: Field) -> bool:
    """Whether `sow` can begin at once: else it makes tables first, which takes a while."""
    return tables_made(field.seed, _widest(field))


def make_tables(field: Field) -> None:
    """Make what `sow` begins with; for threads that work ahead."""
    point_tile(field.seed)
    if _widest(field):
        point_pairs(field.seed, _widest(field))


def _widest(field: Field) -> float:
    """The largest of its spacing factors; 0 where all are alike."""
    factors = {sown.spacing for sown in field.sown}
    return max(factors) if max(factors) > 1 else 0.0


def _painted_box(layer: Layer) -> Box:
    density = layer.plane("density")
    rows = np.flatnonzero(density.any(axis=1))
    if not len(rows):
        return Box((0, 0), (0, 0))
    columns = np.flatnonzero(density[rows[0] : rows[-1] + 1].any(axis=0))
    return Box((int(rows[0]), int(columns[0])), (int(rows[-1]) + 1, int(columns[-1]) + 1))


def _nothing(field: Field | None, tally: Tally | None = None) -> Sowing:
    none = np.empty(0)
    names = tuple(sown.prefab for sown in field.sown) if field else ()
    return Sowing(
        names,
        np.empty((0, 2)),
        none.astype(np.intp),
        none,
        none,
        none.astype(bool),
        none,
        none,
        tally or Tally(field.wanted if field else 0, 0, (("too close", 0),)),
    )


def _static_candidates(
    field: Field, area: Box, first: tuple[int, ...]
) -> tuple[_Candidates, NDArray[np.intp], NDArray[np.bool_]]:
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


def _in_window(tile: PointTile, spacing: float, area: Box, halo: float, seed: int) -> _Candidates:
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
    return _Candidates(*(np.concatenate(part) for part in zip(*parts, strict=True)))


def _kinds(field: Field, keys: NDArray[np.uint64]) -> NDArray[np.intp]:
    weights = np.array([sown.weight for sown in field.sown])
    edges = np.cumsum(weights) / weights.sum()
    draw = unit(seed_of("kind"), keys.view(np.int64))
    return np.searchsorted(edges, draw, side="right").clip(0, len(weights) - 1)


def _pairs_of(
    found: _Candidates, near: PointPairs, factors: NDArray[np.float64]
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


def _crowded(found: _Candidates, pairs: NDArray[np.intp]) -> NDArray[np.bool_]:
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


def _density_at(layer: Layer, points: Positions) -> NDArray[np.float64]:
    density = layer.plane("density")
    cells = np.floor(points).astype(np.intp)
    return density[cells[:, 0], cells[:, 1]] / FULL_DENSITY


def _refusals(
    ground: Ground, spots: Spots, rules: tuple[RuleKind, ...]
) -> list[tuple[str, NDArray[np.bool_]]]:
    """(reason, (n,) bool) for each rule that refuses spots no earlier one refused."""
    left = np.ones(len(spots.positions), bool)
    found = []
    for rule, answer in rule_answers(ground, spots, rules):
        bad = left & ~answer.allowed
        if rule is not None:
            reason = rule.short()
        else:
            outside = bool(bad.any()) and answer.measured[np.argmax(bad)] == OUTSIDE
            reason = "outside" if outside else "cell taken"
        asked = rule is not None and rule is not ROOM_FOR_BODY  # those of the field and its prefabs
        if bad.any() or asked:
            found.append((reason, bad))
        left &= ~bad
    return found


def is_counted(project: Project, field: Field | None) -> bool:
    """Whether what stands in one place depends on how many stand in all others."""
    if field is None:
        return False
    prefabs = [project.prefabs[s.prefab] for s in field.sown if s.prefab in project.prefabs]
    own = (rule for prefab in prefabs for rule in rules_of(project, prefab))
    rules = (*known_rules(field.rules), *own)
    return bool(field.wanted) or any(rule.most() is not None for rule in rules)


def _bounds(
    ground: Ground, names: tuple[str, ...], rules: tuple[RuleKind, ...]
) -> list[tuple[int, int]]:
    """(kind, how many more of it the room may hold)."""
    found = []
    for number, name in enumerate(names):
        prefab = ground.project.prefabs.get(name)
        for rule in (*rules, *(rules_of(ground.project, prefab) if prefab else ())):
            most = rule.most()
            if most is not None:
                found.append((number, max(0, most - rule.counted(ground, name))))
    return found


def _bound(
    keep: NDArray[np.bool_], bound: NDArray[np.bool_], order: NDArray[np.float64], most: int
) -> int:
    """Keep at most so many of the `bound` ones, first in order; writes into `keep`."""
    rows = np.flatnonzero(bound)
    if len(rows) <= most:
        return 0
    keep[rows[np.argsort(order[rows], kind="stable")[most:]]] = False
    return len(rows) - most


def _dressed(
    field: Field,
    names: tuple[str, ...],
    positions: Positions,
    found: _Candidates,
    kinds: NDArray[np.intp],
    density: NDArray[np.float64],
    tally: Tally,
) -> Sowing:
    keys = found.keys.view(np.int64)
    lo, hi = field.size
    first, last = field.turn
    return Sowing(
        names,
        positions,
        kinds,
        lo + (hi - lo) * unit(seed_of("size"), keys),
        first + (last - first) * unit(seed_of("turn"), keys),
        unit(seed_of("mirror"), keys) < 0.5,
        density,
        found.ranks,
        tally,
    )
