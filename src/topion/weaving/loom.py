"""The loom: all rule books of a project compiled, and the tiles they give to cells.

Books that only ask "same or open" of the eight neighbours become one table, read at
(material, mask of neighbours, variant byte); all others run through an Automaton.
"""

from __future__ import annotations

from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import BEYOND, CellList, MaterialIds, TileIds
from topion.grid.hashing import variant_bytes, variant_row, variant_starts, variant_window
from topion.grid.neighbours import OFFSETS_8, window_offsets
from topion.model.tileset import TileRef
from topion.weaving.compiled import (
    PATTERNS_FROM,
    CompiledBook,
    compile_books,
    sure_materials,
)
from topion.weaving.rules import RuleBook
from topion.weaving.why import Why, answer

_STRIP_CELLS = 1 << 17
_MANY_STRIPS = 8  # from which a second thread pays
_THREADS = 2
_SMALL_CELLS = 1 << 10
_FEW_BOOKS = 6  # that are looked for one by one
_BITS = (1 << np.arange(8)).astype(np.uint8)
_AROUND_8 = np.array([0, 1, 2, 3, 5, 6, 7, 8])  # of a 3×3 window, without its middle
_INNER_8 = np.array([6, 7, 8, 11, 13, 16, 17, 18])  # the same of a 5×5 window


