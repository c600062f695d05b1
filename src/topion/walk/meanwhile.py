"""What the things of a room do while the figure touches none of them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from topion import progress
from topion.conditions import Cleared, Inside, Taken
from topion.roles import Pickup, RoleKind, Switch
from topion.roles.kind import Edges
from topion.walk.stage import Actor, Stage
from topion.walk.state import Now, Sent, State
from topion.walk.step import without_figure
from topion.walk.strides import Strides

Facts = tuple[object, ...]  # what is so, of all that decides where the figure can go
_WATCHED = 20 * 60  # ticks for which it is looked where things that move come to
_OFTEN = 2  # ticks between two looks


class Meanwhile:
    """From one moment on, until the figure changes something.

    begun : that moment.  facts : what was so then.
    """

    def __init__(self, begun: State, facts: Facts) -> None:
        self.begun = begun
        self.stage: Stage = begun.world.stage(begun.room)
        self.facts = facts
        self.moves = bool(self.stage.acting or begun.sent)
        self._states = [begun]

    def at(self, tick: int) -> tuple[tuple[Now, ...], tuple[Sent, ...]]:
        """How all things are at a tick, and what was sent out."""
        if not self.moves:
            return self.begun.lives, self.begun.sent
        while len(self._states) <= tick - self.begun.tick:
            progress.step("what moves")
            self._states.append(without_figure(self._states[-1]))
        state = self._states[tick - self.begun.tick]
        return state.lives, state.sent

    def near(self, strides: Strides, shape: tuple[int, ...]) -> dict[int, tuple[int, ...]]:
        """By index of a cell in the grid of the strides: the things that a figure whose first
        corner is in it may meet, now or later; -1 for what is sent out, and for regions."""
        self.at(self.begun.tick + _WATCHED)
        boxes = _Boxes(self.stage, strides, shape)
        wandering = set(self.stage.near.moving)
        for place, actor in enumerate(self.stage.actors):
            if not _matters(actor):
                continue
            if place in wandering:
                for now in {state.lives[place][:3] for state in self._states[::_OFTEN]}:
                    boxes.add(place, actor.home, now)
            else:
                boxes.add(place, actor.home)
        half = strides.scale.cell // 2
        for sent in {s[1:4] for state in self._states[::_OFTEN] for s in state.sent}:
            boxes.add(-1, (-half, -half, half, half, -half, half), sent)
        for actor in self.stage.actors:
            for condition in actor.when.all_of:
                if isinstance(condition, Inside):
                    boxes.add_region(self.stage, condition.region)
        return {index: tuple(sorted(places)) for index, places in boxes.near.items()}


class _Boxes:
    """near : by index of a cell in which the first corner of a figure may be, what it meets."""

    def __init__(self, stage: Stage, strides: Strides, shape: tuple[int, ...]) -> None:
        self.near: dict[int, set[int]] = {}
        self._strides, self._shape, self._deep = strides, shape, strides.view == "voxel"
        scale = strides.scale
        self._margin = max(scale.fastest, scale.step, scale.cell) + scale.speed

    def add(self, place: int, home: Edges, by: tuple[int, ...] = (0, 0, 0)) -> None:
        """A box that was moved: met from all places from where it can be acted upon, too."""
        strides, margin, cell = self._strides, self._margin, self._strides.scale.cell
        tall = strides.wide if self._deep else strides.high
        lo = [home[0] + by[0] - strides.wide, home[1] + by[1] - tall]
        hi = [home[2] + by[0], home[3] + by[1]]
        if self._deep:
            lo.append(home[4] + by[2] - strides.high)
            hi.append(home[5] + by[2])
        spans = [range(max(0, (low - margin) // cell + strides.beyond),
                       max(0, min(size, (high + margin) // cell + strides.beyond + 1)))
                 for low, high, size in zip(lo, hi, self._shape[::-1], strict=False)]  # fmt: skip
        _, rows, columns = self._shape
        for level in spans[2] if self._deep else (0,):
            for row in spans[1]:
                for column in spans[0]:
                    index = (level * rows + row) * columns + column
                    self.near.setdefault(index, set()).add(place)

    def add_region(self, stage: Stage, name: str) -> None:
        """All cells of a region; what waits for the figure to be there looks at each tick."""
        inside, cell = stage.regions.get(name), stage.terrain.cell
        if inside is None:
            return
        columns, rows, levels = (length // cell for length in stage.size)
        plan = np.frombuffer(inside, np.uint8).reshape(max(1, levels), rows, columns)
        for level, row, column in np.argwhere(plan).tolist():
            x, y, z = column * cell, row * cell, level * cell
            self.add(-1, (x, y, x + cell, y + cell, z, z + cell))


def _matters(actor: Actor) -> bool:
    """Whether it does anything to a figure that comes near."""
    role = actor.role
    if role is None:
        return False
    ways = ("touched", "acted", "in_the_way")
    return any(getattr(type(role), way) is not getattr(RoleKind, way) for way in ways)


@dataclass(frozen=True)
class Telling:
    """The places of the things that decide where the figure can go: those that wait for something,
    and switches, pickups and what counts for clearing the room, if something waits for them."""

    waiting: tuple[int, ...]
    switches: tuple[int, ...]
    pickups: tuple[int, ...]

    @classmethod
    def of(cls, stage: Stage) -> Telling:
        """Those of a room."""
        conditions = [condition for actor in stage.actors for condition in actor.when.all_of]
        spoken = {number for c in conditions for number in getattr(c, "things", tuple)()}
        cleared = any(isinstance(condition, Cleared) for condition in conditions)
        counted = any(isinstance(condition, Taken) for condition in conditions)
        switches, pickups = list[int](), list[int]()
        for place, actor in enumerate(stage.actors):
            if isinstance(actor.role, Switch) and actor.key[1] in spoken:
                switches.append(place)
            elif (isinstance(actor.role, Pickup) and counted) or (actor.counts and cleared):
                pickups.append(place)
        return cls(stage.waiting, tuple(switches), tuple(pickups))

    def opened(self, lives: tuple[Now, ...]) -> Facts:
        """What is so of the things that wait."""
        return tuple((lives[place].on, lives[place].gone) for place in self.waiting)

    def facts(self, lives: tuple[Now, ...]) -> Facts:
        """All that counts; of pickups only how many are left."""
        some = tuple((lives[place].on, lives[place].gone) for place in self.switches)
        taken = sum(lives[place].gone or lives[place].on for place in self.pickups)
        return (*self.opened(lives), *some, taken)

    def done(self, lives: tuple[Now, ...]) -> int:
        """How many are on, or taken."""
        return sum(lives[n].gone or lives[n].on for n in (*self.switches, *self.pickups))

    def wanted(self, before: tuple[Now, ...], now: tuple[Now, ...]) -> frozenset[int]:
        """The places of what opened, shut, came or went, and of what may still be done."""
        changed = {n for n in self.waiting
                   if (before[n].on, before[n].gone) != (now[n].on, now[n].gone)}  # fmt: skip
        undone = {n for n in (*self.switches, *self.pickups) if not (now[n].gone or now[n].on)}
        return frozenset(changed | undone)
