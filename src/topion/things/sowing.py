"""What a field sows: derived from density, seed and rules, never stored one by one.

Candidates are fixed by the seed alone, on the whole plane: a tile of Poisson-disk points,
repeated and scaled to the spacing.  Which prefab stands on a candidate, and which candidates
give way to one that needs more room, is fixed too.  Density is then a threshold on the rank
of a candidate and rules are asked of each alone, so painting in one corner cannot move a
thing in another.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Positions
from topion.grid.boxes import Box
from topion.grid.hashing import seed_of, unit
from topion.grid.spacing import point_pairs, point_tile, tables_made
from topion.model.ban import Ban
from topion.model.layer import sizes_of
from topion.model.project import Project
from topion.model.room import Room
from topion.things.candidates import Candidates, static_candidates, widest_factor
from topion.things.density import density_at, first_of, may_sow
from topion.things.field import Field, field_of
from topion.things.ground import Ground, Spots
from topion.things.held import banned, held_in, near_held, obstructed
from topion.things.rules.kind import RuleKind, known_rules, rules_of
from topion.things.sown import Sowing, Tally, with_held
from topion.things.verdict import OUTSIDE, ROOM_FOR_BODY, rule_answers

MOST_SOWN = 4_000_000  # candidates of one field; beyond, a wider spacing is wanted
_POINTS_EACH = 0.7  # candidates in a square of one spacing
_LEAST_SCALE, _LARGEST_SCALE = 0.01, 100.0
_NOT_WANTED = -2  # why one does not stand that nothing refuses
TOO_CLOSE, BANNED, HELD = "too close", "banned", "beside a held one"
OBSTACLE, MISSING = "in the way of a layer below", "prefab is missing"


def sow(project: Project, room: Room, layer_id: str, window: Box | None = None) -> Sowing:
    """The things of a field layer whose anchors stand in `window`, or in the whole room.

    window : columns seen from above.  Candidates are points of the plan; in a voxel room each
    may stand on every upward surface below and above it.
    Counts (wanted, at most) are a matter of the whole room; with a window they do not hold.
    """
    layer = room.layers[layer_id]
    sown = field_of(project, layer)
    if sown is None:
        return _nothing(None, room.info.axes)
    held = held_in(layer, window)
    area = may_sow(layer, sown)
    area = area if window is None else area.clipped(window)
    if not area.size:
        return with_held(_nothing(sown, room.info.axes), held, len(held))
    estimate = int(area.size * _POINTS_EACH / sown.spacing**2)
    if estimate > MOST_SOWN:
        told = (f"over the {MOST_SOWN:,} sown at once", estimate)
        return _nothing(sown, room.info.axes, Tally(estimate, 0, (told,)))
    work = _Work(project, room, layer_id, sown, area)
    work.refuse(work.crowded, TOO_CLOSE)
    bans: list[Ban] = list(layer.table("bans").values())
    if bans:
        work.leave(banned(work.positions, (ban for ban in bans if ban.held)))
    if any(not ban.held for ban in bans):
        work.refuse(banned(work.positions, (ban for ban in bans if not ban.held)), BANNED)
    every = layer.table("held")
    if every:
        work.refuse(near_held(work.positions, work.spacings(), every.values()), HELD)
    if sown.avoids != "nothing":

        def below(other: str, near: Box | None) -> Positions:
            return sow(project, room, other, near).positions

        work.refuse(obstructed(room, layer_id, sown, work.positions, window, below), OBSTACLE)
    work.ask_rules()
    if window is None and is_counted(project, sown):
        work.bound(len(held))
    counted = sown.wanted or sown.per_100
    return with_held(work.sowing(), held, 0 if counted and window is None else len(held))


class _Work:
    """One sowing under way.  positions : (n, axes) of what the density asks for.  why : (n,) the
    reason that refuses each, -1 for none."""

    def __init__(self, project: Project, room: Room, layer_id: str, sown: Field, area: Box) -> None:
        self.project, self.room, self.sown = project, room, sown
        self.layer_id, self.layer = layer_id, room.layers[layer_id]
        self.names = tuple(part.prefab for part in sown.sown)
        found, kinds, crowded = static_candidates(sown, area, first_of(self.layer))
        cells = np.floor(found.points).astype(np.intp)
        density = density_at(project, room, layer_id, cells)
        rows = np.flatnonzero(found.ranks < density)
        found, kinds, crowded, density = (
            found.kept(rows), kinds[rows], crowded[rows], density[rows]
        )  # fmt: skip
        self.ground = Ground(project, room)
        plan = _strayed(sown, found, kinds) - 0.5
        self.positions, belongs = self.ground.floor.seats(plan)
        if belongs is not None:
            belongs = self._on_levels(belongs)
            found, kinds = found.kept(belongs), kinds[belongs]
            crowded, density = crowded[belongs], density[belongs]
        self.found, self.kinds, self.crowded, self.density = found, kinds, crowded, density
        self.why = np.full(len(kinds), -1, np.intp)
        self.reasons: dict[str, int] = {}  # in the order in which they are asked
        self.wanted = len(kinds)

    def _on_levels(self, belongs: NDArray[np.intp]) -> NDArray[np.intp]:
        """Only the places on the levels that the layer is for."""
        levels = self.layer.info.levels
        if levels is None:
            return belongs
        at = self.positions[:, 0]
        rows = np.flatnonzero((at >= levels[0]) & (at < levels[1]))
        self.positions = self.positions[rows]
        return np.asarray(belongs[rows])

    @property
    def keep(self) -> NDArray[np.bool_]:
        """(n,) those that nothing refuses so far."""
        return np.asarray(self.why == -1)

    def spacings(self) -> NDArray[np.float64]:
        """(n,) cells that each keeps clear."""
        factors = np.array([part.spacing for part in self.sown.sown])
        return np.asarray(factors[self.kinds] * self.sown.spacing)

    def refuse(self, bad: NDArray[np.bool_], reason: str) -> int:
        """What was not refused before is now, where `bad` says so; how many those are."""
        number = self.reasons.setdefault(reason, len(self.reasons))
        rows = np.flatnonzero(bad & self.keep)
        self.why[rows] = number
        return len(rows)

    def leave(self, out: NDArray[np.bool_]) -> None:
        """What stands elsewhere now: it is not asked for here."""
        rows = np.flatnonzero(out & self.keep)
        self.why[rows] = _NOT_WANTED
        self.wanted -= len(rows)

    def ask_rules(self) -> None:
        """The rules of the field and of its prefabs."""
        rules = known_rules(self.sown.rules)
        for number, name in enumerate(self.names):
            mine = self.kinds == number
            if name not in self.project.prefabs:
                self.refuse(mine, MISSING)
                continue
            rows = np.flatnonzero(mine & self.keep)
            spots = Spots(self.project.prefabs[name], self.positions[rows])
            for reason, bad in _refusals(self.ground, spots, rules):
                every = np.zeros(len(self.why), bool)
                every[rows] = bad
                self.refuse(every, reason)

    def bound(self, held: int) -> None:
        """No more than there may be, the first in order."""
        order = self.found.ranks / np.maximum(self.density, 1e-9)
        rules = known_rules(self.sown.rules)
        for number, most in _bounds(self.ground, self.names, rules):
            self._bound(self.keep & (self.kinds == number), order, most, "too many")
        most_of_all = self._most()
        if most_of_all is not None:
            self.wanted = most_of_all
            self._bound(self.keep, order, max(0, most_of_all - held), "")

    def _most(self) -> int | None:
        """How many there may be in all; None for no bound."""
        bounds = [self.sown.wanted] if self.sown.wanted else []
        if self.sown.per_100:
            box = may_sow(self.layer, self.sown)
            dense = density_at(self.project, self.room, self.layer_id, box.cells()).sum()
            bounds.append(round(float(dense) * self.sown.per_100 / 100))
        return min(bounds) if bounds else None

    def _bound(
        self, among: NDArray[np.bool_], order: NDArray[np.float64], most: int, reason: str
    ) -> None:
        rows = np.flatnonzero(among)
        if len(rows) <= most:
            if reason:
                self.reasons.setdefault(reason, len(self.reasons))
            return
        out = np.zeros(len(self.why), bool)
        out[rows[np.argsort(order[rows], kind="stable")[most:]]] = True
        if reason:
            self.refuse(out, reason)
        else:
            self.why[out] = _NOT_WANTED

    def sowing(self) -> Sowing:
        """What comes of it."""
        keep = self.keep
        counts = np.bincount(self.why[self.why >= 0], minlength=len(self.reasons))
        left = [MISSING] if not counts[self.reasons.get(MISSING, 0)] else []
        refused = tuple((reason, int(counts[n])) for reason, n in self.reasons.items()
                        if reason not in left)  # fmt: skip
        tally = Tally(self.wanted, int(keep.sum()), refused)
        rows = np.flatnonzero(self.why >= 0)
        made = _dressed(self.sown, self.names, self.positions[keep], self.found.kept(keep),
                        self.kinds[keep], self.density[keep], tally, self._sizes(keep))  # fmt: skip
        return replace(made, refused_at=self.positions[rows], refused_by=self.why[rows])

    def _sizes(self, keep: NDArray[np.bool_]) -> NDArray[np.float64]:
        """(n,) what the size mask makes of each."""
        mask = self.layer.planes.get("size")
        if mask is None:
            return np.ones(int(keep.sum()))
        cells = np.floor(self.found.points[keep]).astype(np.intp)
        return sizes_of(mask[cells[:, 0], cells[:, 1]])


def _strayed(sown: Field, found: Candidates, kinds: NDArray[np.intp]) -> Positions:
    """(n, 2) where candidates stand, in all directions alike from where they were."""
    far = np.array([part.strays for part in sown.sown])[kinds]
    if not far.any():
        return found.points
    keys = found.keys.view(np.int64)
    way = 2 * np.pi * unit(seed_of("stray way"), keys)
    far = far * np.sqrt(unit(seed_of("stray"), keys))
    return np.asarray(found.points + far[:, None] * np.stack([np.sin(way), np.cos(way)], axis=1))


def tables_ready(sown: Field) -> bool:
    """Whether `sow` can begin at once: else it makes tables first, which takes a while."""
    return tables_made(sown.seed, widest_factor(sown))


def make_tables(sown: Field) -> None:
    """Make what `sow` begins with; for threads that work ahead."""
    point_tile(sown.seed)
    if widest_factor(sown):
        point_pairs(sown.seed, widest_factor(sown))


def _nothing(sown: Field | None, axes: int, tally: Tally | None = None) -> Sowing:
    none = np.empty(0)
    names = tuple(part.prefab for part in sown.sown) if sown else ()
    return Sowing(
        names,
        np.empty((0, axes)),
        none.astype(np.intp),
        none,
        none,
        none.astype(bool),
        none,
        none,
        tally or Tally(sown.wanted if sown else 0, 0, ((TOO_CLOSE, 0),)),
    )


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


def is_counted(project: Project, sown: Field | None) -> bool:
    """Whether what stands in one place depends on how many stand in all others."""
    if sown is None:
        return False
    prefabs = [project.prefabs[s.prefab] for s in sown.sown if s.prefab in project.prefabs]
    own = (rule for prefab in prefabs for rule in rules_of(project, prefab))
    rules = (*known_rules(sown.rules), *own)
    return bool(sown.wanted or sown.per_100) or any(rule.most() is not None for rule in rules)


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


def _dressed(
    sown: Field,
    names: tuple[str, ...],
    positions: Positions,
    found: Candidates,
    kinds: NDArray[np.intp],
    density: NDArray[np.float64],
    tally: Tally,
    sizes: NDArray[np.float64],
) -> Sowing:
    keys = found.keys.view(np.int64)
    lo, hi = sown.size
    scales = sizes * (lo + (hi - lo) * unit(seed_of("size"), keys))
    own = np.array([part.size for part in sown.sown])[kinds]
    if (own != 1.0).any():
        scales *= own[:, 0] + (own[:, 1] - own[:, 0]) * unit(seed_of("own size"), keys)
    turns = np.array([part.turn or sown.turn for part in sown.sown])[kinds]
    return Sowing(
        names,
        positions,
        kinds,
        np.clip(scales, _LEAST_SCALE, _LARGEST_SCALE),
        turns[:, 0] + (turns[:, 1] - turns[:, 0]) * unit(seed_of("turn"), keys),
        unit(seed_of("mirror"), keys) < 0.5,
        density,
        found.ranks,
        tally,
    )
