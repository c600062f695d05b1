"""A placement rule: not too near the water."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np

from tidewrack.shore import cells_of, distance_to
from topion.model.form import Blank, Form
from topion.model.typed import between
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.kind import RuleKind


@dataclass(frozen=True)
class AboveTide(RuleKind):
    """At least `cells` from the nearest cell of a material."""

    kind: ClassVar[str] = "tidewrack above tide"
    compares: ClassVar[bool] = True
    form: ClassVar[Form] = (
        "It stands at least ", Blank("cells", "number", 1, 64, whole=True), " cells from ",
        Blank("water", "material"),
    )  # fmt: skip
    cells: Annotated[int, between(1, 64, "cells")] = 2
    water: str = "Water"

    def sentence(self) -> str:
        return f"stands at least {self.cells} cells from {self.water}"

    def short(self) -> str:
        return "too wet"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return f"too near {self.water}", f"{measured} cells", f"{self.cells} cells"

    def check(self, ground: Ground, spots: Spots) -> Answer:
        answer = Answer.of(spots)
        far = distance_to(cells_of(ground.project, ground.room, self.water))
        at = np.floor(spots.positions[:, -2:] + 0.5).astype(int)
        at = np.clip(at, 0, np.array(far.shape) - 1)
        measured = far[tuple(at.T)]
        answer.allowed[:] = measured >= self.cells
        answer.measured[:] = [f"{value:.1f}" for value in measured]
        return answer
