"""Near: something must stand within a distance."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np

from topion.errors import BadValue
from topion.grid.told import several
from topion.model.form import Blank, Form, Mark
from topion.model.refs import Ref
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.kind import RuleKind


@dataclass(frozen=True)
class Near(RuleKind):
    """Stands within `cells` of a prefab, a thing of a class, or `anything`, middle to middle."""

    kind: ClassVar[str] = "near"
    compares: ClassVar[bool] = True
    form: ClassVar[Form] = (
        "It stands within ", Blank("cells", "number", 0.1), " cells of ", Blank("of", "thing"),
    )  # fmt: skip
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("ring", "tidal", ((0.5, 0.45),), 0.38), Mark("dot", "ink", ((0.5, 0.45),), 0.07),
        Mark("dot", "tidal", ((0.4, 0.68),), 0.07),
    )  # fmt: skip
    cells: float
    of: Annotated[str, Ref("prefabs", perhaps=True)]

    def __post_init__(self) -> None:
        if not 0 < self.cells <= 1000:
            raise BadValue("the distance of a rule", self.cells, "above 0 and at most 1000 cells")
        if not self.of:
            raise BadValue("what a thing stands near", self.of, "a prefab, a class or anything")

    def sentence(self) -> str:
        return f"stands within {several(self.cells, 'cell')} of {self.of}"

    def short(self) -> str:
        return f"far from {self.of}"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return f"too far from {self.of}", f"{measured}", f"at most {several(self.cells, 'cell')}"

    def reach(self) -> float:
        return self.cells

    def check(self, ground: Ground, spots: Spots) -> Answer:
        answer = Answer.of(spots)
        rows, points = ground.standing.near(self.of)
        if points is None:
            answer.allowed[:] = False
            answer.measured[:] = "none in the room"
            return answer
        gap, nearest = points.to(spots.positions, ground.standing.own_among(rows, spots.own))
        answer.allowed[:] = gap <= self.cells + 1e-9
        refused = np.flatnonzero(~answer.allowed)
        far = np.ceil(gap[refused] * 10) / 10
        answer.measured[refused] = [f"{v:g}" if np.isfinite(v) else "none in the room"
                                    for v in far]  # fmt: skip
        seen = np.isfinite(gap[refused])
        answer.offender[refused[seen]] = rows[nearest[refused[seen]]]
        return answer
