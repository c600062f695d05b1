"""Doors that lead nowhere or only one way, and rooms that are entered but lack a start."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion.model.project import Project
from topion.survey.check import WorldCheck
from topion.survey.finding import Finding
from topion.walk.links import astray, doors_of, every_door


class DoorsAstray(WorldCheck):
    """One finding a door; those that lead nowhere yet are not meant to be walked through."""

    name: ClassVar[str] = "door astray"
    reads: ClassVar[tuple[str, ...]] = ("prefabs",)

    def findings(self, project: Project) -> Iterator[Finding]:
        for door in every_door(project):
            wrong = astray(project, door)
            if wrong:
                yield Finding(self.name, f"{door.prefab} {wrong}", door.room, door.layer,
                              door.cell, door.number)  # fmt: skip


class NoStart(WorldCheck):
    """A world that has goals, but nowhere to begin."""

    name: ClassVar[str] = "start missing"
    reads: ClassVar[tuple[str, ...]] = ("prefabs",)

    def findings(self, project: Project) -> Iterator[Finding]:
        rooms = {name: doors_of(project, name) for name in project.rooms}
        with_goals = [name for name, known in rooms.items() if known.goals]
        if with_goals and not any(known.starts for known in rooms.values()):
            yield Finding(self.name, "there is a goal, but no start in any room", with_goals[0])
