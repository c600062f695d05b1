"""Inlays: second materials over the first, woven by their own rules.

A cell counts as both its materials: for the cards of the inlay, and for those of the ground about
it.  So the ground is woven first as if there were none, and again where an inlay tells.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import BEYOND, CellList, MaterialIds, TileIds
from topion.grid.boxes import Box
from topion.weaving.loom import neighbours


def with_inlays(
    loom: Any,
    material: MaterialIds,
    inlay: MaterialIds,
    known: Box,
    box: Box,
    tile: TileIds,
    first: tuple[int, ...],
) -> TileIds | None:
    """The tiles of the inlays in `box`, or None for none; writes into `tile` where they change
    what the ground shows.

    first : the first cell of `box`, as chance counts it.
    material, inlay : of the cells of `known`, which is `box` with a rim, inside the room.
    """
    if not inlay.any():
        return None
    inner = box.slices_from(known.lo)
    shift = np.array(box.lo) - np.array(known.lo)
    for second in np.unique(inlay[inlay > 0]).tolist():
        for first in loom.asks_about(second):
            cells = np.argwhere(material[inner] == first)
            if len(cells):
                around, also = _around(material, inlay, cells + shift, loom.offsets)
                tells = np.flatnonzero((also == second).any(axis=1))
                at = cells[tells]
                woven = loom.around(around[tells], at + np.array(first), also[tells])
                tile[tuple(at.T)] = woven
    over = np.zeros(box.shape, np.uint16)
    cells = np.argwhere(inlay[inner])
    if len(cells):
        around, also = around_inlays(material, inlay, cells + shift, loom.offsets)
        over[tuple(cells.T)] = loom.around(around, cells + np.array(first), also)
    return over


def around_inlays(
    material: MaterialIds, inlay: MaterialIds, cells: CellList, offsets: NDArray[np.intp]
) -> tuple[MaterialIds, MaterialIds]:
    """(n, k) first and second materials round cells, each woven as the inlay that it is."""
    around, also = _around(material, inlay, cells, offsets)
    middle = around.shape[1] // 2
    around[:, middle] = also[:, middle]
    return around, also


def _around(
    material: MaterialIds, inlay: MaterialIds, cells: CellList, offsets: NDArray[np.intp]
) -> tuple[MaterialIds, MaterialIds]:
    """(n, k) first and second materials round cells."""
    around, also = neighbours(material, cells, offsets), neighbours(inlay, cells, offsets)
    also[also == BEYOND] = 0
    return around, also
