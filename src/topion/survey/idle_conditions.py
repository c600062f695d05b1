"""Conditions of things that can never come true."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion.conditions import ConditionKind
from topion.model.prefab import standing_cell
from topion.model.project import Project
from topion.model.room import Room
from topion.model.walked import when_of
from topion.survey.check import RoomCheck
from topion.survey.finding import Finding


class IdleConditions(RoomCheck):
    """One finding a condition; each kind tells by itself why it cannot hold."""

    name: ClassVar[str] = "condition never true"
    about: ClassVar[str] = "conditions that can never come true"
    reads: ClassVar[tuple[str, ...]] = ("prefabs",)

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        waiting = {prefab.name for prefab in project.prefabs.values() if prefab.when.all_of}
        for layer_id, layer in room.bottom_up("things"):
            for number, thing in layer.things.items():
                if thing.when is None and thing.prefab not in waiting:
                    continue
                when = when_of(project, thing)
                for condition in when.all_of:
                    why = condition.idle(project, room) if isinstance(
                        condition, ConditionKind) else ""  # fmt: skip
                    if why:
                        sentence = f"{thing.prefab} never {when.effect}: {why}"
                        cell = standing_cell(thing, room.info.axes)
                        yield Finding(self.name, sentence, room.info.name, layer_id, cell, number)
