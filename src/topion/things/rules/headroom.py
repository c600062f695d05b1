"""Headroom: open cells above."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from topion.errors import BadValue
from topion.grid.told import several
from topion.model.form import BODY, GROUND, Blank, Form, Mark
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.kind import RuleKind


@dataclass(frozen=True)
class Headroom(RuleKind):
    """At least `cells` open cells from its feet upwards, over all of its footprint."""

    kind: ClassVar[str] = "headroom"
    form: ClassVar[Form] = (
        "It needs ", Blank("cells", "number", 1, 512, whole=True), " open cells above its foot",
    )  # fmt: skip
    drawing: ClassVar[tuple[Mark, ...]] = (
        GROUND, BODY, Mark("frame", "soft", ((0.08, 0.36), (0.44, 0.64))),
    )  # fmt: skip
    cells: int

    def __post_init__(self) -> None:
        if not 1 <= self.cells <= 512:
            raise BadValue("the headroom of a rule", self.cells, "1 to 512 cells")

    def sentence(self) -> str:
        return f"needs {self.cells} open cells above its feet"

    def short(self) -> str:
        return "too low above"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return "too little room above", f"{measured} cells", several(self.cells, "cell")

    def check(self, ground: Ground, spots: Spots) -> Answer:
        answer = Answer.of(spots)
        feet = spots.feet
        count, each, axes = feet.shape
        room = ground.floor.headroom(feet.reshape(-1, axes)).reshape(count, each)
        least = room.min(axis=1, initial=1 << 15)
        answer.allowed[:] = least >= self.cells
        refused = np.flatnonzero(~answer.allowed)
        answer.measured[refused] = least[refused]
        answer.cells[refused] = feet[refused, np.argmin(room[refused], axis=1)]
        return answer
