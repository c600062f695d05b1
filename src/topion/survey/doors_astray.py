"""Doors that lead nowhere or only one way, and rooms that are entered but lack a start."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion.edit.logic import link_doors
from topion.edit.pieces import Pick
from topion.model.edit import Edit
from topion.model.project import Project
from topion.survey.check import WorldCheck
from topion.survey.finding import Finding
from topion.walk.links import astray, doors_by_room, doors_of, every_door


class DoorsAstray(WorldCheck):
    """One finding a door; those that lead nowhere yet are not meant to be walked through."""

    name: ClassVar[str] = "door astray"
    about: ClassVar[str] = "doors that lead nowhere, or only one way"
    fixing: ClassVar[str] = "link back"
    reads: ClassVar[tuple[str, ...]] = ("prefabs",)

    def findings(self, project: Project) -> Iterator[Finding]:
        for door in every_door(project):
            wrong = astray(project, door)
            if wrong:
                yield Finding(self.name, f"{door.prefab} · {wrong}", door.room, door.layer,
                              door.cell, door.number)  # fmt: skip

    def fix(self, project: Project, finding: Finding, choice: str = "") -> Edit | None:
        """Lets the door it leads to lead back, if that leads nowhere yet."""
        here = next((d for d in doors_of(project, finding.room).doors
                     if (d.layer, d.number) == (finding.layer, finding.thing)), None)  # fmt: skip
        if here is None or here.to not in project.rooms or not here.door:
            return None
        for there in doors_of(project, here.to).doors:
            if there.number == here.door and not there.to:
                ends = [(d.room, Pick(d.layer, d.number)) for d in (there, here)]
                return link_doors(project, *ends, back=False)
        return None


class NoStart(WorldCheck):
    """A world that has goals, but nowhere to begin."""

    name: ClassVar[str] = "start missing"
    about: ClassVar[str] = "a world with goals and no start, or a start and no goal"
    reads: ClassVar[tuple[str, ...]] = ("prefabs",)

    def findings(self, project: Project) -> Iterator[Finding]:
        rooms = doors_by_room(project)
        with_goals = [name for name, known in rooms.items() if known.goals]
        with_starts = [name for name, known in rooms.items() if known.starts]
        ends = any(door.ends_world for known in rooms.values() for door in known.doors)
        if with_goals and not with_starts:
            yield Finding(self.name, "there is a goal, but no start in any room", with_goals[0])
        elif with_starts and not (with_goals or ends):
            yield Finding(self.name, "there is a start, but no goal in any room", with_starts[0])
