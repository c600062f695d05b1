"""Switch on: a switch of the room is on, or off."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

from topion.conditions.kind import ConditionKind
from topion.model.form import Blank, Form
from topion.model.typed import between
from topion.roles.kind import Walk


@dataclass(frozen=True)
class SwitchOn(ConditionKind):
    """thing : the number of the switch, 0 for none yet.  off : it must be off."""

    kind: ClassVar[str] = "switch on"
    points: ClassVar[bool] = True
    form: ClassVar[Form] = (
        "switch ", Blank("thing", "number", whole=True, highest=(1 << 31) - 1), " is ",
        Blank("off", "choice", choices=((False, "on"), (True, "off"))),
    )  # fmt: skip
    thing: Annotated[int, between(0, (1 << 31) - 1)] = 0
    off: bool = False

    def holds(self, walk: Walk) -> bool:
        return walk.is_on(self.thing) != self.off

    def things(self) -> tuple[int, ...]:
        return (self.thing,) if self.thing else ()
