"""Quarter turns and mirrors of arrays of cells and of tiles."""

from __future__ import annotations

import numpy as np


def turned(array: np.ndarray, turn: int, mirrored: bool) -> np.ndarray:
    """`array` turned clockwise by `turn` quarters over its first two axes, then mirrored
    left-right."""
    out = np.rot90(array, -turn % 4, axes=(0, 1))
    return out[:, ::-1] if mirrored else out


def mirrored_along(axis: int) -> tuple[int, bool]:
    """The turn and mirror that swaps left and right (axis -1), or top and bottom (axis -2)."""
    return (0, True) if axis == -1 else (2, True)


def composed(first: tuple[int, bool], then: tuple[int, bool]) -> tuple[int, bool]:
    """The one turn and mirror that equals `first`, followed by `then`."""
    turn, mirrored = first
    if mirrored:  # turning a mirrored picture runs the other way
        return (turn - then[0]) % 4, not then[1]
    return (turn + then[0]) % 4, then[1]
