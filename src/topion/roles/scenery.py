"""Scenery: only stands there."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from topion.model.form import Blank, Form, Mark
from topion.roles.kind import Me, RoleKind


@dataclass(frozen=True)
class Scenery(RoleKind):
    """Does nothing."""

    kind: ClassVar[str] = "scenery"
    form: ClassVar[Form] = ("Only stands there; in the way: ", Blank("solid", "switch"), ".")
    drawing: ClassVar[tuple[Mark, ...]] = (Mark("frame", "soft", ((0.2, 0.2), (0.8, 0.8))),)
    solid: bool = False

    def in_the_way(self, me: Me) -> bool:
        return self.solid and not me.gone
