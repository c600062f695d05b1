"""Goal: what is to be reached."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal

from topion.model.form import Blank, Form, Mark
from topion.roles.kind import Me, RoleKind, Walk, choices


@dataclass(frozen=True)
class Goal(RoleKind):
    """To be reached."""

    kind: ClassVar[str] = "goal"
    form: ClassVar[Form] = (
        "Reaching it ends ",
        Blank("ends", "choice", choices=choices("the room", "the world")), ".",
    )  # fmt: skip
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("line", "ink", ((0.92, 0.28), (0.1, 0.28))),
        Mark("box", "buoy", ((0.12, 0.3), (0.5, 0.85))),
    )  # fmt: skip
    ends: Literal["the room", "the world"] = "the room"

    def touched(self, me: Me, walk: Walk) -> None:
        if not me.on:
            walk.switch(me, True)
            walk.say(f"reached {me.name}")
            walk.end("world" if self.ends == "the world" else "room")

    def done(self, me: Me) -> bool:
        return me.on

    def state(self, me: Me) -> str:
        return "reached" if me.on else "ahead"
