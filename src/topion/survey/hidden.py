"""Things that nobody sees: wholly behind tiles of layers above them, or within solid blocks."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from topion.edit.picked import Picks, removed
from topion.edit.pieces import Pick
from topion.errors import UnknownName
from topion.model.edit import Edit
from topion.model.prefab import standing_cell
from topion.model.project import Project
from topion.model.room import Room
from topion.model.solid import TURN_BITS
from topion.survey.check import RoomCheck
from topion.survey.finding import Finding
from topion.things.ground import body_cells
from topion.weaving.looms import made_of
from topion.weaving.settle import shown_tiles

Covered = NDArray[np.bool_]


class Hidden(RoomCheck):
    """One finding a thing."""

    name: ClassVar[str] = "wholly hidden"
    about: ClassVar[str] = "things that other layers cover wholly"
    reads: ClassVar[tuple[str, ...]] = ("prefabs", "tilesets", "blocks")
    fixing: ClassVar[str] = "take it away"

    def stamp(self, project: Project) -> object:
        return super().stamp(project), made_of(project, "tiles"), made_of(project, "blocks")

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        covered = _covered(project, room)
        for layer_id, layer in room.bottom_up("things"):
            over = covered.get(layer_id)
            if over is None or not over.any() or not layer.info.shown:
                continue
            for number, thing in layer.things.items():
                prefab = project.prefabs.get(thing.prefab)
                cell = standing_cell(thing, room.info.axes)
                if prefab is None or not _is_in(over, cell) or not over[cell]:
                    continue
                cells = body_cells(prefab, thing, room.info.axes)
                if all(_is_in(over, at) and over[at] for at in cells):
                    yield Finding(self.name, f"{thing.prefab} is covered wholly", room.info.name,
                                  layer_id, cell, number)  # fmt: skip

    def fix(self, project: Project, finding: Finding, choice: str = "") -> Edit | None:
        if finding.thing is None:
            return None
        return removed(project, finding.room, Picks((Pick(finding.layer, finding.thing),)))


def _is_in(plane: Covered, at: tuple[int, ...]) -> bool:
    return all(0 <= v < size for v, size in zip(at, plane.shape, strict=True))


def _covered(project: Project, room: Room) -> dict[str, Covered]:
    """By layer of things, the cells that nothing of them can be seen in."""
    found: dict[str, Covered] = {}
    over: Covered = np.zeros(room.info.size, bool)
    if room.info.axes == 3:
        solid = np.array([False, *(_fills(project, name) for name in project.block_names)])
        for _, layer in room.cell_layers():
            if layer.info.shown and layer.info.opacity >= 1:
                over |= solid[shown_tiles(project, layer) >> TURN_BITS]
        return {layer_id: over for layer_id, _ in room.bottom_up("things")}
    opaque = np.array([False, *(_is_opaque(project, n) for n in range(len(project.tiles)))])
    cells = dict(room.cell_layers())
    for layer_id, layer in reversed(list(room.bottom_up())):
        if layer_id in cells:
            if layer.info.shown and layer.info.opacity >= 1 and not any(layer.info.offset):
                over = over | opaque[shown_tiles(project, layer)]
        else:
            found[layer_id] = over
    return found


def _fills(project: Project, name: str) -> bool:
    block = project.blocks.get(name)
    return block is not None and block.solid and block.top >= 1


def _is_opaque(project: Project, number: int) -> bool:
    """Whether a tile covers all of its cell."""
    ref = project.tiles[number]
    try:
        tileset = project.tileset(ref.tileset)
        return bool(tileset.opaque[tileset.slot(ref.slot).at])
    except UnknownName:  # another check tells
        return False
