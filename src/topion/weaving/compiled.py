"""One rule book compiled: its rules in all their orientations, in the order they are tried."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import BEYOND, MaterialIds, TileIds
from topion.grid.hashing import hashed, variant_block, variant_bytes
from topion.grid.neighbours import OFFSETS_8
from topion.model.project import MOST_TILES
from topion.model.tileset import TileRef
from topion.weaving.automaton import (
    MOST_CLASSES,
    NO_CLASS,
    SIDE,
    Automaton,
    TooManyStates,
    first_fits_plainly,
    row_codes,
)
from topion.weaving.rules import (
    ANY,
    NAMED,
    OPEN,
    SAME,
    Orientation,
    RuleBook,
    orientations,
    oriented_levels,
    oriented_marks,
    oriented_tile,
)

PATTERNS_FROM = MOST_TILES + 1  # numbers above all tiles stand for the patterns of a book
_DENSE = 0.25  # share of a window from which all of it is run through the automaton


@dataclass(frozen=True, eq=False)
class OrientedRule:
    """A rule in one orientation, with the tiles it lays."""

    book: str
    number: int  # of its rule in the book, from 1
    name: str
    orientation: Orientation
    marks: tuple[tuple[str, ...], ...]  # 5 rows of 5, or 9 rows of 3 for blocks
    refs: tuple[TileRef, ...]
    ids: NDArray[np.uint16]  # of its tiles, one a variant
    pattern: TileIds | None  # (h, w) tiles that repeat by place instead
    variant_of_byte: NDArray[np.uint8]  # (256,)


class CompiledBook:
    """A rule book ready to weave one material.

    A cell's neighbours are sorted into classes: (same or open) × (which named material).
    """

    def __init__(
        self,
        material: str,
        rules: list[OrientedRule],
        book: RuleBook,
        materials: tuple[str, ...],
        tile_ids: Mapping[TileRef, int],
        deep: bool = False,
        source: object = None,
    ) -> None:
        self.source = source  # equal for books that are the same
        self.material, self.deep = material, deep
        self.rules = rules
        self.patterns = [rule.pattern for rule in rules if rule.pattern is not None]
        self.last_resort = book.last_resort
        self._last_id = tile_ids.get(book.last_resort, 0) if book.last_resort else 0
        named = list(
            dict.fromkeys(m[len(NAMED) :] for m in _all_marks(rules) if m.startswith(NAMED))
        )
        same = {material, *book.joins}
        kinds = {(False, ""): 0, (True, ""): 1}
        class_of = np.zeros(1 << 16, np.uint8)
        told_apart = {*same, *named}.intersection(materials)  # all others are of the first class
        for number, name in sorted((materials.index(name) + 1, name) for name in told_apart):
            key = (name in same, name if name in named else "")
            class_of[number] = kinds.setdefault(key, len(kinds))
        class_of[BEYOND] = 1 if book.beyond == "same" else 0
        self._class_of = class_of
        self._patterns = _patterns(rules, list(kinds), self.card_shape)
        wide = not deep and any(m != ANY for rule in rules for m in _outer_ring(rule.marks))
        self.reach = 2 if wide else 1
        self.only_same_or_open = self.reach == 1 and not named and not book.joins
        self.always_fits = bool(len(rules)) and any(p.all() for p in self._patterns)
        self._automaton = Automaton(self._patterns) if len(kinds) <= MOST_CLASSES else None

    @cached_property
    def lays_always(self) -> bool:
        """Whether a cell of its material shows something, whatever lies around it."""
        empty = np.argwhere(self._tile_table == 0)[:, 0]
        return not (empty < len(self.rules)).any() and (self.always_fits or not len(empty))

    @property
    def asks_nothing(self) -> bool:
        """Whether the neighbours do not matter."""
        return bool(self._patterns[:1].all()) and len(self.rules) > 0

    @cached_property
    def mask_table(self) -> NDArray[np.uint16]:
        """(256, 256) tile ids by mask of same neighbours and variant byte."""
        masks = np.arange(256)
        around = np.zeros((256, SIDE, SIDE), np.uint8)
        for bit, (dy, dx) in enumerate(OFFSETS_8):
            around[:, 2 + dy, 2 + dx] = masks >> bit & 1
        first = first_fits_plainly(self._patterns, around)
        return self.laid(first[:, None], np.arange(256, dtype=np.uint8)[None, :])

    def first_rules(
        self, around: MaterialIds, also: MaterialIds | None = None
    ) -> NDArray[np.int32]:
        """(n,) place in `rules` of the first that fits the neighbours, or -1.

        around : (n, 9) or (n, 25) materials, or (n, 27) round blocks.  also : their second ones.
        """
        classes = self.classes_around(around)
        if also is None or not also.any():
            return self._first(classes)
        return first_fits_plainly(self._patterns, classes, self._second_classes(also))

    def rule_for(self, around: MaterialIds, also: MaterialIds | None = None) -> OrientedRule | None:
        first = int(self.first_rules(around, also)[0])
        return self.rules[first] if first >= 0 else None

    def weave(
        self,
        window: MaterialIds,
        here: NDArray[np.bool_],
        at: tuple[NDArray[np.intp], NDArray[np.intp]],
        tiles: TileIds,
    ) -> None:
        """Write the tiles of the cells `here` of a window that has a rim of two cells.

        at : the rows and the columns of the window in the room.
        """
        classes = self._class_of.take(window)
        automaton = self._automaton
        if here.mean() > _DENSE and automaton and len(automaton.rows):
            first = self._first_by_runs(row_codes(classes, automaton.classes), automaton.rows)
            if first is not None:
                woven = self.laid(first.reshape(here.shape), variant_block(*at))
                np.copyto(tiles, woven, where=here)
                return
        ys, xs = np.nonzero(here)
        around = np.stack(
            [classes[ys + r, xs + c] for r in range(SIDE) for c in range(SIDE)], axis=1
        )
        tiles[ys, xs] = self._woven(
            around.reshape(-1, SIDE, SIDE), variant_bytes(at[0][ys], at[1][xs])
        )

    def weave_around(
        self,
        around: MaterialIds,
        variants: NDArray[np.uint8],
        also: MaterialIds | None = None,
    ) -> TileIds:
        """(n,) tiles from (n, 9) or (n, 25) neighbours; `also` are their second materials."""
        if also is None or not also.any():
            return self._woven(self.classes_around(around), variants)
        return self.laid(self.first_rules(around, also), variants)

    def _second_classes(self, also: MaterialIds) -> NDArray[np.uint8]:
        """As `_classes_around`, with NO_CLASS where there is no second material."""
        classes = self.classes_around(also)
        here = np.zeros(classes.shape, bool)
        if also.shape[1] == here[0].size:
            here[...] = (also > 0).reshape(classes.shape)
        else:
            here[:, 1:-1, 1:-1] = (also > 0).reshape(-1, 3, 3)
        return np.where(here, classes, np.uint8(NO_CLASS))

    def tells(self, material: int) -> bool:
        """Whether a neighbour of that material is another thing to its cards than others are."""
        return bool(self._class_of[material])

    def weave_codes(
        self, rows: list[NDArray[np.intp]], variants: NDArray[np.uint8]
    ) -> TileIds | None:
        """(n,) tiles from the codes of the rows its cards ask for; None where tables would
        not pay and the neighbours themselves are wanted."""
        first = self._first_of_codes(rows, len(variants))
        return None if first is None else self.laid(first, variants)

    def _first_of_codes(self, rows: list[NDArray[np.intp]], count: int) -> NDArray[np.int32] | None:
        automaton = self._automaton
        if automaton is None:
            return None
        if not len(automaton.rows):
            return np.full(count, 0 if len(self.rules) else -1, np.int32)
        try:
            return automaton.first_fits(rows)
        except TooManyStates:  # noise: from here on pattern by pattern
            self._automaton = None
            return None

    def _first_by_runs(
        self, codes: NDArray[np.uint16], asked: NDArray[np.intp]
    ) -> NDArray[np.int32] | None:
        """(h * w,) place of the first card that fits, or -1, from (h + 4, w) codes of rows.

        A cell whose rows all read as those of the cell before it has the same answer, so only
        where something changes along a row is asked at all: along the edges of patches.
        """
        height, width = codes.shape[0] - SIDE + 1, codes.shape[1]
        turns = codes[:, 1:] != codes[:, :-1]
        changed = np.ones((height, width), bool)
        changed[:, 1:] = turns[asked[0] : asked[0] + height]
        for row in asked[1:]:
            changed[:, 1:] |= turns[row : row + height]
        at = np.flatnonzero(changed)
        flat = codes.reshape(-1)
        rows = [flat.take(at + row * width).astype(np.intp) for row in asked]
        first = self._first_of_codes(rows, len(at))
        return None if first is None else np.repeat(first, np.diff(at, append=changed.size))

    @property
    def rows_asked(self) -> list[int]:
        automaton = self._automaton
        return automaton.rows.tolist() if automaton else []

    def classes_of(self, materials: MaterialIds) -> NDArray[np.uint8]:
        """What each material is to the cards: same or open, and which of the named ones."""
        return np.asarray(self._class_of.take(materials))

    @property
    def card_shape(self) -> tuple[int, int]:
        """(rows, width) of its cards: 5 × 5 cells, or nine rows of three for blocks."""
        return (9, 3) if self.deep else (SIDE, SIDE)

    def as_patterns(self) -> NDArray[np.bool_]:
        """(cards, rows, width, classes) which class of neighbours may stand where; to be read."""
        return self._patterns

    @property
    def classes(self) -> int:
        """How many classes there are."""
        return int(self._patterns.shape[3])

    def _woven(self, classes: NDArray[np.uint8], variants: NDArray[np.uint8]) -> TileIds:
        """(n,) tiles from (n, rows, width) classes."""
        return self.laid(self._first(classes), variants)

    def _first(self, classes: NDArray[np.uint8]) -> NDArray[np.int32]:
        """(n,) place of the first card that fits (n, rows, width) classes, or -1."""
        automaton = self._automaton
        if automaton:
            rows, width = classes.shape[1:]
            codes = row_codes(classes.reshape(-1, width), automaton.classes, width)
            per_row = codes.reshape(-1, rows)
            asked = [per_row[:, row].astype(np.intp) for row in automaton.rows]
            first = self._first_of_codes(asked, len(classes))
            if first is not None:
                return first
        return first_fits_plainly(self._patterns, classes)

    def classes_around(self, around: MaterialIds) -> NDArray[np.uint8]:
        """(n, rows, width) classes of (n, k) materials, see `first_rules`; what 3×3 neighbours do
        not show of 5×5 counts as open."""
        if self._patterns.shape[1] != SIDE:
            return self._class_of.take(around).reshape(-1, *self._patterns.shape[1:3])
        if around.shape[1] == SIDE * SIDE:
            return self._class_of.take(around).reshape(-1, SIDE, SIDE)
        classes = np.zeros((len(around), SIDE, SIDE), np.uint8)
        classes[:, 1:-1, 1:-1] = self._class_of.take(around).reshape(-1, 3, 3)
        return classes

    def laid(self, first: NDArray[np.integer], variants: NDArray[np.uint8]) -> TileIds:
        """The tiles that cards, by place or -1 for none, give for variant bytes."""
        index = (first.astype(np.intp) << 8) | variants
        return np.asarray(self._tile_table.reshape(-1).take(index, mode="wrap"))

    @cached_property
    def _tile_table(self) -> NDArray[np.uint16]:
        """(rules + 1, 256) tile ids by variant byte; -1 reads the last row."""
        rows, number = [], PATTERNS_FROM
        for rule in self.rules:
            if rule.pattern is None:
                rows.append(rule.ids[rule.variant_of_byte])
            else:
                rows.append(np.full(256, number, np.uint16))
                number += 1
        return np.stack([*rows, np.full(256, self._last_id, np.uint16)])


def compile_books(
    materials: tuple[str, ...],
    books: Mapping[str, RuleBook],
    seeds: Mapping[str, int],
    tile_ids: Mapping[TileRef, int],
    older: Mapping[int, CompiledBook],
    *,
    deep: bool = False,
) -> dict[int, CompiledBook]:
    """The books of all materials by number, each with those behind it that it falls back to.

    older : of these, what was compiled of the same is taken over.
    deep : for blocks, whose cards have three levels.
    """
    compiled = {}
    for number, material in enumerate(materials, 1):
        chain = tuple(_chain(material, books))
        if not chain:
            continue
        seed = seeds.get(material, 0)
        source = (materials, tile_ids, chain, seed)
        book = older.get(number)
        if book is None or book.source != source:
            rules: list[OrientedRule] = []
            for name, rule_book in chain:
                rules += _oriented_rules(name, rule_book, seed, tile_ids, deep)
            book = CompiledBook(material, rules, chain[0][1], materials, tile_ids, deep, source)
        compiled[number] = book
    return compiled


def sure_materials(count: int, compiled: Mapping[int, CompiledBook]) -> NDArray[np.bool_]:
    """(count,) which materials show something in each of their cells."""
    sure = np.zeros(count, bool)
    sure[[number for number, book in compiled.items() if book.lays_always]] = True
    return sure


def _chain(material: str, books: Mapping[str, RuleBook]) -> Iterator[tuple[str, RuleBook]]:
    """The book of a material, and behind it those it falls back to, each once."""
    tried: set[str] = set()
    while material in books and material not in tried:
        tried.add(material)
        yield material, books[material]
        material = books[material].falls_back_to


def _oriented_rules(
    name: str, book: RuleBook, seed: int, tile_ids: Mapping[TileRef, int], deep: bool
) -> Iterator[OrientedRule]:
    spreads: dict[tuple[float, ...], NDArray[np.uint8]] = {}
    for number, rule in enumerate(book.rules, 1):
        if not rule.on:
            continue
        weights = tuple(variant.weight for variant in rule.variants)
        if weights not in spreads:
            spreads[weights] = spread(weights, seed)
        for orientation in orientations(rule):
            marks = (
                oriented_levels(rule, orientation)
                if deep
                else _five_wide(oriented_marks(rule, orientation))
            )
            refs = tuple(oriented_tile(v.tile, rule, orientation) for v in rule.variants)
            yield OrientedRule(
                name,
                number,
                rule.name,
                orientation,
                tuple(tuple(row) for row in marks),
                refs,
                np.array([tile_ids.get(ref, 0) for ref in refs], np.uint16),
                _pattern_ids(rule.pattern, tile_ids),
                spreads[weights],
            )


def _pattern_ids(
    pattern: tuple[tuple[TileRef, ...], ...], tile_ids: Mapping[TileRef, int]
) -> TileIds | None:
    rows = [[tile_ids.get(ref, 0) for ref in row] for row in pattern]
    return np.array(rows, np.uint16) if rows else None


def spread(weights: tuple[float, ...], seed: int) -> NDArray[np.uint8]:
    """(256,) which variant each byte stands for: shares by weight, shuffled by the seed."""
    order = np.argsort(hashed(seed, np.arange(256)), kind="stable")
    edges = np.cumsum(weights) / np.sum(weights) * 256
    shares = np.searchsorted(edges, np.arange(256) + 0.5).clip(0, len(weights) - 1)
    return shares.astype(np.uint8)[order]


def _five_wide(marks: list[list[str]]) -> list[list[str]]:
    if len(marks) == 5:
        return marks
    return [[ANY] * 5, *([ANY, *row, ANY] for row in marks), [ANY] * 5]


def _all_marks(rules: list[OrientedRule]) -> Iterator[str]:
    for rule in rules:
        for row in rule.marks:
            yield from row


def _outer_ring(marks: tuple[tuple[str, ...], ...]) -> Iterator[str]:
    yield from (*marks[0], *marks[-1])
    for row in marks[1:-1]:
        yield from (row[0], row[-1])


def _patterns(
    rules: list[OrientedRule], kinds: list[tuple[bool, str]], shape: tuple[int, int]
) -> NDArray[np.bool_]:
    """(cards, rows, width, classes) bool: which class may stand where."""
    allowed = {
        ANY: np.ones(len(kinds), bool),
        SAME: np.array([same for same, _ in kinds]),
        OPEN: np.array([not same for same, _ in kinds]),
    }
    patterns = np.ones((len(rules), *shape, len(kinds)), bool)
    for number, rule in enumerate(rules):
        for row in range(shape[0]):
            for column in range(shape[1]):
                mark = rule.marks[row][column]
                if mark not in allowed:
                    name = mark[len(NAMED) :]
                    allowed[mark] = np.array([named == name for _, named in kinds])
                patterns[number, row, column] = allowed[mark]
    return patterns
