"""Switch: turns what waits for it on and off, or gravity over."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

from topion.model.form import Blank, Form, Mark
from topion.model.typed import between
from topion.roles.kind import RoleKind, choices


@dataclass(frozen=True)
class Switch(RoleKind):
    """On or off; conditions speak of it.

    back : seconds after which it goes off by itself, 0 for never.
    """

    kind: ClassVar[str] = "switch"
    form: ClassVar[Form] = (
        "By ", Blank("by", "choice", choices=choices("touching it", "acting on it",
                                                     "standing on it")),
        " it turns ", Blank("turns", "choice", choices=choices("what waits for it",
                                                               "gravity over")),
        "; off again after ", Blank("back", "number", 0, 3600), " s (0: never).",
    )  # fmt: skip
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("ring", "ink", ((0.55, 0.5),), 0.32),
        Mark("line", "buoy", ((0.55, 0.5), (0.12, 0.78))),
    )  # fmt: skip
    by: Literal["touching it", "acting on it", "standing on it"] = "acting on it"
    turns: Literal["what waits for it", "gravity over"] = "what waits for it"
    back: Annotated[float, between(0, 3600)] = 0.0
