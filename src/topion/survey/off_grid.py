"""Things between the pixels of a flat room, or between the sixteenths of a voxel cell."""

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

_PARTS = 16  # of a cell of a voxel room
_NEAR = 1e-3  # of a step


class OffGrid(RoomCheck):
    """One finding a thing; those that are attached, turned freely or scaled have no grid."""

    name: ClassVar[str] = "off the grid"
    about: ClassVar[str] = "things between the pixels of their room"
    fixing: ClassVar[str] = "snap it"

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        parts = _parts_of(room)
        for layer_id, layer in room.bottom_up("things"):
            numbers, at = layer.positions()
            scaled = at[:, -room.info.axes :] * parts
            off = np.abs(scaled - np.round(scaled)).max(axis=1, initial=0) > _NEAR
            for number in numbers[off].tolist():
                thing = layer.things[int(number)]
                if thing.attached is not None or thing.turn % 90 or thing.scale != 1:
                    continue
                where = ", ".join(f"{v:g}" for v in thing.at[-room.info.axes :])
                yield Finding(self.name, f"{thing.prefab} stands at {where}", room.info.name,
                              layer_id, standing_cell(thing, room.info.axes), int(number),
                              wanted=f"whole {'pixels' if room.info.axes == 2 else 'sixteenths'}",
                              measured=where)  # fmt: skip

    def fix(self, project: Project, finding: Finding, choice: str = "") -> Edit | None:
        room = project.room(finding.room)
        layer = room.layers.get(finding.layer)
        thing = layer.things.get(finding.thing or 0) if layer is not None else None
        if thing is None:
            return None
        parts = _parts_of(room)
        z, y, x = (round(value * parts) / parts for value in thing.at)
        pick = Pick(finding.layer, finding.thing or 0)
        return things_changed(project, finding.room, {pick: replace(thing, z=z, y=y, x=x)}, "Snap")


def _parts_of(room: Room) -> int:
    """Steps of a cell that things stand at."""
    return _PARTS if room.info.axes == 3 else room.info.cell_px
