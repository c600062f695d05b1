"""Grids of symbols: what a text or a picture holds before anybody says what it means."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, eq=False)
class SymbolGrid:
    """One room of a file.

    cells : (h, w) uint16, places in `symbols`.  title : what the file calls it, or nothing.
    line : of the file, from 1, on which it starts; 0 in a picture.
    """

    file: str
    title: str
    cells: NDArray[np.uint16]
    symbols: tuple[str, ...]
    line: int = 0

    @property
    def size(self) -> tuple[int, int]:
        """(h, w) in cells."""
        return self.cells.shape[0], self.cells.shape[1]

    def counts(self) -> dict[str, int]:
        """How often each symbol stands in it, those that do."""
        counted = np.bincount(self.cells.reshape(-1), minlength=len(self.symbols))
        return {s: int(n) for s, n in zip(self.symbols, counted, strict=True) if n}

    def mask(self, symbol: str) -> NDArray[np.bool_]:
        """(h, w) where a symbol stands."""
        if symbol not in self.symbols:
            return np.zeros(self.cells.shape, bool)
        return self.cells == self.symbols.index(symbol)

    def rows(self) -> list[list[str]]:
        """The symbols, row by row."""
        return [[self.symbols[n] for n in row] for row in self.cells.tolist()]


@dataclass
class Count:
    """cells : how often a symbol stands anywhere.  rooms : in how many.  most : the place of the
    grid in which it stands most often, and how often it does there."""

    cells: int = 0
    rooms: int = 0
    most: tuple[int, int] = (0, 0)


def counted(grids: Iterable[SymbolGrid]) -> dict[str, Count]:
    """All symbols of some grids, the most frequent first."""
    found: dict[str, Count] = {}
    for place, grid in enumerate(grids):
        for symbol, cells in grid.counts().items():
            count = found.setdefault(symbol, Count())
            count.cells += cells
            count.rooms += 1
            if cells > count.most[1]:
                count.most = (place, cells)
    return dict(sorted(found.items(), key=lambda pair: -pair[1].cells))


def shrunk(mask: NDArray[np.bool_], most: tuple[int, int]) -> NDArray[np.float64]:
    """(h, w) mask as shares 0 to 1 of at most `most` rows and columns; no larger than it is."""
    (height, width), steps = mask.shape, []
    for length, limit in zip(mask.shape, most, strict=True):
        steps.append(-(-length // limit))
    tall, wide = -(-height // steps[0]), -(-width // steps[1])
    filled = np.zeros((tall * steps[0], wide * steps[1]))
    filled[:height, :width] = mask
    blocks = filled.reshape(tall, steps[0], wide, steps[1])
    found: NDArray[np.float64] = blocks.mean(axis=(1, 3))
    return found
