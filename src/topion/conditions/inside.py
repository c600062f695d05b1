"""Inside: the figure is in a region of the room."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

from topion.conditions.kind import ConditionKind
from topion.model.form import Blank, Form
from topion.model.project import Project
from topion.model.refs import REGIONS, Ref
from topion.model.room import Room
from topion.roles.kind import Walk


@dataclass(frozen=True)
class Inside(ConditionKind):
    """region : the name of one of the room's regions."""

    kind: ClassVar[str] = "inside"
    form: ClassVar[Form] = ("the figure is in ", Blank("region", "region", none="no region yet"))
    region: Annotated[str, Ref(REGIONS, perhaps=True)] = ""

    def holds(self, walk: Walk) -> bool:
        return walk.is_inside(self.region)

    def idle(self, project: Project, room: Room) -> str:
        region = room.region(self.region)
        if not self.region:
            return "no region is chosen"
        if region is None:
            return f"the room has no region {self.region}"
        return "" if region.plane("inside").any() else f"the region {self.region} is empty"
