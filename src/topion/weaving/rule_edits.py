"""Small changes of rules and books, as a designer makes them: each gives a new one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

from topion.model.tileset import TileRef
from topion.weaving.rules import ANY, NAMED, OPEN, SAME, CardOfMarks, Rule, RuleBook, Variant

Level = Literal["below", "marks", "above"]
LEVELS: tuple[Level, ...] = ("below", "marks", "above")
NO_CARD: CardOfMarks = ((ANY,) * 3,) * 3


def card_of(rule: Rule, level: Level = "marks") -> CardOfMarks:
    """The card of a level; one that asks for nothing where the rule has none."""
    card: CardOfMarks = getattr(rule, level)
    return card or NO_CARD


def next_mark(mark: str, named: str = "") -> str:
    """Same, open, that material, nothing, and same again.  named : empty where there is none."""
    order = [SAME, OPEN, *([NAMED + named] if named else []), ANY]
    if mark.startswith(NAMED):
        return ANY
    return order[(order.index(mark) + 1) % len(order)]


def with_mark(rule: Rule, at: tuple[int, int], mark: str, level: Level = "marks") -> Rule:
    """With another mark in a row and column of a card."""
    rows = [list(row) for row in card_of(rule, level)]
    rows[at[0]][at[1]] = mark
    card = tuple(tuple(row) for row in rows)
    if level == "marks":
        return replace(rule, marks=card)
    kept = () if card == NO_CARD else card
    return replace(rule, above=kept) if level == "above" else replace(rule, below=kept)


def of_side(rule: Rule, side: Literal[3, 5]) -> Rule:
    """With a card of 3×3 or 5×5 marks; the outer ring of a larger one is let go."""
    card = rule.marks
    if len(card) == side:
        return rule
    if side == 3:
        return replace(rule, marks=tuple(row[1:-1] for row in card[1:-1]))
    wide = tuple((ANY, *row, ANY) for row in card)
    return replace(rule, marks=((ANY,) * 5, *wide, (ANY,) * 5))


def with_variant(rule: Rule, tile: TileRef, place: int = -1) -> Rule:
    """With one more tile, or at a place with that instead of the one that is there; the same where
    it lays that tile already."""
    if any(variant.tile == tile for variant in rule.variants):
        return rule
    variants = list(rule.variants)
    if place < 0:
        variants.append(Variant(tile))
    else:
        variants[place] = replace(variants[place], tile=tile)
    return replace(rule, variants=tuple(variants))


def without_variant(rule: Rule, place: int) -> Rule:
    """Without one of its tiles; the last one stays."""
    if len(rule.variants) == 1:
        return rule
    kept = tuple(v for number, v in enumerate(rule.variants) if number != place)
    return replace(rule, variants=kept)


def with_weight(rule: Rule, place: int, weight: float) -> Rule:
    """Raises BadValue for a weight that none can have."""
    variants = list(rule.variants)
    variants[place] = replace(variants[place], weight=weight)
    return replace(rule, variants=tuple(variants))


def plain(tile: TileRef) -> Rule:
    """A rule that lays one tile anywhere."""
    return Rule("inside", NO_CARD, (Variant(tile),))


# --- books --------------------------------------------------------------------------------


def with_rule(book: RuleBook, number: int, rule: Rule) -> RuleBook:
    """With another rule in place of one; number : from 1."""
    rules = list(book.rules)
    rules[number - 1] = rule
    return replace(book, rules=tuple(rules))


def inserted(book: RuleBook, number: int, rule: Rule) -> RuleBook:
    """With one more rule, which then has that number."""
    rules = list(book.rules)
    rules.insert(number - 1, rule)
    return replace(book, rules=tuple(rules))


def removed(book: RuleBook, number: int) -> RuleBook:
    """Without a rule."""
    return replace(book, rules=book.rules[: number - 1] + book.rules[number:])


def moved(book: RuleBook, number: int, to: int) -> RuleBook:
    """With a rule moved so that it has another number."""
    return inserted(removed(book, number), to, book.rules[number - 1])


def duplicated(book: RuleBook, number: int) -> RuleBook:
    """With a copy of a rule behind it."""
    rule = book.rules[number - 1]
    names = {known.name for known in book.rules}
    name = next(n for n in (f"{rule.name} {i}" for i in range(2, 10_000)) if n not in names)
    return inserted(book, number + 1, replace(rule, name=name))


def first_general(book: RuleBook) -> int:
    """The number of the first rule that asks for nothing, behind which none can fire; one more
    than the last if there is none.  A rule for an open case goes before it."""
    return 1 + next(
        (n for n, rule in enumerate(book.rules) if rule.on and asks_nothing(rule)),
        len(book.rules),
    )


def asks_nothing(rule: Rule) -> bool:
    """Whether it fits anywhere."""
    return all(
        mark == ANY or (level == "marks" and (y, x) == middle)
        for level in LEVELS
        for middle in [(len(rule.marks) // 2,) * 2]
        for y, row in enumerate(card_of(rule, level))
        for x, mark in enumerate(row)
    )


def joined_to(book: RuleBook, material: str, joins: bool) -> RuleBook:
    """With a material that counts as same, or not."""
    kept = tuple(name for name in book.joins if name != material)
    return replace(book, joins=(*kept, material) if joins else kept)


def turns_in_words(rule: Rule) -> str:
    """How it holds besides as drawn: `turned ¼ ½ ¾, mirrored`."""
    parts: Sequence[str] = [
        *(["turned ¼ ½ ¾"] if rule.turned else []),
        *(["mirrored"] if rule.mirrored else []),
    ]
    return ", ".join(parts) or "as drawn"
