"""Keeps its cells: nothing else stands in the cells of its body."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer


@dataclass(frozen=True)
class KeepsCells:
    """Nothing else may stand where it stands; others that come later are refused too."""

    kind: ClassVar[str] = "keeps its cells"

    def sentence(self) -> str:
        return "keeps its cells for itself"

    def short(self) -> str:
        return "cell taken"

    def check(self, ground: Ground, spots: Spots) -> Answer:
        return taken_answer(ground, ground.taken_cells, spots)


def taken_answer(ground: Ground, taken: dict[tuple[int, int], int], spots: Spots) -> Answer:
    """Refuse spots whose body meets one of the `taken` cells."""
    answer = Answer.yes(len(spots.positions))
    if not taken:
        return answer
    for row, body in enumerate(spots.bodies.tolist()):
        for y, x in body:
            if (y, x) in taken:
                offender = taken[y, x]
                answer.allowed[row] = False
                answer.offender[row] = offender
                answer.measured[row] = ground.standing.things[offender].prefab
                answer.cells[row] = (y, x)
                break
    return answer
