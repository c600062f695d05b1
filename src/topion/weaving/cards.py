"""Cards for roles: the fewest that give every surroundings its role, the first that fits wins."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from topion.grid.turns import turned
from topion.weaving.contents import ORIENTATIONS
from topion.weaving.example import SAME_CLASS, Surroundings
from topion.weaving.roles import Roles

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
    cards: list[Card] = []
    bits = 0.0
    while (wrong := found != asked).any():
        step()
        card, fits = _plain(rows, weight, asked) if not cards else _exception(
            rows, weight, roles, found, ways
        )  # fmt: skip
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


def _plain(
    rows: Rows, weight: NDArray[np.intp], asked: NDArray[np.intp]
) -> tuple[Card, NDArray[np.intp]]:
    """The card that asks for nothing and lays the role that most cells show."""
    marks = np.full(rows.size, NO_MARK, np.uint8)
    role = int(np.bincount(asked, weights=weight).argmax())
    return Card(marks, role), np.zeros(len(weight), np.intp)


def _exception(
    rows: Rows,
    weight: NDArray[np.intp],
    roles: Roles,
    found: NDArray[np.intp],
    ways: tuple[Ways, ...],
) -> tuple[Card, NDArray[np.intp]]:
    """The card that sets most surroundings right, and in which orientation it fits each."""
    right = found == roles.of_row
    best: tuple[tuple[int, ...], Card, NDArray[np.intp]] | None = None
    for seed in _seeds(~right, roles.of_row, weight, rows.cells.size):
        differs = rows.cells != rows.cells[seed, 0]
        for card in _starts(rows.cells[seed, 0], int(roles.of_row[seed]), roles, ways):
            widened = _widened(card, differs, _laid(card, roles), roles.of_row, right)
            if widened is None:
                continue
            marks, fits = widened
            there = fits >= 0
            good = there & (_laid(card, roles)[fits] == roles.of_row)
            worth = (int((good & ~right).sum()), -len(card.ways), -int((marks != NO_MARK).sum()),
                     -int((there & ~good).sum()))  # fmt: skip
            if best is None or worth > best[0]:
                best = worth, replace(card, marks=marks), fits
    assert best is not None  # a seed as it is sets itself right
    return best[1], best[2]


def _seeds(
    wrong: NDArray[np.bool_], role: NDArray[np.intp], weight: NDArray[np.intp], size: int
) -> list[int]:
    """Surroundings to begin with: of each role the one that is seen most, then the next ones."""
    rows = np.flatnonzero(wrong)
    rows = rows[np.argsort(-weight[rows], kind="stable")]
    rank = np.zeros(len(rows), np.intp)
    for number in np.unique(role[rows]):
        mine = role[rows] == number
        rank[mine] = np.arange(mine.sum())
    most = max(3, min(_SEEDS, _WORK // max(1, size)))
    chosen: list[int] = rows[np.argsort(rank, kind="stable")][:most].tolist()
    return chosen


def _starts(
    row: NDArray[np.uint8], role: int, roles: Roles, ways: tuple[Ways, ...]
) -> Iterator[Card]:
    """Cards that ask for all of some surroundings, in each set of orientations."""
    marks = row.copy()
    marks[len(row) // 2] = NO_MARK
    for held in ways:
        if (roles.turned[role][list(held)] >= 0).all():
            yield Card(marks, role, held)
        if len(held) > 1:
            yield Card(marks, role, held, turns=False)


def _widened(
    card: Card,
    differs: NDArray[np.bool_],
    laid: NDArray[np.intp],
    asked: NDArray[np.intp],
    right: NDArray[np.bool_],
) -> tuple[NDArray[np.uint8], NDArray[np.intp]] | None:
    """Give up marks of a card, always that by which it sets most more right, while it spoils none
    that is right already.  A mark that sets nothing right goes too, unless the card would come to
    lie where something else belongs.

    differs : (m, 8, marks) where surroundings are not as it asks.  laid : (8,) what it lays.
    asked, right : (m,) what belongs there, and whether it lies there without the card.
    Returns its marks and (m,) the orientation in which it fits first, -1 for none; None where it
    spoils something as it is.
    """
    held, marks = list(card.ways), card.marks.copy()
    differs = differs[:, held] & (marks != NO_MARK)
    role = laid[held]
    away = differs.sum(axis=2, dtype=np.uint8)
    fits = _first_way(away == 0)
    good = (fits >= 0) & (role[fits] == asked)
    if (right & (fits >= 0) & ~good).any():
        return None
    while True:
        by_one = (away == 1) & (np.arange(len(held)) < np.where(fits < 0, len(held), fits)[:, None])
        near = np.flatnonzero(by_one.any(axis=1))  # only these may come to fit, or fit otherwise
        new, then = _by_one_less(by_one[near], differs[near])
        fine = role[then] == asked[near, None]
        spoils = new & ~fine
        gain = (new & fine & ~(right | good)[near, None]).sum(axis=0)
        lost = (spoils & (right | good)[near, None]).any(axis=0)
        strays = spoils.any(axis=0)
        usable = (marks != NO_MARK) & ~lost & ((gain > 0) | ~strays)
        if not usable.any():
            return marks, np.where(fits >= 0, np.array(held)[fits], -1)
        at = int(np.where(usable, gain - 0.5 * strays, -1).argmax())
        marks[at] = NO_MARK
        away -= differs[:, :, at]
        differs[:, :, at] = False
        fits = _first_way(away == 0)
        good = (fits >= 0) & (role[fits] == asked)


def _by_one_less(
    by_one: NDArray[np.bool_], differs: NDArray[np.bool_]
) -> tuple[NDArray[np.bool_], NDArray[np.intp]]:
    """(n, marks) whether surroundings come to fit, or in an earlier orientation, once a mark is
    given up; and in which.  by_one : (n, ways) where one mark is in the way."""
    count, ways, size = differs.shape
    new, then = np.zeros((count, size), bool), np.zeros((count, size), np.intp)
    for way in reversed(range(ways)):
        here = differs[:, way] & by_one[:, way, None]
        new |= here
        then[here] = way
    return new, then


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
