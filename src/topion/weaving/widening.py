"""Widening cards: giving up marks for as long as nothing is spoilt.

Which surroundings are so or so is kept as one long number with a bit for each, so that thousands
of them are compared at once.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.grid.bit_sets import Bits, bits_where


class Looked:
    """What surroundings are like, mark by mark.

    differs : by orientation, mark and class, those whose cell there is not of that class.
    """

    def __init__(self, cells: NDArray[np.uint8], classes: int) -> None:
        """cells : (m, 8, marks) classes, see `cards.Rows`."""
        self.count = len(cells)
        self.all = (1 << self.count) - 1
        self.differs = [
            [[bits_where(cells[:, way, mark] != number) for number in range(classes)]
             for mark in range(cells.shape[2])]
            for way in range(cells.shape[1])
        ]  # fmt: skip


@dataclass(frozen=True)
class Widened:
    """marks : places in the card that are left.  fits : by orientation held, the surroundings that
    fit first in it.  there, good : that fit at all, and get what belongs there."""

    marks: tuple[int, ...]
    fits: tuple[Bits, ...]
    there: Bits
    good: Bits


def widened(
    looked: Looked,
    asked: Sequence[int],
    marks: Sequence[int],
    ways: Sequence[int],
    belongs: Sequence[Bits],
    right: Bits,
) -> Widened | None:
    """Give up marks of a card, always that by which it sets most more right, while it spoils none
    that is right already.  A mark that sets nothing right goes too, unless the card would come to
    lie where something else belongs.

    asked : by mark, the class it asks for.  marks : those it has.  ways : orientations it holds in.
    belongs : by way, where what it lays in it belongs.  right : where that lies without the card.
    None where it spoils something as it is.
    """
    left = list(marks)
    differs = [[by_mark[mark][asked[mark]] for mark in left]
               for by_mark in (looked.differs[way] for way in ways)]  # fmt: skip
    found = _met(looked, left, differs, belongs)
    if right & found.there & ~found.good:
        return None
    while left:
        at = _worst(found, differs, belongs, right)
        if at is None:
            break
        del left[at]
        for by_mark in differs:
            del by_mark[at]
        found = _met(looked, left, differs, belongs)
    return Widened(tuple(left), found.fits, found.there, found.good)


@dataclass(frozen=True)
class _Met(Widened):
    """near : by way, those that would fit but for one mark, and do not in an earlier one."""

    near: tuple[Bits, ...]


def _met(
    looked: Looked, left: list[int], differs: list[list[Bits]], belongs: Sequence[Bits]
) -> _Met:
    """Where a card fits, and where only one mark is in the way."""
    there = good = 0
    fits, near = [], []
    for by_mark, fine in zip(differs, belongs, strict=True):
        one = more = 0
        for differing in by_mark:
            more |= one & differing
            one |= differing
        mine = looked.all & ~one & ~there
        near.append(one & ~more & ~there)
        there |= mine
        good |= mine & fine
        fits.append(mine)
    return _Met(tuple(left), tuple(fits), there, good, tuple(near))


def _worst(
    found: _Met, differs: list[list[Bits]], belongs: Sequence[Bits], right: Bits
) -> int | None:
    """The mark by giving up which most more comes right; None where none may go."""
    kept, best, worth = right | found.good, None, -1.0
    for at in range(len(found.marks)):
        new = fine = 0
        for by_mark, near, belonging in zip(differs, found.near, belongs, strict=True):
            mine = near & by_mark[at] & ~new
            new |= mine
            fine |= mine & belonging
        spoilt = new & ~fine
        gain = (fine & ~kept).bit_count()
        if spoilt & kept or (spoilt and not gain):
            continue
        if gain - 0.5 * bool(spoilt) > worth:
            best, worth = at, gain - 0.5 * bool(spoilt)
    return best
