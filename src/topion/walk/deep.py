"""A voxel room as the figure meets it, and how its box moves there."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from topion.model.project import Project
from topion.model.room import Room
from topion.model.solid import TURN_BITS
from topion.roles.kind import Edges
from topion.weaving.settle import shown_tiles


@dataclass(frozen=True)
class DeepTerrain:
    """levels, rows, columns : of the room.  cell : units of a cell.

    tops : a value a cell, level by level: how many 240ths of it are filled from below.
    wet : a byte a cell, 1 in water.
    """

    levels: int
    rows: int
    columns: int
    cell: int
    tops: bytes
    wet: bytes

    def top(self, level: int, row: int, column: int) -> int:
        """How high a cell is filled, in units; beyond the sides of the room to the brim."""
        if not (0 <= row < self.rows and 0 <= column < self.columns):
            return self.cell
        if not 0 <= level < self.levels:
            return 0
        part = self.tops[(level * self.rows + row) * self.columns + column]
        return self.cell * part // 240

    def is_wet(self, x: int, y: int, z: int) -> bool:
        """Whether a point lies in water."""
        column, row, level = x // self.cell, y // self.cell, z // self.cell
        inside = 0 <= row < self.rows and 0 <= column < self.columns and 0 <= level < self.levels
        return inside and bool(self.wet[(level * self.rows + row) * self.columns + column])


def deep_terrain(project: Project, room: Room, cell: int) -> DeepTerrain:
    """Solid blocks are filled to their tops; those tagged water, and that cannot be walked on, are
    wet instead."""
    levels, rows, columns = room.info.size
    tops = np.zeros((levels, rows, columns), np.uint8)
    wet = np.zeros((levels, rows, columns), np.uint8)
    for _, layer in room.cell_layers():
        if not layer.info.shown:
            continue
        numbers = shown_tiles(project, layer) >> TURN_BITS
        for number in np.unique(numbers[numbers > 0]).tolist():
            block = project.blocks[project.block_names[number - 1]]
            here = numbers == number
            if "water" in block.tags:
                wet[here] = 1
            elif block.solid or block.carries:
                tops[here] = np.maximum(tops[here], round(block.top * 240))
    return DeepTerrain(levels, rows, columns, cell, tops.tobytes(), wet.tobytes())


@dataclass(frozen=True)
class DeepWay:
    """Where a box, so many units wide and high, can go.  Places are its western, northern and lower
    edge.  others : boxes that stand in the way."""

    terrain: DeepTerrain
    wide: int
    high: int
    others: Sequence[Edges] = ()

    def _columns(self, x: int, y: int) -> Iterator[tuple[int, int]]:
        cell = self.terrain.cell
        for row in range(y // cell, (y + self.wide - 1) // cell + 1):
            for column in range(x // cell, (x + self.wide - 1) // cell + 1):
                yield row, column

    def blocked(self, x: int, y: int, z: int) -> bool:
        """Whether something is in the way there."""
        terrain, cell = self.terrain, self.terrain.cell
        head = z + self.high
        for row, column in self._columns(x, y):
            for level in range(z // cell, (head - 1) // cell + 1):
                top = terrain.top(level, row, column)
                if top and z < level * cell + top:
                    return True
        return any(self._meets(box, x, y) and z < box[5] and box[4] < head for box in self.others)

    def _meets(self, box: Edges, x: int, y: int) -> bool:
        return x < box[2] and box[0] < x + self.wide and y < box[3] and box[1] < y + self.wide

    def floor_below(self, x: int, y: int, z: int, reach: int) -> int | None:
        """The first floor from its foot to so many units below."""
        terrain, cell = self.terrain, self.terrain.cell
        found = [box[5] for box in self.others if self._meets(box, x, y)]
        for row, column in self._columns(x, y):
            for level in range((z - reach) // cell - 1, z // cell + 1):
                top = terrain.top(level, row, column)
                if top:
                    found.append(level * cell + top)
        there = [top for top in found if z - reach <= top <= z]
        return max(there) if there else None

    def roof_above(self, x: int, y: int, head: int, reach: int) -> int | None:
        """The first underside from its head to so many units above."""
        terrain, cell = self.terrain, self.terrain.cell
        found = [box[4] for box in self.others if self._meets(box, x, y)]
        for row, column in self._columns(x, y):
            for level in range(head // cell, (head + reach) // cell + 1):
                if terrain.top(level, row, column):
                    found.append(level * cell)
        there = [under for under in found if head <= under <= head + reach]
        return min(there) if there else None

    def across(
        self, x: int, y: int, z: int, by: tuple[int, int], step: int
    ) -> tuple[int, int, int]:
        """Where it comes to, one axis after the other: along walls, and over edges up to `step`."""
        for axis in (0, 1):
            if by[axis]:
                x, y, z = self._along(x, y, z, axis, by[axis], step)
        return x, y, z

    def _along(
        self, x: int, y: int, z: int, axis: int, far: int, step: int
    ) -> tuple[int, int, int]:
        there = self._tried(x, y, z, axis, far, step)
        if there is not None:
            return there
        low, high, sign, best = 0, abs(far), (1 if far > 0 else -1), (x, y, z)
        while low < high:  # as near to the wall as it comes
            middle = (low + high + 1) // 2
            there = self._tried(x, y, z, axis, sign * middle, 0)
            if there is None:
                high = middle - 1
            else:
                low, best = middle, there
        return best

    def _tried(
        self, x: int, y: int, z: int, axis: int, far: int, step: int
    ) -> tuple[int, int, int] | None:
        nx, ny = (x + far, y) if axis == 0 else (x, y + far)
        if not self.blocked(nx, ny, z):
            return nx, ny, z
        if step:
            for edge in self._edges(nx, ny, z, step):
                if not self.blocked(nx, ny, edge):
                    return nx, ny, edge
        return None

    def _edges(self, x: int, y: int, z: int, step: int) -> list[int]:
        terrain, cell = self.terrain, self.terrain.cell
        tops = {box[5] for box in self.others if self._meets(box, x, y)}
        for row, column in self._columns(x, y):
            for level in range(z // cell, (z + step) // cell + 1):
                top = terrain.top(level, row, column)
                if top:
                    tops.add(level * cell + top)
        return sorted(top for top in tops if z < top <= z + step)
