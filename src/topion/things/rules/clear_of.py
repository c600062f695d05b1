"""Clear of: a least distance from others, between their middles."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np

from topion.errors import BadValue
from topion.grid.arrays import Positions
from topion.model.refs import Ref
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.kind import OwnLaid, RuleKind


@dataclass(frozen=True)
class ClearOf(RuleKind):
    """Keeps `cells` from the same prefab (`of` empty), from a prefab or class, or `anything`."""

    kind: ClassVar[str] = "clear of"
    compares: ClassVar[bool] = True
    cells: float
    of: Annotated[str, Ref("prefabs", perhaps=True)] = ""

    def __post_init__(self) -> None:
        if not 0 < self.cells <= 1000:
            raise BadValue("the distance of a rule", self.cells, "above 0 and at most 1000 cells")

    def sentence(self) -> str:
        return f"keeps {self.cells:g} cells from {self.of or 'its like'}"

    def short(self) -> str:
        return "too close"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return f"too close to {self.of or 'its like'}", f"{measured:g}", f"{self.cells:g} cells"

    def reach(self) -> float:
        return self.cells

    def among(self, ground: Ground, spots: Spots) -> OwnLaid | None:
        own = {"", "anything", spots.prefab.name, spots.prefab.class_name}
        return _Apart(spots.positions, self.cells) if self.of in own else None

    def check(self, ground: Ground, spots: Spots) -> Answer:
        answer = Answer.of(spots)
        rows, points = ground.standing.near(self.of or spots.prefab.name)
        if points is None or not len(spots.positions):
            return answer
        own = None
        if spots.own is not None:  # -1 where the rule does not look at the asker's own kind
            at = np.searchsorted(rows, spots.own).clip(0, len(rows) - 1)
            own = np.where(rows[at] == spots.own, at, -1)
        gap, nearest = points.to(spots.positions, own)
        answer.allowed[:] = gap >= self.cells - 1e-9
        refused = ~answer.allowed
        answer.measured[refused] = np.floor(gap[refused] * 10) / 10
        answer.offender[refused] = rows[nearest[refused]]
        answer.cells[refused] = spots.cells[refused]
        return answer


class _Apart:
    """Places of a stroke that keep their distance, by squares as wide as it."""

    def __init__(self, positions: Positions, gap: float) -> None:
        self._positions, self._gap = positions, gap
        self._rows: dict[tuple[int, int], list[int]] = {}

    def _square(self, row: int) -> tuple[int, int]:
        y, x = self._positions[row, -2:] // self._gap
        return int(y), int(x)

    def allows(self, row: int) -> bool:
        sy, sx = self._square(row)
        squares = ((sy + dy, sx + dx) for dy in (-1, 0, 1) for dx in (-1, 0, 1))
        others = [r for square in squares for r in self._rows.get(square, ())]
        off = self._positions[others] - self._positions[row]
        return not len(off) or float((off**2).sum(axis=1).min()) >= (self._gap - 1e-9) ** 2

    def add(self, row: int) -> None:
        self._rows.setdefault(self._square(row), []).append(row)
