"""Keeps its cells: nothing else stands in the cells of its body."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from topion.things.ground import Ground, Spots, Taken
from topion.things.rules.answer import Answer


@dataclass(frozen=True)
class KeepsCells:
    """Nothing else may stand where it stands; others that come later are refused too."""

    kind: ClassVar[str] = "keeps its cells"

    def sentence(self) -> str:
        return "keeps its cells for itself"

    def short(self) -> str:
        return "cell taken"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return f"{measured} stands here", str(measured), "free"

    def check(self, ground: Ground, spots: Spots) -> Answer:
        return taken_answer(ground, ground.taken_cells, spots)


def taken_answer(ground: Ground, taken: Taken, spots: Spots) -> Answer:
    """Refuse spots whose body meets one of the `taken` cells."""
    answer = Answer.of(spots)
    who = taken.who(spots.bodies, spots.own)
    refused = np.flatnonzero((who >= 0).any(axis=1))
    first = np.argmax(who[refused] >= 0, axis=1)
    answer.allowed[refused] = False
    answer.offender[refused] = who[refused, first]
    answer.cells[refused] = spots.bodies[refused, first]
    answer.measured[refused] = ground.standing.prefabs[answer.offender[refused]]
    return answer
