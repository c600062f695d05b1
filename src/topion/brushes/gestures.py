"""Gestures: how the pointer's way becomes cells."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from topion.grid.arrays import NO_CELLS, CellList, Positions
from topion.grid.flood import flood_cells
from topion.grid.lines import box_between, line_cells, outline_cells, path_cells
from topion.model.brush import Marks

GestureKind = Literal["drag", "line", "box", "flood"]
GESTURES: tuple[GestureKind, ...] = ("drag", "line", "box", "flood")


@dataclass(frozen=True)
class Gesture:
    """A gesture and its options.

    outline : a box marks its border only.
    everywhere : a flood takes all cells alike, connected or not.
    corners : a flood also steps over corners (8 neighbours).
    """

    kind: GestureKind = "drag"
    outline: bool = False
    everywhere: bool = False
    corners: bool = False

    def marks(self, points: Positions, cells: np.ndarray | None) -> Marks:
        """The marks of a pointer that went through (n, 2) `points`, in cells.

        cells : what a flood compares, usually the materials of the layer; it may be None for
        the others.  Cells outside the room are left to the brush, which drops them.
        """
        if not len(points):
            return Marks()
        at = cell_of(points)
        if self.kind == "drag":
            return Marks(path_cells(at), points)
        if self.kind == "line":
            return Marks(line_cells(at[0], at[-1]), points[[0, -1]])
        if self.kind == "box":
            box = box_between(at[0], at[-1])
            return Marks(outline_cells(box) if self.outline else box.cells())
        return Marks(self._flooded(at[-1], cells))

    def _flooded(self, start: Sequence[int], cells: np.ndarray | None) -> CellList:
        if cells is None or any(not 0 <= a < n for a, n in zip(start, cells.shape, strict=True)):
            return NO_CELLS
        return flood_cells(cells, start, corners=self.corners, everywhere=self.everywhere)


def cell_of(points: Positions) -> CellList:
    """The cells that (n, ndim) positions lie in; whole numbers are the middles of cells."""
    return np.floor(points + 0.5).astype(np.intp)
