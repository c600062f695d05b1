"""Where the figure can get in a room, searched with `walk.step` as the only mover.

Places are kept apart by the cell of the figure's first corner and by how it moves there: it stands,
climbs, rises with the key held or let go, falls, is thrown.  Of each such place only those moments
are gone on from that lead farther than all that came there before: to one side, or higher.  The
earliest moments go first (Dijkstra, "A note on two problems in connexion with graphs", 1959), so
that the way to each place is among the quickest ones.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from heapq import heappop, heappush
from time import perf_counter
from typing import NamedTuple

from topion.walk.holding import Body, Holding, Run
from topion.walk.meanwhile import Meanwhile, Telling
from topion.walk.places_met import met_at, places_of
from topion.walk.scripts import EVERY_WAY, Scripts
from topion.walk.state import Key, State
from topion.walk.strides import Strides

Hear = Callable[[str], None]
Moment = int  # its place among those of a search
Sort = tuple[int, int, int]  # of a place: index of its cell, how the figure moves, how it fits
MOST_MOMENTS = 400_000
MOST_EPOCHS = 24  # how often what the figure did may change the room in another way
_HOP = 24  # ticks from one moment to the next, rather too many: so it goes straight there
_MOST_DETOURS = 800  # moments on known ground that an epoch goes on from
_HEARD_EVERY_S = 0.004  # often, as it gives way there to whoever waits
# parts of a cell that a moment must lead farther, to be gone on from: in the air, on the ground, up
_SMALL, _LARGE, _IN_SPACE = (6, 24, 4), (4, 24, 3), (1, 4, 2)
_SMALL_CELLS = 1024  # of a flat room that is searched more finely


@dataclass(slots=True)
class Best:
    """The farthest that was seen of one kind of place: to each side, and how high it leads."""

    first: Moment
    far: list[int]


@dataclass(eq=False)
class Epoch:
    """A time in which the figure changes nothing that counts.

    begins : how it is come to.  near : by index of a cell, the things that may be met there.
    fresh : something opened or shut that was not so before.  wanted : things that were changed and
    those that are still to be changed; what was searched before is searched again only on the way
    to them, as `ahead` tells by kind of place, in ticks, and where they are.
    over : it is not searched any more.
    """

    number: int
    meanwhile: Meanwhile
    telling: Telling
    fresh: bool
    begins: tuple[Moment, tuple[Run, ...]]
    near: dict[int, tuple[int, ...]] = field(default_factory=dict)
    first: Moment = -1
    wanted: frozenset[int] = frozenset()
    left: set[int] = field(default_factory=set)
    ahead: dict[Sort, int] = field(default_factory=dict)
    open: list[tuple[int, Moment, int]] = field(default_factory=list)
    detours: int = 0
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

    def __init__(
        self, begun: State, strides: Strides, hear: Hear | None = None, *, until_met: bool = False,
        sought: Key | None = None,
    ) -> None:  # fmt: skip
        """until_met : stop once all places that count were met.  sought : or that one."""
        self.strides, self._hear, self.begun = strides, hear, begun
        self._silent_until = 0.0
        self.stage = begun.world.stage(begun.room)
        self.hold = Holding(begun, strides)
        self._scripts = Scripts(self.hold)
        self._telling = Telling.of(self.stage)
        self._epochs: dict[object, Epoch] = {}
        self._line: list[Epoch] = []
        self._opened: set[object] = set()
        self._most_done = 0
        self._entries: list[tuple[Moment, Epoch]] = []
        self._sought = {actor.key for actor in places_of(self.stage)} if until_met else None
        if sought is not None:
            self._sought = {sought}
        self.moments = Moments()
        self.met: dict[Key, Leads] = {}
        self.ways: list[tuple[Moment, Moment]] = []
        small = self.stage.terrain.rows * self.stage.terrain.columns <= _SMALL_CELLS
        self._parts = _IN_SPACE if self.hold.deep else _SMALL if small else _LARGE
        self._best: dict[tuple[Sort, object], Best] = {}
        self._before: dict[Sort, Moment] = {}  # the first of each kind of place in former epochs
        self._back: list[list[Moment]] = []
        self._beside: dict[int, list[Moment]] = {}
        self._seen_ways = 0
        self._begin(begun, -1, (), None)

    # --- epochs ---------------------------------------------------------------------------

    def _begin(self, state: State, parent: Moment, runs: tuple[Run, ...], out_of: Epoch | None
               ) -> None:  # fmt: skip
        """Go on from a state that differs in what counts, unless such a one was before."""
        facts, opened = self._telling.facts(state.lives), self._telling.opened(state.lives)
        epoch = self._epochs.get(facts)
        if epoch is None:
            if len(self._line) >= MOST_EPOCHS:
                return
            meanwhile, fresh = Meanwhile(state, facts), opened not in self._opened
            done = self._telling.done(state.lives)
            if not fresh and done <= self._most_done:
                return  # a step on the way to what was done already
            self._most_done = max(done, self._most_done)
            epoch = Epoch(len(self._line), meanwhile, self._telling, fresh, (parent, runs))
            self._epochs[facts] = epoch
            self._line.append(epoch)
            self._opened.add(opened)
            if out_of is not None and not out_of.fresh:
                out_of.over = True  # what it might still find, that before it finds too
        if parent >= 0:
            self._entries.append((parent, epoch))

    def _explore(self, epoch: Epoch) -> None:
        begun = epoch.meanwhile.begun
        if epoch.number:
            epoch.near = self._line[0].near  # things go the same ways whatever was opened
            epoch.wanted = self._telling.wanted(self.begun.lives, begun.lives)
            epoch.left = set(epoch.wanted)
            self._look_back()
            epoch.ahead = self._ticks_to(epoch)
        else:
            epoch.near = epoch.meanwhile.near(self.strides, self.hold.shape)
        epoch.first = len(self.moments.bodies)
        self._best.clear()
        self._consider(self.hold.body_of(begun), epoch, *epoch.begins)
        self._go_on(epoch)
        for (sort, _), best in self._best.items():
            self._before.setdefault(sort, best.first)

    def _look_back(self) -> None:
        """Note for all moments so far by which they are come to, and which things are near."""
        near = self._line[0].near
        for moment in range(len(self._back), len(self.moments.bodies)):
            self._back.append([])
            x, y, z = self.moments.bodies[moment][:3]
            for place in near.get(self.hold.index(x, y, z), ()):
                self._beside.setdefault(place, []).append(moment)
        for start, end in self.ways[self._seen_ways :]:
            self._back[end].append(start)
        self._seen_ways = len(self.ways)

    def _ticks_to(self, epoch: Epoch) -> dict[Sort, int]:
        """About how long it takes from each kind of place to what is wanted and still left, as far
        as former epochs know (breadth first, backwards)."""
        line = list({moment for place in epoch.left for moment in self._beside.get(place, ())})
        far, back = dict.fromkeys(line, 0), self._back
        for moment in line:  # grows meanwhile
            ticks = far[moment] + _HOP
            for start in back[moment]:
                if start not in far:
                    far[start] = ticks
                    line.append(start)
        return {sort: far[moment] for sort, moment in self._before.items() if moment in far}

    # --- moments --------------------------------------------------------------------------

    def _consider(self, body: Body, epoch: Epoch, parent: Moment, runs: tuple[Run, ...]) -> None:
        """Keep a moment if it leads farther than those before."""
        hold, moments = self.hold, self.moments
        gait = hold.facing[body.gait]
        index = hold.index(body.x, body.y, body.z)
        sort = (index, gait.kind, hold.fits(index, body.x))
        at = (sort, self._phase(body, epoch, index))
        x, y = body.x, body.y
        aloft, rises = hold.aloft(body, gait)
        far = (x + aloft, aloft - x, rises, y + aloft, aloft - y)
        best, number = self._best.get(at), len(moments.bodies)
        farther = EVERY_WAY
        if best is None:
            self._best[at] = Best(number, [*far])
        else:
            farther = self._farther(best.far, far, self._parts[gait.ground])
            if not farther:
                if parent >= 0:
                    self.ways.append((parent, best.first))
                return
        moments.bodies.append(body)
        moments.parents.append(parent)
        moments.runs.append(runs)
        moments.epochs.append(epoch)
        if parent >= 0:
            self.ways.append((parent, number))
        ahead = self._ahead(epoch, sort, number)
        if ahead is not None:
            heappush(epoch.open, (body.tick + ahead, number, farther))

    def _ahead(self, epoch: Epoch, sort: Sort, number: Moment) -> int | None:
        """Ticks that are still to go to what makes a moment worth going on from; None for one that
        leads only to what is known."""
        known = self._before.get(sort)
        if known is None:
            return 0
        near = epoch.near.get(sort[0])
        if near is not None and not epoch.wanted.isdisjoint(near):
            if not epoch.left.isdisjoint(near):
                epoch.left.difference_update(near)
                epoch.ahead = self._ticks_to(epoch)
            return 0
        self.ways.append((number, known))
        return epoch.ahead.get(sort) if epoch.left else None

    def _farther(self, old: list[int], new: tuple[int, ...], parts: int) -> int:
        """In which respects a moment leads farther, as bits: east, west, high, south, north."""
        cell = self.strides.scale.cell
        side, high, found = cell // parts, cell // self._parts[2], 0
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

    def run(self, after_first: Callable[[], object] = lambda: None) -> None:
        """All of it; `hear` may raise to stop it, what was found stays.  after_first : called once
        it is known where the figure gets before it changes anything, if it changes something."""
        for epoch in self._line:  # grows meanwhile
            if self._sought != set():
                self._explore(epoch)
            if not epoch.number and len(self._line) > 1:
                after_first()
        self.ways += [(moment, epoch.first) for moment, epoch in self._entries if epoch.first >= 0]

    def _go_on(self, epoch: Epoch) -> None:
        moments = self.moments
        while epoch.open and not epoch.over and len(moments.bodies) < MOST_MOMENTS:
            _, moment, farther = heappop(epoch.open)
            body = moments.bodies[moment]
            if epoch.number and self._is_known(epoch, body):
                continue
            for script in self._scripts.of(body, epoch.near, epoch.meanwhile.moves, farther):
                self._try(moment, epoch, body, script)
                if self._hear is not None:
                    self._tell(self._hear)
            if self._sought == set():
                return

    def _tell(self, hear: Hear) -> None:
        """Say how far it is, now and then."""
        if perf_counter() >= self._silent_until:
            hear(f"{len(self.moments.bodies)} places")
            self._silent_until = perf_counter() + _HEARD_EVERY_S

    def _is_known(self, epoch: Epoch, body: Body) -> bool:
        """Whether it leads only to what former epochs know, and to nothing that is wanted."""
        index = self.hold.index(body.x, body.y, body.z)
        sort = (index, self.hold.facing[body.gait].kind, self.hold.fits(index, body.x))
        if sort not in self._before or not epoch.wanted.isdisjoint(epoch.near.get(index, ())):
            return False
        epoch.detours += 1
        return not epoch.left or sort not in epoch.ahead or epoch.detours > _MOST_DETOURS

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
                    if self._sought:
                        self._sought.discard(key)
                    if self.stage.by_key[key] not in self._telling.pickups:
                        self.hold.done.add(key)
            runs = (*runs, (keys, held.ticks))
            if held.out is not None:
                if held.out.whereabouts == self.begun.whereabouts and held.out.ended != "world":
                    self._begin(held.out, moment, runs, epoch)
                return
            body = held.body
        self._consider(body, epoch, moment, runs)

    @property
    def whole(self) -> bool:
        """Whether nothing was left to try."""
        full = len(self.moments.bodies) >= MOST_MOMENTS
        return not full and len(self._line) < MOST_EPOCHS

    def keys_to(self, place: Key) -> list[Run]:
        """The keys from the beginning until a thing is met."""
        leads = self.met[place]
        return [*self.moments.way_to(leads.moment), *leads.runs]
