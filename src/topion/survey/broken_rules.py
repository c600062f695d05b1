"""Things that break a placement rule where they stand now."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import ClassVar

import numpy as np

from topion.edit.picked import things_changed
from topion.edit.pieces import Pick
from topion.model.edit import Edit
from topion.model.prefab import standing_cell
from topion.model.project import Project
from topion.model.room import Room
from topion.survey.check import RoomCheck
from topion.survey.finding import Finding
from topion.things.broken import broken
from topion.things.ground import Ground, Spots
from topion.things.verdict import Reason, verdict
from topion.weaving.looms import made_of


class BrokenRules(RoomCheck):
    """Each rule that a thing breaks, with what was measured and what is wanted."""

    name: ClassVar[str] = "broken rules"
    fixing: ClassVar[str] = "move it"
    about: ClassVar[str] = "things that break a placement rule where they stand"
    reads: ClassVar[tuple[str, ...]] = ("prefabs", "classes", "tilesets", "blocks", "materials")

    def stamp(self, project: Project) -> object:
        return super().stamp(project), made_of(project, "tiles"), made_of(project, "blocks")

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        ground = Ground(project, room)
        for row, reasons in sorted(broken(ground), key=lambda found: found[0]):
            for reason in reasons:
                if reason.rule != "inside":  # that is another check's
                    yield _finding(ground, room, row, reason)

    def fix(self, project: Project, finding: Finding, choice: str = "") -> Edit | None:
        """To the nearest place that is allowed."""
        room = project.room(finding.room)
        layer = room.layers.get(finding.layer)
        thing = layer.things.get(finding.thing or 0) if layer is not None else None
        if thing is None or thing.prefab not in project.prefabs:
            return None
        name, turn, mirrored, tip = thing.stance
        at = np.array([thing.at[-room.info.axes :]])
        ground = Ground(project, room)
        key = (finding.layer, finding.thing or 0)
        if key not in ground.standing.keys:
            return None
        own = ground.standing.keys.index(key)
        spots = Spots(project.prefabs[name], at, turn, mirrored, np.array([own], np.intp), tip)
        nearest = verdict(ground, spots).nearest
        if nearest is None:
            return None
        z, y, x = (*thing.at[: 3 - room.info.axes], *nearest)
        pick = Pick(finding.layer, finding.thing or 0)
        return things_changed(project, finding.room, {pick: replace(thing, z=z, y=y, x=x)}, "Move")


def _finding(ground: Ground, room: Room, row: int, reason: Reason) -> Finding:
    thing, (layer_id, number) = ground.standing.things[row], ground.standing.keys[row]
    told = f"{thing.prefab} · {reason.sentence}: {reason.measured}, not {reason.wanted}"
    if thing.overridden:
        told += ", overridden when it was laid"
    check = f"rule broken: {reason.rule}"
    cell = standing_cell(thing, room.info.axes)
    return Finding(check, told, room.info.name, layer_id, cell, number, measured=reason.measured,
                   wanted=reason.wanted)  # fmt: skip
