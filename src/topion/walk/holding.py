"""Keys held until the figure is elsewhere or moves in another way, by strides that are known and
by `walk.step` where a thing is near."""

from __future__ import annotations

from collections.abc import Sequence
from enum import IntEnum
from itertools import product
from math import sqrt
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray

from topion.roles import Door, Goal, Pickup, Switch, Walker
from topion.walk.keys import ACT, DOWN, LEFT, RIGHT, UP, Keys
from topion.walk.stage import Actor
from topion.walk.state import Now, State
from topion.walk.step import CLEAR, step
from topion.walk.strides import Key, Stride, Strides, code_of
from topion.walk.terrain import CLIMB, LEDGE, SOLID, WATER

if TYPE_CHECKING:
    from topion.walk.search import Epoch

Run = tuple[Keys, int]  # for so many ticks
_DEPTH = 2  # cells
_LOST = 2  # cells beyond a room in which it may soon be brought back
THROWN = 8
_CLIMBING = UP | DOWN


class Kind(IntEnum):
    """How a figure moves, as far as it is searched apart."""

    STANDS, CLIMBS, RISES, LET_GO, FALLS = range(5)


class Facing(NamedTuple):
    """What a search must know of a gait.

    kind : with THROWN times how it is thrown, and 64 where it falls up.  tame : a tick leads not
    far.  near : by keys, see `Strides.margins`.  whole : it meets all there is, ladders too.
    falls : the ground below it counts.
    """

    kind: int
    vy: int
    tame: bool
    ground: bool
    over: bool
    near: dict[Keys, tuple[int, int, int, int]]
    whole: bool
    falls: bool


class Body(NamedTuple):
    """The figure at a moment.  safe : where it stood last.  state : all of it, where a thing was
    near, else None."""

    x: int
    y: int
    z: int
    gait: int
    tick: int
    held: Keys
    looks: int
    safe: tuple[int, int, int, bool]
    state: State | None


class Held(NamedTuple):
    """What came of holding keys.  edge : the moment before it walked off an edge, a tick ago.
    steps : states before and after that a thing was near in, and at which tick.  out : the state
    that left the room, or changed what counts."""

    body: Body
    ticks: int
    edge: Body | None = None
    steps: Sequence[tuple[State, State, int]] = ()
    out: State | None = None


