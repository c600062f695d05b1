"""Cells for which no rule of their weave fits."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion.model.project import Project
from topion.model.room import Room
from topion.survey.check import RoomCheck
from topion.survey.finding import Finding
from topion.weaving.looms import loom_for, made_of
from topion.weaving.settle import shown_materials, woven_layers


class OpenCases(RoomCheck):
    """One finding a layer, at the first such cell."""

    name: ClassVar[str] = "open weave case"
    about: ClassVar[str] = "cells for which no rule of their weave fits"

    def stamp(self, project: Project) -> object:
        return made_of(project, "tiles"), made_of(project, "blocks")

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        for layer_id, layer in woven_layers(room):
            material = shown_materials(project, layer)
            cells = loom_for(project, layer).uncovered(material)
            cells = cells[layer.plane("pinned")[tuple(cells.T)] == 0]
            if len(cells):
                cell = tuple(cells[0].tolist())
                name = project.material_name(int(material[cell]))
                more = f", and in {len(cells) - 1} more cells" if len(cells) > 1 else ""
                sentence = f"no rule of {name} fits here{more}"
                yield Finding(self.name, sentence, room.info.name, layer_id, cell)
