"""The borders of what is marked in a plane of cells, as closed ways."""

from __future__ import annotations

import numpy as np

from topion.grid.arrays import CellMask, Positions


def outlines(mask: CellMask) -> list[Positions]:
    """Closed ways round the marked cells of a plane, (n, 2) corners of cells each, the longest
    first: clockwise round what is marked, the other way round its holes.

    Whole numbers are the corners of cells here: cell 0 reaches from 0 to 1.  Cells that touch at a
    corner only belong to different ways.
    """
    padded = np.pad(np.asarray(mask, bool), 1)
    inner = padded[1:-1, 1:-1]
    leaves: dict[tuple[int, int], list[tuple[int, int]]] = {}
    # with what is marked on the right: along its upper side to the east, down its right side ...
    sides = (
        (inner & ~padded[:-2, 1:-1], (0, 0), (0, 1)),
        (inner & ~padded[1:-1, 2:], (0, 1), (1, 1)),
        (inner & ~padded[2:, 1:-1], (1, 1), (1, 0)),
        (inner & ~padded[1:-1, :-2], (1, 0), (0, 0)),
    )
    for found, start, end in sides:
        for y, x in np.argwhere(found).tolist():
            leaves.setdefault((y + start[0], x + start[1]), []).append((y + end[0], x + end[1]))
    ways = []
    while leaves:
        ways.append(_way(leaves, next(iter(leaves))))
    return sorted(ways, key=len, reverse=True)


def _way(leaves: dict[tuple[int, int], list[tuple[int, int]]], start: tuple[int, int]) -> Positions:
    """One closed way, taken out of what leaves each corner."""
    way, at, came = [start], start, (0, 0)
    while True:
        ends = leaves[at]
        end = ends[0] if len(ends) == 1 else min(ends, key=lambda e: _leftness(came, at, e))
        ends.remove(end)
        if not ends:
            del leaves[at]
        came, at = (end[0] - at[0], end[1] - at[1]), end
        if at == start:
            return np.array(way, np.float64)
        way.append(at)


def _leftness(came: tuple[int, int], at: tuple[int, int], end: tuple[int, int]) -> int:
    """Less for a turn to the right of the way that led here."""
    step = (end[0] - at[0], end[1] - at[1])
    return came[0] * step[1] - came[1] * step[0]
