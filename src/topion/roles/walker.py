"""Walker: goes to and fro."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

from topion.model.form import Blank, Form, Mark
from topion.model.typed import between
from topion.roles.kind import Me, RoleKind, Walk, choices


@dataclass(frozen=True)
class Walker(RoleKind):
    """Goes to where it is turned, and turns round.

    speed : cells a second.  harms : touching it brings the figure back.  cleared : an act of the
    figure takes it away.
    """

    kind: ClassVar[str] = "walker"
    wanders: ClassVar[bool] = True
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

    def moves(self, me: Me, walk: Walk) -> None:
        by = walk.a_tick(self.speed) * (-me.way if me.mirrored else me.way)
        dx, dy = _towards(round(me.turn / 90) % 4, by)
        if walk.side:
            dx, dy = by, 0
        if walk.free_ahead(me, dx, dy, self.turns_at == "edges and walls"):
            me.x, me.y = me.x + dx, me.y + dy
        else:
            me.way = -me.way

    def harmful(self) -> bool:
        return self.harms

    def touched(self, me: Me, walk: Walk) -> None:
        if self.harms:
            walk.bring_back(me.name)

    def acted(self, me: Me, walk: Walk) -> None:
        if self.cleared:
            me.gone, me.since = True, walk.tick
            walk.say(f"cleared {me.name}")

    def state(self, me: Me) -> str:
        return "cleared" if me.gone else "walking"


def _towards(quarters: int, by: int) -> tuple[int, int]:
    """(x, y) of so many units to where a thing turned by quarters looks; east, if it is not."""
    return ((by, 0), (0, by), (-by, 0), (0, -by))[quarters]
