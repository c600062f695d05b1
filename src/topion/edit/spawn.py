"""Spawning: so many things of a prefab, or of a weighted mix, into an area in one go.

Places are the middles of cells, in an order that follows from the seed alone; each is taken if all
rules of the prefab and the clearance allow it, also against what is being spawned.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from itertools import product

import numpy as np
from numpy.typing import NDArray

from topion.edit.rooms import change_things
from topion.errors import BadValue
from topion.grid.areas import Area
from topion.grid.hashing import hashed, unit
from topion.model.edit import Edit
from topion.model.prefab import Prefab, Thing
from topion.model.project import Project
from topion.things.ground import Ground, Spots
from topion.things.rules.kind import OwnLaid, rules_of
from topion.things.verdict import allowed_spots, reasons_at

MOST = 20_000


@dataclass(frozen=True)
class Spawned:
    """placed, wanted, tried : how many.  reasons : why places were refused, with counts."""

    placed: int
    wanted: int
    tried: int
    reasons: tuple[tuple[str, int], ...]

    def told(self) -> str:
        """In a sentence."""
        text = f"{self.placed} of {self.wanted} placed, {self.tried} places tried"
        why = ", ".join(f"{count} {reason}" for reason, count in self.reasons)
        return f"{text}: {why}" if why and self.placed < self.wanted else text


def spawn(
    project: Project,
    room_name: str,
    layer_id: str,
    mix: Mapping[str, float],
    count: int,
    area: Area,
    *,
    clearance: float = 0.0,
    seed: int = 0,
    step: Callable[[], None] = lambda: None,
) -> tuple[Edit, Spawned]:
    """Plan it.  mix : weights by prefab.  clearance : cells between the middles of all that is
    spawned and all that stands there.  step : called now and then; may raise to stop.

    What stands already counts into the chance, so asking again adds others.  Raises BadValue for a
    count, and UnknownName.
    """
    if not 1 <= count <= MOST:
        raise BadValue("how many things", count, f"1 to {MOST}")
    if not mix or min(mix.values()) <= 0:
        raise BadValue("the mix", dict(mix), "weights above 0")
    room = project.room(room_name)
    ground = Ground(project, room)
    salt = len(ground.standing.things)
    cells = area.cells[room.box.holds(area.cells)]
    if room.info.axes == 3:
        cells = np.unique(cells[:, -2:], axis=0)
    places = cells.astype(np.float64)
    if room.info.view != "top":
        places, _ = ground.floor.seats(places[:, -2:])
    order = np.argsort(hashed(seed, salt, *(np.floor(places * 16).astype(np.int64)).T))
    places = places[order]
    planner = _Planner(project, ground, clearance)
    kinds = _kinds(mix, len(places), seed, salt)
    names = list(mix)
    for number, name in enumerate(names):
        planner.add_kind(project.prefab(name), places[kinds == number], kinds == number)
        step()
    planner.go(count, step)
    edit = change_things(project, room_name, layer_id, planner.laid(room.next_number()), "Spawn")
    words = names[0] if len(names) == 1 else f"{len(names)} kinds"
    done = Spawned(len(planner.taken), count, planner.tried, tuple(planner.reasons.most_common()))
    return replace(edit, label=f"Spawn {words} ×{done.placed}"), done


def _kinds(mix: Mapping[str, float], count: int, seed: int, salt: int) -> NDArray[np.intp]:
    edges = np.cumsum(list(mix.values())) / sum(mix.values())
    draw = unit(seed, salt, np.arange(count), 1)
    return np.searchsorted(edges, draw, side="right").clip(0, len(mix) - 1)


class _Planner:
    """Takes one place after the other."""

    def __init__(self, project: Project, ground: Ground, clearance: float) -> None:
        self.project, self.ground, self.clearance = project, ground, clearance
        self.tried = 0
        self.reasons: Counter[str] = Counter()
        self.taken: list[tuple[str, NDArray[np.float64]]] = []
        self._squares: dict[tuple[int, ...], list[NDArray[np.float64]]] = {}
        self._kinds: list[tuple[Spots, NDArray[np.bool_], list[OwnLaid], NDArray[np.intp]]] = []

    def add_kind(
        self, prefab: Prefab, places: NDArray[np.float64], here: NDArray[np.bool_]
    ) -> None:
        """The places that fall to a prefab."""
        spots = Spots(prefab, places)
        allowed = allowed_spots(self.ground, spots) if len(places) else np.zeros(0, bool)
        own = [laid for rule in rules_of(self.project, prefab)
               if (laid := rule.among(self.ground, spots)) is not None]  # fmt: skip
        self._kinds.append((spots, allowed, own, np.flatnonzero(here)))

    def go(self, count: int, step: Callable[[], None]) -> None:
        """Until enough are placed or no place is left."""
        ranks = [(int(rank), kind, row) for kind, (_, _, _, at) in enumerate(self._kinds)
                 for row, rank in enumerate(at)]  # fmt: skip
        for _, kind, row in sorted(ranks):
            if len(self.taken) >= count:
                return
            self.tried += 1
            if self.tried % 512 == 0:
                step()
            self._try(kind, row)

    def _try(self, kind: int, row: int) -> None:
        spots, allowed, own, _ = self._kinds[kind]
        at = spots.positions[row]
        if not allowed[row]:
            one = Spots(spots.prefab, spots.positions[[row]])
            found = reasons_at(self.ground, one).get(0)
            self.reasons[found[0].sentence if found else "refused"] += 1
        elif not self._is_clear(at):
            self.reasons["too close to another"] += 1
        elif not all(rule.allows(row) for rule in own) or not self._fits(spots, row):
            self.reasons["a rule against what was spawned"] += 1
        else:
            for rule in own:
                rule.add(row)
            self.taken.append((spots.prefab.name, at))
            if self.clearance:
                self._squares.setdefault(self._square(at), []).append(at)

    def _is_clear(self, at: NDArray[np.float64]) -> bool:
        if not self.clearance:
            return True
        _, standing = self.ground.standing.near("anything")
        if standing is not None and standing.to(at[None])[0][0] < self.clearance - 1e-9:
            return False
        steps = product((-1, 0, 1), repeat=len(at))
        near = (other for by in steps for other in self._squares.get(self._square(at, by), ()))
        return all(np.linalg.norm(other - at) >= self.clearance - 1e-9 for other in near)

    def _square(self, at: NDArray[np.float64], by: tuple[int, ...] = ()) -> tuple[int, ...]:
        """Squares as wide as the clearance: only those beside each other can be too close."""
        where = np.floor(at / self.clearance).astype(int)
        return tuple((where + by if by else where).tolist())

    def _fits(self, spots: Spots, row: int) -> bool:
        """Against things of other prefabs that are being spawned."""
        others = [self._thing(name, at) for name, at in self.taken if name != spots.prefab.name]
        if not others:
            return True
        one = Spots(spots.prefab, spots.positions[[row]])
        return bool(allowed_spots(self.ground.with_things(others), one)[0])

    def _thing(self, name: str, at: NDArray[np.float64]) -> Thing:
        level, y, x = (0.0, *at.tolist()) if len(at) == 2 else at.tolist()
        return Thing(name, y, x, z=level)

    def laid(self, first: int) -> dict[int, Thing]:
        """The things by number."""
        return {first + n: self._thing(name, at) for n, (name, at) in enumerate(self.taken)}
