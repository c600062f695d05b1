"""Pickup: taken by touching it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

from topion.model.form import Blank, Form, Mark
from topion.model.typed import between
from topion.roles.kind import Me, RoleKind, Walk


@dataclass(frozen=True)
class Pickup(RoleKind):
    """Taken, and counted by its class."""

    kind: ClassVar[str] = "pickup"
    form: ClassVar[Form] = (
        "Touching it takes it; it counts ", Blank("counts", "number", 1, 999, whole=True), ".",
    )  # fmt: skip
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("line", "ochre", ((0.14, 0.5), (0.5, 0.86), (0.86, 0.5), (0.5, 0.14), (0.14, 0.5))),
        Mark("dot", "ochre", ((0.5, 0.5),), 0.12),
    )  # fmt: skip
    counts: Annotated[int, between(1, 999)] = 1

    def touched(self, me: Me, walk: Walk) -> None:
        walk.take(me)
        walk.say(f"took {me.name}")

    def state(self, me: Me) -> str:
        return "taken" if me.gone else "there"
