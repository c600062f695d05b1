"""Clear of: a least distance from others, between their middles."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from scipy.spatial import cKDTree

from topion.errors import BadValue
from topion.things.ground import Ground, Spots, Standing
from topion.things.rules.answer import Answer


@dataclass(frozen=True)
class ClearOf:
    """Keeps `cells` from the same prefab (`of` empty), from a prefab or class, or `anything`."""

    kind: ClassVar[str] = "clear of"
    cells: float
    of: str = ""

    def __post_init__(self) -> None:
        if not 0 < self.cells <= 1000:
            raise BadValue("the distance of a rule", self.cells, "above 0 and at most 1000 cells")

    def sentence(self) -> str:
        return f"keeps {self.cells:g} cells from {self.of or 'its like'}"

    def short(self) -> str:
        return "too close"

    def concerns(self, standing: Standing, prefab: str) -> np.ndarray:
        """(m,) bool: which standing things must be kept clear of."""
        if self.of == "anything":
            return np.ones(len(standing.things), bool)
        if not self.of:
            return np.asarray(standing.prefabs == prefab, bool)
        return np.asarray((standing.prefabs == self.of) | (standing.classes == self.of), bool)

    def check(self, ground: Ground, spots: Spots) -> Answer:
        answer = Answer.yes(len(spots.positions))
        standing = ground.standing
        rows = np.flatnonzero(self.concerns(standing, spots.prefab.name))
        if not len(rows) or not len(spots.positions):
            return answer
        gap, nearest = _nearest(standing.positions[rows], spots.positions)
        answer.allowed[:] = gap >= self.cells - 1e-9
        refused = ~answer.allowed
        answer.measured[refused] = gap[refused].round(1)
        answer.offender[refused] = rows[nearest[refused]]
        answer.cells[refused] = spots.cells[refused]
        return answer


def _nearest(others: np.ndarray, spots: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(n,) distance to, and row of, the nearest of the others."""
    if len(others) * len(spots) > 4096:
        gap, row = cKDTree(others).query(spots)
        return np.asarray(gap), np.asarray(row)
    off = spots[:, None] - others
    squared = (off * off).sum(axis=2)
    row = squared.argmin(axis=1)
    return np.sqrt(squared[np.arange(len(spots)), row]), row
