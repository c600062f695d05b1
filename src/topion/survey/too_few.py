"""Prefabs of which there are fewer than a rule asks for."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion.model.project import Project
from topion.model.room import Room
from topion.survey.check import RoomCheck, WorldCheck
from topion.survey.finding import Finding
from topion.things.ground import Ground, counts_of
from topion.things.rules.at_most import AtLeast
from topion.things.rules.kind import rules_of


class TooFew(RoomCheck):
    """Rooms in which some of a prefab stand, but not enough."""

    name: ClassVar[str] = "too few in a room"
    about: ClassVar[str] = "rooms with some of a prefab, but fewer than a rule asks for"
    reads: ClassVar[tuple[str, ...]] = ("prefabs", "classes")

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        ground = Ground(project, room)
        for name, rule in _asked(project, "room"):
            here = ground.count(name)
            if 0 < here < rule.count:
                told = f"{name} · {rule.reason(here)[0]}: {here} of {rule.count}"
                yield Finding(f"rule broken: {rule.kind}", told, room.info.name,
                              measured=str(here), wanted=str(rule.count))  # fmt: skip


class TooFewInTheWorld(WorldCheck):
    """Prefabs of which all rooms together hold too few."""

    name: ClassVar[str] = "too few in the world"
    about: ClassVar[str] = "prefabs of which all rooms together hold too few"
    reads: ClassVar[tuple[str, ...]] = ("prefabs", "classes")

    def findings(self, project: Project) -> Iterator[Finding]:
        for name, rule in _asked(project, "world"):
            here = sum(counts_of(project, room)[name] for room in project.rooms)
            if here < rule.count:
                told = f"{name} · {rule.reason(here)[0]}: {here} of {rule.count}"
                yield Finding(f"rule broken: {rule.kind}", told, measured=str(here),
                              wanted=str(rule.count))  # fmt: skip


def _asked(project: Project, per: str) -> Iterator[tuple[str, AtLeast]]:
    for name, prefab in project.prefabs.items():
        for rule in rules_of(project, prefab):
            if isinstance(rule, AtLeast) and rule.per == per:
                yield name, rule
