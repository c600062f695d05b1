"""The compiled rule books of a project, made anew after one of them changed."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any, Protocol, runtime_checkable

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadValue
from topion.grid.arrays import CellList, MaterialIds, TileIds
from topion.model.derived import Kept
from topion.model.facets import Facet
from topion.model.layer import Layer, LayerKind
from topion.model.project import MOST_TILES, Project
from topion.model.tileset import TileRef
from topion.weaving.block_loom import BlockLoom, block_tile
from topion.weaving.compiled import CompiledBook
from topion.weaving.loom import Loom
from topion.weaving.rules import RuleBook
from topion.weaving.shapes import Shapes
from topion.weaving.why import Why


@runtime_checkable
class Weaves(Facet, Protocol):
    """The facet of brushes whose material is woven by rules."""

    seed: int
    material: str

    def book(self) -> RuleBook:
        """All that decides how its material looks."""


class AnyLoom(Protocol):
    """What settling asks of a loom, whatever the number of axes."""

    rim: int

    @property
    def reach(self) -> int: ...
    @property
    def offsets(self) -> NDArray[np.intp]: ...
    @property
    def sure(self) -> NDArray[np.bool_]: ...
    def whole(self, material: MaterialIds) -> TileIds: ...
    def padded(self, cells: MaterialIds, origin: tuple[int, ...], rim: bool = True) -> TileIds: ...
    def around(self, around: MaterialIds, at: CellList) -> TileIds: ...
    def book_of(self, material: int) -> CompiledBook | None: ...
    def why(
        self, material: MaterialIds, *cell: int, first: tuple[int, ...] = (0,)
    ) -> Why | None: ...
    def uncovered(self, material: MaterialIds) -> NDArray[np.intp]: ...


@dataclass(frozen=True)
class MadeOf:
    """All that decides what shows.  names : of tiles or blocks, in the order of ids.

    shapes : by name, the brushes whose pieces are compiled.
    """

    materials: tuple[str, ...]
    names: tuple[Any, ...]
    books: dict[str, RuleBook]
    seeds: dict[str, int]
    shapes: dict[str, Shapes] = field(default_factory=dict)

    def weaves_like(self, older: MadeOf) -> bool:
        """Whether cells that the older one wove look the same by this one: what is new, if
        anything is, could not lie in them."""
        if self is older:
            return True
        fresh = self.books.keys() - older.books.keys()
        return (
            self.materials[: len(older.materials)] == older.materials
            and self.names[: len(older.names)] == older.names
            and all(self.books.get(name) == book for name, book in older.books.items())
            and all(self.seeds.get(name) == seed for name, seed in older.seeds.items())
            and all(self.shapes.get(name) == shape for name, shape in older.shapes.items())
            and fresh.isdisjoint(older.materials)
            and fresh.isdisjoint(book.falls_back_to for book in older.books.values())
        )


_BOOKS: Kept[tuple[dict[str, RuleBook], dict[str, int]]] = Kept()
_MADE_OF: dict[str, Kept[MadeOf]] = {"tiles": Kept(), "blocks": Kept()}
_FLAT: Kept[Loom] = Kept()
_DEEP: Kept[BlockLoom] = Kept()
_TILE_IDS: Kept[Mapping[TileRef, int]] = Kept()
_NAMES = {"tiles": "tiles", "blocks": "block_names"}


def made_of(project: Project, kind: LayerKind = "tiles") -> MadeOf:
    """What the loom for layers of that kind is made of now."""

    def make() -> MadeOf:
        books, seeds = _BOOKS.of(project, project.stamp("brushes"), lambda: _books(project))
        names = getattr(project, _NAMES[kind])
        return MadeOf(project.materials, names, books, seeds, _shapes(project))

    stamp = project.stamp("brushes", "materials", _NAMES[kind])
    return _MADE_OF[kind].of(project, stamp, make)


def loom_of(project: Project, kind: LayerKind = "tiles") -> AnyLoom:
    """The loom for layers of that kind: the same one as long as it would weave the same."""
    made = made_of(project, kind)
    if kind == "tiles":
        return _FLAT.of(project, made, lambda: _flat(project, made))
    return _DEEP.of(project, made, lambda: _deep(project, made))


def _flat(project: Project, made: MadeOf) -> Loom:
    older = _FLAT.latest(project)
    return Loom(made.materials, made.books, made.seeds, tile_ids(project), older)


def _deep(project: Project, made: MadeOf) -> BlockLoom:
    older = _DEEP.latest(project)
    return BlockLoom(made.materials, made.books, made.seeds, made.names, older)


def _books(project: Project) -> tuple[dict[str, RuleBook], dict[str, int]]:
    weaves = [b for b in project.brushes.values() if b.material and isinstance(b, Weaves)]
    return {b.material: b.book() for b in weaves}, {b.material: b.seed for b in weaves}


def _shapes(project: Project) -> dict[str, Shapes]:
    return {b.name: b for b in project.brushes.values() if isinstance(b, Shapes)}


def loom_for(project: Project, layer: Layer) -> AnyLoom:
    return loom_of(project, layer.info.kind)


def tile_ids(project: Project) -> Mapping[TileRef, int]:
    """The number in cells of every tile that is laid in flat rooms."""
    return _TILE_IDS.of(
        project,
        project.stamp("tiles"),
        lambda: {known: number for number, known in enumerate(project.tiles, 1)},
    )


def tile_id(project: Project, ref: TileRef) -> int:
    """The number of a tile in cells, or of a block and its turn; 0 if it is not known."""
    if ref.is_block:
        known = ref.slot in project.block_names
        return block_tile(project.block_names.index(ref.slot) + 1, ref.turn) if known else 0
    return int(tile_ids(project).get(ref, 0))


def tiles_with(project: Project, refs: Iterable[TileRef]) -> tuple[TileRef, ...]:
    """The project's table of tiles with those that it lacks behind it; blocks are in none.

    Raises UnknownName for a tile or block that is not there, BadValue if the table is full.
    """
    known = tile_ids(project)
    used = dict.fromkeys(refs)
    for ref in used:
        if ref.is_block:
            project.block(ref.slot)
    fresh = [ref for ref in used if ref not in known and not ref.is_block]
    for ref in fresh:
        project.tileset(ref.tileset).slot(ref.slot)
    count = len(project.tiles) + len(fresh)
    if count > MOST_TILES:
        raise BadValue("the number of tiles that brushes lay", count, f"at most {MOST_TILES}")
    return (*project.tiles, *fresh) if fresh else project.tiles
