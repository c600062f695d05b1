"""Start: where the figure begins."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal

from topion.model.form import Blank, Form, Mark
from topion.roles.kind import Me, RoleKind, choices


@dataclass(frozen=True)
class Start(RoleKind):
    """The figure begins here."""

    kind: ClassVar[str] = "start"
    form: ClassVar[Form] = (
        "The figure begins here and looks ",
        Blank("looks", "choice", choices=choices("left", "right")), ".",
    )  # fmt: skip
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("ring", "tidal", ((0.5, 0.5),), 0.36), Mark("dot", "tidal", ((0.5, 0.5),), 0.14),
    )  # fmt: skip
    looks: Literal["left", "right"] = "right"

    def state(self, me: Me) -> str:
        return "begins"
