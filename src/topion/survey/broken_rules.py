"""Things that break a placement rule where they stand now."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

import numpy as np

from topion.model.prefab import standing_cell
from topion.model.project import Project
from topion.model.room import Room
from topion.survey.check import RoomCheck
from topion.survey.finding import Finding
from topion.things.ground import Ground, Spots
from topion.things.verdict import Reason, reasons_at
from topion.weaving.looms import made_of


class BrokenRules(RoomCheck):
    """Each rule that a thing breaks, with what was measured and what is wanted."""

    name: ClassVar[str] = "broken rules"
    reads: ClassVar[tuple[str, ...]] = ("prefabs", "tilesets", "blocks", "materials")

    def stamp(self, project: Project) -> object:
        return super().stamp(project), made_of(project, "tiles"), made_of(project, "blocks")

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        ground = Ground(project, room)
        broken = [found for spots in _standing_spots(ground) for found in _broken(ground, spots)]
        for row, reasons in sorted(broken, key=lambda found: found[0]):
            for reason in reasons:
                if reason.rule != "inside":  # that is another check's
                    yield _finding(ground, room, row, reason)


def _standing_spots(ground: Ground) -> Iterator[Spots]:
    """All things of the room, those alike together."""
    groups: dict[tuple[str, float, bool], list[int]] = {}
    for row, thing in enumerate(ground.standing.things):
        groups.setdefault((thing.prefab, thing.turn, thing.mirrored), []).append(row)
    for (name, turn, mirrored), members in groups.items():
        rows = np.array(members, np.intp)
        positions = ground.standing.positions[rows]
        yield Spots(ground.project.prefabs[name], positions, turn, mirrored, rows)


def _broken(ground: Ground, spots: Spots) -> Iterator[tuple[int, list[Reason]]]:
    for place, reasons in reasons_at(ground, spots).items():
        if spots.own is not None:
            yield int(spots.own[place]), reasons


def _finding(ground: Ground, room: Room, row: int, reason: Reason) -> Finding:
    thing, (layer_id, number) = ground.standing.things[row], ground.standing.keys[row]
    told = f"{thing.prefab} · {reason.sentence}: {reason.measured}, not {reason.wanted}"
    if thing.overridden:
        told += ", overridden when it was laid"
    check = f"rule broken: {reason.rule}"
    cell = standing_cell(thing, room.info.axes)
    return Finding(check, told, room.info.name, layer_id, cell, number)
