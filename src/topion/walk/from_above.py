"""Where the figure can get in a room seen from above: all at once, as one region of free places.

Along each axis the figure is in so many cells or in one more, so that its free places form a grid
with twice as many columns and rows as the room; a place is free where no cell it is in is a wall
(Lozano-Perez, "Spatial planning: a configuration space approach", 1983).  Doors that are shut are
walls until what opens them was found, and so is what harms and stays where it is.  Ways are walked
with `walk.step` when they are asked for.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator, Sequence
from typing import cast

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.conditions import Cleared, SwitchOn, Taken
from topion.roles import Door, Goal, Pickup, Switch
from topion.roles.kind import Edges
from topion.walk.holding import Run
from topion.walk.keys import ACT, DOWN, LEFT, RIGHT, UP, Keys
from topion.walk.lives import Live
from topion.walk.places_met import met_at, places_of
from topion.walk.search import Hear
from topion.walk.stage import Actor, Stage, grown
from topion.walk.state import Key, State
from topion.walk.step import step
from topion.walk.terrain import SOLID, Terrain

Plane = NDArray[np.bool_]
_ACTS_FROM = 1.0  # cells
_PATIENCE = 90  # ticks for one step of a way


def from_above(begun: State, hear: Hear | None = None) -> FromAbove:
    """The reach of a room seen from above; what opens doors is looked for until nothing opens."""
    found = FromAbove(begun)
    while found.go_on():
        if hear is not None:
            hear(f"{len(found.order)} places")
    return found


class FromAbove:
    """stands : cells that the middle of the figure comes to.  passes : that its body meets.
    order : the places that were found, those before the doors they open."""

    def __init__(self, begun: State) -> None:
        self.begun = begun
        self.stage: Stage = begun.world.stage(begun.room)
        self.cell, self.wide = begun.world.scale.cell, begun.world.sizes("top")[0]
        terrain = cast(Terrain, self.stage.terrain)
        flags = np.frombuffer(terrain.flags, np.uint8).reshape(terrain.rows, terrain.columns)
        self._walls: Plane = flags & SOLID > 0
        self._shut = self._in_the_way(begun)
        self._hidden = {place for place, now in enumerate(begun.lives) if now.gone}
        self.order: list[int] = []
        self._regions: list[Plane] = []
        self._harming = {n for n in self._staying() if self.stage.actors[n].harmful}

    def _staying(self) -> set[int]:
        """The things that stay where they are."""
        return set(range(len(self.stage.actors))) - set(self.stage.near.moving)

    def _in_the_way(self, state: State) -> set[int]:
        """The things that nothing goes through, of those that stay where they are."""
        actors = self.stage.actors
        return {place for place in self._staying()
                if Live(actors[place], state.lives[place], place).stands_in_the_way()}  # fmt: skip

    # --- the region -----------------------------------------------------------------------

    def go_on(self) -> bool:
        """Look for all that can be got to now; whether something opened or appeared by it."""
        region = self._region()
        self._regions.append(region)
        counting = {actor.key: n for n, actor in enumerate(self.stage.actors)}
        for actor in places_of(self.stage):
            place = counting[actor.key]
            shut = (isinstance(actor.role, Door) and place in self._shut) or place in self._hidden
            if place not in self.order and not shut and region[self._near(actor)].any():
                self.order.append(place)
        opened = {n for n in self.stage.waiting if n in self._shut | self._hidden
                  and self._comes_true(self.stage.actors[n])}  # fmt: skip
        self._shut -= opened
        self._hidden -= opened
        return bool(opened)

    def _comes_true(self, actor: Actor) -> bool:
        """Whether all it waits for can be so, by what was found."""
        found = [self.stage.actors[n] for n in self.order]
        for condition in actor.when.all_of:
            if isinstance(condition, SwitchOn):
                true = condition.off or any(a.key[1] == condition.thing for a in found)
            elif isinstance(condition, Taken):
                names = self.begun.world.counted_as
                true = condition.count <= sum(
                    a.role.counts
                    for a in found
                    if isinstance(a.role, Pickup) and condition.of in names(a.prefab)
                )
            elif isinstance(condition, Cleared):
                counting = set(self.stage.counting)
                missing = counting - set(self.order)
                true = bool(counting) and not any(
                    isinstance(self.stage.actors[n].role, Goal | Pickup | Switch) for n in missing
                )
            else:
                true = True  # the figure may be wherever it is waited for
            if not true:
                return False
        return True

    def _region(self) -> Plane:
        """(2 rows, 2 columns): the free places that hang together with the beginning."""
        walls = self._walls.copy()
        for place, actor in enumerate(self.stage.actors):
            if place in self._shut and place not in self._hidden:
                walls[self._cells_within(actor.home)] = True
            elif place in self._harming and place not in self._hidden:
                walls[self._cells_met(actor.home)] = True
        free = self._spans(self._spans(~walls, 0), 1)
        labels, _ = scipy.ndimage.label(free)
        at = self._node(self.begun.y), self._node(self.begun.x)
        inside = all(0 <= v < size for v, size in zip(at, labels.shape, strict=True))
        if not (inside and labels[at]):
            only = np.zeros_like(free)
            if inside:
                only[at] = True
            return only
        return np.asarray(labels == labels[at])

    def _spans(self, free: Plane, axis: int) -> Plane:
        """Twice as many along an axis: free for a body that begins in a cell and ends in the last
        one it fits in, and for one that reaches a cell farther."""
        along, more = np.moveaxis(free, axis, 0), (self.wide - 1) // self.cell
        padded = np.concatenate([along, np.zeros((more + 1, *along.shape[1:]), bool)])
        count, few = len(along), along
        for by in range(1, more + 1):
            few = few & padded[by : by + count]
        many = few & padded[more + 1 : more + 1 + count]
        both = np.stack([few, many], axis=1).reshape(2 * count, *along.shape[1:])
        return np.moveaxis(both, 0, axis)

    def _node(self, at: int) -> int:
        """The number of the place along an axis of a body that begins so many units on."""
        return 2 * (at // self.cell) + (at % self.cell > self._fits)

    def _near(self, actor: Actor) -> tuple[slice, slice]:
        """The places from which a thing is met."""
        acts = getattr(actor.role, "by", "") == "acting on it"
        home = grown(actor.home, round(_ACTS_FROM * self.cell)) if acts else actor.home
        return self._places_at(home)

    def _places_at(self, home: Edges) -> tuple[slice, slice]:
        x, y = (slice(max(0, self._node(low - self.wide + 1)), max(0, self._node(high - 1) + 1))
                for low, high in ((home[0], home[2]), (home[1], home[3])))  # fmt: skip
        return y, x

    def _cells_within(self, home: Edges) -> tuple[slice, slice]:
        """The cells that a box fills wholly."""
        x, y = (slice(max(0, -(-low // self.cell)), max(0, high // self.cell))
                for low, high in ((home[0], home[2]), (home[1], home[3])))  # fmt: skip
        return y, x

    def _cells_met(self, home: Edges) -> tuple[slice, slice]:
        """The cells that a box lies in."""
        x, y = (slice(max(0, low // self.cell), max(0, -(-high // self.cell)))
                for low, high in ((home[0], home[2]), (home[1], home[3])))  # fmt: skip
        return y, x

    # --- what is shown --------------------------------------------------------------------

    def found(self, place: Key) -> bool:
        """Whether it can be got to."""
        return self.stage.by_key[place] in self.order

    @property
    def stands(self) -> Plane:
        """(rows, columns) of the room."""
        half, fits = self.wide // 2, self._fits
        few = sorted({half // self.cell, (fits + half) // self.cell})
        many = sorted({(fits + 1 + half) // self.cell, (self.cell - 1 + half) // self.cell})
        return self._folded(few, many) & ~self._walls

    @property
    def passes(self) -> Plane:
        """(rows, columns) of the room: all cells that the body is in somewhere."""
        more = (self.wide - 1) // self.cell
        return self._folded(range(more + 1), range(more + 2))

    @property
    def _fits(self) -> int:
        """Units that a body can move on before it is in a cell more."""
        return ((self.wide - 1) // self.cell + 1) * self.cell - self.wide

    def _folded(self, few: Sequence[int], many: Sequence[int]) -> Plane:
        """The cells that lie so many before the end of where a body begins, for each of the
        places it comes to, as it is in few cells or in one more."""
        found = self._regions[-1]
        for axis in (0, 1):
            along = np.moveaxis(found, axis, 0)
            count = len(along) // 2
            folded = np.zeros((count, *along.shape[1:]), bool)
            for part, offsets in ((along[0::2], few), (along[1::2], many)):
                for by in offsets:
                    folded[by:] |= part[: count - by]
            found = np.moveaxis(folded, 0, axis)
        return found

    # --- ways -----------------------------------------------------------------------------

    def way_to(self, place: Key) -> list[Run] | None:
        """Keys from the beginning to a place, by `walk.step`; what opens the way is got to first.
        None where walking it does not come there."""
        if not self.found(place):
            return None
        target = self.stage.by_key[place]
        telling = [n for n in self.order[: self.order.index(target)] if self._opens(n)]
        walk = _Walk(self, self.begun)
        if walk.goes_to(target):
            return [(keys, 1) for keys in walk.keys]
        walk = _Walk(self, self.begun)
        for number in [*telling, target]:
            if place not in walk.met and not walk.goes_to(number):
                return None
        return [(keys, 1) for keys in walk.keys[: walk.met[place]]]

    def _opens(self, number: int) -> bool:
        """Whether something may wait for it."""
        actor = self.stage.actors[number]
        if not self.stage.waiting or isinstance(actor.role, Door):
            return False
        spoken = {n for a in self.stage.actors for c in a.when.all_of
                  for n in getattr(c, "things", tuple)()}  # fmt: skip
        return not isinstance(actor.role, Switch) or actor.key[1] in spoken or actor.counts

    def free_now(self, state: State) -> Plane:
        """The places that are free, with doors as they are in a state."""
        shut, self._shut = self._shut, self._in_the_way(state)
        begun, self.begun = self.begun, state
        try:
            return self._region()
        finally:
            self._shut, self.begun = shut, begun


class _Walk:
    """keys : those so far.  state : where they lead.  met : after how many keys each thing was."""

    def __init__(self, above: FromAbove, state: State) -> None:
        self._above, self.state = above, state
        self.keys: list[Keys] = []
        self.met: dict[Key, int] = {}

    def goes_to(self, number: int) -> bool:
        """Go on until a thing is met; whether it was."""
        above, actor = self._above, self._above.stage.actors[number]
        if actor.key in self.met:
            return True  # on the way to another one
        way = self._way(above._near(actor))
        if way is None:
            return False
        for node in way:
            if self._steps_into(node, actor.key):
                return True
            if (above._node(self.state.y), above._node(self.state.x)) != node:
                return False
        return any(self._holds(keys, actor.key) for keys in self._closing(actor))

    def _way(self, near: tuple[slice, slice]) -> list[tuple[int, int]] | None:
        """Places from here to the nearest of some, one next to the other (breadth first)."""
        above = self._above
        free = above.free_now(self.state)
        wanted = np.zeros_like(free)
        wanted[near] = True
        wanted &= free
        begun = (above._node(self.state.y), above._node(self.state.x))
        before: dict[tuple[int, int], tuple[int, int] | None] = {begun: None}
        line = deque([begun])
        while line:
            here = line.popleft()
            if wanted[here]:
                return _back_from(here, before)
            for by in ((0, 1), (0, -1), (1, 0), (-1, 0)):
                there = (here[0] + by[0], here[1] + by[1])
                if (
                    there not in before
                    and all(0 <= v < n for v, n in zip(there, free.shape, strict=True))
                    and free[there]
                ):
                    before[there] = here
                    line.append(there)
        return None

    def _steps_into(self, node: tuple[int, int], target: Key) -> bool:
        """Hold keys until the figure is in a place; whether the thing was met meanwhile."""
        above = self._above
        for _ in range(_PATIENCE):
            y, x = above._node(self.state.y), above._node(self.state.x)
            if (y, x) == node:
                return False
            keys = RIGHT if x < node[1] else LEFT if x > node[1] else DOWN if y < node[0] else UP
            if self._holds(keys, target):
                return True
            if self.state.whereabouts != above.begun.whereabouts:
                return False
        return False

    def _closing(self, actor: Actor) -> Iterator[Keys]:
        """Keys that lead to a thing which is near, and act upon it."""
        home, wide = actor.home, self._above.wide
        acts = ACT if getattr(actor.role, "by", "") == "acting on it" else 0
        for tick in range(_PATIENCE // 3):
            x, y = (home[0] + home[2] - wide) // 2, (home[1] + home[3] - wide) // 2
            keys = (RIGHT if self.state.x < x else LEFT) | (DOWN if self.state.y < y else UP)
            yield keys | (acts if tick % 2 else 0)

    def _holds(self, keys: Keys, target: Key) -> bool:
        """A tick; whether the thing was met."""
        before, self.state = self.state, step(self.state, keys)
        self.keys.append(keys)
        for key in met_at(before, self.state):
            self.met.setdefault(key, len(self.keys))
        return target in self.met


def _back_from(
    end: tuple[int, int], before: dict[tuple[int, int], tuple[int, int] | None]
) -> list[tuple[int, int]]:
    way, here = [], before[end] and end
    while here is not None:
        way.append(here)
        here = before[here]
    return way[::-1]
