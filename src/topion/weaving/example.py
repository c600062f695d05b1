"""An example to learn from: which tile shows in each cell, and what lies round it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import BEYOND, CellList, MaterialIds
from topion.grid.neighbours import window_offsets
from topion.weaving.contents import Contents
from topion.weaving.loom import neighbours

Beyond = Literal["same", "open"]
OPEN_CLASS, SAME_CLASS = 0, 1  # further classes are named materials
_BLOCK = 64  # cells in reading order


@dataclass(frozen=True, eq=False)
class Example:
    """material : (h, w) numbers, 0 where it is open.  tile : (h, w) places in `pictures`, -1 where
    none is to be learned from.  contents : of the pictures of the tiles.
    """

    material: MaterialIds
    tile: NDArray[np.intp]
    contents: Contents

    def of(self, material: int) -> Shown:
        """What it shows of one material."""
        cells = np.argwhere((self.material == material) & (self.tile >= 0))
        looks = self.contents.of[self.tile[tuple(cells.T)]]
        return Shown(self, material, cells, looks)


@dataclass(frozen=True, eq=False)
class Shown:
    """cells : (n, 2) of one material.  looks : (n,) numbers of contents."""

    example: Example
    material: int
    cells: CellList
    looks: NDArray[np.intp]

    def some(self, most: int) -> Shown:
        """At most so many of its cells, the first ones of blocks that are spread over them."""
        count = len(self.cells)
        if count <= most:
            return self
        blocks = np.arange(0, count, count * _BLOCK // most)
        wanted = (blocks[:, None] + np.arange(_BLOCK)).reshape(-1)
        wanted = wanted[wanted < count]
        return Shown(self.example, self.material, self.cells[wanted], self.looks[wanted])

    @cached_property
    def around(self) -> MaterialIds:
        """(n, 25) materials round each cell, BEYOND outside the room."""
        return neighbours(self.example.material, self.cells, window_offsets(2))


@dataclass(frozen=True)
class Context:
    """How much of the surroundings is looked at.  side : 3 or 5 cells.  named : the materials told
    from other open ground.  beyond : what lies beyond the room counts as."""

    side: Literal[3, 5]
    named: tuple[int, ...]
    beyond: Beyond

    def classes(self, shown: Shown) -> NDArray[np.uint8]:
        """(n, side²) what each cell round a cell is: open, same, or one of the named from 2."""
        around = shown.around
        if self.side == 3:
            around = around.reshape(-1, 5, 5)[:, 1:-1, 1:-1].reshape(-1, 9)
        class_of = np.zeros(1 << 16, np.uint8)
        class_of[shown.material] = SAME_CLASS
        class_of[BEYOND] = SAME_CLASS if self.beyond == "same" else OPEN_CLASS
        for number, material in enumerate(self.named, 2):
            class_of[material] = number
        return np.asarray(class_of.take(around))


@dataclass(frozen=True, eq=False)
class Surroundings:
    """The different surroundings of a material.  rows : (m, side²) classes.  of_cell : (n,) which
    one each cell has.  counts : (m, looks) how often each look shows there."""

    context: Context
    rows: NDArray[np.uint8]
    of_cell: NDArray[np.intp]
    looks: NDArray[np.intp]
    counts: NDArray[np.intp]

    @classmethod
    def seen(cls, shown: Shown, context: Context) -> Surroundings:
        """Those of all cells of what is shown."""
        classes = context.classes(shown)
        words = np.ascontiguousarray(classes).view(np.dtype((np.void, classes.shape[1])))
        _, first, of_cell = np.unique(words.reshape(-1), return_index=True, return_inverse=True)
        looks, place = np.unique(shown.looks, return_inverse=True)
        pairs = np.bincount(of_cell * len(looks) + place, minlength=len(first) * len(looks))
        counts = pairs.reshape(len(first), len(looks))
        return cls(context, classes[first], of_cell, looks, counts)


def bits_to_tell(counts: NDArray[np.intp]) -> NDArray[np.float64]:
    """(m,) bits that it takes to tell, one after the other, the looks that (m, looks) counts stand
    for, each by how often it came before (Krichevsky and Trofimov, 1981)."""
    from scipy.special import gammaln  # at first use: it takes its time to load

    looks = max(2, counts.shape[1])
    of_all = gammaln(counts.sum(axis=1) + looks / 2) - gammaln(looks / 2)
    of_each = np.where(counts > 0, gammaln(counts + 0.5) - gammaln(0.5), 0.0).sum(axis=1)
    return np.asarray((of_all - of_each) / np.log(2))


def contexts(shown: Shown) -> Iterator[Context]:
    """What may be looked at, the plainest first."""
    near = np.unique(shown.around)
    others = tuple(int(m) for m in near if m not in (0, BEYOND, shown.material))
    beyond: tuple[Beyond, ...] = ("same", "open") if BEYOND in near else ("same",)
    for side in (3, 5):
        for named in dict.fromkeys(((), others)):
            for counts_as in beyond:
                yield Context(side, named, counts_as)
