"""Sets of numbers as one long number with a bit for each: thousands are met in one operation."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

Bits = int


def bits_where(wanted: NDArray[np.bool_]) -> Bits:
    """The set of places that are true in (n,)."""
    return int.from_bytes(np.packbits(wanted, bitorder="little").tobytes(), "little")


def where_bits(bits: Bits, count: int) -> NDArray[np.bool_]:
    """(count,) which numbers are in a set."""
    data = np.frombuffer(bits.to_bytes(-(-count // 8), "little"), np.uint8)
    return np.unpackbits(data, bitorder="little")[:count].astype(bool)


def members(bits: Bits) -> Iterator[int]:
    """The numbers in a set, lowest first."""
    while bits:
        lowest = bits & -bits
        yield lowest.bit_length() - 1
        bits ^= lowest
