"""What lies between two points of a room: distance, angle, and the box round both."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np


class Measured(NamedTuple):
    """distance : cells between two points.  angle : degrees seen from above, clockwise from east.
    rise : levels from the first up to the second.  sides : cells of the box round both, in array
    order, both ends included.  cells : how many it holds."""

    distance: float
    angle: float
    rise: float
    sides: tuple[int, ...]
    cells: int

    def told(self) -> str:
        """In a line: `6.4 c · 32° · 6 × 4 = 24 cells`."""
        sides = " × ".join(str(n) for n in self.sides[::-1])
        rise = f" · {self.rise:+.3g} levels" if self.rise else ""
        return f"{self.distance:.3g} c · {self.angle:.0f}°{rise} · {sides} = {self.cells} cells"


def measured(start: tuple[float, ...], end: tuple[float, ...]) -> Measured:
    """Between two positions in array order, (y, x) or (z, y, x); whole numbers are the middles of
    cells."""
    a, b = np.array(start, float), np.array(end, float)
    dy, dx = (b - a)[-2:]
    first, last = np.floor(a + 0.5), np.floor(b + 0.5)
    sides = tuple(int(n) for n in np.abs(last - first) + 1)
    rise = float(b[0] - a[0]) if len(a) == 3 else 0.0
    return Measured(float(np.linalg.norm(b - a)), math.degrees(math.atan2(dy, dx)) % 360.0, rise,
                    sides, math.prod(sides))  # fmt: skip
