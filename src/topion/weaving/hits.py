"""What rules do in a room: how often each fires, and how near others came in one cell."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from topion.grid.arrays import CellList, MaterialIds
from topion.grid.hashing import variant_bytes
from topion.grid.neighbours import window_offsets
from topion.weaving.block_loom import OFFSETS_27
from topion.weaving.compiled import CompiledBook
from topion.weaving.inlays import around_inlays
from topion.weaving.loom import neighbours
from topion.weaving.rules import Orientation
from topion.weaving.why import Why, answer

_STRIP = 1 << 16  # cells at once


@dataclass(frozen=True)
class Near:
    """A rule that did not fire in a cell.  failed : (row, column) of the marks that did not fit,
    on the card as it stands in its nearest orientation; of blocks nine rows, from below.

    behind : all its marks fit, but an earlier rule fired.
    """

    number: int
    book: str
    orientation: Orientation
    failed: tuple[tuple[int, int], ...]

    @property
    def behind(self) -> bool:
        return not self.failed


def hits(
    book: CompiledBook,
    material: MaterialIds,
    number: int,
    step: Callable[[], None] = lambda: None,
    inlay: MaterialIds | None = None,
) -> Counter[tuple[str, int]]:
    """How many cells of a room each rule lays, by its book and its number there; ("", 0) counts
    those where none fits.

    material : (h, w) or (d, h, w) as they show.  number : of the book's material.
    step : called now and then; may raise to stop.  inlay : second materials, for a book of one.
    """
    found: Counter[int] = Counter()
    own = material if inlay is None else inlay
    flat = np.flatnonzero(own.reshape(-1) == number)
    for low in range(0, len(flat), _STRIP):
        step()
        cells = np.stack(np.unravel_index(flat[low : low + _STRIP], material.shape), axis=1)
        first = book.first_rules(*_round(book, material, cells, inlay))
        places, counts = np.unique(first, return_counts=True)
        found.update(dict(zip(places.tolist(), counts.tolist(), strict=True)))
    named: Counter[tuple[str, int]] = Counter()
    for place, count in found.items():
        rule = book.rules[place] if place >= 0 else None
        named[(rule.book, rule.number) if rule else ("", 0)] += count
    return named


def near_misses(
    book: CompiledBook,
    material: MaterialIds,
    cell: tuple[int, ...],
    most_failed: int = 2,
    inlay: MaterialIds | None = None,
) -> list[Near]:
    """The rules that did not fire in a cell of the book's material but came close, nearest first.

    most_failed : marks that may not fit.  inlay : as of `hits`.
    """
    around, also = _round(book, material, np.array([cell], np.intp), inlay)
    classes = book.classes_around(around)[0]
    rows, columns = np.indices(classes.shape)
    fits = book.as_patterns()[:, rows, columns, classes]
    first = int(book.first_rules(around, also)[0])
    fired = (book.rules[first].book, book.rules[first].number) if first >= 0 else None
    best: dict[tuple[str, int], tuple[int, int]] = {}
    for at, failed in enumerate((~fits).sum(axis=(1, 2)).tolist()):
        rule = book.rules[at]
        key = (rule.book, rule.number)
        if key != fired and failed <= most_failed and failed < best.get(key, (99, 0))[0]:
            best[key] = failed, at
    found = []
    for (owner, number), (_, at) in sorted(best.items(), key=lambda near: near[1]):
        failed = tuple((int(row), int(column)) for row, column in np.argwhere(~fits[at]))
        found.append(Near(number, owner, book.rules[at].orientation, failed))
    return found


def why_inlaid(
    book: CompiledBook,
    name: str,
    material: MaterialIds,
    inlay: MaterialIds,
    cell: tuple[int, ...],
) -> Why | None:
    """Why a cell shows its inlay.  name : of the inlay, whose book it is."""
    rule = book.rule_for(*_round(book, material, np.array([cell], np.intp), inlay))
    ys, xs = np.array([cell], np.intp).T
    return answer(name, book, rule, int(variant_bytes(ys, xs)[0]))


def _round(
    book: CompiledBook, material: MaterialIds, cells: CellList, inlay: MaterialIds | None
) -> tuple[MaterialIds, MaterialIds | None]:
    """Materials round cells, and second ones."""
    if inlay is None:
        return neighbours(material, cells, _offsets(book)), None
    return around_inlays(material, inlay, cells, _offsets(book))


def _offsets(book: CompiledBook) -> np.ndarray:
    return OFFSETS_27 if book.deep else window_offsets(2)
