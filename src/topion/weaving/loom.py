"""The loom: all rule books of a project compiled, and the tiles they give to cells.

Books that only ask "same or open" of the eight neighbours become one table, read at
(material, mask of neighbours, variant byte); all others run through an Automaton.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import BEYOND, MaterialIds, TileIds
from topion.grid.hashing import variant_bytes, variant_row, variant_starts
from topion.grid.neighbours import window_offsets
from topion.model.tileset import TileRef
from topion.weaving.card import Card, CompiledBook, compile_book
from topion.weaving.rules import RuleBook

_STRIP_CELLS = 1 << 17
_AROUND_8 = np.array([0, 1, 2, 3, 5, 6, 7, 8])  # of a 3×3 window, without its middle
_INNER_8 = np.array([6, 7, 8, 11, 13, 16, 17, 18])  # the same of a 5×5 window


@dataclass(frozen=True)
class Why:
    """Why a cell shows its tile.  number : of the rule in its book from 1; 0 without a rule."""

    material: str
    number: int
    rule: str
    turn: int
    mirrored: bool
    variant: int
    variants: int
    tile: TileRef | None
    book: str  # whose rule it is: the material's own, or the one it falls back to


class Loom:
    """Weaves cells of material ids into tile ids.  Stateless but for lazily filled tables."""

    def __init__(
        self,
        materials: tuple[str, ...],
        books: Mapping[str, RuleBook],
        seeds: Mapping[str, int],
        tile_ids: Mapping[TileRef, int],
    ) -> None:
        count = len(materials) + 1
        self.materials = materials
        self._table = np.zeros((count, 256, 256), np.uint16)  # material, mask, variant byte
        self._beyond_same = np.zeros(count, bool)
        self._general: dict[int, CompiledBook] = {}
        self._compiled: dict[int, CompiledBook] = {}
        for material, name in enumerate(materials, 1):
            if name not in books:
                continue
            book = compile_book(name, materials, books, seeds.get(name, 0), tile_ids)
            self._compiled[material] = book
            self._beyond_same[material] = books[name].beyond == "same"
            if book.only_same_or_open:
                self._table[material] = book.mask_table()
            else:
                self._general[material] = book
        self._flat_table = self._table.reshape(-1)
        self._is_general = np.zeros(1 << 16, bool)
        self._is_general[list(self._general)] = True
        sides = (book.reach for book in self._general.values())
        self.reach = max(sides, default=1)  # how far a cell's material tells, in cells

    # --- whole arrays ---------------------------------------------------------------------

    def whole(self, material: MaterialIds) -> TileIds:
        """(h, w) tiles of a whole room."""
        padded = np.full((material.shape[0] + 4, material.shape[1] + 4), BEYOND, np.uint16)
        padded[2:-2, 2:-2] = material
        return self.padded(padded, (0, 0))

    def padded(self, cells: MaterialIds, origin: tuple[int, int]) -> TileIds:
        """(h, w) tiles of (h + 4, w + 4) materials; beyond the room stands BEYOND.

        origin : the cell of the room at the first tile, for the choice of variants.
        """
        height, width = cells.shape[0] - 4, cells.shape[1] - 4
        tiles = np.empty((height, width), np.uint16)
        rows = max(1, _STRIP_CELLS // (width + 4))
        starts = variant_starts(np.arange(origin[0], origin[0] + height))
        for top in range(0, height, rows):
            self._strip(cells, tiles, top, min(rows, height - top), starts, origin)
        if self._beyond_same.any():
            self._weave_rim(cells, tiles, origin)
        return tiles

    def _strip(
        self,
        cells: MaterialIds,
        tiles: TileIds,
        top: int,
        rows: int,
        starts: NDArray[np.intp],
        origin: tuple[int, int],
    ) -> None:
        """Weave `rows` rows from `top`.  Works on flat runs, so that no compare has gaps."""
        pitch, width = cells.shape[1], tiles.shape[1]
        flat = cells[top + 1 : top + rows + 3].reshape(-1)  # one row of neighbours each side
        n = rows * pitch
        here = flat[pitch : pitch + n]
        east = _equal(flat, pitch - 1, pitch, n + 1)  # [i]: cell i-1 like cell i
        south = _equal(flat, 0, pitch, n + pitch)
        south_east = _equal(flat, 0, pitch + 1, n + pitch - 1)
        south_west = _equal(flat, 0, pitch - 1, n + pitch)
        mask = np.zeros(n, np.uint8)
        scratch = np.empty(n, np.uint8)
        first_se = np.zeros(n, np.uint8)
        first_se[1:] = south_east[: n - 1]
        for bit, same in (
            (1, first_se),
            (2, south[:n]),
            (4, south_west[1 : n + 1]),
            (8, east[:n]),
            (16, east[1 : n + 1]),
            (32, south_west[pitch : pitch + n]),
            (64, south[pitch : pitch + n]),
            (128, _padded_to(south_east[pitch : pitch + n], n)),
        ):
            np.multiply(same, bit, out=scratch)
            np.bitwise_or(mask, scratch, out=mask)
        index = np.zeros(n, np.int64)
        parts = index.view(np.uint8).reshape(n, 8)
        variants = parts[:, 0].reshape(rows, pitch)
        for row in range(rows):
            variants[row, 2:-2] = variant_row(int(starts[top + row]), origin[1], width)
        parts[:, 1] = mask
        index.view(np.uint16).reshape(n, 4)[:, 1] = here
        index.reshape(rows, pitch)[:, :2] = 0  # the rim holds BEYOND, which has no table
        index.reshape(rows, pitch)[:, -2:] = 0
        woven = self._flat_table.take(index, mode="clip").reshape(rows, pitch)
        tiles[top : top + rows] = woven[:, 2:-2]
        if self._general:
            self._strip_general(cells[top : top + rows + 4], tiles[top : top + rows], top, origin)

    def _strip_general(
        self, cells: MaterialIds, tiles: TileIds, top: int, origin: tuple[int, int]
    ) -> None:
        inner = cells[2:-2, 2:-2]
        present = self._is_general.take(inner)
        if not present.any():
            return
        for material in np.unique(inner[present]):
            ys, xs = np.nonzero(inner == material)
            window = cells[ys.min() : ys.max() + 5, xs.min() : xs.max() + 5]
            woven = self._general[int(material)].weave(
                window,
                (ys - ys.min(), xs - xs.min()),
                variant_bytes(ys + top + origin[0], xs + origin[1]),
            )
            tiles[ys, xs] = woven

    def _weave_rim(self, cells: MaterialIds, tiles: TileIds, origin: tuple[int, int]) -> None:
        """Weave again what touches a side beyond which the room ends."""
        height, width = tiles.shape
        rim = np.zeros((height, width), bool)
        if (cells[1, 1:-1] == BEYOND).any():
            rim[0] = True
        if (cells[-2, 1:-1] == BEYOND).any():
            rim[-1] = True
        if (cells[1:-1, 1] == BEYOND).any():
            rim[:, 0] = True
        if (cells[1:-1, -2] == BEYOND).any():
            rim[:, -1] = True
        ys, xs = np.nonzero(rim)
        if len(ys):
            offsets = window_offsets(2)
            around = cells[ys[:, None] + offsets[:, 0] + 2, xs[:, None] + offsets[:, 1] + 2]
            tiles[ys, xs] = self.around(around, ys + origin[0], xs + origin[1])

    # --- single cells ---------------------------------------------------------------------

    def cells(self, material: MaterialIds, flat: NDArray[np.intp]) -> TileIds:
        """(n,) tiles of single cells, given by their flat index into (h, w) `material`."""
        around, ys, xs = neighbourhoods(material, flat, self.reach)
        return self.around(around, ys, xs)

    def around(self, around: MaterialIds, ys: NDArray[np.intp], xs: NDArray[np.intp]) -> TileIds:
        """(n,) tiles from (n, 9) or (n, 25) materials round cells `ys`, `xs`."""
        wide = around.shape[1] == 25
        centre = around[:, 12 if wide else 4]
        near = around[:, _INNER_8 if wide else _AROUND_8]
        same = near == centre[:, None]
        beyond = near == BEYOND
        if beyond.any():
            same |= beyond & self._beyond_same.take(centre, mode="clip")[:, None]
        mask = np.packbits(same, axis=1, bitorder="little")[:, 0]
        variants = variant_bytes(ys, xs)
        index = (centre.astype(np.intp) << 16) | (mask.astype(np.intp) << 8) | variants
        tiles = self._flat_table.take(index)
        if self._general:
            for material in set(centre.tolist()) & self._general.keys():
                at = np.flatnonzero(centre == material)
                tiles[at] = self._general[material].weave_around(around[at], variants[at])
        return tiles

    # --- answers --------------------------------------------------------------------------

    def why(self, material: MaterialIds, y: int, x: int) -> Why | None:
        """Why the cell shows its tile; None for an empty cell."""
        number = int(material[y, x])
        if number not in self._compiled:
            return None
        flat = np.array([y * material.shape[1] + x], np.intp)
        around, ys, xs = neighbourhoods(material, flat, 2)
        book = self._compiled[number]
        card = book.card_for(around)
        byte = int(variant_bytes(ys, xs)[0])
        return _answer(self.materials[number - 1], book, card, byte)

    def uncovered(self, material: MaterialIds) -> NDArray[np.intp]:
        """(n, 2) cells where no rule fits: they show the last resort, or nothing."""
        parts = [np.empty((0, 2), np.intp)]
        for number, book in self._compiled.items():
            cells = np.argwhere(material == number) if not book.always_fits else parts[0]
            if len(cells):
                flat = np.asarray(np.ravel_multi_index(tuple(cells.T), material.shape))
                around, _, _ = neighbourhoods(material, flat, 2)
                parts.append(cells[book.first_cards(around) < 0])
        return np.concatenate(parts)


def neighbourhoods(
    material: MaterialIds, flat: NDArray[np.intp], reach: int
) -> tuple[MaterialIds, NDArray[np.intp], NDArray[np.intp]]:
    """Materials round cells, (n, 9) or (n, 25), with BEYOND outside; and their ys and xs."""
    height, width = material.shape
    ys, xs = np.divmod(flat, width)
    inside = (
        ys.min(initial=reach) >= reach
        and ys.max(initial=0) < height - reach
        and xs.min(initial=reach) >= reach
        and xs.max(initial=0) < width - reach
    )
    if inside:
        return material.reshape(-1).take(flat[:, None] + _flat_offsets(reach, width)), ys, xs
    offsets = window_offsets(reach)
    near_y, near_x = ys[:, None] + offsets[:, 0], xs[:, None] + offsets[:, 1]
    out = (near_y < 0) | (near_y >= height) | (near_x < 0) | (near_x >= width)
    around = material[near_y.clip(0, height - 1), near_x.clip(0, width - 1)]
    around[out] = BEYOND
    return around, ys, xs


@lru_cache(maxsize=64)
def _flat_offsets(reach: int, width: int) -> NDArray[np.intp]:
    offsets = window_offsets(reach)
    return offsets[:, 0] * width + offsets[:, 1]


def _equal(flat: MaterialIds, first: int, second: int, count: int) -> NDArray[np.uint8]:
    """Whether cells `first + i` and `second + i` are alike, as far as both are there."""
    count = min(count, flat.size - second)
    return (flat[first : first + count] == flat[second : second + count]).view(np.uint8)


def _padded_to(part: NDArray[np.uint8], count: int) -> NDArray[np.uint8]:
    """`part`, with zeros behind it; the missing cells lie in the rim."""
    if len(part) == count:
        return part
    return np.concatenate([part, np.zeros(count - len(part), np.uint8)])


def _answer(material: str, book: CompiledBook, card: Card | None, byte: int) -> Why:
    if card is None:
        return Why(material, 0, "", 0, False, 0, 0, book.last_resort, material)
    variant = int(card.variant_of_byte[byte])
    return Why(
        material,
        card.number,
        card.name,
        card.orientation.turn,
        card.orientation.mirrored,
        variant,
        len(card.tiles),
        card.refs[variant],
        card.book,
    )
