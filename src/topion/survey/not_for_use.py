"""Slots and blocks marked "not for use" that lie in a room."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

import numpy as np

from topion.grid.told import several
from topion.model.project import Project
from topion.model.room import Room
from topion.model.solid import TURN_BITS
from topion.survey.check import RoomCheck
from topion.survey.finding import Finding
from topion.weaving.looms import made_of
from topion.weaving.settle import shown_tiles, woven_layers


class NotForUse(RoomCheck):
    """One finding a layer, at the first such cell."""

    name: ClassVar[str] = "not for use"
    about: ClassVar[str] = "slots and blocks marked “not for use” that lie in a room"
    reads: ClassVar[tuple[str, ...]] = ("tilesets", "blocks")

    def stamp(self, project: Project) -> object:
        return super().stamp(project), made_of(project, "tiles"), made_of(project, "blocks")

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        bits = TURN_BITS if room.info.cells_kind == "blocks" else 0
        marked, names = _blocks(project) if bits else _slots(project)
        if not any(marked):
            return
        unfit = np.array([False, *marked])
        for layer_id, layer in woven_layers(room):
            numbers = shown_tiles(project, layer) >> bits
            cells = np.argwhere(unfit[numbers])
            if len(cells):
                cell = tuple(cells[0].tolist())
                name, many = names[int(numbers[cell]) - 1], several(len(cells), "cell")
                sentence = f"{name} is not for use, in {many}"
                yield Finding(self.name, sentence, room.info.name, layer_id, cell)


def _slots(project: Project) -> tuple[list[bool], list[str]]:
    refs = project.tiles
    marked = [project.tileset(ref.tileset).slot(ref.slot).not_for_use for ref in refs]
    return marked, [f"slot {ref.slot} of {ref.tileset}" for ref in refs]


def _blocks(project: Project) -> tuple[list[bool], list[str]]:
    names = project.block_names
    return [project.block(n).not_for_use for n in names], [f"block {n}" for n in names]
