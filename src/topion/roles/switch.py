"""Switch: turns what waits for it on and off, or gravity over."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

from topion.model.form import Blank, Form, Mark
from topion.model.typed import between
from topion.roles.kind import Me, RoleKind, Walk, choices


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

    def acts_by_itself(self) -> bool:
        return self.back > 0 or self.by == "standing on it"

    def moves(self, me: Me, walk: Walk) -> None:
        over = self.back > 0 and walk.tick - me.since >= round(self.back * 60)
        if me.on and over and self.by != "standing on it":
            self._turn(me, walk, False)
        if self.by == "standing on it":
            stands = walk.stands_on(me)
            if stands != me.on and (stands or walk.tick - me.since >= round(self.back * 60)):
                self._turn(me, walk, stands)

    def touched(self, me: Me, walk: Walk) -> None:
        if self.by == "touching it" and walk.fresh(me):
            self._turn(me, walk, not me.on)

    def acted(self, me: Me, walk: Walk) -> None:
        if self.by == "acting on it":
            self._turn(me, walk, not me.on)

    def _turn(self, me: Me, walk: Walk, on: bool) -> None:
        walk.switch(me, on)
        walk.say(f"{me.name} {'on' if on else 'off'}")
        if self.turns == "gravity over":
            walk.turn_over()

    def done(self, me: Me) -> bool:
        return me.on

    def state(self, me: Me) -> str:
        return "on" if me.on else "off"
