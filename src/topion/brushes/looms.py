"""The compiled rule books of a project, made anew after one of them changed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import CellList, MaterialIds, TileIds
from topion.model.project import Project
from topion.model.room import Layer, LayerKind, Room
from topion.model.tileset import TileRef
from topion.weaving.block_loom import TURN_BITS, BlockLoom
from topion.weaving.loom import Loom
from topion.weaving.rules import RuleBook
from topion.weaving.why import Why


class AnyLoom(Protocol):
    """What laying asks of a loom, whatever the number of axes."""

    rim: int

    @property
    def reach(self) -> int: ...
    @property
    def offsets(self) -> NDArray[np.intp]: ...
    def whole(self, material: MaterialIds) -> TileIds: ...
    def padded(self, cells: MaterialIds, origin: tuple[int, ...], rim: bool = True) -> TileIds: ...
    def around(self, around: MaterialIds, at: CellList) -> TileIds: ...
    def planes(self, tiles: TileIds) -> dict[str, np.ndarray]: ...
    def tiles(self, planes: Mapping[str, np.ndarray]) -> TileIds: ...
    def why(self, material: MaterialIds, *cell: int) -> Why | None: ...
    def uncovered(self, material: MaterialIds) -> NDArray[np.intp]: ...


def loom_of(project: Project, kind: LayerKind = "tiles") -> AnyLoom:
    """The loom for layers of that kind, tiles or blocks."""
    looms = project.derived.setdefault("looms", {})
    cached = looms.get(kind)
    if cached is not None and cached[0] == project.library_revision:
        loom: AnyLoom = cached[2]
        return loom
    books: dict[str, RuleBook] = {}
    seeds: dict[str, int] = {}
    for brush in project.brushes.values():
        if brush.material and hasattr(brush, "book"):
            books[brush.material] = brush.book()
            seeds[brush.material] = getattr(brush, "seed", 0)
    names = project.tiles if kind == "tiles" else project.block_names
    made_of = (project.materials, names, books, seeds)
    if cached is not None and cached[1] == made_of:  # something else of the library changed
        loom = cached[2]
    elif kind == "tiles":
        ids = {ref: number for number, ref in enumerate(project.tiles, 1)}
        loom = Loom(project.materials, books, seeds, ids)
    else:
        loom = BlockLoom(project.materials, books, seeds, project.block_names)
    looms[kind] = (project.library_revision, made_of, loom)
    return loom


def loom_for(project: Project, layer: Layer) -> AnyLoom:
    return loom_of(project, layer.info.kind)


def laid_ref(project: Project, layer: Layer, cell: tuple[int, ...]) -> TileRef | None:
    """The tile, or the block and its turn, that lies in a cell."""
    if "block" in layer.planes:
        number = int(layer.planes["block"][cell])
        turn = int(layer.planes["turn"][cell])
        return TileRef("", project.block_names[number - 1], turn) if number else None
    number = int(layer.planes["tile"][cell])
    return project.tiles[number - 1] if number else None


def woven_layers(room: Room) -> Iterator[tuple[str, Layer]]:
    """(id, layer) of all layers that a loom fills."""
    return (pair for pair in room.bottom_up() if "pinned" in pair[1].planes)


def tile_id(project: Project, ref: TileRef) -> int:
    """The number of a tile in cells, or of a block and its turn; 0 if it is not known."""
    if ref.is_block:
        known = ref.slot in project.block_names
        return (project.block_names.index(ref.slot) + 1) << TURN_BITS | ref.turn if known else 0
    key = ("tile ids", project.library_revision)
    ids = project.derived.get("tile ids")
    if ids is None or ids[0] != key:
        ids = (key, {known: number for number, known in enumerate(project.tiles, 1)})
        project.derived["tile ids"] = ids
    return int(ids[1].get(ref, 0))
