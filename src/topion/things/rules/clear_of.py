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


_STRIDE = 1 << 32  # from a row of squares to the next
_NEAR = tuple(dy * _STRIDE + dx for dy in (-1, 0, 1) for dx in (-1, 0, 1))


class _Apart:
    """Places of a stroke that keep their distance, by squares as wide as it."""

    def __init__(self, positions: Positions, gap: float) -> None:
        plan = np.floor(positions[:, -2:] / gap).astype(np.int64)
        self._squares = (plan[:, 0] * _STRIDE + plan[:, 1]).tolist()
        self._at: list[list[float]] = positions.tolist()
        self._least = (gap - 1e-9) ** 2
        self._laid: dict[int, list[list[float]]] = {}  # by square: few, as they keep apart

    def allows(self, row: int) -> bool:
        here, square = self._at[row], self._squares[row]
        for near in _NEAR:
            for other in self._laid.get(square + near, ()):
                if sum((a - b) * (a - b) for a, b in zip(here, other, strict=True)) < self._least:
                    return False
        return True

    def add(self, row: int) -> None:
        self._laid.setdefault(self._squares[row], []).append(self._at[row])
