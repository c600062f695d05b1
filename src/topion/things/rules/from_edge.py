"""From the edge: so many cells between a body and the edge of the room."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from topion.errors import BadValue
from topion.grid.told import several
from topion.model.form import Blank, Form, Mark
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.kind import RuleKind


@dataclass(frozen=True)
class FromEdge(RuleKind):
    """At least `cells` cells from the edge: of a room seen from the side its left, right and top;
    of others the four edges of the plan."""

    kind: ClassVar[str] = "from the edge"
    compares: ClassVar[bool] = True
    form: ClassVar[Form] = (
        "It keeps ",
        Blank("cells", "number", 1, whole=True),
        " cells from the edge of the room",
    )
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("frame", "ink", ((0.1, 0.1), (0.9, 0.9))),
        Mark(
            "dashes", "buoy", ((0.28, 0.28), (0.28, 0.72), (0.72, 0.72), (0.72, 0.28), (0.28, 0.28))
        ),
        Mark("dot", "tidal", ((0.5, 0.5),), 0.08),
    )
    cells: int

    def __post_init__(self) -> None:
        if not 1 <= self.cells <= 1000:
            raise BadValue("the distance of a rule", self.cells, "1 to 1000 cells")

    def sentence(self) -> str:
        return f"keeps {several(self.cells, 'cell')} from the edge of the room"

    def short(self) -> str:
        return "at the edge"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return "too close to the edge of the room", str(measured), several(self.cells, "cell")

    def check(self, ground: Ground, spots: Spots) -> Answer:
        answer = Answer.of(spots)
        info = ground.room.info
        plan, size = spots.bodies[..., -2:], np.array(info.size[-2:])
        behind = size - 1 - plan
        if info.view == "side":
            behind[..., 0] = self.cells  # the foot of the room is no edge
        gap = np.minimum(plan, behind).min(axis=2)
        least = gap.min(axis=1)
        answer.allowed[:] = least >= self.cells
        refused = np.flatnonzero(~answer.allowed)
        answer.measured[refused] = np.maximum(least[refused], 0)
        answer.cells[refused] = spots.bodies[refused, gap[refused].argmin(axis=1)]
        return answer