class Holding:
    """shape : of the grid of the strides.  facing : by number of a gait.  flags : by index of a
    cell, what is near it.  done : things that were met, and need not be met again.  carrying : the
    places of things that move and stand in the way.  xs, ys, zs : all places that were passed."""

    def __init__(self, begun: State, strides: Strides) -> None:
        self.strides, self.world, self.room = strides, begun.world, begun.room
        self.stage = begun.world.stage(begun.room)
        self.deep = self.stage.view == "voxel"
        ground = strides.use(begun.world, begun.room)
        self.shape, self._cell = ground.shape, strides.scale.cell
        self.flags: list[int] = self._flags(ground.kinds).reshape(-1).tolist()
        self._mouths: list[bool] = self._mouths_of(ground.kinds).reshape(-1).tolist()
        self._slack = (strides.wide // self._cell + 1) * self._cell - strides.wide
        self.facing: list[Facing] = []
        self.done: set[tuple[str, int]] = set()
        self.carrying = frozenset(self.stage.near_solid.moving)
        clear = strides.scale.units(CLEAR)
        self._wary = [clear if actor.harmful else 0 for actor in self.stage.actors]
        self.xs, self.ys, self.zs = list[int](), list[int](), list[int]()
        self.ticks = 0

    def _flags(self, kinds: NDArray[np.uint64]) -> NDArray[np.uint8]:
        """What is near a figure whose first corner is in a cell: ladders, ledges, water."""
        if self.deep:
            own = ((kinds >> np.uint64(8)) & np.uint64(1)).astype(np.uint8) * np.uint8(WATER)
        else:
            own = (kinds & np.uint64(CLIMB | LEDGE | WATER)).astype(np.uint8)
        found = np.zeros_like(own)
        cell, strides = self.strides.scale.cell, self.strides
        rows = range((strides.wide if self.deep else strides.high) // cell + 3)
        levels = range(strides.high // cell + 2) if self.deep else range(1)
        for level, row, column in product(levels, rows, range(strides.wide // cell + 2)):
            found |= np.roll(own, (-level, 1 - row, -column), (0, 1, 2))
        return found

    def _mouths_of(self, kinds: NDArray[np.uint64]) -> NDArray[np.bool_]:
        """Cells from which a shaft that is just as wide as the figure may be near, below or above:
        there it counts whether the figure is right over it."""
        if self.deep:
            return np.zeros(kinds.shape, bool)
        walls = (kinds & np.uint64(SOLID | LEDGE) > 0) | (kinds >> np.uint64(8) > 0)
        wider = self.strides.wide // self._cell + 1
        shafts = np.roll(walls, 1, 2) & np.roll(walls, -wider, 2)
        for by in range(wider):
            shafts &= ~np.roll(walls, -by, 2)
        found = np.zeros_like(shafts)
        for by in range(-1, self.strides.high // self._cell + 3):
            found |= np.roll(shafts, -by, 1)
        return found

    def fits(self, index: int, x: int) -> int:
        """1 where the figure is right over or under a shaft, 2 where it is beside it, else 0."""
        if index < 0 or not self._mouths[index]:
            return 0
        return 1 if x % self._cell <= self._slack else 2

    def look_at_gaits(self) -> None:
        """Sort those that are new."""
        scale = self.strides.scale
        for gait in self.strides.gaits[len(self.facing) :]:
            vy = gait.vy
            if gait.ground or gait.climbs:
                kind = Kind.STANDS if gait.ground else Kind.CLIMBS
            else:
                kind = Kind.FALLS if vy >= 0 else Kind.RISES if gait.jumps else Kind.LET_GO
            number = int(kind) + 64 * gait.over
            if gait.thrown != (0, 0):
                number += THROWN * (1 + (gait.thrown[0] > 0) + 2 * (gait.thrown[1] > 0))
            thrown = max(map(abs, gait.thrown))
            tame = max(abs(vy), thrown) < scale.cell * self.strides.beyond // 4
            near = dict[Keys, tuple[int, int, int, int]]()
            self.facing.append(
                Facing(
                    number,
                    vy,
                    tame,
                    gait.ground,
                    gait.over,
                    near,
                    gait.climbs or gait.over or self.deep,
                    vy >= 0 or gait.ground,
                )
            )

    def body_of(self, state: State) -> Body:
        """The same as a moment."""
        gait = self.strides.gait_of(state)
        self.look_at_gaits()
        _, x, y, z, over = state.safe
        return Body(state.x, state.y, state.z, gait, state.tick, state.held, state.looks,
                    (x, y, z, over), state)  # fmt: skip

    def index(self, x: int, y: int, z: int) -> int:
        """Of the cell of a first corner; -1 beyond the grid, or where it is soon brought back."""
        cell, beyond = self.strides.scale.cell, self.strides.beyond
        row, column = y // cell + beyond, x // cell + beyond
        levels, rows, columns = self.shape
        level = z // cell + beyond if self.deep else 0
        if self.deep:
            inside = beyond - _LOST <= level < levels and 0 <= row < rows
        else:
            inside = _LOST < row < rows - beyond + _LOST
        return (level * rows + row) * columns + column if inside and 0 <= column < columns else -1

    def aloft(self, body: Body, face: Facing) -> tuple[int, int]:
        """(units it can still go to each side until it has fallen _DEPTH cells below its cell,
        units of the height it comes to)."""
        height = body.z if self.deep else body.y if face.over else -body.y
        if face.ground or face.kind % THROWN == Kind.CLIMBS:
            return 0, height
        scale, vy = self.strides.scale, face.vy
        drop = height % self._cell + _DEPTH * self._cell
        if vy < 0:
            gravity = scale.gravity * (1 if face.kind % THROWN == Kind.RISES else 3)
            up = vy * vy // (2 * gravity)
            ticks = -vy / gravity + sqrt(2 * (drop + up) / scale.gravity)
            return int(scale.speed * ticks), height + up
        ticks = (sqrt(vy * vy + 2.0 * scale.gravity * drop) - vy) / scale.gravity
        return int(scale.speed * ticks), height

    # --- holding --------------------------------------------------------------------------

    def on(self, body: Body, keys: Keys, most: int, epoch: Epoch) -> Held:
        """Hold keys for at most so many ticks."""
        facing, strides, cell = self.facing, self.strides, self._cell
        x, y, z, gait, tick, held, looks, safe, state = body
        at, face, ticks = self.index(x, y, z), facing[gait], 0
        kind, edge, steps = face.kind, None, list[tuple[State, State, int]]()
        near = (-1,) if at < 0 else epoch.near.get(at, ())
        west, north, low = x - x % cell, y - y % cell, z - z % cell
        east, south, high = west + cell, north + cell, low + cell
        fits = self.fits(at, x)
        if fits == 1:
            east = west + self._slack + 1
        elif fits:
            west += self._slack + 1
        stride_of = self._in_space if self.deep else self._in_plane
        sideways = keys & (LEFT | RIGHT)
        if sideways in (RIGHT, LEFT):
            looks = 1 if sideways == RIGHT else -1
        while ticks < most:
            was = x, y, z, gait
            ticks += 1
            if (near and self._meets(epoch, near, was, tick, keys)) or not face.tame:
                if state is None:
                    state = self.state(epoch, Body(x, y, z, gait, tick, held, looks, safe, None))
                after = step(state, keys)
                steps.append((state, after, ticks))
                if self._leaves(epoch, state, after):
                    return Held(body, ticks, None, steps, after)
                x, y, z, gait, state = after.x, after.y, after.z, strides.gait_of(after), after
                if len(facing) < len(strides.gaits):
                    self.look_at_gaits()
            else:
                dx, dy, dz, gait = stride_of(x, y, z, gait, keys)
                x, y, z, state = x + dx, y + dy, z + dz, None
            tick, held = tick + 1, keys
            if gait != was[3]:
                before, face = face, facing[gait]
                if before.ground and ticks > 1 and not face.ground:
                    if state is None:
                        safe = (*was[:3], before.over)
                    edge = Body(*was, tick - 1, keys, looks, safe, None)
                if face.kind != kind:
                    break
            elif x == was[0] and y == was[1] and z == was[2]:
                break
            if not (west <= x < east and north <= y < south and low <= z < high):
                break
        if state is not None:
            safe = state.safe[1:]
        elif face.ground:
            safe = (x, y, z, face.over)
        elif edge is None and facing[body.gait].ground:
            safe = (body.x, body.y, body.z, facing[body.gait].over)
        self.xs.append(x)
        self.ys.append(y)
        self.zs.append(z)
        self.ticks += ticks
        return Held(Body(x, y, z, gait, tick, held, looks, safe, state), ticks, edge, steps)

    def _in_plane(self, x: int, y: int, z: int, gait: int, keys: Keys) -> Stride:
        """The next tick of a figure seen from the side, that is not over."""
        strides, cell, windows, face = (
            self.strides,
            self._cell,
            self.strides.windows,
            self.facing[gait],
        )
        margins = face.near.get(keys)
        if margins is None:
            margins = face.near[keys] = strides.margins(strides.gaits[gait], keys)
        west, east, up, down = margins
        left, top, feet = (x - west) // cell, (y - up) // cell, y + strides.high
        wider = (x + strides.wide + east - 1) // cell - left + 1
        corner = (top + strides.beyond) * self.shape[2] + left + strides.beyond
        foot, below = (feet + down - 1) // cell, 0
        if face.whole or keys & _CLIMBING:
            rows = foot - top + 1
            window = windows.get((32 + rows) * 32 + wider)
            here = (window or strides.window(0, 1, rows, wider))[corner]
        else:
            rows = (feet - 1) // cell - top + 1
            window = windows.get((32 * 33 + rows) * 32 + wider)
            here = (window or strides.window(1, 1, rows, wider))[corner]
            if face.falls:
                first = feet // cell
                rows = foot - first + 1
                window = windows.get((32 * 65 + rows) * 32 + wider)
                below = (window or strides.window(2, 1, rows, wider))[
                    corner + (first - top) * self.shape[2]
                ]
        sees = here | below
        key = (here, below, x - left * cell if sees & 1 else 0, y - top * cell if sees & 2 else 0,
               0, gait, keys)  # fmt: skip
        return strides.known.get(key) or self._learn(key, x, y, z)

    def _in_space(self, x: int, y: int, z: int, gait: int, keys: Keys) -> Stride:
        """The next tick of a figure in a voxel room."""
        strides, cell, face = self.strides, self._cell, self.facing[gait]
        margins = face.near.get(keys)
        if margins is None:
            margins = face.near[keys] = strides.margins(strides.gaits[gait], keys)
        west, east, up, down = margins
        lo = ((z - down) // cell, (y - west) // cell, (x - west) // cell)
        hi = ((z + strides.high + up - 1) // cell, (y + strides.wide + east - 1) // cell,
              (x + strides.wide + east - 1) // cell)  # fmt: skip
        size = tuple(b - a + 1 for a, b in zip(lo, hi, strict=True))
        window = strides.windows.get(code_of(0, *size)) or strides.window(0, *size)
        beyond = strides.beyond
        here = window[((lo[0] + beyond) * self.shape[1] + lo[1] + beyond) * self.shape[2]
                      + lo[2] + beyond]  # fmt: skip
        key = (here, 0, x - lo[2] * cell if here & 1 else 0, y - lo[1] * cell if here & 2 else 0,
               z - lo[0] * cell if here & 4 else 0, gait, keys)  # fmt: skip
        return strides.known.get(key) or self._learn(key, x, y, z)

    def _learn(self, key: Key, x: int, y: int, z: int) -> Stride:
        stride = self.strides.known[key] = self.strides.learn(x, y, z, key[-2], key[-1])
        if len(self.facing) < len(self.strides.gaits):
            self.look_at_gaits()
        return stride

    def _meets(
        self, epoch: Epoch, places: tuple[int, ...], at: tuple[int, int, int, int], tick: int,
        keys: Keys,
    ) -> bool:  # fmt: skip
        """Whether a thing may be met at the next tick.  at : x, y, z and the gait."""
        x, y, z, gait = at
        scale = self.strides.scale
        margins = self.facing[gait].near.get(keys)
        if margins is None:
            margins = self.strides.margins(self.strides.gaits[gait], keys)
            self.facing[gait].near[keys] = margins
        left, right, up, down = margins
        along, high = max(left, right) + 1, max(up, down) + scale.gravity
        lives = (
            epoch.meanwhile.at(tick)[0] if epoch.meanwhile.moves else epoch.meanwhile.begun.lives
        )
        stage, deep = self.stage, self.deep
        tall, body = (self.strides.wide, self.strides.high) if deep else (self.strides.high, 0)
        beside, above = (along, high) if deep else (high, 0)
        for place in places:
            if place < 0:
                return True
            now, actor = lives[place], stage.actors[place]
            if now.gone or self._leaves_alone(actor, now, keys):
                continue
            home, wary = actor.home, self._wary[place]
            if (
                x - along - wary < home[2] + now.x
                and home[0] + now.x < x + self.strides.wide + along + wary
                and y - beside - wary < home[3] + now.y
                and home[1] + now.y < y + tall + beside + wary
                and (not deep
                     or (z - above - wary < home[5] + now.z
                         and home[4] + now.z < z + body + above + wary))
            ):  # fmt: skip
                return True
        return False

    def _leaves_alone(self, actor: Actor, now: Now, keys: Keys) -> bool:
        """Whether a thing does nothing to a figure that touches it with those keys held."""
        role = actor.role
        if isinstance(role, Walker):
            return not (role.harms or keys & ACT)
        if isinstance(role, Switch) or (isinstance(role, Door) and now.on):
            if role.by == "acting on it":
                return not keys & ACT
            return isinstance(role, Door) and not (role.room or role.ends_world) and (
                actor.key in self.done)  # fmt: skip
        return isinstance(role, Goal | Pickup) and actor.key in self.done

    def state(self, epoch: Epoch, body: Body) -> State:
        """All of a moment at which no thing was near."""
        gait, begun = self.strides.gaits[body.gait], epoch.meanwhile.begun
        lives, sent = epoch.meanwhile.at(body.tick)
        x, y, z, over = body.safe
        return begun._replace(
            tick=body.tick, x=body.x, y=body.y, z=body.z, lives=lives, sent=sent, vy=gait.vy,
            thrown=gait.thrown, looks=body.looks, ground=gait.ground, air=gait.air,
            climbs=gait.climbs, over=gait.over, held=body.held, safe=(self.room, x, y, z, over),
            inside=None, touching=(), news=(),
        )  # fmt: skip

    def _leaves(self, epoch: Epoch, before: State, after: State) -> bool:
        """Whether it is another room, or something is so that was not."""
        if after.whereabouts != before.whereabouts or after.ended == "world":
            return True
        if after.lives is before.lives:
            return False
        telling = epoch.telling
        expected = epoch.meanwhile.at(after.tick)[0]
        return bool(telling.facts(after.lives) != telling.facts(expected))
