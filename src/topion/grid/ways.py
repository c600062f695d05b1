"""The ways in which a block of cells can be turned and mirrored, flat or in space."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, cached_property, lru_cache
from typing import Self

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Positions
from topion.grid.boxes import Box
from topion.grid.orient import TURNS, composed_turns, matrices, turn_of


@dataclass(frozen=True)
class Way:
    """How a block of cells is turned about its middle.

    axes : 2 or 3.  turn : quarters clockwise, or one of 24 in space.  mirrored : west and east
    change places after that.
    """

    axes: int = 2
    turn: int = 0
    mirrored: bool = False

    @property
    def tips(self) -> bool:
        """Whether another side comes up."""
        return self.axes == 3 and self.turn >= 4

    @property
    def is_none(self) -> bool:
        """Whether everything stays as it is."""
        return not self.turn and not self.mirrored

    @cached_property
    def matrix(self) -> NDArray[np.intp]:
        """(axes, axes): what becomes of steps, in array order."""
        whole = matrices()[self.turn]  # flat ones are the first four
        found = whole[3 - self.axes :, 3 - self.axes :]
        return mirror(self.axes) @ found if self.mirrored else found

    def inverse(self) -> Self:
        """The way back."""
        return next(way for way in all_ways(self.axes)  # type: ignore[return-value]
                    if self.then(way).is_none)  # fmt: skip

    def then(self, other: Way) -> Way:
        """The one way that equals this one followed by `other`."""
        second = in_mirror(other.turn) if self.mirrored else other.turn
        turn = int(composed_turns()[self.turn, second])
        return Way(self.axes, turn, self.mirrored != other.mirrored)

    def shape(self, shape: Sequence[int]) -> tuple[int, ...]:
        """Of a block that had `shape`."""
        return tuple(int(shape[axis]) for axis in self._sources)

    @cached_property
    def _sources(self) -> tuple[int, ...]:
        """Which axis comes to lie along each axis."""
        return tuple(int(np.flatnonzero(row)[0]) for row in self.matrix)

    def array(self, cells: np.ndarray) -> np.ndarray:
        """An array of cells, turned; a view."""
        backwards = (row.sum() < 0 for row in self.matrix)
        flips = tuple(slice(None, None, -1) if back else slice(None) for back in backwards)
        return cells.transpose(self._sources)[flips]

    def positions(self, at: Positions, shape: Sequence[int]) -> Positions:
        """(n, axes) positions, counted from the first cell of a block of that shape, whole numbers
        being the middles of cells, as they are in the turned block."""
        before = (np.array(shape, np.float64) - 1) / 2
        after = (np.array(self.shape(shape), np.float64) - 1) / 2
        return np.asarray((at - before) @ self.matrix.T + after)

    def box(self, box: Box, shape: Sequence[int]) -> Box:
        """A box within a block of that shape, as it is in the turned block."""
        ends = np.array([box.lo, [v - 1 for v in box.hi]], np.float64)
        found = np.rint(self.positions(ends, shape)).astype(int)
        lo, hi = found.min(axis=0), found.max(axis=0) + 1
        return Box(tuple(lo.tolist()), tuple(hi.tolist()))


def mirror(axes: int) -> NDArray[np.intp]:
    """(axes, axes): west and east change places."""
    return np.diag([1] * (axes - 1) + [-1]).astype(np.intp)


@cache
def in_mirror(turn: int) -> int:
    """The one of 24 turns that a turn is seen as in a mirror of west and east."""
    flip = mirror(3)
    return turn_of(flip @ matrices()[turn] @ flip)


@lru_cache(maxsize=2)
def all_ways(axes: int) -> tuple[Way, ...]:
    """All 8 of flat blocks; of those in space the 24 turns, and the same mirrored."""
    turns = range(TURNS if axes == 3 else 4)
    return tuple(Way(axes, turn, flip) for flip in (False, True) for turn in turns)
