"""Keeps its cells: nothing else stands in the cells of its body."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal

import numpy as np

from topion.model.form import Blank, Form, Mark
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.kind import OwnLaid, RuleKind
from topion.things.standing import Taken, cell_keys

Walls = Literal["let in", "asked", "refused"]


@dataclass(frozen=True)
class KeepsCells(RuleKind):
    """Nothing else may stand where it stands; others that come later are refused too.

    walls : what becomes of strokes that would lay a wall there, see `things.kept_out`.
    """

    kind: ClassVar[str] = "keeps its cells"
    keeps: ClassVar[bool] = True
    form: ClassVar[Form] = (
        "It keeps its cells: nothing else stands in them; walls are ",
        Blank("walls", "choice", choices=(("let in", "let in"), ("asked", "asked about"),
                                          ("refused", "refused"))),
    )  # fmt: skip
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("frame", "tidal", ((0.28, 0.28), (0.72, 0.72))),
        Mark("dot", "tidal", ((0.5, 0.5),), 0.1),
        Mark("box", "ink", ((0.34, 0.8), (0.66, 1.0))),
    )

    walls: Walls = "let in"

    def sentence(self) -> str:
        told = {"let in": "", "asked": ", asks before a wall", "refused": ", also from walls"}
        return f"keeps its cells for itself{told[self.walls]}"

    def short(self) -> str:
        return "cell taken"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return f"{measured} stands here", str(measured), "free"

    def among(self, ground: Ground, spots: Spots) -> OwnLaid | None:
        return _Bodies(spots)

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


class _Bodies:
    """The cells that the bodies of a stroke have taken: none reaches into the own cells of
    another, also not in part where it stands between cells."""

    def __init__(self, spots: Spots) -> None:
        self._own: list[list[int]] = cell_keys(spots.bodies).tolist()
        whole = bool((spots.positions == spots.cells).all())
        self._met = self._own if whole else [cell_keys(cells).tolist() for cells in spots.met()]
        self._taken: set[int] = set()
        self._reached: set[int] = set()

    def allows(self, row: int) -> bool:
        return self._reached.isdisjoint(self._own[row]) and self._taken.isdisjoint(self._met[row])

    def add(self, row: int) -> None:
        self._taken.update(self._own[row])
        self._reached.update(self._met[row])
