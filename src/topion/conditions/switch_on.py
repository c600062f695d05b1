"""Switch on: a switch of the room is on, or off."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

from topion.conditions.kind import ConditionKind
from topion.model.form import Blank, Form
from topion.model.project import Project
from topion.model.room import Room
from topion.model.typed import between
from topion.model.walked import role_of
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

    def idle(self, project: Project, room: Room) -> str:
        if self.off:
            return ""
        if not self.thing:
            return "no switch is chosen"
        for _, layer in room.bottom_up("things"):
            thing = layer.things.get(self.thing)
            if thing is not None:
                role = role_of(project, thing)
                is_one = role is not None and role.kind == "switch"
                return "" if is_one else f"{thing.prefab}, thing {self.thing}, is no switch"
        return f"switch {self.thing} is not there"
