"""Walker: goes to and fro."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

from topion.model.form import Blank, Form, Mark
from topion.model.typed import between
from topion.roles.kind import RoleKind, choices


@dataclass(frozen=True)
class Walker(RoleKind):
    """Goes to where it is turned, and turns round.

    speed : cells a second.  harms : touching it brings the figure back.  cleared : an act of the
    figure takes it away.
    """

    kind: ClassVar[str] = "walker"
    form: ClassVar[Form] = (
        "Walks ", Blank("speed", "number", 0.1, 32), " cells a second and turns at ",
        Blank("turns_at", "choice", choices=choices("edges and walls", "walls")),
        "; harms: ", Blank("harms", "switch"), "; can be cleared: ", Blank("cleared", "switch"),
        ".",
    )  # fmt: skip
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("line", "ink", ((0.3, 0.3), (0.5, 0.1), (0.7, 0.3))),
        Mark("line", "ink", ((0.5, 0.1), (0.5, 0.9))),
        Mark("line", "ink", ((0.3, 0.7), (0.5, 0.9), (0.7, 0.7))),
    )  # fmt: skip
    speed: Annotated[float, between(0.1, 32)] = 1.5
    turns_at: Literal["edges and walls", "walls"] = "edges and walls"
    harms: bool = False
    cleared: bool = False
