"""8-neighbourhoods: offsets, mask bytes, and the 47 cases that differ.

Bit i of a mask byte is the i-th neighbour in reading order (north-west, north, north-east,
west, east, south-west, south, south-east). A corner only matters where both its sides are
set, which leaves 47 of the 256 masks.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

OFFSETS_8 = ((-1, -1), (-1, 0), (-1, 1), (0, -1), (0, 1), (1, -1), (1, 0), (1, 1))
NAMES_8 = ("nw", "n", "ne", "w", "e", "sw", "s", "se")
NW, N, NE, W, E, SW, S, SE = (1 << i for i in range(8))
_CORNERS = ((NW, N, W), (NE, N, E), (SW, S, W), (SE, S, E))


def case_of(mask: int) -> int:
    """The mask with the corners cleared that do not matter."""
    for corner, side_a, side_b in _CORNERS:
        if not (mask & side_a and mask & side_b):
            mask &= ~corner
    return mask


@lru_cache(maxsize=1)
def cases_47() -> tuple[int, ...]:
    """The 47 masks that differ, fewest neighbours first."""
    distinct = {case_of(mask) for mask in range(256)}
    return tuple(sorted(distinct, key=lambda m: (bin(m).count("1"), m)))


def bits_of(mask: int) -> NDArray[np.bool_]:
    """(3, 3) bool: the neighbourhood of a mask, True at the centre."""
    bits = np.array([mask >> i & 1 for i in range(8)], bool)
    return np.insert(bits, 4, True).reshape(3, 3)


@lru_cache(maxsize=8)
def window_offsets(radius: int) -> NDArray[np.intp]:
    """((2r+1)², 2) offsets in reading order, the centre included."""
    side = np.arange(-radius, radius + 1, dtype=np.intp)
    offsets = np.stack(np.meshgrid(side, side, indexing="ij"), axis=-1).reshape(-1, 2)
    offsets.flags.writeable = False
    return offsets
