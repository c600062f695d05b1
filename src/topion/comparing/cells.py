"""Cells that differ in two versions of a plane."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.formats.plane_files import PlaneFile, PlaneHead, read_plane
from topion.grid.boxes import Box
from topion.merging.planes import merged_names
from topion.model.conflict import NameInCells
from topion.model.naming import Naming

_FEW = 6  # ways in which cells changed that are told by name


@dataclass(frozen=True, eq=False)
class CellsChanged:
    """box : all cells of both versions, counted from where the room's first cell was when it was
    made.  mask : over it, where they differ.  before, after : by numbers that `naming` knows; None
    where they are amounts."""

    box: Box
    mask: NDArray[np.bool_]
    before: NDArray[np.uint16]
    after: NDArray[np.uint16]
    naming: Naming | None

    def turned(self) -> Iterator[tuple[str, str, int]]:
        """(before, after, how many cells) by name, the most first; a few of them."""
        if self.naming is None:
            return
        pairs = np.stack([self.before[self.mask], self.after[self.mask]])
        found, counts = np.unique(pairs, axis=1, return_counts=True)
        for at in np.argsort(-counts, kind="stable")[:_FEW].tolist():
            old, new = (self._name(int(v)) for v in found[:, at])
            yield old, new, int(counts[at])

    def _name(self, number: int) -> str:
        assert self.naming is not None
        name = self.naming.names.get(number >> self.naming.bits)
        return told_name(name) if name else "open" if not number else f"{number}"


def told_name(name: NameInCells) -> str:
    """A name in cells as it is read."""
    return name[0] if len(name) == 1 else f"{name[0]} {name[1]}"


def cells_changed(file: str, before: bytes | None, after: bytes | None) -> CellsChanged:
    """Two versions of a file of rows; None where there is none.  Raises BadFile."""
    old, new = (None if data is None else read_plane(data, file) for data in (before, after))
    old, new = old or _empty(new), new or _empty(old)
    bits = max(old.head.turned, new.head.turned)
    names, (table, _, other) = merged_names(old.head.names, old.head.names, new.head.names, bits)
    box = old.head.box.union(new.head.box)
    first = _placed(old, box, table)
    second = _placed(new, box, other)
    naming = Naming(names, bits) if names else None
    return CellsChanged(box, first != second, first, second, naming)


def _empty(other: PlaneFile | None) -> PlaneFile:
    assert other is not None
    head = PlaneHead(other.head.size, other.head.start)
    return PlaneFile(head, np.zeros(other.head.size, np.uint16))


def _placed(plane: PlaneFile, box: Box, table: NDArray[np.uint16] | None) -> NDArray[np.uint16]:
    made = np.zeros(box.shape, np.uint16)
    cells = plane.cells if table is None else table[plane.cells]
    made[plane.head.box.slices_from(box.lo)] = cells
    return made
