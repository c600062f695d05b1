"""Cells for which no rule of their weave fits."""

from __future__ import annotations

from collections.abc import Iterator

from topion.brushes.looms import loom_for, woven_layers
from topion.model.project import Project
from topion.survey.finding import Finding


def open_cases(project: Project) -> Iterator[Finding]:
    for room in project.rooms.values():
        for layer_id, layer in woven_layers(room):
            material = layer.planes["material"]
            cells = loom_for(project, layer).uncovered(material)
            cells = cells[layer.planes["pinned"][tuple(cells.T)] == 0]
            if len(cells):
                cell = tuple(cells[0].tolist())
                name = project.material_name(int(material[cell]))
                more = f", and in {len(cells) - 1} more cells" if len(cells) > 1 else ""
                sentence = f"no rule of {name} fits here{more}"
                yield Finding("open weave case", sentence, room.info.name, layer_id, cell)
