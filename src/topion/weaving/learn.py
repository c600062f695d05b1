"""Learning: the fewest rules that lay what an example shows.

1. What a card looks at: 3×3 or 5×5 cells, with or without named materials (`example.contexts`).
   Each is tried; that is taken by which all cells can be told in fewest bits.
2. Looks that take turns under the same surroundings are the variants of one role (`roles`); one
   that strayed into a role where another is at home is a contradiction.
3. Cards are found from behind, as decision lists are (Rivest 1987): the last asks for nothing, and
   each before it is an exception.  It begins as the surroundings of some cell and gives up marks
   for as long as it spoils nothing (Michalski 1969).  A card may hold in its quarter turns and
   mirrors, too, where what it lays turns along with it or stays as it is.  Cards for which the
   others answer are dropped (`cards`).
4. Cards are written as rules, their variants weighted as they were counted.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from topion.grid.neighbours import NAMES_8, case_of, cases_47
from topion.model.tileset import TileRef
from topion.weaving.cards import (
    DRAWN,
    NO_MARK,
    Answers,
    Card,
    Rows,
    answers_of,
    cards_for,
    wrong_in,
)
from topion.weaving.contents import INVERSE, ORIENTATIONS
from topion.weaving.example import (
    OPEN_CLASS,
    SAME_CLASS,
    Context,
    Example,
    Shown,
    Surroundings,
    contexts,
)
from topion.weaving.ready import case_name
from topion.weaving.roles import Roles
from topion.weaving.rules import (
    ANY,
    NAMED,
    OPEN,
    SAME,
    CardOfMarks,
    Rule,
    RuleBook,
    Variant,
    oriented_ref,
)

_TRIED = 1200  # cells by which it is found out what to look at
_AT_ONCE = 300  # surroundings that cards are made for


@dataclass(frozen=True)
class Contradiction:
    """A cell whose tile its surroundings do not explain.  tile, instead : what lies there, and
    what lies in most cells of the same surroundings.  cells : how many there are of the kind."""

    cell: tuple[int, int]
    tile: TileRef
    instead: TileRef
    cells: int


@dataclass(frozen=True)
class Learned:
    """What was learned of one material.

    cells, reproduced : of the example, and those whose tile is one that the rules lay there.
    unseen : of the 47 cases, those it never shows.  contradictions : one for each kind.
    """

    book: RuleBook
    cells: int
    reproduced: int
    unseen: tuple[int, ...]
    contradictions: tuple[Contradiction, ...]


def learn(
    example: Example,
    refs: Sequence[TileRef],
    names: Sequence[str],
    material: int,
    step: Callable[[], None] = lambda: None,
) -> Learned:
    """The rules of one material.

    refs : what the tiles of the example are.  names : of materials, from number 1.
    step : called now and then; may raise to stop.
    """
    shown = example.of(material)
    if not len(shown.cells):
        return Learned(RuleBook(), 0, 0, cases_47(), ())
    seen, roles, cards = _explained(shown, step)
    writer = _Writer(shown, seen, roles, cards, answers_of(cards, Rows.seen(seen)), refs, names)
    return Learned(
        RuleBook(tuple(writer.rules()), beyond=seen.context.beyond),
        len(shown.cells),
        writer.reproduced(),
        _unseen(shown, seen.context),
        tuple(writer.contradictions()),
    )


def _explained(shown: Shown, step: Callable[[], None]) -> tuple[Surroundings, Roles, list[Card]]:
    """What is looked at, the roles and the cards by which all can be told in fewest bits: those of
    the cards, and those of what is left to chance (Rissanen 1978)."""
    few = shown.some(_TRIED)
    oriented = shown.example.contents.oriented
    best: tuple[float, Context] | None = None
    sure = False
    for context in contexts(few):
        if best and (context.side, context.named) != (3, ()):
            if sure:
                break  # nothing is left to chance
            if context.beyond != best[1].beyond:
                continue
        seen = Surroundings.seen(few, context)
        roles, rows = Roles.of(seen, oriented), Rows.seen(seen)
        most = best[0] - roles.bits() if best else np.inf
        cards = cards_for(rows, seen.counts.sum(axis=1), roles, step, (DRAWN,), most)
        if cards is None:
            continue
        bits = roles.bits() + sum(card.bits(rows, roles) for card in cards)
        if best is None or bits < best[0]:
            best, sure = (bits, context), roles.is_sure
    assert best is not None
    seen = Surroundings.seen(shown, best[1])
    roles = Roles.of(seen, oriented)
    return seen, roles, _cards_of_many(seen, roles, step)


def _cards_of_many(seen: Surroundings, roles: Roles, step: Callable[[], None]) -> list[Card]:
    """Cards for a part of the surroundings, then for that and what they get wrong, until they get
    nothing wrong."""
    weight, rows = seen.counts.sum(axis=1), Rows.seen(seen)
    part = np.argsort(-weight, kind="stable")[:_AT_ONCE]
    while True:
        found = cards_for(rows.only(part), weight[part], roles.only(part), step)
        cards = found or []
        wrong = wrong_in(answers_of(cards, rows), cards, roles)
        if not len(wrong):
            return cards
        part = np.concatenate([part, wrong[: _AT_ONCE // 2]])


@dataclass(frozen=True, eq=False)
class _Writer:
    """Writes cards as rules that name marks and tiles."""

    shown: Shown
    seen: Surroundings
    roles: Roles
    cards: list[Card]
    answers: Answers
    refs: Sequence[TileRef]
    names: Sequence[str]

    def rules(self) -> Iterator[Rule]:
        """One for each card."""
        for number, card in enumerate(self.cards):
            ways = [ORIENTATIONS[way] for way in card.ways]
            yield Rule(
                self._name(card),
                self._marks(card),
                tuple(self._variants(number)),
                turned=any(way.turn for way in ways),
                mirrored=any(way.mirrored for way in ways),
                turns_tile=card.turns,
            )

    # --- marks ----------------------------------------------------------------------------

    def _marks(self, card: Card) -> CardOfMarks:
        side = self.seen.context.side
        words = {NO_MARK: ANY, OPEN_CLASS: OPEN, SAME_CLASS: SAME}
        for number, material in enumerate(self.seen.context.named, 2):
            words[number] = NAMED + self.names[material - 1]
        flat = [words[mark] for mark in card.marks.tolist()]
        return tuple(tuple(flat[at : at + side]) for at in range(0, side * side, side))

    def _name(self, card: Card) -> str:
        """The case that the card asks for, and the materials it names."""
        side = self.seen.context.side
        near = card.marks.reshape(side, side)
        near = near[1:-1, 1:-1] if side == 5 else near
        flat = np.delete(near.reshape(-1), 4).tolist()
        same = (bit for bit in range(len(NAMES_8)) if flat[bit] in (SAME_CLASS, NO_MARK))
        words = case_name(case_of(sum(1 << bit for bit in same)))
        named = [n for n in np.unique(card.marks).tolist() if 2 <= n < NO_MARK]
        beside = [self.names[self.seen.context.named[n - 2] - 1] for n in named]
        return f"{words} by {' and '.join(beside)}" if beside else words

    # --- variants -------------------------------------------------------------------------

    @cached_property
    def _ref_of(self) -> dict[int, TileRef]:
        """Of each look, the tile that shows it most."""
        example = self.shown.example
        used = example.tile[tuple(self.shown.cells.T)]
        tiles, counts = np.unique(used, return_counts=True)
        found: dict[int, TileRef] = {}
        for tile in tiles[np.argsort(-counts, kind="stable")].tolist():
            found.setdefault(int(example.contents.of[tile]), self.refs[tile])
        return found

    @cached_property
    def _laid(self) -> list[Counter[int]]:
        """What each card lays: looks as it is drawn, with the cells where they were counted."""
        oriented = self.shown.example.contents.oriented
        laid: list[Counter[int]] = [Counter() for _ in self.cards]
        stray = self.roles.stray[self.roles.of_row]
        for row, place in np.argwhere((self.seen.counts > 0) & ~stray).tolist():
            at, way = int(self.answers.card[row]), int(self.answers.way[row])
            look = int(self.seen.looks[place])
            if self.cards[at].turns:
                look = int(oriented[look, INVERSE[way]])
            laid[at][look] += int(self.seen.counts[row, place])
        return laid

    def _variants(self, number: int) -> Iterator[Variant]:
        for look, count in self._laid[number].most_common():
            yield Variant(self._tile(look), float(count))

    def _tile(self, look: int) -> TileRef:
        """A tile of that look: one that is there, or another one turned."""
        if look in self._ref_of:
            return self._ref_of[look]
        oriented = self.shown.example.contents.oriented
        way = next(way for way in range(8) if int(oriented[look, way]) in self._ref_of)
        there = self._ref_of[int(oriented[look, way])]
        return oriented_ref(there, ORIENTATIONS[INVERSE[way]])

    # --- how well -------------------------------------------------------------------------

    def reproduced(self) -> int:
        """Cells whose look is one that the rule lays there."""
        oriented = self.shown.example.contents.oriented
        count = 0
        for row, place in np.argwhere(self.seen.counts > 0).tolist():
            at, way = int(self.answers.card[row]), int(self.answers.way[row])
            laid = self._laid[at]
            looks = {int(oriented[look, way]) for look in laid} if self.cards[at].turns else laid
            if int(self.seen.looks[place]) in looks:
                count += int(self.seen.counts[row, place])
        return count

    def contradictions(self) -> Iterator[Contradiction]:
        """Of each kind its first cell in reading order."""
        chief = np.where(self.roles.stray, 0, self.roles.counts).argmax(axis=1)
        role_of_cell = self.roles.of_row[self.seen.of_cell]
        for role, place in np.argwhere(self.roles.stray).tolist():
            look = int(self.seen.looks[place])
            there = np.flatnonzero((role_of_cell == role) & (self.shown.looks == look))
            y, x = self.shown.cells[there[0]].tolist()
            instead = self._ref_of[int(self.seen.looks[chief[role]])]
            yield Contradiction((y, x), self._ref_of[look], instead, len(there))


def _unseen(shown: Shown, context: Context) -> tuple[int, ...]:
    """The cases, of same and open only, in which no cell lies."""
    plain = Context(3, (), context.beyond).classes(shown)
    same = np.delete(plain == SAME_CLASS, 4, axis=1)
    masks = np.unique((same * (1 << np.arange(8))).sum(axis=1)).tolist()
    seen = {case_of(mask) for mask in masks}
    return tuple(case for case in cases_47() if case not in seen)
