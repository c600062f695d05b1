"""Emitter: sends things out."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

from topion.model.form import Blank, Form, Mark
from topion.model.refs import Ref
from topion.model.typed import between
from topion.roles.kind import Me, RoleKind, Walk, choices

Towards = Literal["left", "right", "up", "down"]


@dataclass(frozen=True)
class Emitter(RoleKind):
    """Sends out things of a prefab, which do what their own role says.

    every : seconds.  speed : cells a second.  lasts : seconds until one is gone.
    """

    kind: ClassVar[str] = "emitter"
    form: ClassVar[Form] = (
        "Sends out ", Blank("sends", "thing", none="nothing yet"), " every ",
        Blank("every", "number", 0.1, 600), " s, ", Blank("speed", "number", 0, 32),
        " cells a second to the ",
        Blank("towards", "choice", choices=choices("left", "right", "up", "down")),
        ", gone after ", Blank("lasts", "number", 0.1, 600), " s.",
    )  # fmt: skip
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("ring", "ink", ((0.5, 0.26),), 0.18), Mark("dot", "buoy", ((0.5, 0.62),), 0.07),
        Mark("dot", "buoy", ((0.5, 0.86),), 0.07),
    )  # fmt: skip
    sends: Annotated[str, Ref("prefabs")] = ""
    every: Annotated[float, between(0.1, 600)] = 2.0
    speed: Annotated[float, between(0, 32)] = 3.0
    towards: Towards = "right"
    lasts: Annotated[float, between(0.1, 600)] = 4.0

    def moves(self, me: Me, walk: Walk) -> None:
        every = max(1, round(self.every * 60))
        passed = walk.tick - me.since
        if self.sends and passed > 0 and passed % every == 0:
            speed = walk.a_tick(self.speed)
            up = (0, 0, speed) if walk.deep else (0, -speed, 0)
            down = (0, 0, -speed) if walk.deep else (0, speed, 0)
            ways = {"left": (-speed, 0, 0), "right": (speed, 0, 0), "up": up, "down": down}
            walk.send(me, self.sends, ways[self.towards], round(self.lasts * 60))

    def state(self, me: Me) -> str:
        return "sending"
