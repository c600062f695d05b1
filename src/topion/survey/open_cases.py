"""Cells for which no rule of their weave fits."""

from __future__ import annotations

from collections.abc import Iterator

from topion.brushes.laying import loom_of
from topion.model.project import Project
from topion.survey.finding import Finding


def open_cases(project: Project) -> Iterator[Finding]:
    loom = loom_of(project)
    for room in project.rooms.values():
        for layer_id, layer in room.bottom_up("tiles"):
            material = layer.planes["material"]
            cells = loom.uncovered(material)
            cells = cells[layer.planes["pinned"][tuple(cells.T)] == 0]
            if len(cells):
                y, x = (int(v) for v in cells[0])
                name = project.material_name(int(material[y, x]))
                more = f", and in {len(cells) - 1} more cells" if len(cells) > 1 else ""
                sentence = f"no rule of {name} fits here{more}"
                yield Finding("open weave case", sentence, room.info.name, layer_id, (y, x))
