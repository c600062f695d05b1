"""How a box moves in a room seen from above: along walls, on eight ways."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from topion.roles.kind import Edges
from topion.walk.terrain import SOLID, Terrain


@dataclass(frozen=True)
class TopWay:
    """Where a box of so many units can go.  others : boxes that stand in the way."""

    terrain: Terrain
    wide: int
    high: int
    others: Sequence[Edges] = ()

    def blocked(self, x: int, y: int) -> bool:
        """Whether a wall, a box or the edge of the room is in the way there."""
        terrain, cell = self.terrain, self.terrain.cell
        right, bottom = x + self.wide, y + self.high
        if y < 0 or bottom > terrain.rows * cell:
            return True
        for column in range(x // cell, (right - 1) // cell + 1):
            for row in range(y // cell, (bottom - 1) // cell + 1):
                if terrain.flag(row, column) & SOLID:
                    return True
        return any(
            x < box[2] and box[0] < right and y < box[3] and box[1] < bottom for box in self.others
        )

    def across(self, x: int, y: int, by: tuple[int, int]) -> tuple[int, int]:
        """Where it comes to, one axis after the other, so that it slides along walls."""
        for axis in (0, 1):
            if by[axis]:
                x, y = self._along(x, y, axis, by[axis])
        return x, y

    def _along(self, x: int, y: int, axis: int, far: int) -> tuple[int, int]:
        low, high, sign, best = 0, abs(far), (1 if far > 0 else -1), (x, y)
        middle = high
        while True:
            there = (x + sign * middle, y) if axis == 0 else (x, y + sign * middle)
            if self.blocked(*there):
                high = middle - 1
            else:
                low, best = middle, there
            if low >= high:
                return best
            middle = (low + high + 1) // 2
