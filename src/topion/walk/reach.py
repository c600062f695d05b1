"""Where the figure can get in a room: what it stands on, what it passes, from where it finds no way
back, and to each goal, door, pickup and switch the keys that lead there.

What was not reached is "no way found": nothing here says that there is none.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from itertools import product
from typing import Any

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.walk.from_above import from_above
from topion.walk.holding import Kind, Run
from topion.walk.keys import Keys
from topion.walk.places_met import met_at, places_of
from topion.walk.search import Hear, Search
from topion.walk.state import Key, State
from topion.walk.step import step
from topion.walk.strides import Strides
from topion.walk.world import World

Plane = NDArray[np.bool_]
Finds = Callable[[Key], list[Run] | None]


@dataclass(frozen=True)
class Counted:
    """A goal, door, pickup or switch.  cell : in array order.  found : a way leads there."""

    key: Key
    prefab: str
    kind: str
    cell: tuple[int, ...]
    found: bool


@dataclass(frozen=True, eq=False)
class Reach:
    """What a search found.

    begun : where it began.  stands : a plane of the room, cells in which the feet of the figure
    stand or climb; in rooms seen from above all that it comes to.  passes : all its body meets.
    no_back : cells where it stands and from which no way back to the beginning was found.
    tried : ticks.  whole : nothing was left to try.
    """

    begun: State
    stands: Plane
    passes: Plane
    no_back: Plane
    places: tuple[Counted, ...]
    tried: int
    whole: bool
    finds: Finds

    def holds(self, state: State) -> bool:
        """Whether the cell of the feet was reached; cells beyond the room are not looked at."""
        at = tuple(round(v) for v in state.place()[-self.stands.ndim :])
        if not all(0 <= v < size for v, size in zip(at, self.stands.shape, strict=True)):
            return True
        return bool(self.stands[at] or self.passes[at])

    def witness(self, place: Key) -> list[Keys] | None:
        """Keys by tick that lead from the beginning to a place; None where no way was found."""
        runs = self.finds(place)
        return None if runs is None else [keys for keys, ticks in runs for _ in range(ticks)]

    @cached_property
    def missed(self) -> tuple[Counted, ...]:
        """The places to which no way was found."""
        return tuple(place for place in self.places if not place.found)


def reach_of(
    world: World, room: str, at: tuple[float, ...] | None = None, strides: Strides | None = None,
    hear: Hear | None = None,
) -> Reach:  # fmt: skip
    """The reach from where a room starts, or from a place in cells.  strides : those of an earlier
    search of the same figure and view, to go on with.  `hear` may raise to stop it.  Raises
    UnknownName."""
    return reach_from(world.begin(room, at), strides, hear)


def reach_from(
    begun: State, strides: Strides | None = None, hear: Hear | None = None, *,
    until_met: bool = False, sought: Key | None = None,
    early: Callable[[Reach], object] | None = None,
) -> Reach:  # fmt: skip
    """The reach from a moment of a walk on.  until_met : only until all places were met.
    sought : or only that one.  early : hears of what is found before the figure changes anything,
    while the search goes on."""
    world, room = begun.world, begun.room
    stage = world.stage(room)
    if stage.view == "top":
        above = from_above(begun, hear)
        here = tuple(_counted(begun, actor, above.found(actor.key)) for actor in places_of(stage))
        return Reach(begun, above.stands, above.passes, np.zeros_like(above.stands), here, 0, True,
                     above.way_to)  # fmt: skip
    search = Search(begun, strides or Strides(world, stage.view), hear, until_met=until_met,
                    sought=sought)  # fmt: skip
    search.run(lambda: early and early(_reach(search)))
    return _reach(search)


def _reach(search: Search) -> Reach:
    """What a search has found so far."""
    begun, planes = search.begun, _Planes(search)
    places = tuple(_counted(begun, actor, actor.key in search.met)
                   for actor in places_of(search.stage))  # fmt: skip

    def finds(key: Key) -> list[Run] | None:
        return search.keys_to(key) if key in search.met else None

    return Reach(begun, planes.stands, planes.passes, planes.no_back(), places, search.hold.ticks,
                 search.whole, finds)  # fmt: skip


def replays(reach: Reach, place: Key) -> bool:
    """Whether the keys to a place lead there when they are played from the beginning."""
    keys, state = reach.witness(place), reach.begun
    for held in keys or ():
        after = step(state, held)
        if place in met_at(state, after):
            return True
        state = after
    return False


def _counted(begun: State, actor: Any, found: bool) -> Counted:
    stage, cell = begun.world.stage(begun.room), begun.world.scale.cell
    home = actor.home
    middle = [(home[1] + home[3]) // 2, (home[0] + home[2]) // 2]
    if stage.view == "voxel":
        middle.insert(0, home[4])
    return Counted(
        actor.key, actor.prefab, actor.role.kind, tuple(v // cell for v in middle), found
    )


class _Planes:
    """The cells of all that a search went through."""

    def __init__(self, search: Search) -> None:
        self._search, self._strides = search, search.strides
        hold, self._beyond = search.hold, search.strides.beyond
        bodies = search.moments.bodies
        at = np.array([body[:3] for body in bodies], np.int64).reshape(-1, 3)
        self._at = at
        kinds = np.array([hold.facing[body.gait].kind % 8 for body in bodies], np.intp)
        self._standing = np.flatnonzero((kinds == Kind.STANDS) | (kinds == Kind.CLIMBS))
        self._over = np.array([hold.facing[body.gait].over for body in bodies], bool)
        self._feet = self._feet_of(at)
        stands, passes = np.zeros(hold.shape, bool), np.zeros(hold.shape, bool)
        stands[self._inside(self._feet[self._standing])] = True
        trail = np.array([hold.xs, hold.ys, hold.zs], np.int64).T
        self._pass(passes, np.concatenate([at, trail]))
        self.stands, self.passes = self._of_room(stands), self._of_room(passes)

    def _of_room(self, grid: Plane) -> Plane:
        beyond, deep = self._beyond, self._search.hold.deep
        inner = grid[:, beyond:-beyond, beyond:-beyond]
        return inner[beyond:-beyond] if deep else inner[0]

    def _inside(self, cells: NDArray[np.int64]) -> tuple[NDArray[np.int64], ...]:
        """Cells as indices of the grid of the strides; those beyond are left out."""
        deep, shape = self._search.hold.deep, self._search.hold.shape
        moved = cells + np.array([self._beyond if deep else 0, self._beyond, self._beyond])
        fits = ((moved >= 0) & (moved < np.array(shape))).all(axis=1)
        return tuple(moved[fits].T)

    def _feet_of(self, at: NDArray[np.int64]) -> NDArray[np.int64]:
        """(level, row, column) of the cells that the feet are in, as `State.place` rounds them."""
        cell, wide, high = self._strides.scale.cell, self._strides.wide, self._strides.high
        x, y, z = at.T
        column = (x + wide // 2) // cell
        if self._search.hold.deep:
            return np.stack([(z + cell // 2) // cell, (y + wide // 2) // cell, column], axis=1)
        row = np.where(self._over, y + cell // 2, y + high - cell + cell // 2) // cell
        return np.stack([np.zeros_like(row), row, column], axis=1)

    def _pass(self, passes: Plane, at: NDArray[np.int64]) -> None:
        """Mark all cells that the figure is in at places."""
        cell, wide, high = self._strides.scale.cell, self._strides.wide, self._strides.high
        deep = self._search.hold.deep
        sizes = (high if deep else 1, wide if deep else high, wide)
        first = at[:, ::-1] // cell
        last = (at[:, ::-1] + np.array(sizes) - 1) // cell
        spans = [range(size // cell + 2) for size in sizes]
        for by in product(*(spans if deep else [range(1), *spans[1:]])):
            cells = first + np.array(by)
            passes[self._inside(cells[(cells <= last).all(axis=1)])] = True

    def no_back(self) -> Plane:
        """Where it stands and from where it does not get back to the place it began at."""
        count, ways = len(self._feet), np.array(self._search.ways, np.int64).reshape(-1, 2)
        grid = np.zeros(self._search.hold.shape, bool)
        if not len(self._standing):
            return self._of_room(grid)
        corners = self._at[self._standing] // self._strides.scale.cell
        home = (corners == corners[0]).all(axis=1)
        homes = self._standing[home]
        heads = np.concatenate([ways[:, 1], np.full(len(homes), count)])
        tails = np.concatenate([ways[:, 0], homes])
        graph = scipy.sparse.csr_array(
            (np.ones(len(heads), np.int8), (heads, tails)), (count + 1, count + 1)
        )
        back = np.zeros(count + 1, bool)
        back[scipy.sparse.csgraph.breadth_first_order(graph, count, return_predecessors=False)] = (
            True
        )
        gets_back = self._standing[back[self._standing]]
        grid[self._inside(self._feet[self._standing])] = True
        grid[self._inside(self._feet[gets_back])] = False
        return self._of_room(grid)
