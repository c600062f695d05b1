"""Launcher: throws the figure."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

from topion.model.form import Blank, Form, Mark
from topion.model.typed import between
from topion.roles.kind import Me, RoleKind, Walk


@dataclass(frozen=True)
class Launcher(RoleKind):
    """Throws what comes upon it.

    up, on : cells it rises, and cells it goes on until it is as high again, to where it is turned.
    """

    kind: ClassVar[str] = "launcher"
    form: ClassVar[Form] = (
        "Throws the figure ", Blank("up", "number", 0.5, 64), " cells up and ",
        Blank("on", "number", -64, 64), " cells on.",
    )  # fmt: skip
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("line", "ink", ((0.88, 0.2), (0.88, 0.8))),
        Mark("line", "tidal", ((0.8, 0.5), (0.12, 0.5))),
        Mark("line", "tidal", ((0.36, 0.28), (0.12, 0.5), (0.36, 0.72))),
    )  # fmt: skip
    up: Annotated[float, between(0.5, 64)] = 5.0
    on: Annotated[float, between(-64, 64)] = 0.0

    def touched(self, me: Me, walk: Walk) -> None:
        if walk.fresh(me) or walk.stands_on(me):
            walk.throw(me, self.up, self.on)
            walk.say(f"thrown by {me.name}")

    def state(self, me: Me) -> str:
        return "ready"
