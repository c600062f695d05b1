"""Goals and pickups to which no way is found, and rooms that the figure does not come to."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion import progress
from topion.model.project import Project
from topion.survey.check import WorldCheck
from topion.survey.finding import Finding
from topion.walk.found import entries_of, found_in, rooms_reached
from topion.walk.links import doors_of
from topion.walk.world import figure_of

_READS = ("prefabs", "tilesets", "blocks", "figures")


class NoWay(WorldCheck):
    """One finding a goal or pickup of a room that the figure can come into."""

    name: ClassVar[str] = "no way found"
    about: ClassVar[str] = "goals and pickups that the figure does not get to"
    reads: ClassVar[tuple[str, ...]] = _READS
    slow: ClassVar[bool] = True

    def findings(self, project: Project) -> Iterator[Finding]:
        for room, entries in entries_of(project).items():
            progress.step(room)
            for place, words in found_in(project, room, entries, progress.step).missed:
                if place.kind in ("goal", "pickup"):
                    layer, number = place.key
                    yield Finding(self.name, f"{place.prefab} · no way found: {words}", room,
                                  layer, place.cell, number)  # fmt: skip


class NotReached(WorldCheck):
    """One finding a room that has doors or things that do something, and no way in."""

    name: ClassVar[str] = "room not reached"
    about: ClassVar[str] = "rooms that the figure does not come to from where the world starts"
    reads: ClassVar[tuple[str, ...]] = (*_READS, "placements")
    slow: ClassVar[bool] = True

    def findings(self, project: Project) -> Iterator[Finding]:
        reached = rooms_reached(project, progress.step)
        if not reached:
            return  # that there is no start is another check's
        for room in project.rooms:
            known = doors_of(project, room)
            if room in reached or not (known.doors or known.goals):
                continue
            out = [door.to for door in known.doors if door.to]
            way = (
                f"its door leads out to {out[0]}, and none leads back"
                if out
                else "no door leads in"
            )
            led = any(door.to == room for name in project.rooms
                      for door in doors_of(project, name).doors)  # fmt: skip
            told = f"{figure_of(project).name} finds no way to a door that leads in" if led else way
            yield Finding(self.name, f"nobody can get in: {told}", room)
