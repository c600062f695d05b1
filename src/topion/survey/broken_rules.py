"""Things that break a placement rule where they stand now."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion.model.prefab import standing_cell
from topion.model.project import Project
from topion.model.room import Room
from topion.survey.check import RoomCheck
from topion.survey.finding import Finding
from topion.things.broken import broken
from topion.things.ground import Ground
from topion.things.verdict import Reason
from topion.weaving.looms import made_of


class BrokenRules(RoomCheck):
    """Each rule that a thing breaks, with what was measured and what is wanted."""

    name: ClassVar[str] = "broken rules"
    reads: ClassVar[tuple[str, ...]] = ("prefabs", "classes", "tilesets", "blocks", "materials")

    def stamp(self, project: Project) -> object:
        return super().stamp(project), made_of(project, "tiles"), made_of(project, "blocks")

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        ground = Ground(project, room)
        for row, reasons in sorted(broken(ground), key=lambda found: found[0]):
            for reason in reasons:
                if reason.rule != "inside":  # that is another check's
                    yield _finding(ground, room, row, reason)


def _finding(ground: Ground, room: Room, row: int, reason: Reason) -> Finding:
    thing, (layer_id, number) = ground.standing.things[row], ground.standing.keys[row]
    told = f"{thing.prefab} · {reason.sentence}: {reason.measured}, not {reason.wanted}"
    if thing.overridden:
        told += ", overridden when it was laid"
    check = f"rule broken: {reason.rule}"
    cell = standing_cell(thing, room.info.axes)
    return Finding(check, told, room.info.name, layer_id, cell, number, measured=reason.measured,
                   wanted=reason.wanted)  # fmt: skip
