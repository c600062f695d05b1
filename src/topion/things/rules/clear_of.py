"""Clear of: a least distance from others, between their middles."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from scipy.spatial import cKDTree

from topion.errors import BadValue
from topion.things.ground import Ground, Spots
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

    def reason(self, measured: object) -> tuple[str, str, str]:
        return f"too close to {self.of or 'its like'}", f"{measured:g}", f"{self.cells:g} cells"

    def check(self, ground: Ground, spots: Spots) -> Answer:
        answer = Answer.of(spots)
        rows, tree = ground.standing.near(self.of or spots.prefab.name)
        if tree is None or not len(spots.positions):
            return answer
        own = None
        if spots.own is not None:  # -1 where the rule does not look at the asker's own kind
            at = np.searchsorted(rows, spots.own).clip(0, len(rows) - 1)
            own = np.where(rows[at] == spots.own, at, -1)
        gap, nearest = _nearest(tree, spots.positions, own)
        answer.allowed[:] = gap >= self.cells - 1e-9
        refused = ~answer.allowed
        answer.measured[refused] = np.floor(gap[refused] * 10) / 10
        answer.offender[refused] = rows[nearest[refused]]
        answer.cells[refused] = spots.cells[refused]
        return answer


def _nearest(
    tree: cKDTree, spots: np.ndarray, own: np.ndarray | None
) -> tuple[np.ndarray, np.ndarray]:
    """(n,) distance to, and place in the tree of, the nearest; `own` places do not count."""
    count = 1 if own is None else min(2, tree.n)
    gap, row = tree.query(spots, k=[*range(1, count + 1)])
    if own is None:
        return np.asarray(gap[:, 0]), np.asarray(row[:, 0])
    gap = np.where(row == own[:, None], np.inf, gap)
    best = np.argmin(gap, axis=1)
    at = np.arange(len(spots))
    return np.asarray(gap[at, best]), np.asarray(row[at, best])