@dataclass(frozen=True, eq=False)
class _Scratch:
    """Arrays that all strips of one weaving share; fresh memory would cost more than the work."""

    mask: NDArray[np.uint8]
    same: NDArray[np.bool_]
    shifted: NDArray[np.uint64]
    index: NDArray[np.int64]
    woven: TileIds

    @classmethod
    def of(cls, count: int) -> _Scratch:
        whole = count + -count % 8  # spare bytes, so that masks divide into words of eight
        return cls(
            np.zeros(whole, np.uint8),
            np.zeros(whole, bool),
            np.zeros(whole // 8, np.uint64),
            np.zeros(count, np.int64),
            np.zeros(count, np.uint16),
        )

    def first(self, count: int) -> tuple[np.ndarray, ...]:
        """All five, for strips of `count` cells."""
        whole = count + -count % 8
        return (
            self.mask[:whole],
            self.same[:whole],
            self.shifted[: whole // 8],
            self.index[:count],
            self.woven[:count],
        )


class Loom:
    """Weaves cells of material ids into tile ids.  Stateless but for lazily filled tables.

    rim : cells of surroundings that `padded` wants on each side.
    older : another loom, whose books are taken over where they are the same.
    """

    rim = 2

    def __init__(
        self,
        materials: tuple[str, ...],
        books: Mapping[str, RuleBook],
        seeds: Mapping[str, int],
        tile_ids: Mapping[TileRef, int],
        older: Loom | None = None,
    ) -> None:
        count = len(materials) + 1
        self.materials = materials
        self._table = np.zeros((count, 256, 256), np.uint16)  # material, mask, variant byte
        self._beyond_same = np.zeros(count, bool)
        self._general: dict[int, CompiledBook] = {}
        known = older._compiled if older else {}
        self._compiled: dict[int, CompiledBook] = compile_books(
            materials, books, seeds, tile_ids, known
        )
        for material, book in self._compiled.items():
            self._beyond_same[material] = books[materials[material - 1]].beyond == "same"
            if book.only_same_or_open:
                self._table[material] = book.mask_table
            else:
                self._general[material] = book
        self._patterned = {m: b.patterns for m, b in self._compiled.items() if b.patterns}
        self._flat_table = self._table.reshape(-1)
        self._any_beyond_same = bool(self._beyond_same.any())
        self._is_general = np.zeros(1 << 16, bool)
        self._is_general[list(self._general)] = True
        self._has_table = np.zeros(1 << 16, bool)
        self._has_table[[m for m in self._compiled if m not in self._general]] = True
        sides = (book.reach for book in self._general.values())
        self.reach = max(sides, default=1)  # how far a cell's material tells, in cells

    # --- whole arrays ---------------------------------------------------------------------

    def whole(self, material: MaterialIds) -> TileIds:
        """(h, w) tiles of a whole room."""
        padded = np.empty((material.shape[0] + 4, material.shape[1] + 4), np.uint16)
        padded[2:-2, 2:-2] = material
        padded[:2] = padded[-2:] = padded[:, :2] = padded[:, -2:] = BEYOND
        return self.padded(padded, (0, 0))

    def padded(self, cells: MaterialIds, origin: tuple[int, ...], rim: bool = True) -> TileIds:
        """(h, w) tiles of (h + 4, w + 4) materials; beyond the room stands BEYOND.

        origin : the cell of the room at the first tile, for the choice of variants.
        rim : whether any of the cells may lie beyond the room.
        """
        height, width = cells.shape[0] - 4, cells.shape[1] - 4
        origin = (origin[0], origin[1])
        if height * width <= _SMALL_CELLS and not self._general:
            small = self._small(cells, origin, height, width, rim)
            if self._patterned:
                self._lay_patterns(small, cells[2:-2, 2:-2], origin)
            return small
        tiles = np.empty((height, width), np.uint16)
        rows = max(1, _STRIP_CELLS // (width + 4))
        starts = variant_starts(np.arange(origin[0], origin[0] + height))
        tops = iter(range(0, height, rows))

        def weave_strips(_thread: int) -> None:
            """Until none is left; threads take from the same ones."""
            scratch = _Scratch.of(min(rows, height) * (width + 4))
            for top in tops:
                self._strip(cells, tiles, top, min(rows, height - top), starts, origin, scratch)

        if height > _MANY_STRIPS * rows:  # arrays are worked on without the interpreter's lock
            with ThreadPoolExecutor(_THREADS) as pool:
                list(pool.map(weave_strips, range(_THREADS)))
        else:
            weave_strips(0)
        if rim and self._any_beyond_same:
            self._weave_rim(cells, tiles, origin)
        if self._patterned:
            self._lay_patterns(tiles, cells[2:-2, 2:-2], origin)
        return tiles

    def _lay_patterns(
        self, tiles: TileIds, materials: MaterialIds, origin: tuple[int, int]
    ) -> None:
        """Put the tiles of patterns where their numbers stand; writes into `tiles`."""
        at = np.nonzero(tiles >= PATTERNS_FROM)
        ys, xs = at[0] + origin[0], at[1] + origin[1]
        tiles[at] = self._of_patterns(tiles[at], materials[at], ys, xs)

    def _of_patterns(
        self,
        tiles: TileIds,
        materials: MaterialIds,
        ys: NDArray[np.intp],
        xs: NDArray[np.intp],
    ) -> TileIds:
        """(n,) the tiles that stand at places of a room for numbers of patterns."""
        out = tiles.copy()
        for material, patterns in self._patterned.items():
            for number, pattern in enumerate(patterns, PATTERNS_FROM):
                here = np.flatnonzero((tiles == number) & (materials == material))
                high, wide = pattern.shape
                out[here] = pattern[ys[here] % high, xs[here] % wide]
        return out

    def _small(
        self, cells: MaterialIds, origin: tuple[int, int], height: int, width: int, rim: bool
    ) -> TileIds:
        """A dab: all neighbours in one look-up, through cached indices."""
        near, steps = _window_index(height, width, cells.shape[1])
        around = cells.reshape(-1).take(near)
        centre = around[8]
        same = around[:8] == centre
        if rim and self._any_beyond_same and (around == BEYOND).any():
            same |= (around[:8] == BEYOND) & self._beyond_same.take(centre, mode="clip")
        # material, mask and variant byte side by side in memory are the index of the table
        index = np.zeros(height * width, np.uint32)
        parts = index.view(np.uint8)
        parts[::4] = variant_window(origin[0], origin[1], height, steps)
        parts[1::4] = _BITS.dot(same.view(np.uint8))
        index.view(np.uint16)[1::2] = centre
        return self._flat_table.take(index).reshape(height, width)

    def _strip(
        self,
        cells: MaterialIds,
        tiles: TileIds,
        top: int,
        rows: int,
        starts: NDArray[np.intp],
        origin: tuple[int, int],
        scratch: _Scratch,
    ) -> None:
        """Weave `rows` rows from `top`.  Works on flat runs, so that no compare has gaps."""
        pitch, width = cells.shape[1], tiles.shape[1]
        if self._general and not self._has_table.take(cells[top + 2 : top + rows + 2]).any():
            tiles[top : top + rows] = 0
            self._strip_general(cells[top : top + rows + 4], tiles[top : top + rows], top, origin)
            return
        flat = cells[top + 1 : top + rows + 3].reshape(-1)  # one row of neighbours each side
        n = rows * pitch
        here = flat[pitch : pitch + n]
        mask, same, shifted, index, woven = scratch.first(n)
        words, bits = mask.view(np.uint64), same.view(np.uint64)
        words[...] = 0
        for bit, (dy, dx) in enumerate(OFFSETS_8):
            start = pitch + dy * pitch + dx
            first, last = max(0, -start), min(n, flat.size - start)
            np.equal(here[first:last], flat[start + first : start + last], out=same[first:last])
            # eight cells at once: each byte is 0 or 1, so a shift stays within its byte
            np.left_shift(bits, np.uint64(bit), out=shifted)
            np.bitwise_or(words, shifted, out=words)
        parts = index.view(np.uint8).reshape(n, 8)
        variants = parts[:, 0].reshape(rows, pitch)
        for row in range(rows):
            variants[row, 2:-2] = variant_row(int(starts[top + row]), origin[1], width)
        parts[:, 1] = mask[:n]
        index.view(np.uint16).reshape(n, 4)[:, 1] = here
        index.reshape(rows, pitch)[:, :2] = 0  # the rim holds BEYOND, which has no table
        index.reshape(rows, pitch)[:, -2:] = 0
        self._flat_table.take(index, mode="clip", out=woven)
        tiles[top : top + rows] = woven.reshape(rows, pitch)[:, 2:-2]
        if self._general:
            self._strip_general(cells[top : top + rows + 4], tiles[top : top + rows], top, origin)

    def _strip_general(
        self, cells: MaterialIds, tiles: TileIds, top: int, origin: tuple[int, int]
    ) -> None:
        inner = cells[2:-2, 2:-2]
        for material in self._general_in(inner):
            here = inner == material
            rows, columns = np.flatnonzero(here.any(axis=1)), np.flatnonzero(here.any(axis=0))
            lo, hi = (int(rows[0]), int(columns[0])), (int(rows[-1]) + 1, int(columns[-1]) + 1)
            window = cells[lo[0] : hi[0] + 4, lo[1] : hi[1] + 4]
            here = here[lo[0] : hi[0], lo[1] : hi[1]]
            ys = np.arange(lo[0], hi[0]) + top + origin[0]
            xs = np.arange(lo[1], hi[1]) + origin[1]
            part = tiles[lo[0] : hi[0], lo[1] : hi[1]]
            self._general[int(material)].weave(window, here, (ys, xs), part)

    def _general_in(self, cells: MaterialIds) -> list[int]:
        """Materials whose books are no table, of those that are there."""
        if len(self._general) > _FEW_BOOKS:
            present = self._is_general.take(cells)
            return np.unique(cells[present]).tolist() if present.any() else []
        return [material for material in self._general if (cells == material).any()]

    def _weave_rim(self, cells: MaterialIds, tiles: TileIds, origin: tuple[int, int]) -> None:
        """Weave again what touches a side beyond which the room ends."""
        height, width = tiles.shape
        rows, columns = np.arange(height), np.arange(width)
        sides = (  # whether the room ends there, and the cells along it
            ((cells[1, 1:-1] == BEYOND).any(), np.zeros_like(columns), columns),
            ((cells[-2, 1:-1] == BEYOND).any(), np.full_like(columns, height - 1), columns),
            ((cells[1:-1, 1] == BEYOND).any(), rows, np.zeros_like(rows)),
            ((cells[1:-1, -2] == BEYOND).any(), rows, np.full_like(rows, width - 1)),
        )
        for ends, ys, xs in sides:
            mine = np.flatnonzero(self._has_table.take(cells[ys + 2, xs + 2]))
            if not ends or not len(mine):  # other books know what lies beyond
                continue
            ys, xs = ys[mine], xs[mine]
            offsets = window_offsets(2)
            around = cells[ys[:, None] + offsets[:, 0] + 2, xs[:, None] + offsets[:, 1] + 2]
            tiles[ys, xs] = self._around(around, ys + origin[0], xs + origin[1])

    # --- single cells ---------------------------------------------------------------------

    @cached_property
    def sure(self) -> NDArray[np.bool_]:
        """(materials + 1,) which ones show something in each of their cells."""
        return sure_materials(len(self.materials) + 1, self._compiled)

    @property
    def offsets(self) -> NDArray[np.intp]:
        """(k, 2) the neighbours that tell what a cell shows, itself in the middle."""
        return window_offsets(self.reach)

    def around(self, around: MaterialIds, at: CellList, also: MaterialIds | None = None) -> TileIds:
        """(n,) tiles from (n, 9) or (n, 25) materials round (n, 2) cells.

        also : second materials of the same cells, as which they count too; 0 for none.
        """
        return self._around(around, at[:, 0], at[:, 1], also)

    def asks_about(self, material: int) -> list[int]:
        """The materials whose rules tell a neighbour of that one from others."""
        books = self._compiled.items()
        return [number for number, book in books if number != material and book.tells(material)]

    def _around(
        self,
        around: MaterialIds,
        ys: NDArray[np.intp],
        xs: NDArray[np.intp],
        also: MaterialIds | None = None,
    ) -> TileIds:
        wide = around.shape[1] == 25
        centre = around[:, 12 if wide else 4]
        near = around[:, _INNER_8 if wide else _AROUND_8]
        same = near == centre[:, None]
        if also is not None:
            same |= also[:, _INNER_8 if wide else _AROUND_8] == centre[:, None]
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
                second = None if also is None else also[at]
                book = self._general[material]
                tiles[at] = book.weave_around(around[at], variants[at], second)
        return self._of_patterns(tiles, centre, ys, xs) if self._patterned else tiles

    # --- answers --------------------------------------------------------------------------

    def book_of(self, material: int) -> CompiledBook | None:
        """The compiled book of a material by its number; None where it has none."""
        return self._compiled.get(material)

    def why(self, material: MaterialIds, *cell: int, first: tuple[int, ...] = (0,)) -> Why | None:
        """Why the cell shows its tile; None for an empty cell.

        first : the first cell of the room, as chance counts it.
        """
        number = int(material[cell])
        if number not in self._compiled:
            return None
        at = np.array([cell], np.intp)
        book = self._compiled[number]
        rule = book.rule_for(neighbours(material, at, window_offsets(2)))
        ys, xs = (at + np.array(first, np.intp)).T
        byte = int(variant_bytes(ys, xs)[0])
        return answer(self.materials[number - 1], book, rule, byte)

    def uncovered(self, material: MaterialIds) -> NDArray[np.intp]:
        """(n, 2) cells where no rule fits: they show the last resort, or nothing."""
        parts = [np.empty((0, 2), np.intp)]
        for number, book in self._compiled.items():
            cells = np.argwhere(material == number) if not book.always_fits else parts[0]
            if len(cells):
                around = neighbours(material, cells, window_offsets(book.reach))
                parts.append(cells[book.first_rules(around) < 0])
        return np.concatenate(parts)


def neighbours(material: MaterialIds, cells: CellList, offsets: NDArray[np.intp]) -> MaterialIds:
    """(n, k) materials at (k, axes) offsets from (n, axes) cells, with BEYOND outside the room.

    For any number of axes.
    """
    index, out = np.zeros((len(cells), len(offsets)), np.intp), None
    for axis, side in enumerate(material.shape):
        at = cells[:, axis : axis + 1] + offsets[:, axis]
        reach = int(np.abs(offsets[:, axis]).max(initial=0))
        lo, hi = cells[:, axis].min(initial=reach), cells[:, axis].max(initial=0)
        if lo < reach or hi >= side - reach:
            beyond = (at < 0) | (at >= side)
            out = beyond if out is None else out | beyond
        index *= side
        index += at
    around = material.reshape(-1).take(index, mode="clip")
    if out is not None:
        around[out] = BEYOND
    return around


@lru_cache(maxsize=256)
def _window_index(height: int, width: int, pitch: int) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """(9, n) flat indices of the neighbours and, last, the cell itself, for each cell of a
    window with a rim of two; and (width,) steps along a row."""
    ys, xs = np.divmod(np.arange(height * width), width)
    home = (ys + 2) * pitch + xs + 2
    steps = [dy * pitch + dx for dy, dx in (*OFFSETS_8, (0, 0))]
    return home + np.array(steps)[:, None], np.arange(width)
