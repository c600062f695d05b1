"""Level footing: all of what the body stands on is equally high."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from topion.model.form import GROUND, Form, Mark
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.kind import RuleKind


@dataclass(frozen=True)
class LevelFooting(RuleKind):
    """Under every column of its footprint something carries, at one height."""

    kind: ClassVar[str] = "level footing"
    form: ClassVar[Form] = ("It stands level on all of its footprint",)
    drawing: ClassVar[tuple[Mark, ...]] = (
        GROUND, Mark("box", "tidal", ((0.5, 0.2), (0.8, 0.8))),
    )  # fmt: skip

    def sentence(self) -> str:
        return "stands level on all of its footprint"

    def short(self) -> str:
        return "uneven ground"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return "the ground under it is uneven", str(measured), "all level"

    def check(self, ground: Ground, spots: Spots) -> Answer:
        answer = Answer.of(spots)
        feet = spots.feet
        count, each, axes = feet.shape
        carried = ground.floor.carried(feet.reshape(-1, axes)).reshape(count, each)
        answer.allowed[:] = carried.all(axis=1)
        refused = np.flatnonzero(~answer.allowed)
        missing = (~carried[refused]).sum(axis=1)
        answer.measured[refused] = [f"{n} of {each} without footing" for n in missing]
        answer.cells[refused] = feet[refused, np.argmin(carried[refused], axis=1)]
        return answer
