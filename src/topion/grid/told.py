"""Cells in words."""

from __future__ import annotations

from collections.abc import Sequence


def cell_told(cell: Sequence[int]) -> str:
    """`x, y` or `x, y, z`: as rulers count, the other way round than arrays do.  Nothing of no
    cell."""
    return ", ".join(map(str, reversed(cell)))


def several(count: float, word: str) -> str:
    """`1 cell`, `3 cells`, `1,200 cells`, `2.5 cells`; for words whose plural ends in s."""
    many = f"{count:,}" if isinstance(count, int) else f"{count:g}"
    return f"{many} {word}" if count == 1 else f"{many} {word}s"
