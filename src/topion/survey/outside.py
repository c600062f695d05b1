"""Things that reach beyond their room."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

import numpy as np

from topion.model.prefab import standing_cell
from topion.model.project import Project
from topion.model.room import Room
from topion.survey.check import RoomCheck
from topion.survey.finding import Finding
from topion.things.ground import WIDEST_BODY, body_cells


class Outside(RoomCheck):
    """One finding a thing."""

    name: ClassVar[str] = "outside"
    reads: ClassVar[tuple[str, ...]] = ("prefabs",)

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        inner = room.box.grown(-WIDEST_BODY)
        for layer_id, layer in room.bottom_up("things"):
            numbers, at = layer.positions()
            cells = np.floor(at[:, -room.info.axes :]).astype(np.intp)
            near_edge = numbers[~inner.holds(cells)].tolist()
            for number in near_edge:
                thing = layer.things[number]
                prefab = project.prefabs.get(thing.prefab)
                cell = standing_cell(thing, room.info.axes)
                body = np.array(body_cells(prefab, thing, room.info.axes) if prefab else [cell])
                if not room.box.holds(body).all():
                    sentence = f"{thing.prefab} reaches beyond the room"
                    yield Finding(self.name, sentence, room.info.name, layer_id, cell, number)
