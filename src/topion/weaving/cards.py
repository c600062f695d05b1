"""Cards for roles: the fewest that give every surroundings its role, the first that fits wins."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from topion.grid.bit_sets import bits_where, where_bits
from topion.grid.turns import turned
from topion.weaving.contents import ORIENTATIONS
from topion.weaving.example import SAME_CLASS, Surroundings
from topion.weaving.roles import Roles
from topion.weaving.widening import Looked, Widened, widened

NO_MARK = 255  # where a card asks for nothing
_HOPE = 0.5  # later cards may mend so much more each than the last one did
_SEEDS, _WORK = 10, 3_000_000  # surroundings that cards begin as, and marks compared for each card
Ways = tuple[int, ...]  # places in ORIENTATIONS
DRAWN: Ways = (0,)
ALL_WAYS: tuple[Ways, ...] = (DRAWN, (0, 1, 2, 3), (0, 4), tuple(range(8)))


@dataclass(frozen=True, eq=False)
class Card:
    """marks : (side²,) the classes it asks for, NO_MARK for none.  role : of what it lays as drawn.
    ways : the orientations in which it holds.  turns : whether what it lays turns along."""

    marks: NDArray[np.uint8]
    role: int
    ways: Ways = (0,)
    turns: bool = True

    def bits(self, rows: Rows, roles: Roles) -> float:
        """What it takes to write it down: which marks it has, what they ask for, what it lays."""
        asked = int((self.marks != NO_MARK).sum())
        return asked * np.log2(rows.size * rows.classes) + np.log2(len(roles.turned) + 1) + 3


@dataclass(frozen=True, eq=False)
class Rows:
    """cells : (m, 8, side²) classes of surroundings, in each orientation as they would lie if the
    card stood as drawn.  classes : how many there are."""

    cells: NDArray[np.uint8]
    classes: int

    @classmethod
    def seen(cls, seen: Surroundings) -> Rows:
        """The middle counts as same."""
        rows = seen.rows.copy()
        size = rows.shape[1]
        rows[:, size // 2] = SAME_CLASS
        side = round(size**0.5)
        places = np.arange(size).reshape(side, side)
        found = [rows[:, np.argsort(turned(places, *way).reshape(-1))] for way in ORIENTATIONS]
        return cls(np.stack(found, axis=1), len(seen.context.named) + 2)

    @property
    def size(self) -> int:
        """Marks of a card."""
        return self.cells.shape[2]

    def only(self, wanted: NDArray[np.intp]) -> Rows:
        """Some of them."""
        return Rows(self.cells[wanted], self.classes)


def cards_for(
    rows: Rows,
    weight: NDArray[np.intp],
    roles: Roles,
    step: Callable[[], None],
    ways: tuple[Ways, ...] = ALL_WAYS,
    most_bits: float = np.inf,
) -> list[Card] | None:
    """Cards in the order in which they are tried, that give each surroundings its role.

    weight : (m,) cells that have each surroundings.  ways : sets of orientations in which a card
    may hold.  None where the cards would take more than `most_bits`.

    They are found from behind: the last asks for nothing and lays what most cells show; each one
    before it is an exception, which sets right what is wrong so far and leaves right what is.
    """
    asked, found = roles.of_row, np.full(len(weight), -1, np.intp)
    finder = _Finder(rows, weight, roles, ways)
    cards: list[Card] = []
    bits = 0.0
    while (wrong := found != asked).any():
        step()
        card, fits = finder.exception(found) if cards else finder.plain()
        cards.insert(0, card)
        found = np.where(fits >= 0, _laid(card, roles)[fits], found)
        mended = int(wrong.sum()) - int((found != asked).sum())
        bits += card.bits(rows, roles)
        still = (found != asked).sum() / max(1, mended) * _HOPE * card.bits(rows, roles)
        if bits + still > most_bits:
            return None
    return _needed(cards, rows, roles)


def _laid(card: Card, roles: Roles) -> NDArray[np.intp]:
    """(8,) the role that a card lays in each orientation."""
    return roles.turned[card.role] if card.turns else np.full(len(ORIENTATIONS), card.role)


class _Finder:
    """Finds one card after the other."""

    def __init__(
        self, rows: Rows, weight: NDArray[np.intp], roles: Roles, ways: tuple[Ways, ...]
    ) -> None:
        self.rows, self.weight, self.roles, self.ways = rows, weight, roles, ways
        self.asked = roles.of_row
        self.looked = Looked(rows.cells, rows.classes)
        self.belongs = {int(n): bits_where(self.asked == n) for n in np.unique(self.asked)}

    def plain(self) -> tuple[Card, NDArray[np.intp]]:
        """The card that asks for nothing and lays the role that most cells show."""
        marks = np.full(self.rows.size, NO_MARK, np.uint8)
        role = int(np.bincount(self.asked, weights=self.weight).argmax())
        return Card(marks, role), np.zeros(len(self.weight), np.intp)

    def exception(self, found: NDArray[np.intp]) -> tuple[Card, NDArray[np.intp]]:
        """The card that sets most surroundings right, and in which orientation it fits each."""
        right = bits_where(found == self.asked)
        middle = self.rows.size // 2
        every = [mark for mark in range(self.rows.size) if mark != middle]
        best: tuple[tuple[int, ...], Card, Widened] | None = None
        for seed in self._seeds(found != self.asked):
            asks = self.rows.cells[seed, 0].tolist()
            for card in self._starts(seed):
                laid = _laid(card, self.roles)
                belongs = [self.belongs.get(int(laid[way]), 0) for way in card.ways]
                wide = widened(self.looked, asks, every, card.ways, belongs, right)
                if wide is None:
                    continue
                worth = ((wide.good & ~right).bit_count(), -len(card.ways), -len(wide.marks),
                         -(wide.there & ~wide.good).bit_count())  # fmt: skip
                if best is None or worth > best[0]:
                    best = worth, card, wide
        assert best is not None  # a seed as it is sets itself right
        _, card, wide = best
        given_up = np.isin(np.arange(self.rows.size), wide.marks, invert=True)
        fits = np.full(len(self.weight), -1, np.intp)
        for way, bits in zip(card.ways, wide.fits, strict=True):
            fits[where_bits(bits, len(fits))] = way
        return replace(card, marks=np.where(given_up, NO_MARK, card.marks)), fits

    def _seeds(self, wrong: NDArray[np.bool_]) -> list[int]:
        """Surroundings to begin with: of each role the one that is seen most, then the next."""
        rows = np.flatnonzero(wrong)
        rows = rows[np.argsort(-self.weight[rows], kind="stable")]
        rank = np.zeros(len(rows), np.intp)
        for number in np.unique(self.asked[rows]):
            mine = self.asked[rows] == number
            rank[mine] = np.arange(mine.sum())
        most = max(3, min(_SEEDS, _WORK // max(1, self.rows.cells.size)))
        chosen: list[int] = rows[np.argsort(rank, kind="stable")][:most].tolist()
        return chosen

    def _starts(self, seed: int) -> Iterator[Card]:
        """Cards that ask for all of some surroundings, in each set of orientations."""
        marks, role = self.rows.cells[seed, 0].copy(), int(self.asked[seed])
        marks[len(marks) // 2] = NO_MARK
        for held in self.ways:
            if (self.roles.turned[role][list(held)] >= 0).all():
                yield Card(marks, role, held)
            if len(held) > 1:
                yield Card(marks, role, held, turns=False)


def _first_way(fits: NDArray[np.bool_]) -> NDArray[np.intp]:
    """The first orientation, along axis 1, in which something fits; -1 for none."""
    return np.asarray(np.where(fits.any(axis=1), fits.argmax(axis=1), -1))


# --- what a row of cards answers ----------------------------------------------------------


@dataclass(frozen=True, eq=False)
class Answers:
    """card, way : (m,) the first card that fits each surroundings, and its orientation; -1."""

    card: NDArray[np.intp]
    way: NDArray[np.intp]


def answers_of(cards: list[Card], rows: Rows) -> Answers:
    """What each surroundings is answered by."""
    fits = [_ways_of(card, rows) for card in cards]
    return _first(fits, list(range(len(cards))), len(rows.cells))


def _ways_of(card: Card, rows: Rows) -> NDArray[np.intp]:
    """(m,) the first orientation in which a card fits each surroundings, -1 for none."""
    asked, held = card.marks != NO_MARK, list(card.ways)
    fits = (rows.cells[:, held][:, :, asked] == card.marks[asked]).all(axis=2)
    first = _first_way(fits)
    return np.asarray(np.where(first >= 0, np.array(held)[first], -1))


def _first(fits: list[NDArray[np.intp]], order: list[int], count: int) -> Answers:
    card, way = np.full(count, -1, np.intp), np.full(count, -1, np.intp)
    for at in order:
        mine = (card < 0) & (fits[at] >= 0)
        card[mine], way[mine] = at, fits[at][mine]
    return Answers(card, way)


def wrong_in(answers: Answers, cards: list[Card], roles: Roles) -> NDArray[np.intp]:
    """The surroundings that are not given their role."""
    laid = np.stack([_laid(card, roles) for card in cards])
    role = np.where(answers.card >= 0, laid[answers.card, answers.way], -1)
    return np.flatnonzero(role != roles.of_row)


def _needed(cards: list[Card], rows: Rows, roles: Roles) -> list[Card]:
    """Without the cards for which the others answer."""
    fits = [_ways_of(card, rows) for card in cards]
    kept = list(range(len(cards)))
    for number in range(len(cards)):
        without = [at for at in kept if at != number]
        answers = _first(fits, without, len(rows.cells))
        if without and not len(wrong_in(answers, cards, roles)):
            kept = without
    return [cards[at] for at in kept]
