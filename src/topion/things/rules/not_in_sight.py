"""Not in sight of: nothing of a kind may see it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np

from topion.errors import BadValue
from topion.grid.lines import line_cells
from topion.grid.told import several
from topion.model.form import Blank, Form, Mark
from topion.model.prefab import standing_cells
from topion.model.refs import Ref
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.kind import RuleKind


@dataclass(frozen=True)
class NotInSight(RuleKind):
    """No prefab or thing of a class within `cells` has a straight view of it: a wall must stand
    between."""

    kind: ClassVar[str] = "not in sight"
    form: ClassVar[Form] = (
        "It stands out of sight of ",
        Blank("of", "thing"),
        ", up to ",
        Blank("cells", "number", 0.5, 200),
        " cells away",
    )
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("dot", "ink", ((0.5, 0.15),), 0.08),
        Mark("box", "ochre", ((0.2, 0.45), (0.8, 0.57))),
        Mark("dashes", "buoy", ((0.5, 0.2), (0.5, 0.44))),
        Mark("dot", "tidal", ((0.5, 0.82),), 0.1),
    )
    of: Annotated[str, Ref("prefabs", perhaps=True)]
    cells: float = 12.0

    def __post_init__(self) -> None:
        if not 0 < self.cells <= 200:
            raise BadValue("the distance of a rule", self.cells, "above 0 and at most 200 cells")
        if not self.of:
            raise BadValue("what may not see a thing", self.of, "a prefab or a class")

    def sentence(self) -> str:
        return f"stands out of sight of {self.of}, up to {several(self.cells, 'cell')}"

    def short(self) -> str:
        return f"seen by {self.of}"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return f"in sight of {self.of}", f"{measured} cells away", "a wall between"

    def reach(self) -> float:
        return self.cells

    def check(self, ground: Ground, spots: Spots) -> Answer:
        answer = Answer.of(spots)
        standing = ground.standing
        rows = np.flatnonzero((standing.prefabs == self.of) | (standing.classes == self.of))
        if not len(rows):
            return answer
        there = standing.positions[rows]
        watching = standing_cells(there)
        for spot, position in enumerate(spots.positions):
            away = np.sqrt(((there - position) ** 2).sum(axis=1))
            own = spots.own[spot] if spots.own is not None else -1
            close = np.flatnonzero((away <= self.cells) & (rows != own))
            for near in close[np.argsort(away[close], kind="stable")].tolist():
                line = line_cells(watching[near].tolist(), spots.cells[spot].tolist())[1:-1]
                if not ground.floor.walls(line).any():
                    answer.allowed[spot] = False
                    answer.measured[spot] = f"{np.floor(away[near] * 10) / 10:g}"
                    answer.offender[spot] = rows[near]
                    break
        return answer
