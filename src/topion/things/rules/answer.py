"""What a rule answers for many spots at once."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.things.ground import Spots


@dataclass(frozen=True, eq=False)
class Answer:
    """allowed : (n,) bool.  measured : (n,) words or numbers for the reason, where refused.

    offender : (n,) row in the ground's `standing` of the thing in the way, -1 for none.
    cells : (n, axes) the cell that refuses, where one does.
    """

    allowed: NDArray[np.bool_]
    measured: NDArray[np.object_]
    offender: NDArray[np.intp]
    cells: NDArray[np.intp]

    @classmethod
    def of(cls, spots: Spots) -> Answer:
        """Yes to all spots, to be written into."""
        count, axes = spots.positions.shape
        allowed, measured = np.empty(count, bool), np.empty(count, object)
        offender, cells = np.empty(count, np.intp), np.empty((count, axes), np.intp)
        allowed.fill(True)
        measured.fill("")
        offender.fill(-1)
        cells.fill(-1)
        return cls(allowed, measured, offender, cells)
