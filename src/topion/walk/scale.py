"""Lengths and speeds of a figure in whole units."""

from __future__ import annotations

from dataclasses import dataclass
from math import isqrt

from topion.model.figure import Figure

TICKS = 60  # a second
PART = 3840  # parts of a cell that settings are rounded to: a cell a second is 64 of them a tick


@dataclass(frozen=True)
class Scale:
    """n : ticks a jump rises.  A cell has PART * n² units, so that a jump of `height` parts that
    begins with `jump = height (2n - 1)` units a tick and loses `gravity = 2 height` at each tick
    is `height n²` units high exactly, and lands after 2n ticks.

    All but n in units, or units a tick.
    """

    n: int
    cell: int
    wide: int
    high: int
    speed: int
    jump: int
    gravity: int
    climb: int
    step: int
    fastest: int
    coyote: int  # ticks

    @classmethod
    def of(cls, figure: Figure) -> Scale:
        """That of a figure."""
        n = max(1, round(TICKS * figure.jump_length / 2 / figure.speed))
        parts = n * n
        height = parted(figure.jump_height)
        return cls(
            n, PART * parts, parted(figure.wide) * parts, parted(figure.high) * parts,
            parted(figure.speed) * parts // TICKS, height * (2 * n - 1), 2 * height,
            parted(figure.climb) * parts // TICKS, parted(figure.step) * parts,
            height * (2 * n - 1) * 5 // 4, round(figure.coyote * TICKS),
        )  # fmt: skip

    def units(self, cells: float) -> int:
        """A length in cells, to the nearest part."""
        return parted(cells) * self.n * self.n

    def a_tick(self, speed: float) -> int:
        """Units a tick of cells a second."""
        return self.units(speed) // TICKS

    def thrown(self, cells: float) -> int:
        """Units a tick with which something rises so high at least."""
        high, gravity = self.units(cells), self.gravity
        return (isqrt(gravity * gravity + 8 * gravity * high) - gravity) // 2 + 1


def parted(cells: float) -> int:
    """A length in parts of a cell."""
    return round(cells * PART)
