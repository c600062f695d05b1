"""How a box moves in a room seen from the side: walls, ledges, slopes and steps.

Gravity pulls towards larger y; where it pulls up, all is done upside down.  Boxes are told by
their left and top edge.  What moves by itself and stands in the way is given as `others`.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from topion.roles.kind import Edges
from topion.walk.terrain import CLIMB, LEDGE, SOLID, Profile, Terrain, highest

_TRIES = 14  # of halving a way that is blocked by a slanted ceiling


@dataclass(frozen=True)
class Way:
    """Where a box of so many units can go.  others : boxes that stand in the way."""

    terrain: Terrain
    wide: int
    high: int
    others: Sequence[Edges] = ()

    # --- what is there --------------------------------------------------------------------

    def blocked(self, x: int, y: int) -> bool:
        """Whether a wall, a box or a slanted ceiling is in the way there; floors are not."""
        terrain, cell = self.terrain, self.terrain.cell
        right, bottom = x + self.wide, y + self.high
        for column in range(x // cell, (right - 1) // cell + 1):
            for row in range(y // cell, (bottom - 1) // cell + 1):
                if terrain.flag(row, column) & SOLID:
                    return True
                if terrain.ceilings:
                    profile = terrain.ceilings.get(row * terrain.columns + column)
                    if (
                        profile
                        and row >= 0
                        and y
                        < row * cell
                        + highest(profile, x - column * cell, right - column * cell, cell)
                    ):
                        return True
        return any(
            x < box[2] and box[0] < right and y < box[3] and box[1] < bottom for box in self.others
        )

    def slope_top(self, x: int, feet: int) -> int | None:
        """The highest floor that is not level in the row of its feet, or in the one above."""
        terrain, cell = self.terrain, self.terrain.cell
        if not terrain.floors:
            return None
        best = None
        row = (feet - 1) // cell
        for column in range(
            max(0, x // cell), min(terrain.columns, (x + self.wide - 1) // cell + 1)
        ):
            for here in (row, row - 1):
                profile = terrain.floors.get(here * terrain.columns + column) if here >= 0 else None
                if profile:
                    left = x - column * cell
                    top = (here + 1) * cell - highest(profile, left, left + self.wide, cell)
                    best = top if best is None or top < best else best
        return best

    def profiles_at(self, x: int, feet: int) -> Iterator[Profile]:
        """Of the floors that are not level and that it stands on."""
        terrain, cell = self.terrain, self.terrain.cell
        columns = range(max(0, x // cell), min(terrain.columns, (x + self.wide - 1) // cell + 1))
        for column in columns if terrain.floors else ():
            for row in ((feet - 1) // cell, feet // cell):
                profile = terrain.floors.get(row * terrain.columns + column) if row >= 0 else None
                left = x - column * cell
                if profile and (row + 1) * cell - feet == (
                    highest(profile, left, left + self.wide, cell)
                ):
                    yield profile

    def floor_below(self, x: int, feet: int, reach: int, through: bool = False) -> int | None:
        """The first floor from its feet to so many units below.  through : ledges do not count."""
        found = [
            top for top in self._floors(x, feet, reach, through) if feet <= top <= feet + reach
        ]
        return min(found) if found else None

    def _floors(self, x: int, feet: int, reach: int, through: bool) -> Iterator[int]:
        terrain, cell = self.terrain, self.terrain.cell
        right = x + self.wide
        for row in range(feet // cell, (feet + reach) // cell + 1):
            for column in range(x // cell, (right - 1) // cell + 1):
                flag = terrain.flag(row, column)
                inside = 0 <= column < terrain.columns and row >= 0
                at = row * terrain.columns + column
                profile = terrain.floors.get(at) if inside and terrain.floors else None
                if profile:
                    left = x - column * cell
                    yield (row + 1) * cell - highest(profile, left, left + self.wide, cell)
                elif flag & SOLID or (
                    not through
                    and (
                        flag & LEDGE
                        or (flag & CLIMB and not terrain.flag(row - 1, column) & (CLIMB | SOLID))
                    )
                ):
                    yield row * cell
        yield from (box[1] for box in self.others if x < box[2] and box[0] < right)

    def roof_above(self, x: int, top: int, reach: int) -> int | None:
        """The first underside from its top to so many units above."""
        terrain, cell = self.terrain, self.terrain.cell
        right, found = x + self.wide, []
        for row in range((top - 1) // cell, (top - reach - 1) // cell - 1, -1):
            for column in range(x // cell, (right - 1) // cell + 1):
                at = row * terrain.columns + column
                profile = terrain.ceilings.get(at) if row >= 0 and terrain.ceilings else None
                if profile:
                    left = x - column * cell
                    found.append(row * cell + highest(profile, left, left + self.wide, cell))
                elif terrain.flag(row, column) & SOLID:
                    found.append((row + 1) * cell)
        found += [box[3] for box in self.others if x < box[2] and box[0] < right]
        there = [under for under in found if top - reach <= under <= top]
        return max(there) if there else None

    # --- going ----------------------------------------------------------------------------

    def across(self, x: int, y: int, dx: int, step: int = 0) -> tuple[int, int]:
        """Where it comes to, going so far across: up slopes, and over edges up to `step` high."""
        if not dx:
            return x, y
        rise = max(abs(dx), step)
        there = self._raised(x + dx, y, rise, step)
        if there is not None:
            return there
        near = self._to_wall(x, y, dx)
        if near:
            there = self._raised(x + near, y, max(abs(near), step), 0)
            if there is not None:
                return there
        low, high = 0, abs(near)
        sign = 1 if dx > 0 else -1
        best = (x, y)
        for _ in range(_TRIES):
            middle = (low + high + 1) // 2
            there = self._raised(x + sign * middle, y, max(middle, step), 0) if middle else None
            if there is None:
                high = middle - 1
            else:
                low, best = middle, there
            if low >= high:
                break
        return best

    def _raised(self, x: int, y: int, rise: int, step: int) -> tuple[int, int] | None:
        """Standing there, on the slope there; None where it cannot."""
        feet = y + self.high
        top = self.slope_top(x, feet)
        if top is not None and top < feet:
            if top < feet - rise:
                return None
            y = top - self.high
        if not self.blocked(x, y):
            return x, y
        if step:
            for edge in self._edges(x, feet, step):
                if not self.blocked(x, edge - self.high):
                    return x, edge - self.high
        return None

    def _edges(self, x: int, feet: int, step: int) -> Iterable[int]:
        """Tops of what stands there, up to so high above the feet, the lowest first."""
        terrain, cell = self.terrain, self.terrain.cell
        tops = {box[1] for box in self.others if x < box[2] and box[0] < x + self.wide}
        for row in range((feet - step) // cell, feet // cell + 1):
            columns = range(x // cell, (x + self.wide - 1) // cell + 1)
            if any(terrain.flag(row, column) & SOLID for column in columns):
                tops.add(row * cell)
        return sorted((top for top in tops if feet - step <= top < feet), reverse=True)

    def _to_wall(self, x: int, y: int, dx: int) -> int:
        """How far it comes until a wall or a box, at most dx."""
        terrain, cell = self.terrain, self.terrain.cell
        rows = range(y // cell, (y + self.high - 1) // cell + 1)
        far = abs(dx)
        if dx > 0:
            edge = x + self.wide
            for column in range(edge // cell, (edge + dx - 1) // cell + 1):
                if column * cell >= edge and any(terrain.flag(r, column) & SOLID for r in rows):
                    far = min(far, column * cell - edge)
                    break
        else:
            for column in range((x - 1) // cell, (x + dx) // cell - 1, -1):
                if (column + 1) * cell <= x and any(terrain.flag(r, column) & SOLID for r in rows):
                    far = min(far, x - (column + 1) * cell)
                    break
        for box in self.others:
            if y < box[3] and box[1] < y + self.high:
                gap = box[0] - x - self.wide if dx > 0 else x - box[2]
                if 0 <= gap < far:
                    far = gap
        return far if dx > 0 else -far
