"""Mover: goes its way, whatever happens."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

from topion.errors import BadValue
from topion.model.form import Blank, Form, Mark
from topion.model.typed import between
from topion.roles.kind import RoleKind, choices

MOST_POINTS = 64
_FAR = 1024.0


@dataclass(frozen=True)
class Mover(RoleKind):
    """Goes round the middle of its group, or from point to point, and carries what stands on it.

    points : cells from its own place, (across, up or down) each, in voxel rooms (east, south, up).
    """

    kind: ClassVar[str] = "mover"
    form: ClassVar[Form] = (
        "Moves ", Blank("goes", "choice", choices=choices("between points",
                                                          "round the middle of its group")),
        " at ", Blank("speed", "number", 0.1, 32), " cells a second, ",
        Blank("again", "choice", choices=choices("to and fro", "on and on", "once")),
        "; points: ", Blank("points", "points", none="none yet"), "; stands in the way: ",
        Blank("solid", "switch"), ".",
    )  # fmt: skip
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("box", "ink", ((0.62, 0.1), (0.82, 0.5))),
        Mark("dashes", "tidal", ((0.5, 0.3), (0.2, 0.3), (0.2, 0.85))),
        Mark("dot", "tidal", ((0.2, 0.85),), 0.08),
    )  # fmt: skip
    goes: Literal["between points", "round the middle of its group"] = "between points"
    speed: Annotated[float, between(0.1, 32)] = 2.0
    again: Literal["to and fro", "on and on", "once"] = "to and fro"
    points: tuple[tuple[float, ...], ...] = ((4.0, 0.0),)
    solid: bool = True

    def __post_init__(self) -> None:
        if len(self.points) > MOST_POINTS:
            wanted = f"at most {MOST_POINTS}"
            raise BadValue("the points of a mover", len(self.points), wanted)
        for point in self.points:
            if len(point) not in (2, 3) or not all(abs(value) <= _FAR for value in point):
                told = ", ".join(f"{value:g}" for value in point)
                raise BadValue("a point of a mover", told, "two or three numbers, in cells")
