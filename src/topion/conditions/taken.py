"""Taken: so many pickups of a prefab or a class are taken."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

from topion.conditions.kind import ConditionKind
from topion.model.form import Blank, Form
from topion.model.project import Project
from topion.model.refs import Ref
from topion.model.room import Room
from topion.model.typed import between
from topion.roles.kind import Walk


@dataclass(frozen=True)
class Taken(ConditionKind):
    """of : a prefab, a class or `anything`; counted in all rooms."""

    kind: ClassVar[str] = "taken"
    form: ClassVar[Form] = (
        Blank("count", "number", 1, 999, whole=True), " of ", Blank("of", "thing"), " are taken",
    )  # fmt: skip
    count: Annotated[int, between(1, 999)] = 1
    of: Annotated[str, Ref("prefabs", perhaps=True)] = "anything"

    def holds(self, walk: Walk) -> bool:
        return walk.count_of(self.of) >= self.count

    def idle(self, project: Project, room: Room) -> str:
        known = {"anything", *project.prefabs, *(p.class_name for p in project.prefabs.values())}
        return "" if self.of in known else f"no prefab and no class is called {self.of}"
