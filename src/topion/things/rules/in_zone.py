"""In a zone, or not in it: an area of the room by its name."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np

from topion.model.form import Blank, Form, Mark
from topion.model.refs import REGIONS, Ref
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.kind import RuleKind


@dataclass(frozen=True)
class InZone(RuleKind):
    """All of its body lies in a region of the room; or `never`: none of it does.

    Where a room has no region of that name, nothing lies in it; without a name it refuses
    nothing.
    """

    kind: ClassVar[str] = "in zone"
    form: ClassVar[Form] = (
        "It stands ", Blank("never", "choice", choices=((False, "only in"), (True, "never in"))),
        " the region ", Blank("zone", "region", none="no region yet"),
    )  # fmt: skip
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("dashes", "ochre", ((0.15, 0.2), (0.2, 0.8), (0.8, 0.85), (0.75, 0.15), (0.15, 0.2))),
        Mark("dot", "tidal", ((0.5, 0.5),), 0.12),
    )  # fmt: skip
    zone: Annotated[str, Ref(REGIONS, perhaps=True)] = ""
    never: bool = False

    def sentence(self) -> str:
        return f"stands {'never' if self.never else 'only'} in {self.zone or 'no region yet'}"

    def short(self) -> str:
        return f"{'in' if self.never else 'not in'} {self.zone}"

    def reason(self, measured: object) -> tuple[str, str, str]:
        wanted = f"{'outside' if self.never else 'inside'} {self.zone}"
        return f"must stand {wanted}", str(measured), wanted

    def check(self, ground: Ground, spots: Spots) -> Answer:
        answer = Answer.of(spots)
        if not self.zone:
            return answer
        region = ground.room.region(self.zone)
        bodies = spots.bodies
        inside = np.zeros(bodies.shape[:2], bool)
        if region is not None:
            held = ground.room.box.holds(bodies.reshape(-1, spots.axes)).reshape(bodies.shape[:2])
            inside[held] = region.plane("inside")[tuple(bodies[held].T)] > 0
        wrong = inside if self.never else ~inside
        refused = np.flatnonzero(wrong.any(axis=1))
        answer.allowed[refused] = False
        answer.measured[refused] = f"{'inside' if self.never else 'outside'} {self.zone}"
        answer.cells[refused] = bodies[refused, np.argmax(wrong[refused], axis=1)]
        return answer
