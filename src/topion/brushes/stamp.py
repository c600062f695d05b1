"""Stamp: lays a block of tiles as it was taken from a sheet; its cells are pinned."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from topion.brushes.kind import FLAT_SCRAP, BrushKind, Outline, Sample
from topion.brushes.laying import Laid, lay, marked_cells, refusal
from topion.brushes.marks import Marks, Place
from topion.errors import BadValue
from topion.grid.lines import first_of_each
from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.tileset import TileRef
from topion.model.typed import Colour, Name
from topion.weaving.looms import tile_id


@dataclass(frozen=True)
class Stamp(BrushKind):
    """block : rows of tiles; None leaves the cell as it is.

    A stroke lays whole blocks, side by side from the cell of the press, so that they join.
    """

    kind: ClassVar[str] = "stamp"
    bay: ClassVar[str] = "Stamps"
    name: Name
    block: tuple[tuple[TileRef | None, ...], ...]
    layer: str = ""
    colour: Colour = "#5b7d8a"

    def __post_init__(self) -> None:
        widths = {len(row) for row in self.block}
        if len(widths) != 1 or not any(any(row) for row in self.block):
            raise BadValue("the block", self.block, "equally long rows with at least one tile")

    @property
    def material(self) -> str:
        return self.name

    def plan(self, place: Place, marks: Marks) -> Edit:
        layer_id, layer = place.cells_layer(self.layer)
        refused = refusal(self, place, layer)
        if refused is not None:
            return refused
        ids = np.array([[tile_id(place.project, t) if t else 0 for t in row] for row in self.block])
        pitch, start = np.array(ids.shape), np.array(marks.start)
        corners = first_of_each((marks.cells - start) // pitch) * pitch + start
        solid = np.argwhere(ids)
        cells = marked_cells(place, Marks((corners[:, None] + solid).reshape(-1, 2)))
        where = (cells - start) % pitch
        flat = np.ravel_multi_index(tuple(cells.T), place.room.info.size).astype(np.intp)
        order = np.argsort(flat)
        tiles = ids[tuple(where.T)][order].astype(np.uint16)
        material = np.full(len(flat), place.project.material_id(self.material), np.uint16)
        records = lay(place, layer_id, Laid(flat[order], material, tiles))
        return Edit(self.name, records, self.colour)

    def summary(self) -> str:
        return f"stamp · {len(self.block[0])}×{len(self.block)}"

    def outline(self, *, drawn: bool) -> Outline:
        return Outline(size=(len(self.block), len(self.block[0])))

    def sample(self, project: Project, *, deep: bool) -> Sample:
        size = max(FLAT_SCRAP[0], len(self.block)), max(FLAT_SCRAP[1], len(self.block[0]))
        return Sample(self.at_home("own"), Marks(np.zeros((1, 2), np.intp)), size, ground=False)

    def tiles_used(self) -> tuple[TileRef, ...]:
        return tuple(tile for row in self.block for tile in row if tile)
