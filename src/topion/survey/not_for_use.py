"""Slots and blocks marked "not for use" that lie in a room."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from topion.model.project import Project
from topion.survey.finding import Finding


def not_for_use(project: Project) -> Iterator[Finding]:
    slots = [project.tileset(ref.tileset).slot(ref.slot).not_for_use for ref in project.tiles]
    blocks = [project.block(name).not_for_use for name in project.block_names]
    tables = {
        "tile": (slots, [f"slot {ref.slot} of {ref.tileset}" for ref in project.tiles]),
        "block": (blocks, [f"block {name}" for name in project.block_names]),
    }
    for plane, (marked, names) in tables.items():
        unfit = np.zeros(1 << 16, bool)
        unfit[1 : len(marked) + 1] = marked
        if unfit.any():
            yield from _lying(project, plane, unfit, names)


def _lying(
    project: Project, plane: str, unfit: NDArray[np.bool_], names: list[str]
) -> Iterator[Finding]:
    for room in project.rooms.values():
        for layer_id, layer in room.cell_layers():
            if plane not in layer.planes:
                continue
            cells = np.argwhere(unfit[layer.planes[plane]])
            if len(cells):
                cell = tuple(cells[0].tolist())
                name = names[int(layer.planes[plane][cell]) - 1]
                sentence = f"{name} is not for use, in {len(cells)} cells"
                yield Finding("not for use", sentence, room.info.name, layer_id, cell)
