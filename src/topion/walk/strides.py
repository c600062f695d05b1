"""Ticks of the figure alone, each worked out once: the same surroundings make the same step.

What a tick does to a figure that meets no thing depends on the cells round it, on where in its cell
it is, on how it moves and on the keys.  `Strides` asks `walk.step` for it once and remembers what
came of it, so that a search over a whole room takes most of its ticks from memory.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product
from typing import NamedTuple, cast

import numpy as np
from numpy.typing import NDArray

from topion.grid.hashing import mixed
from topion.walk.deep import DeepTerrain
from topion.walk.keys import DOWN, JUMP, LEFT, RIGHT, UP, Keys
from topion.walk.stage import Stage, alone
from topion.walk.state import State
from topion.walk.step import step
from topion.walk.terrain import CLIMB, LEDGE, SOLID, WATER, Terrain
from topion.walk.world import World

_AROUND = LEFT | RIGHT | UP | DOWN
_MOST_KNOWN = 400_000  # strides, some 100 MB, before they are forgotten
_BEYOND = 4  # cells beyond a room, more than its figure is high, in which strides are known
Key = tuple[int, int, int, int, int, int, Keys]  # two surroundings, x, y, z in a cell, gait, keys
Stride = tuple[int, int, int, int]  # how far along x, y, z in units, and the gait after it


class Gait(NamedTuple):
    """How a figure moves, apart from where it is; see `State`.  jumps : the key is held down."""

    vy: int = 0
    thrown: tuple[int, int] = (0, 0)
    ground: bool = False
    air: int = 0
    climbs: bool = False
    over: bool = False
    jumps: bool = False


@dataclass(frozen=True, eq=False)
class Ground:
    """A room as strides see it: grids of (levels, rows, columns), `Strides.beyond` cells larger on
    each side than the room, one level of a flat room.

    kinds : what each cell is to the figure, 0 for nothing.
    """

    shape: tuple[int, ...]
    kinds: NDArray[np.uint64]


class Strides:
    """Those of one figure in rooms of one view.

    gaits : all that were met; their places in it stand for them.  known : what was asked before.
    """

    def __init__(self, world: World, view: str) -> None:
        self.scale, self.view = world.scale, view
        self.slides, self.slopes = world.figure.slopes == "slides", False
        self.wide, self.high = world.sizes(view)
        self.gaits: list[Gait] = []
        self.known: dict[Key, Stride] = {}
        self.steps = 0  # asked of `walk.step`
        self._numbers: dict[Gait, int] = {}
        scale = self.scale
        self.beyond = _BEYOND + self.high // scale.cell
        self._profiles: dict[object, int] = {}
        self._surroundings: dict[int, int] = {}
        self._state: State | None = None

    def number(self, gait: Gait) -> int:
        """Of a gait."""
        found = self._numbers.get(gait)
        if found is None:
            found = self._numbers[gait] = len(self.gaits)
            self.gaits.append(gait)
        return found

    def gait_of(self, state: State) -> int:
        """The number of the gait of a state."""
        air = min(state.air, self.scale.coyote + 1)
        return self.number(Gait(state.vy, state.thrown, state.ground, air, state.climbs,
                                state.over, bool(state.held & JUMP)))  # fmt: skip

    def margins(self, gait: Gait, keys: Keys) -> tuple[int, int, int, int]:
        """Units to its left, its right, above and below within which a tick meets something."""
        scale, thrown = self.scale, gait.thrown
        slides = scale.speed if gait.ground and self.slides else 0
        if self.view == "voxel":
            return self._margins_in_space(gait, keys)
        left = max(scale.speed if keys & LEFT else 0, -thrown[0], slides)
        right = max(scale.speed if keys & RIGHT else 0, thrown[0], slides)
        along = max(left, right)
        up, down = max(0, -gait.vy), max(0, gait.vy)
        if keys & JUMP and not gait.jumps:
            up = max(up, scale.jump)
        if gait.ground or gait.climbs:
            up, down = up + max(scale.step, along), down + along
        if gait.climbs or keys & (UP | DOWN):
            up, down = up + scale.climb, down + scale.climb
        if self.slopes and not gait.ground:
            up += along  # they are walked up in the air too
        return (left, right, down + 1, up) if gait.over else (left, right, up, down + 1)

    def _margins_in_space(self, gait: Gait, keys: Keys) -> tuple[int, int, int, int]:
        """The same; both sides are as wide along x and y."""
        scale = self.scale
        along = (
            max(scale.speed, *map(abs, gait.thrown)) if keys & _AROUND or any(gait.thrown) else 0
        )
        up, down = max(0, -gait.vy), max(0, gait.vy)
        if keys & JUMP and not gait.jumps:
            up = max(up, scale.jump)
        if gait.ground:
            up, down = up + scale.step, down + scale.step
        return along, along, up, down + 1

    # --- surroundings ---------------------------------------------------------------------

    def use(self, world: World, room: str) -> Ground:
        """Take strides in a room from now on."""
        stage = world.stage(room)
        self._state = State(world.showing(alone(stage)), room, 0, 0, 0, 0, ())
        if len(self.known) > _MOST_KNOWN:
            self.known.clear()
        kinds = self._kinds_of(stage)
        self.slopes = bool(self._profiles)
        self._planes = [kinds]
        if self.view == "side":
            ladder, ledge, solid = np.uint64(CLIMB), np.uint64(LEDGE), np.uint64(SOLID)
            body = kinds & ~(ladder | ledge)
            above = np.roll(kinds, 1, 1) & (ladder | solid)
            top = (kinds & ledge > 0) | ((kinds & ladder > 0) & (above == 0))
            self._planes += [body, (body & ~np.uint64(WATER)) | np.where(top, ledge, np.uint64(0))]
        self.windows: dict[int, list[int]] = {}
        return Ground(kinds.shape, kinds)

    def window(self, plane: int, levels: int, rows: int, columns: int) -> list[int]:
        """By index of a cell in the room that is used: the number of what is in the box of so many
        cells that begins there.  Equal boxes have equal numbers.  Planes: all there is; what a body
        meets that does not climb; what feet stand on."""
        kinds, size = self._planes[plane], (levels, rows, columns)
        found = np.full(kinds.shape, np.uint64(code_of(plane, *size)))
        seen = np.zeros((3, *kinds.shape), bool)
        either = np.zeros(kinds.shape, np.uint64)
        for number, at in enumerate(product(*map(range, size))):
            moved = _moved(kinds, at)
            found += mixed(moved + np.uint64(number << 32))
            either |= moved
            for axis in range(3):
                if at[axis]:
                    before = tuple(v - (n == axis) for n, v in enumerate(at))
                    seen[axis] |= moved != _moved(kinds, before)
        self._see_within(seen, either)
        numbers = self._numbered(found, seen[2] + 2 * seen[1] + 4 * seen[0])
        self.windows[code_of(plane, *size)] = numbers
        return numbers

    def _see_within(self, seen: NDArray[np.bool_], either: NDArray[np.uint64]) -> None:
        """Cells that are not alike all over matter even where their neighbours are the same."""
        if self.view == "voxel":
            seen[0] |= (either & np.uint64(255)) % np.uint64(240) > 0
        else:
            seen[1] |= either & np.uint64(LEDGE) > 0
            seen |= (either >> np.uint64(8) > 0)[None]

    def _numbered(self, hashes: NDArray[np.uint64], seen: NDArray[np.int64]) -> list[int]:
        """Small numbers for them, the same ones in every room; their last bits tell along which
        axes it matters where in its cell the figure is."""
        values, first, at = np.unique(hashes, return_index=True, return_inverse=True)
        known, sees = self._surroundings, seen.reshape(-1)[first].tolist()
        numbers = [known.setdefault(value, len(known) * 8 + see)
                   for value, see in zip(values.tolist(), sees, strict=True)]  # fmt: skip
        found: list[int] = np.array(numbers, np.int64)[at].reshape(-1).tolist()
        return found

    def _kinds_of(self, stage: Stage) -> NDArray[np.uint64]:
        """What each cell is to a figure, and those beyond the room."""
        beyond, terrain = self.beyond, stage.terrain
        if self.view == "voxel":
            deep = cast(DeepTerrain, terrain)
            shape = (deep.levels, deep.rows, deep.columns)
            tops = np.frombuffer(deep.tops, np.uint8).reshape(shape).astype(np.uint64)
            wet = np.frombuffer(deep.wet, np.uint8).reshape(shape).astype(np.uint64)
            inner = np.pad(tops + 256 * wet, ((beyond, beyond), (0, 0), (0, 0)))
            aside = ((0, 0), (beyond, beyond), (beyond, beyond))
            return np.pad(inner, aside, constant_values=240)
        flat = cast(Terrain, terrain)
        kinds = np.frombuffer(flat.flags, np.uint8).astype(np.uint64)
        for place, profiles in enumerate((flat.floors, flat.ceilings)):
            for at, profile in profiles.items():
                number = self._profiles.setdefault(profile, len(self._profiles) + 1)
                kinds[at] += np.uint64(number << (8 + 12 * place))
        inner = kinds.reshape(flat.rows, flat.columns)
        inner = np.pad(inner, ((beyond, beyond), (0, 0)))
        return np.pad(inner, ((0, 0), (beyond, beyond)), constant_values=SOLID)[None]

    # --- steps ----------------------------------------------------------------------------

    def learn(self, x: int, y: int, z: int, gait: int, keys: Keys) -> Stride:
        """Ask `walk.step` in the room that is used; the figure is at x, y, z."""
        assert self._state is not None
        before = self.gaits[gait]
        state = self._state._replace(
            x=x, y=y, z=z, vy=before.vy, thrown=before.thrown, ground=before.ground,
            air=before.air, climbs=before.climbs, over=before.over,
            held=JUMP if before.jumps else 0,
        )  # fmt: skip
        after = step(state, keys)
        self.steps += 1
        return after.x - x, after.y - y, after.z - z, self.gait_of(after)


def _moved(kinds: NDArray[np.uint64], by: tuple[int, ...]) -> NDArray[np.uint64]:
    return np.roll(kinds, tuple(-v for v in by), (0, 1, 2))


def code_of(plane: int, levels: int, rows: int, columns: int) -> int:
    """By which a window is known; each of them is less than 32."""
    return ((plane * 32 + levels) * 32 + rows) * 32 + columns
