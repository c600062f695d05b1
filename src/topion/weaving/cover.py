"""Cover: which rule answers each way a cell can sit among its like, and which can never answer."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from topion.grid.neighbours import bits_of, cases_47
from topion.weaving.automaton import first_fits_plainly, row_sets, winners
from topion.weaving.compiled import CompiledBook, OrientedRule
from topion.weaving.rules import ANY, OPEN, SAME, CardOfMarks

By = Literal["own", "turned", "falls back", "open"]
FACES = ((0, 1, 1), (1, 0, 1), (1, 1, 0), (1, 1, 2), (1, 2, 1), (2, 1, 1))  # of 3×3×3, [z, y, x]
FACE_NAMES = ("below", "north", "west", "east", "south", "above")
_MOST_STATES = 20_000


@dataclass(frozen=True)
class Case:
    """One way a cell can sit.  mask : which neighbours are the same, of eight or of six faces.

    number : of the rule in its book from 1, 0 for none.  book : whose rule it is.
    """

    mask: int
    by: By
    number: int = 0
    book: str = ""


@dataclass(frozen=True)
class Hidden:
    """A rule that can never fire.  by : the numbers of the earlier ones that fit wherever it does;
    none where it asks for what cannot be."""

    number: int
    by: tuple[int, ...]


def cover(book: CompiledBook) -> list[Case]:
    """The 47 cases of tiles, or the 64 cases of the faces of blocks, in order.

    What a case does not tell counts against a rule that asks for it: named materials, the outer
    ring of 5×5, the edges and corners of blocks.
    """
    if book.deep:
        masks, bits = list(range(64)), np.array([_faces(mask) for mask in range(64)])
        told = np.array([_faces(63)]).reshape(-1)
    else:
        masks = list(cases_47())
        bits = np.array([np.pad(bits_of(mask), 1).reshape(-1) for mask in masks])
        told = np.pad(np.ones((3, 3), bool), 1).reshape(-1)
    shape = book.card_shape
    sure = np.array([_asks_only(rule.marks, told) for rule in book.rules], bool)
    patterns = book.as_patterns()[sure]
    around = bits.reshape(-1, *shape).astype(np.uint8)
    first = first_fits_plainly(patterns, around)
    rules = [rule for rule, kept in zip(book.rules, sure, strict=True) if kept]
    return [_case(book, rules, mask, at) for mask, at in zip(masks, first.tolist(), strict=True)]


def _case(book: CompiledBook, rules: list[OrientedRule], mask: int, at: int) -> Case:
    if at < 0:
        return Case(mask, "open")
    rule = rules[at]
    if rule.book != book.material:
        return Case(mask, "falls back", rule.number, rule.book)
    own = rule.orientation == (0, False)
    return Case(mask, "own" if own else "turned", rule.number, rule.book)


def _faces(mask: int) -> NDArray[np.bool_]:
    """(9, 3) which of the 3×3×3 cells are the same: faces by the bits, and the middle."""
    cells = np.zeros((3, 3, 3), bool)
    cells[1, 1, 1] = True
    for bit, place in enumerate(FACES):
        cells[place] = mask >> bit & 1
    return cells.reshape(9, 3)


def _asks_only(marks: tuple[tuple[str, ...], ...], told: NDArray[np.bool_]) -> bool:
    flat = itertools.chain.from_iterable(marks)
    return all(
        mark == ANY or (known and mark in (SAME, OPEN))
        for mark, known in zip(flat, told.tolist(), strict=True)
    )


def card_of_faces(mask: int) -> tuple[CardOfMarks, CardOfMarks, CardOfMarks]:
    """The marks of a rule for a case of faces: of its level, of that above and of that below."""
    cells = np.full((3, 3, 3), ANY, dtype=object)
    for bit, place in enumerate(FACES):
        cells[place] = SAME if mask >> bit & 1 else OPEN
    below, level, above = (tuple(tuple(row) for row in card) for card in cells.tolist())
    return level, above, below


def hidden_rules(book: CompiledBook) -> list[Hidden]:
    """The rules of its own that can never fire, whatever lies around a cell.

    Exact: all sets of rules that can fit at once are walked through, row by row of the card, as
    the automaton that weaves would meet them.  Where these are too many, nothing is said.
    """
    patterns = book.as_patterns()
    sets = [row_sets(patterns, row) for row in range(patterns.shape[1])]
    alive = winners(patterns, sets, _MOST_STATES)
    if alive is None:
        return []
    own = [at for at, rule in enumerate(book.rules) if rule.book == book.material]
    fires = {book.rules[at].number for at in own if at in alive}
    found = []
    for number in dict.fromkeys(book.rules[at].number for at in own):
        if number not in fires:
            mine = [at for at in own if book.rules[at].number == number]
            found.append(Hidden(number, tuple(sorted(set(_hiding(book, sets, mine))))))
    return found


def _hiding(book: CompiledBook, sets: list[list[int]], mine: list[int]) -> Iterator[int]:
    patterns = book.as_patterns()
    for at in mine:
        for winner in winners(patterns, sets, _MOST_STATES, within=at) or ():
            if winner not in mine:
                yield book.rules[winner].number
