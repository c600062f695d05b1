"""Goal: what is to be reached."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal

from topion.model.form import Blank, Form, Mark
from topion.roles.kind import RoleKind, choices


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
