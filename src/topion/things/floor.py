"""What carries things: the painted ground of a flat room, the upward surfaces of a voxel room.

Both answer the same questions, so that rules, brushes and fields ask them of any room.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import CellList, CellMask, Positions
from topion.model.prefab import standing_cells
from topion.model.project import Project
from topion.model.room import Layer, Room

ENOUGH_ROOM = 1 << 15  # open cells above, where nothing can be above


class Floor(Protocol):
    """Cells and positions are (n, axes); a cell is the one a thing stands in."""

    def under(self, cells: CellList) -> NDArray[np.uint16]:
        """(n,) the material that would carry a thing in each cell; 0 for none."""

    def filled(self, cells: CellList) -> NDArray[np.uint16]:
        """(n,) the material that leaves no room for a thing in the cell; 0 for none."""

    def carried(self, cells: CellList) -> CellMask:
        """(n,) whether anything carries a thing in the cell."""

    def headroom(self, cells: CellList) -> NDArray[np.intp]:
        """(n,) open cells from each cell upwards, itself included."""

    def seated(self, positions: Positions) -> Positions:
        """The same places, moved onto what carries there."""

    def seats(self, plan: Positions) -> tuple[Positions, NDArray[np.intp] | None]:
        """Every place at (n, 2) points seen from above where a thing can stand: (m, axes), and
        (m,) the point each belongs to; None where they are the points themselves."""


@dataclass(frozen=True, eq=False)
class PaintedFloor:
    """A flat room: whatever lies uppermost in a cell carries what stands there."""

    project: Project
    room: Room

    def under(self, cells: CellList) -> NDArray[np.uint16]:
        found = np.zeros(len(cells), np.uint16)
        inside = self.room.box.holds(cells)
        ys, xs = cells[inside].T
        seen = np.zeros(len(ys), np.uint16)
        for _, layer in self.room.cell_layers():
            here = layer.planes["material"][ys, xs]
            seen = np.where(here > 0, here, seen)
        found[inside] = seen
        return found

    def filled(self, cells: CellList) -> NDArray[np.uint16]:
        return np.zeros(len(cells), np.uint16)

    def carried(self, cells: CellList) -> CellMask:
        return np.ones(len(cells), bool)

    def headroom(self, cells: CellList) -> NDArray[np.intp]:
        return np.full(len(cells), ENOUGH_ROOM)

    def seated(self, positions: Positions) -> Positions:
        return positions

    def seats(self, plan: Positions) -> tuple[Positions, NDArray[np.intp] | None]:
        return plan, None


@dataclass(frozen=True, eq=False)
class BlockFloor:
    """A voxel room: things stand on the tops of blocks that can carry, or on its lowest level."""

    project: Project
    room: Room

    @cached_property
    def _layer(self) -> Layer | None:
        layers = self.room.cell_layers()
        return layers[-1][1] if layers else None

    @cached_property
    def _blocks(self) -> BlockFacts:
        return block_facts(self.project)

    def _at(self, plane: str, cells: CellList) -> NDArray[np.uint16]:
        """(n,) the value of a plane in each cell, 0 outside."""
        found = np.zeros(len(cells), np.uint16)
        if self._layer is not None:
            inside = self.room.box.holds(cells)
            found[inside] = self._layer.planes[plane][tuple(cells[inside].T)]
        return found

    def under(self, cells: CellList) -> NDArray[np.uint16]:
        return self._at("material", cells - (1, 0, 0))

    def filled(self, cells: CellList) -> NDArray[np.uint16]:
        return np.where(self._full(cells), self._at("material", cells), 0).astype(np.uint16)

    def _full(self, cells: CellList) -> CellMask:
        return np.asarray(self._blocks.solid[self._at("block", cells)])

    def carried(self, cells: CellList) -> CellMask:
        below = self._at("block", cells - (1, 0, 0))
        return np.asarray(self._blocks.carries[below] | (cells[:, 0] == 0))

    def headroom(self, cells: CellList) -> NDArray[np.intp]:
        columns = self._columns(cells[:, 1:])
        depth = columns.shape[0]
        levels = np.arange(depth)[:, None]
        above = columns & (levels >= cells[:, 0])
        first = np.where(above.any(axis=0), above.argmax(axis=0), ENOUGH_ROOM)
        return np.asarray(first - cells[:, 0], np.intp)

    def _columns(self, plan: CellList) -> CellMask:
        """(d, n) which levels are solid, of columns; none outside the room."""
        depth = self.room.info.size[0]
        out = np.zeros((depth, len(plan)), bool)
        if self._layer is not None:
            inside = self.room.plan_box.holds(plan)
            ys, xs = plan[inside].T
            out[:, inside] = self._blocks.solid[self._layer.planes["block"][:, ys, xs]]
        return out

    def seated(self, positions: Positions) -> Positions:
        """Down to the first surface below, or up out of what fills the place."""
        cells = standing_cells(positions)
        columns = self._columns(cells[:, 1:])
        seat = np.zeros(len(cells), np.intp)
        for number, level in enumerate(cells[:, 0].tolist()):
            column = columns[:, number]
            at = min(max(level, 0), len(column))
            while at < len(column) and column[at]:
                at += 1
            while at > 0 and not column[at - 1]:
                at -= 1
            seat[number] = at
        out = positions.copy()
        out[:, 0] = self._heights(np.column_stack([seat, cells[:, 1:]]))
        return out

    def _heights(self, cells: CellList) -> NDArray[np.float64]:
        """The height of the surface that carries things in these cells."""
        below = self._at("block", cells - (1, 0, 0))
        return np.where(below > 0, cells[:, 0] - 1 + self._blocks.top[below], cells[:, 0])

    def seats(self, plan: Positions) -> tuple[Positions, NDArray[np.intp] | None]:
        columns = np.floor(plan + 0.5).astype(np.intp)
        solid = self._columns(columns)
        carrying = solid.copy()
        if self._layer is not None:
            inside = self.room.plan_box.holds(columns)
            ys, xs = columns[inside].T
            carrying[:, inside] = self._blocks.carries[self._layer.planes["block"][:, ys, xs]]
        open_above = ~np.vstack([solid[1:], np.zeros((1, len(plan)), bool)])
        # the topmost level has no room above; the lowest may be stood on where it is open
        stands = carrying & open_above
        stands[-1:] = False
        rows, levels = np.nonzero(stands.T)
        ground = np.flatnonzero(~solid[0])
        rows, levels = (
            np.concatenate([ground, rows]),
            np.concatenate([np.full(len(ground), -1), levels]),
        )
        order = np.lexsort((levels, rows))
        rows, levels = rows[order], levels[order]
        cells = np.column_stack([levels + 1, columns[rows]])
        return np.column_stack([self._heights(cells), plan[rows]]), rows


@dataclass(frozen=True, eq=False)
class BlockFacts:
    """By block number: whether it fills its cell, carries things, and how high its top is."""

    solid: CellMask
    carries: CellMask
    walkable: CellMask
    top: NDArray[np.float64]


def block_facts(project: Project) -> BlockFacts:
    """Made once for a library."""
    cached = project.derived.get("block facts")
    if cached is None or cached[0] != project.library_revision:
        blocks = [project.blocks[name] for name in project.block_names]
        facts = BlockFacts(
            np.array([False, *(b.solid for b in blocks)]),
            np.array([False, *(b.carries for b in blocks)]),
            np.array([False, *(b.walkable for b in blocks)]),
            np.array([0.0, *(b.top for b in blocks)]),
        )
        cached = (project.library_revision, facts)
        project.derived["block facts"] = cached
    found: BlockFacts = cached[1]
    return found


_FLOORS: dict[int, Callable[[Project, Room], Floor]] = {2: PaintedFloor, 3: BlockFloor}


def floor_of(project: Project, room: Room) -> Floor:
    return _FLOORS[room.info.axes](project, room)
