"""How far things stand from each other."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

_BINS = 14


class Spacing(NamedTuple):
    """Of each to its nearest, in cells.  shares : of the things by distance, from 0 to the farthest
    in equal steps, the most of them as 1."""

    things: int
    mean: float
    least: float
    most: float
    shares: tuple[float, ...]

    def told(self) -> str:
        """In a line."""
        return f"mean {self.mean:.3g} c · least {self.least:.3g} c"


def spacing_of(positions: NDArray[np.float64]) -> Spacing | None:
    """positions : (n, axes) in cells.  None for fewer than two."""
    if len(positions) < 2:
        return None
    far, _ = scipy.spatial.cKDTree(positions).query(positions, 2)
    nearest = far[:, 1]
    top = float(nearest.max())
    counts, _ = np.histogram(nearest, _BINS, (0.0, top or 1.0))
    shares = tuple((counts / counts.max()).tolist())
    return Spacing(len(positions), float(nearest.mean()), float(nearest.min()), top, shares)
