"""Slots marked "not for use" that lie in a room."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from topion.model.project import Project
from topion.survey.finding import Finding


def not_for_use(project: Project) -> Iterator[Finding]:
    unfit = np.zeros(1 << 16, bool)
    for number, ref in enumerate(project.tiles, 1):
        unfit[number] = project.tileset(ref.tileset).slot(ref.slot).not_for_use
    if not unfit.any():
        return
    for room in project.rooms.values():
        for layer_id, layer in room.bottom_up("tiles"):
            cells = np.argwhere(unfit[layer.planes["tile"]])
            if len(cells):
                y, x = (int(v) for v in cells[0])
                ref = project.tiles[int(layer.planes["tile"][y, x]) - 1]
                sentence = f"slot {ref.slot} of {ref.tileset} is not for use, in {len(cells)} cells"
                yield Finding("not for use", sentence, room.info.name, layer_id, (y, x))
