"""Gestures: how the pointer's way becomes cells."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from topion.brushes.marks import Marks
from topion.grid.arrays import NO_CELLS, CellList, Positions
from topion.grid.curves import curve_through
from topion.grid.flood import flood_cells
from topion.grid.lines import box_between, first_of_each, line_cells, outline_cells, path_cells

GestureKind = Literal["drag", "line", "box", "flood", "curve"]
GESTURES: tuple[GestureKind, ...] = ("drag", "line", "box", "flood", "curve")


@dataclass(frozen=True)
class Gesture:
    """A gesture and its options.

    outline : a box marks its border only.
    everywhere : a flood takes all cells alike, connected or not.
    corners : a flood also steps over corners (8 neighbours, or 26).
    across : the axis of a voxel room across which the stroke is flat: wide nibs and floods stay
    on that plane; None for all of space.
    """

    kind: GestureKind = "drag"
    outline: bool = False
    everywhere: bool = False
    corners: bool = False
    across: int | None = None

    def marks(self, points: Positions, cells: np.ndarray | None) -> Marks:
        """The marks of a pointer that went through (n, axes) `points`, in cells; of a curve, that
        was clicked at them.

        cells : what a flood compares, usually the materials of the layer; it may be None for
        the others.  Cells outside the room are left to the brush, which drops them.
        """
        if not len(points):
            return Marks()
        return replace(self._marks(points, cells), drawn=(points,), by=self.kind)

    def _marks(self, points: Positions, cells: np.ndarray | None) -> Marks:
        at = cell_of(points)
        if self.kind == "drag":
            return Marks(path_cells(at), points, across=self.across, knots=(at[[0, -1]],))
        if self.kind == "line":
            cells = line_cells(at[0], at[-1])
            return Marks(cells, points[[0, -1]], across=self.across, knots=(at[[0, -1]],))
        if self.kind == "curve":
            way = curve_through(points)
            return Marks(path_cells(cell_of(way)), way, across=self.across, knots=(at,))
        if self.kind == "box":
            box = box_between(at[0], at[-1])
            cells = outline_cells(box) if self.outline else box.cells()
            return Marks(cells, knots=(at[[0, -1]],))
        return Marks(self._flooded(at[-1], cells))

    def _flooded(self, start: Sequence[int], cells: np.ndarray | None) -> CellList:
        if cells is None or any(not 0 <= a < n for a, n in zip(start, cells.shape, strict=True)):
            return NO_CELLS[:, :1].repeat(len(start), axis=1)
        ways = {"corners": self.corners, "everywhere": self.everywhere}
        if self.across is None:
            return flood_cells(cells, start, **ways)
        level = int(start[self.across])
        rest = [v for axis, v in enumerate(start) if axis != self.across]
        found = flood_cells(cells.take(level, axis=self.across), rest, **ways)
        return np.insert(found, self.across, level, axis=1)


@dataclass(frozen=True)
class Mirror:
    """A plane at which strokes are mirrored.

    axis : -1 for one that divides west from east, -2 for north from south.
    at : where it stands, in cells; whole numbers lie in the middle of a cell, halves between two.
    """

    axis: Literal[-1, -2]
    at: float

    def cells(self, cells: CellList) -> CellList:
        out = cells.copy()
        out[:, self.axis] = np.rint(2 * self.at).astype(np.intp) - cells[:, self.axis]
        return out

    def points(self, points: Positions) -> Positions:
        out = points.copy()
        out[:, self.axis] = 2 * self.at - points[:, self.axis]
        return out


def mirrored(marks: Marks, mirrors: Sequence[Mirror]) -> Marks:
    """The marks together with their pictures in each mirror, and in mirrors of mirrors."""
    parts, path, knots = [marks.cells], marks.path, list(marks.knots)
    drawn = list(marks.drawn)
    flips: list[tuple[int, ...]] = [()]
    for mirror in mirrors:
        parts += [mirror.cells(part) for part in parts]
        flips += [(*flip, mirror.axis) for flip in flips]
        knots += [mirror.cells(known) for known in knots]
        drawn += [mirror.points(known) for known in drawn]
        if path is not None:
            path = np.concatenate([path, mirror.points(path)])
    if len(parts) == 1:
        return marks
    cells = first_of_each(np.concatenate(parts))
    return replace(marks, cells=cells, path=path, parts=tuple(parts), flips=tuple(flips),
                   knots=tuple(knots), drawn=tuple(drawn))  # fmt: skip


def cell_of(points: Positions) -> CellList:
    """The cells that (n, ndim) positions lie in; whole numbers are the middles of cells."""
    return np.floor(points + 0.5).astype(np.intp)
