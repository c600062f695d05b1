"""What every kind of condition answers."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass
from typing import ClassVar

from topion.model.form import Form, told
from topion.model.project import Project
from topion.model.room import Room
from topion.roles.kind import Walk


@dataclass(frozen=True)
class ConditionKind(ABC):
    """A condition: a small dataclass with a plain sentence.  form : with what can be set in it.
    points : it speaks of one thing of a room, so that things can have it, and prefabs not."""

    kind: ClassVar[str]
    points: ClassVar[bool] = False
    form: ClassVar[Form] = ()

    def sentence(self) -> str:
        """The condition in plain words."""
        return told(self, self.form)

    @abstractmethod
    def holds(self, walk: Walk) -> bool:
        """Whether it is so now."""

    def idle(self, project: Project, room: Room) -> str:
        """Why it can never hold in a room as it is; empty where it can."""
        return ""

    def things(self) -> tuple[int, ...]:
        """The numbers of the things it speaks of."""
        return ()
