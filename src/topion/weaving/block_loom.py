"""The loom of voxel rooms: rule books of three levels, and the blocks they give to cells.

A tile is one number for a block and its turn: the block's place in the project's table, TURN_BITS
up, and the turn below.  All books run through the Automaton, nine rows of three cells.
"""

from __future__ import annotations

import itertools
from collections.abc import Mapping
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import BEYOND, CellList, MaterialIds, TileIds
from topion.grid.hashing import variant_bytes
from topion.model.solid import TURN_BITS
from topion.model.tileset import TileRef
from topion.weaving.compiled import CompiledBook, compile_books, sure_materials
from topion.weaving.loom import neighbours
from topion.weaving.rules import RuleBook
from topion.weaving.why import Why, answer

_STRIP_CELLS = 1 << 20
_LEVEL_ROWS = 4099  # rows of variant bytes from one level to the next; prime, above any side

OFFSETS_27 = np.array(list(itertools.product((-1, 0, 1), repeat=3)), np.intp)
OFFSETS_27.flags.writeable = False


class BlockLoom:
    """Weaves (z, y, x) cells of material ids into blocks and turns; the same calls as Loom."""

    rim = 1
    reach = 1
    offsets = OFFSETS_27

    def __init__(
        self,
        materials: tuple[str, ...],
        books: Mapping[str, RuleBook],
        seeds: Mapping[str, int],
        block_names: tuple[str, ...],
        older: BlockLoom | None = None,
    ) -> None:
        self.materials = materials
        numbers, known = _Numbers(block_names), older._compiled if older else {}
        self._compiled: dict[int, CompiledBook] = compile_books(
            materials, books, seeds, numbers, known, deep=True
        )

    @cached_property
    def sure(self) -> NDArray[np.bool_]:
        """(materials + 1,) which ones show something in each of their cells."""
        return sure_materials(len(self.materials) + 1, self._compiled)

    # --- whole arrays ---------------------------------------------------------------------

    def whole(self, material: MaterialIds) -> TileIds:
        """(d, h, w) tiles of a whole room."""
        padded = np.full(tuple(side + 2 for side in material.shape), BEYOND, np.uint16)
        padded[1:-1, 1:-1, 1:-1] = material
        return self.padded(padded, (0, 0, 0))

    def padded(self, cells: MaterialIds, origin: tuple[int, ...], rim: bool = True) -> TileIds:
        """(d, h, w) tiles of (d + 2, h + 2, w + 2) materials; beyond the room stands BEYOND.

        origin : the cell of the room at the first look, for the choice of variants.
        """
        depth, height, width = (side - 2 for side in cells.shape)
        tiles = np.zeros((depth, height, width), np.uint16)
        levels = max(1, _STRIP_CELLS // max(1, height * width))
        for low in range(0, depth, levels):
            high = min(depth, low + levels)
            self._strip(cells[low : high + 2], tiles[low:high], (origin[0] + low, *origin[1:]))
        return tiles

    def _strip(self, cells: MaterialIds, tiles: TileIds, origin: tuple[int, ...]) -> None:
        inner = cells[1:-1, 1:-1, 1:-1]
        counts = np.bincount(inner.reshape(-1), minlength=2)
        for material in np.flatnonzero(counts).tolist():
            book = self._compiled.get(material)
            if book is None:
                continue
            here = np.nonzero(inner == material)
            variants = _variants(np.stack(here, axis=1) + np.array(origin))
            found = None
            if book.asks_nothing:
                found = book.laid(np.zeros(len(variants), np.intp), variants)
            else:
                found = book.weave_codes(_row_codes(book, cells, here), variants)
            if found is None:
                around = neighbours(cells, np.stack(here, axis=1) + 1, OFFSETS_27)
                found = book.weave_around(around, variants)
            tiles[here] = found

    # --- single cells ---------------------------------------------------------------------

    def around(self, around: MaterialIds, at: CellList) -> TileIds:
        """(n,) tiles from (n, 27) materials round (n, 3) cells."""
        centre = around[:, 13]
        variants = _variants(at)
        tiles = np.zeros(len(at), np.uint16)
        for material in np.unique(centre).tolist():
            book = self._compiled.get(material)
            if book is not None:
                here = np.flatnonzero(centre == material)
                tiles[here] = book.weave_around(around[here], variants[here])
        return tiles

    # --- answers --------------------------------------------------------------------------

    def book_of(self, material: int) -> CompiledBook | None:
        """The compiled book of a material by its number; None where it has none."""
        return self._compiled.get(material)

    def why(self, material: MaterialIds, *cell: int, first: tuple[int, ...] = (0,)) -> Why | None:
        """Why the cell shows its block; None for an empty cell.

        first : the first cell of the room, as chance counts it.
        """
        number = int(material[cell])
        if number not in self._compiled:
            return None
        at = np.array([cell], np.intp)
        book = self._compiled[number]
        rule = book.rule_for(neighbours(material, at, OFFSETS_27))
        byte = int(_variants(at + np.array(first, np.intp))[0])
        return answer(self.materials[number - 1], book, rule, byte)

    def uncovered(self, material: MaterialIds) -> NDArray[np.intp]:
        """(n, 3) cells where no rule fits."""
        parts = [np.empty((0, 3), np.intp)]
        for number, book in self._compiled.items():
            cells = np.argwhere(material == number) if not book.always_fits else parts[0]
            if len(cells):
                around = neighbours(material, cells, OFFSETS_27)
                parts.append(cells[book.first_rules(around) < 0])
        return np.concatenate(parts)


class _Numbers(Mapping[TileRef, int]):
    """The number of every block in every turn, without a table of them all."""

    def __init__(self, block_names: tuple[str, ...]) -> None:
        self._numbers = {name: number for number, name in enumerate(block_names, 1)}

    def __getitem__(self, ref: TileRef) -> int:
        if not ref.is_block:
            raise KeyError(ref)
        return block_tile(self._numbers[ref.slot], ref.turn)

    def __iter__(self):  # type: ignore[no-untyped-def]
        return iter(TileRef("", name) for name in self._numbers)

    def __len__(self) -> int:
        return len(self._numbers)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Numbers) and other._numbers == self._numbers

    def __hash__(self) -> int:
        return hash(tuple(self._numbers))


def block_tile(number: int, turn: int) -> int:
    """The number in cells of a block, by its place in the project's table from 1, and its turn."""
    return number << TURN_BITS | turn


def _variants(cells: CellList) -> NDArray[np.uint8]:
    return variant_bytes(cells[:, 0] * _LEVEL_ROWS + cells[:, 1], cells[:, 2])


def _row_codes(
    book: CompiledBook, cells: MaterialIds, here: tuple[NDArray[np.intp], ...]
) -> list[NDArray[np.intp]]:
    """For each row of three cells that the book asks for, the codes round the cells `here`."""
    classes = book.classes_of(cells)
    count = book.classes
    codes = classes[:, :, :-2].astype(np.uint16)  # at most 7³ codes
    for column in (1, 2):
        codes = codes * np.uint16(count) + classes[:, :, column : column + codes.shape[2]]
    _, height, width = codes.shape
    flat = (here[0] * height + here[1]) * width + here[2]
    lookup = codes.reshape(-1)
    found = []
    for row in book.rows_asked:
        dz, dy = divmod(row, 3)
        found.append(lookup.take(flat + (dz * height + dy) * width).astype(np.intp))
    return found
