"""Randomness as a hash of seed and position: same input, same result, on every machine.

The mixing step is the finaliser of SplitMix64 (Steele, Lea and Flood, "Fast splittable
pseudorandom number generators", OOPSLA 2014).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

_STEP = np.uint64(0x9E3779B97F4A7C15)
_MIX_A = np.uint64(0xBF58476D1CE4E5B9)
_MIX_B = np.uint64(0x94D049BB133111EB)


def mixed(values: ArrayLike) -> NDArray[np.uint64]:
    """Each 64-bit value mixed so that every input bit reaches every output bit."""
    with np.errstate(over="ignore"):
        z = np.asarray(values).astype(np.uint64) + _STEP
        z = (z ^ (z >> np.uint64(30))) * _MIX_A
        z = (z ^ (z >> np.uint64(27))) * _MIX_B
        return np.asarray(z ^ (z >> np.uint64(31)))


def hashed(seed: int, *coordinates: ArrayLike) -> NDArray[np.uint64]:
    """A 64-bit hash of `seed` and integer coordinates, which broadcast against each other."""
    state: NDArray[np.uint64] = mixed(np.uint64(seed & 0xFFFFFFFFFFFFFFFF))
    with np.errstate(over="ignore"):
        for axis in coordinates:
            state = mixed(state ^ (np.asarray(axis).astype(np.int64).view(np.uint64) * _MIX_B))
    return state


def unit(seed: int, *coordinates: ArrayLike) -> NDArray[np.float64]:
    """Evenly spread numbers in [0, 1), one for each position."""
    return (hashed(seed, *coordinates) >> np.uint64(11)).astype(np.float64) * (1.0 / (1 << 53))


def seed_of(text: str) -> int:
    """A stable 63-bit seed for a name (FNV-1a, then mixed)."""
    value = 0xCBF29CE484222325
    for byte in text.encode():
        value = ((value ^ byte) * 0x100000001B3) & 0xFFFFFFFFFFFFFFFF
    return int(mixed(np.uint64(value))) >> 1


_RING = 1 << 16
LONGEST_ROW = 1 << 15
_VARIANTS = (mixed(np.arange(_RING)) >> np.uint64(40)).astype(np.uint8)
_VARIANTS = np.concatenate([_VARIANTS[-LONGEST_ROW:], _VARIANTS, _VARIANTS[:LONGEST_ROW]])
_VARIANTS.flags.writeable = False


def variant_starts(rows: ArrayLike) -> NDArray[np.intp]:
    """Where each row starts in the fixed ring of variant bytes."""
    return (hashed(0x70, rows) & np.uint64(_RING - 1)).astype(np.intp)


def variant_bytes(rows: ArrayLike, columns: ArrayLike) -> NDArray[np.uint8]:
    """One byte for each cell, by position only; rows and columns broadcast.

    Row y reads a stretch of one fixed ring that starts at a hash of y, so a window of a room
    gives the very bytes that the whole room gives.
    """
    at = (variant_starts(rows) + np.asarray(columns, np.intp)) % _RING
    return _VARIANTS.take(at + LONGEST_ROW)


def variant_row(start: int, first: int, count: int) -> NDArray[np.uint8]:
    """The bytes of `count` cells from column `first`, -LONGEST_ROW or more, of the row that starts
    at `start`."""
    at = LONGEST_ROW + start + first
    return _VARIANTS[at : at + count]


def variant_block(rows: NDArray[np.intp], columns: NDArray[np.intp]) -> NDArray[np.uint8]:
    """(rows, columns) bytes of a window, whose columns follow on each other."""
    out = np.empty((len(rows), len(columns)), np.uint8)
    for row, start in enumerate(variant_starts(rows).tolist()):
        out[row] = variant_row(start, int(columns[0]), len(columns))
    return out


_ROW_STARTS = variant_starts(np.arange(LONGEST_ROW)).reshape(-1, 1)


def variant_window(top: int, left: int, height: int, steps: NDArray[np.intp]) -> NDArray[np.uint8]:
    """(height · width,) bytes of a window; `steps` is arange(width)."""
    inside = top >= 0 and top + height <= LONGEST_ROW
    starts = _ROW_STARTS[top : top + height] if inside else variant_starts(
        np.arange(top, top + height)).reshape(-1, 1)  # fmt: skip
    return _VARIANTS[LONGEST_ROW + left :].take(starts + steps).reshape(-1)
