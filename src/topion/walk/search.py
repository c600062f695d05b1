"""Where the figure can get in a room, searched with `walk.step` as the only mover.

Places are kept apart by the cell of the figure's first corner and by how it moves there: it stands,
climbs, rises with the key held, flies freely, is thrown.  Of each such place only those moments are
gone on from that lead farther than all that came there before: farther to one side, or higher.  The
earliest moments go first (Dijkstra, "A note on two problems in connexion with graphs", 1959), so
that the way to each place is among the quickest ones.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from heapq import heappop, heappush
from typing import NamedTuple

from topion.walk.holding import Body, Holding, Run
from topion.walk.meanwhile import Meanwhile, Telling
from topion.walk.places_met import met_at
from topion.walk.scripts import EVERY_WAY, Scripts
from topion.walk.state import Key, State
from topion.walk.strides import Strides

Hear = Callable[[str], None]
Moment = int  # its place among those of a search
MOST_MOMENTS = 400_000
_MOST_EPOCHS = 24  # how often what the figure did may change the room in another way
_HEARD_EVERY = 128  # moments
_IN_PLANE, _IN_SPACE, _HIGH = (3, 24), (1, 4), 2  # in the air, on the ground; upwards:
# parts of a cell that a moment must lead farther, to be gone on from


@dataclass(slots=True)
class Best:
    """The farthest that was seen of one kind of place: to each side, and how high it leads."""

    first: Moment
    far: list[int]


@dataclass(eq=False)
class Epoch:
    """A time in which the figure changes nothing that counts.

    near : by index of a cell, the things that may be met there.  fresh : something opened or shut
    that was not so before.  over : it is not searched any more.
    """

    number: int
    meanwhile: Meanwhile
    telling: Telling
    near: dict[int, tuple[int, ...]]
    fresh: bool
    first: Moment = -1
    over: bool = False


@dataclass
class Moments:
    """All that a search went on from, in the order in which they were found; `parents` and `runs`
    tell how each was come to: from which, holding which keys for how many ticks."""

    bodies: list[Body] = field(default_factory=list)
    parents: list[Moment] = field(default_factory=list)
    runs: list[tuple[Run, ...]] = field(default_factory=list)
    epochs: list[Epoch] = field(default_factory=list)

    def way_to(self, moment: Moment) -> list[Run]:
        """The keys from the beginning to a moment."""
        found: list[Run] = []
        while moment >= 0:
            found += reversed(self.runs[moment])
            moment = self.parents[moment]
        return found[::-1]


class Leads(NamedTuple):
    """To a thing that was met: the moment before, and the keys from there."""

    moment: Moment
    runs: tuple[Run, ...]


class Search:
    """begun : where the figure begins.  met : the things it met.  ways : from which moment to which
    it gets, for finding ways back."""

    def __init__(self, begun: State, strides: Strides, hear: Hear | None = None) -> None:
        self.strides, self._hear, self.begun = strides, hear, begun
        self.stage = begun.world.stage(begun.room)
        self.hold = Holding(begun, strides)
        self._scripts = Scripts(self.hold)
        self._telling = Telling.of(self.stage)
        self._epochs: dict[object, Epoch] = {}
        self._opened: set[object] = set()
        self.moments = Moments()
        self.met: dict[Key, Leads] = {}
        self.ways: list[tuple[Moment, Moment]] = []
        self._parts = _IN_SPACE if self.hold.deep else _IN_PLANE
        self._best: dict[tuple[object, ...], Best] = {}
        self._open: list[tuple[int, Moment, int]] = []
        self._begin(begun, -1, (), None)

    # --- moments --------------------------------------------------------------------------

    def _begin(self, state: State, parent: Moment, runs: tuple[Run, ...], out_of: Epoch | None
               ) -> None:  # fmt: skip
        """Go on from a state that differs in what counts, unless such a one was before."""
        facts, opened = self._telling.facts(state.lives), self._telling.opened(state.lives)
        known = self._epochs.get(facts)
        if known is not None:
            self.ways.append((parent, known.first))
            return
        if len(self._epochs) >= _MOST_EPOCHS:
            return
        meanwhile = Meanwhile(state, facts)
        near = meanwhile.near(self.strides, self.hold.shape)
        epoch = Epoch(len(self._epochs), meanwhile, self._telling, near, opened not in self._opened)
        self._epochs[facts] = epoch
        self._opened.add(opened)
        if out_of is not None and not out_of.fresh:
            out_of.over = True  # what it might still find, that before it finds too
        epoch.first = len(self.moments.bodies)
        self._consider(self.hold.body_of(state), epoch, parent, runs)

    def _consider(self, body: Body, epoch: Epoch, parent: Moment, runs: tuple[Run, ...]) -> None:
        """Keep a moment if it leads farther than those before."""
        hold = self.hold
        gait = hold.facing[body.gait]
        index = hold.index(body.x, body.y, body.z)
        phase = self._phase(body, epoch, index)
        at = (epoch.number, index, gait.kind, hold.fits(index, body.x), phase)
        x, y = body.x, body.y
        aloft, rises = hold.aloft(body, gait)
        far = (x + aloft, aloft - x, rises, y + aloft, aloft - y)
        best, number = self._best.get(at), len(self.moments.bodies)
        farther = EVERY_WAY
        if best is None:
            self._best[at] = Best(number, [*far])
        else:
            farther = self._farther(best.far, far, self._parts[gait.ground])
            if not farther:
                if parent >= 0:
                    self.ways.append((parent, best.first))
                return
        moments = self.moments
        moments.bodies.append(body)
        moments.parents.append(parent)
        moments.runs.append(runs)
        moments.epochs.append(epoch)
        if parent >= 0:
            self.ways.append((parent, number))
        heappush(self._open, (body.tick, number, farther))

    def _farther(self, old: list[int], new: tuple[int, ...], parts: int) -> int:
        """In which respects a moment leads farther, as bits: east, west, high, south, north."""
        cell = self.strides.scale.cell
        side, high, found = cell // parts, cell // _HIGH, 0
        for place in range(5 if self.hold.deep else 3):
            if new[place] >= old[place] + (high if place == 2 else side):
                found |= 1 << place
                old[place] = new[place]
        return found

    def _phase(self, body: Body, epoch: Epoch, index: int) -> object:
        """Where the things are that carry or block, and are near; nothing where none is."""
        if not epoch.meanwhile.moves or index not in epoch.near:
            return None
        moving = [n for n in epoch.near[index] if n in self.hold.carrying]
        if not moving:
            return None
        lives, _ = epoch.meanwhile.at(body.tick)
        half = self.strides.scale.cell // 2
        return tuple((lives[n].x // half, lives[n].y // half, lives[n].z // half) for n in moving)

    # --- the search -----------------------------------------------------------------------

    def run(self) -> None:
        """All of it; `hear` may raise to stop it, what was found stays."""
        done, moments = 0, self.moments
        while self._open and len(moments.bodies) < MOST_MOMENTS:
            _, moment, farther = heappop(self._open)
            epoch = moments.epochs[moment]
            if epoch.over:
                continue
            body = moments.bodies[moment]
            for script in self._scripts.of(body, epoch.near, epoch.meanwhile.moves, farther):
                self._try(moment, epoch, body, script)
            done += 1
            if self._hear is not None and done % _HEARD_EVERY == 0:
                self._hear(f"{len(moments.bodies)} places")

    def _try(self, moment: Moment, epoch: Epoch, body: Body, script: tuple[Run, ...]) -> None:
        runs: tuple[Run, ...] = ()
        for keys, most in script:
            held = self.hold.on(body, keys, most, epoch)
            if held.edge is not None:
                self._consider(held.edge, epoch, moment, (*runs, (keys, held.ticks - 1)))
            for before, after, ticks in held.steps:
                leads = Leads(moment, (*runs, (keys, ticks)))
                for key in met_at(before, after):
                    self.met.setdefault(key, leads)
                    if self.stage.by_key[key] not in self._telling.pickups:
                        self.hold.done.add(key)
            runs = (*runs, (keys, held.ticks))
            if held.out is not None:
                if held.out.room == self.begun.room and held.out.ended != "world":
                    self._begin(held.out, moment, runs, epoch)
                return
            body = held.body
        self._consider(body, epoch, moment, runs)

    @property
    def whole(self) -> bool:
        """Whether nothing was left to try."""
        return not self._open and len(self._epochs) < _MOST_EPOCHS

    def keys_to(self, place: Key) -> list[Run]:
        """The keys from the beginning until a thing is met."""
        leads = self.met[place]
        return [*self.moments.way_to(leads.moment), *leads.runs]
