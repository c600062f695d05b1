"""Inside: the figure is in a region of the room."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

from topion.conditions.kind import ConditionKind
from topion.model.form import Blank, Form
from topion.model.refs import REGIONS, Ref
from topion.roles.kind import Walk


@dataclass(frozen=True)
class Inside(ConditionKind):
    """region : the name of one of the room's regions."""

    kind: ClassVar[str] = "inside"
    form: ClassVar[Form] = ("the figure is in ", Blank("region", "region", none="no region yet"))
    region: Annotated[str, Ref(REGIONS, perhaps=True)] = ""

    def holds(self, walk: Walk) -> bool:
        return walk.is_inside(self.region)
