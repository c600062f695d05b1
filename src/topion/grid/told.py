"""Cells in words."""

from __future__ import annotations

from collections.abc import Sequence


def cell_told(cell: Sequence[int]) -> str:
    """`x, y` or `x, y, z`: as rulers count, the other way round than arrays do.  Nothing of no
    cell."""
    return ", ".join(map(str, reversed(cell)))
