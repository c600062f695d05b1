"""Stamp: lays a block of tiles as it was taken from a sheet; its cells are pinned."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from topion.brushes.kind import FLAT_SCRAP, BrushKind, Outline, Sample
from topion.brushes.laying import Laid, lay, marked_cells, refusal
from topion.brushes.marks import Marks, Place
from topion.errors import BadValue
from topion.grid.arrays import CellList, TileIds
from topion.grid.lines import first_of_each
from topion.grid.turns import composed, mirrored_along
from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.records import ItemRecord
from topion.model.tileset import TileRef
from topion.model.typed import Colour, Name
from topion.weaving.looms import tiles_with

Block = tuple[tuple[TileRef | None, ...], ...]


@dataclass(frozen=True)
class Stamp(BrushKind):
    """block : rows of tiles; None leaves the cell as it is.

    A stroke lays whole blocks, side by side from the cell of the press, so that they join.
    """

    kind: ClassVar[str] = "stamp"
    bay: ClassVar[str] = "Stamps"
    name: Name
    block: Block
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
        copies = list(marks.flipped_copies())
        blocks = {flips: self._block(flips) for _, flips in copies}
        tiles = tiles_with(place.project, (t for block in blocks.values() for row in block
                                           for t in row if t))  # fmt: skip
        number = {ref: n for n, ref in enumerate(tiles, 1)}
        flats, pinned = [], []
        for cells, flips in copies:
            ids = np.array([[number.get(t, 0) if t else 0 for t in row] for row in blocks[flips]])
            flat, laid = self._laid(place, cells, flips, ids)
            flats.append(flat)
            pinned.append(laid)
        # where copies meet, the first stays
        flat, first = np.unique(np.concatenate(flats), return_index=True)
        material = np.full(len(flat), place.project.material_id(self.material), np.uint16)
        records = lay(place, layer_id, Laid(flat, material, np.concatenate(pinned)[first]))
        if records and tiles != place.project.tiles:
            records = (ItemRecord(("tiles",), place.project.tiles, tiles), *records)
        return Edit(self.name, records, self.colour)

    def _block(self, flips: tuple[int, ...]) -> Block:
        """The block as mirrors show its tiles, each still in its place."""
        block = self.block
        for axis in flips:
            block = tuple(tuple(t and _mirrored(t, axis) for t in row) for row in block)
        return block

    def _laid(
        self, place: Place, cells: CellList, flips: tuple[int, ...], ids: NDArray[np.intp]
    ) -> tuple[NDArray[np.intp], TileIds]:
        """Flat cells that whole blocks cover, from the first cell on, and their tiles."""
        if not len(cells):
            return np.empty(0, np.intp), np.empty(0, np.uint16)
        way = np.array([-1 if axis in flips else 1 for axis in (-2, -1)])
        pitch, start = np.array(ids.shape), cells[0]
        corners = first_of_each((cells - start) * way // pitch) * pitch
        wanted = (corners[:, None] + np.argwhere(ids)).reshape(-1, 2) * way + start
        covered = marked_cells(place, Marks(wanted))
        where = (covered - start) * way % pitch
        flat = np.ravel_multi_index(tuple(covered.T), place.room.info.size).astype(np.intp)
        return flat, ids[tuple(where.T)].astype(np.uint16)

    def summary(self) -> str:
        return f"stamp · {len(self.block[0])}×{len(self.block)}"

    def outline(self, *, drawn: bool) -> Outline:
        return Outline(size=(len(self.block), len(self.block[0])))

    def sample(self, project: Project, *, deep: bool) -> Sample:
        size = max(FLAT_SCRAP[0], len(self.block)), max(FLAT_SCRAP[1], len(self.block[0]))
        return Sample(self.at_home("own"), Marks(np.zeros((1, 2), np.intp)), size, ground=False)

    def tiles_used(self) -> tuple[TileRef, ...]:
        return tuple(tile for row in self.block for tile in row if tile)


def _mirrored(tile: TileRef, axis: int) -> TileRef:
    """A tile as a mirror shows it that swaps left and right (-1), or top and bottom (-2)."""
    turn, mirrored = composed((tile.turn, tile.mirrored), mirrored_along(axis))
    return tile._replace(turn=turn, mirrored=mirrored)
