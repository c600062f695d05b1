"""Cleared: all that counts for clearing the room is done."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from topion.conditions.kind import ConditionKind
from topion.model.form import Form
from topion.model.project import Project
from topion.model.room import Room
from topion.model.walked import counts_of
from topion.roles.kind import Walk


@dataclass(frozen=True)
class Cleared(ConditionKind):
    """Never so in a room where nothing counts."""

    kind: ClassVar[str] = "cleared"
    form: ClassVar[Form] = ("the room is cleared",)

    def holds(self, walk: Walk) -> bool:
        return walk.is_cleared()

    def idle(self, project: Project, room: Room) -> str:
        things = (t for _, layer in room.bottom_up("things") for t in layer.things.values())
        counting = any(counts_of(project, thing) for thing in things)
        return "" if counting else "nothing here counts for clearing the room"
