"""Hazard: brings the figure back."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from topion.model.form import Form, Mark
from topion.roles.kind import Me, RoleKind, Walk


@dataclass(frozen=True)
class Hazard(RoleKind):
    """Not to be touched."""

    kind: ClassVar[str] = "hazard"
    form: ClassVar[Form] = ("Touching it brings the figure back to its last safe place.",)
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("line", "buoy", ((0.9, 0.08), (0.2, 0.28), (0.9, 0.48), (0.2, 0.7), (0.9, 0.92))),
    )  # fmt: skip

    def harmful(self) -> bool:
        return True

    def touched(self, me: Me, walk: Walk) -> None:
        walk.bring_back(me.name)

    def state(self, me: Me) -> str:
        return "harms"
