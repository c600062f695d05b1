"""What a search tries from a moment: keys, each held until something changes."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import product

from topion.walk.holding import THROWN, Body, Holding, Kind, Run
from topion.walk.keys import ACT, DOWN, JUMP, LEFT, RIGHT, UP, Keys
from topion.walk.terrain import CLIMB, LEDGE, WATER

LONGEST = 240  # ticks, if the figure neither leaves its cell nor moves otherwise before
EVERY_WAY = 31  # a moment that is the first of its kind leads farther in each respect
_WAITS = (15, 60)  # ticks
_STRAIGHT, _EVERY = (RIGHT, LEFT, DOWN, UP, 0), RIGHT | LEFT | DOWN | UP
_SIDEWAYS = (RIGHT, LEFT, 0)
_AROUND = tuple(x | y for x, y in product((RIGHT, LEFT, 0), (DOWN, UP, 0)))


class Scripts:
    """Those for one room and figure."""

    def __init__(self, hold: Holding) -> None:
        self._hold = hold
        self._dirs = _AROUND if hold.deep else _SIDEWAYS
        self._ways = {farther: self._worth(farther) for farther in range(32)}

    def _worth(self, farther: int) -> tuple[Keys, ...]:
        """The ways worth trying from a moment that leads farther in some respects: to the east, the
        west, higher, to the south, the north."""
        if farther & 4:
            return self._dirs
        wanted = sum(key for bit, key in ((1, RIGHT), (2, LEFT), (8, DOWN), (16, UP))
                     if farther & bit and (self._hold.deep or bit < 4))  # fmt: skip
        return tuple(keys for keys in self._dirs if keys & wanted)

    def of(
        self, body: Body, near: dict[int, tuple[int, ...]], moves: bool, farther: int
    ) -> Iterator[tuple[Run, ...]]:
        """Keys and for how many ticks, the last until it is elsewhere or moves otherwise."""
        hold = self._hold
        gait = hold.strides.gaits[body.gait]
        kind = hold.facing[body.gait].kind % THROWN
        index = hold.index(body.x, body.y, body.z)
        flags = hold.flags[index] if index >= 0 else 0
        release: tuple[Run, ...] = ((0, 1),) if gait.jumps else ()
        dirs = self._ways[farther]
        straight = farther == EVERY_WAY or hold.fits(index, body.x) == 1
        if hold.deep and kind != Kind.STANDS:  # on slanted ways only as far as it is on one
            dirs = tuple(keys for keys in dirs if keys in _STRAIGHT or keys == body.held & _EVERY)
        if gait.thrown != (0, 0):
            yield ((body.held & JUMP, LONGEST),)
        elif kind in (Kind.STANDS, Kind.CLIMBS):
            yield from (((keys, LONGEST),) for keys in dirs if keys and keys in _STRAIGHT)
            yield from ((*release, (keys | JUMP, LONGEST)) for keys in dirs)
            if flags & (LEDGE | CLIMB) and not hold.deep:
                drop = (*release, ((UP if gait.over else DOWN) | JUMP, 1))
                yield from ((*drop, (keys, LONGEST)) for keys in dirs)
        else:
            if kind == Kind.RISES:
                yield from (((keys | JUMP, LONGEST),) for keys in dirs if keys or straight)
                if farther == EVERY_WAY:
                    yield from (
                        ((keys, LONGEST),)
                        for keys in dirs
                        if (keys == body.held & _EVERY if hold.deep else keys)
                    )
            else:
                yield from (((keys, LONGEST),) for keys in dirs if keys or straight)
            late = gait.vy >= 0 and 0 < gait.air <= hold.strides.scale.coyote
            if flags & WATER or late:
                yield from ((*release, (keys | JUMP, LONGEST)) for keys in dirs)
        if flags & CLIMB:
            yield ((UP, LONGEST),)
            yield ((DOWN, LONGEST),)
        if index in near:
            yield ((ACT, 1),) if not body.held & ACT else ((0, 1), (ACT, 1))
            if moves and kind == Kind.STANDS:
                yield from (((0, ticks),) for ticks in _WAITS)
