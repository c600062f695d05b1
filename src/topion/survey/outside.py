"""Things that reach beyond their room."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from topion.model.prefab import standing_cell
from topion.model.project import Project
from topion.survey.finding import Finding
from topion.things.ground import body_cells


def outside(project: Project) -> Iterator[Finding]:
    for room in project.rooms.values():
        for layer_id, layer in room.bottom_up("things"):
            for number, thing in layer.things.items():
                prefab = project.prefabs.get(thing.prefab)
                cell = standing_cell(thing, room.info.axes)
                body = np.array(body_cells(prefab, thing, room.info.axes) if prefab else [cell])
                if not room.box.holds(body).all():
                    sentence = f"{thing.prefab} reaches beyond the room"
                    yield Finding("outside", sentence, room.info.name, layer_id, cell, number)
