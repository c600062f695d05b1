"""Rule cards as data, and their turned and mirrored copies."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Literal, NamedTuple

import numpy as np

from topion.errors import BadValue
from topion.grid.orient import composed_turns
from topion.grid.turns import composed, turned
from topion.model.refs import Ref
from topion.model.tileset import TileRef
from topion.model.typed import typed

SAME, OPEN, ANY = "same", "open", "any"
NAMED = "is "  # a mark `is Boardwalk` asks for that material
Mark = Annotated[str, Ref("materials", before=NAMED)]
CardOfMarks = tuple[tuple[Mark, ...], ...]
Pattern = tuple[tuple[TileRef, ...], ...]
LONGEST_PATTERN = 64  # tiles a side
_NOTHING: CardOfMarks = ((ANY,) * 3,) * 3


@typed
@dataclass(frozen=True)
class Variant:
    """One tile a rule can lay, and how often beside its fellows."""

    tile: TileRef
    weight: float = 1.0

    def __post_init__(self) -> None:
        if not 0 < self.weight <= 1e6:
            raise BadValue("the weight of a variant", self.weight, "above 0 and at most 1000000")


@typed
@dataclass(frozen=True)
class Rule:
    """A card of 3×3 or 5×5 marks round a cell, and the tiles it lays where it fits.

    marks : rows of `same`, `open`, `any` or `is NAME`; the middle one is not looked at.
    turned : the card also holds in its three quarter turns.
    mirrored : the card, and its turns, also hold mirrored.
    turns_tile : what it lays turns along with the card.
    above, below : for blocks, 3×3 marks of the level above and the level below, middle included.
    pattern : rows of tiles that repeat by their place in the room, laid instead of the variants.
    on : whether it is tried at all.
    """

    name: str
    marks: CardOfMarks
    variants: tuple[Variant, ...]
    turned: bool = False
    mirrored: bool = False
    turns_tile: bool = True
    above: CardOfMarks = ()
    below: CardOfMarks = ()
    pattern: Pattern = ()
    on: bool = True

    def __post_init__(self) -> None:
        deep = bool(self.above or self.below) or any(v.tile.is_block for v in self.variants)
        for card, sides in ((self.marks, (3,) if deep else (3, 5)), (self.above, (0, 3)),
                            (self.below, (0, 3))):  # fmt: skip
            if len(card) not in sides or any(len(row) != len(card) for row in card):
                wanted = " or ".join(f"{side} × {side}" for side in sides if side)
                raise BadValue(f"the card of rule {self.name}", card, f"{wanted} marks")
        for row in (*self.marks, *self.above, *self.below):
            for mark in row:
                if mark not in (SAME, OPEN, ANY) and not (
                    mark.startswith(NAMED) and mark[len(NAMED) :]
                ):
                    raise BadValue(
                        f"a mark of rule {self.name}", mark, "same, open, any or is NAME"
                    )
        if not self.variants:
            raise BadValue(f"the variants of rule {self.name}", (), "at least one tile")
        check_pattern(self.pattern, f"the pattern of rule {self.name}")

    @property
    def named(self) -> tuple[str, ...]:
        """The materials that its marks name."""
        rows = (*self.marks, *self.above, *self.below)
        marks = (mark for row in rows for mark in row if mark.startswith(NAMED))
        return tuple(dict.fromkeys(mark[len(NAMED) :] for mark in marks))


@typed
@dataclass(frozen=True)
class RuleBook:
    """All that decides how a material looks.

    joins : further materials that count as same.  beyond : what lies beyond the room counts as.
    falls_back_to : a material whose rules are tried when none of these fits.
    last_resort : the tile where nothing fits at all.
    """

    rules: tuple[Rule, ...] = ()
    joins: tuple[Annotated[str, Ref("materials")], ...] = ()
    beyond: Literal["same", "open"] = "same"
    falls_back_to: Annotated[str, Ref("materials")] = ""
    last_resort: TileRef | None = None

    def tiles_used(self) -> Iterator[TileRef]:
        """Every tile that can be laid, in all its turns."""
        for rule in self.rules:
            for orientation in orientations(rule):
                for variant in rule.variants:
                    yield oriented_tile(variant.tile, rule, orientation)
            for row in rule.pattern:
                yield from row
        if self.last_resort:
            yield self.last_resort


class Orientation(NamedTuple):
    turn: int  # quarters clockwise
    mirrored: bool


def orientations(rule: Rule) -> list[Orientation]:
    """The turns and mirrors in which the card holds, each once: as drawn first."""
    if not rule.turned and not rule.mirrored:
        return [Orientation(0, False)]
    turns = range(4) if rule.turned else range(1)
    mirrors = (False, True) if rule.mirrored else (False,)
    found: dict[str, Orientation] = {}
    for mirrored in mirrors:
        for turn in turns:
            orientation = Orientation(turn, mirrored)
            cards = (_oriented(card, orientation) for card in (_asked(rule), *_levels(rule)))
            key = "|".join(mark for card in cards for row in card for mark in row)
            found.setdefault(key, orientation)
    return list(found.values())


def _levels(rule: Rule) -> tuple[CardOfMarks, CardOfMarks]:
    """The cards below and above; one that is not given asks for nothing."""
    return rule.below or _NOTHING, rule.above or _NOTHING


def _asked(rule: Rule) -> CardOfMarks:
    """The card of the level, its middle not looked at."""
    rows = [list(row) for row in rule.marks]
    rows[len(rows) // 2][len(rows) // 2] = ANY
    return tuple(tuple(row) for row in rows)


def _oriented(card: CardOfMarks, orientation: Orientation) -> list[list[str]]:
    rows: list[list[str]] = turned(np.array(card), *orientation).tolist()
    return rows


def oriented_marks(rule: Rule, orientation: Orientation) -> list[list[str]]:
    """The card as it stands in one of its orientations, its middle not looked at."""
    return _oriented(_asked(rule), orientation)


def oriented_levels(rule: Rule, orientation: Orientation) -> list[list[str]]:
    """Nine rows of three marks: the levels below, of and above the cell, as they stand."""
    below, above = (_oriented(card, orientation) for card in _levels(rule))
    return [*below, *oriented_marks(rule, orientation), *above]


def oriented_tile(tile: TileRef, rule: Rule, orientation: Orientation) -> TileRef:
    """What a rule lays in one of its orientations."""
    return oriented_ref(tile, orientation) if rule.turns_tile else tile


def oriented_ref(tile: TileRef, orientation: Orientation) -> TileRef:
    """A tile turned, then mirrored; a block cannot be mirrored and turns about the upright."""
    if tile.is_block:
        return tile._replace(turn=int(composed_turns()[tile.turn, orientation.turn]))
    turn, mirrored = composed((tile.turn, tile.mirrored), orientation)
    return TileRef(tile.tileset, tile.slot, turn, mirrored)


def plain_rule(name: str, variants: tuple[Variant, ...], pattern: Pattern = ()) -> Rule:
    """A rule that always fits."""
    return Rule(name, ((ANY,) * 3,) * 3, variants, pattern=pattern)


def check_pattern(pattern: Pattern, what: str) -> None:
    """Raises BadValue for rows of different lengths, too many tiles, or blocks."""
    rows = {len(row) for row in pattern}
    if len(rows) > 1 or 0 in rows or max((len(pattern), *rows), default=0) > LONGEST_PATTERN:
        wanted = f"rows of the same length, at most {LONGEST_PATTERN} a side"
        raise BadValue(what, tuple(map(len, pattern)), wanted)
    if any(ref.is_block for row in pattern for ref in row):
        raise BadValue(what, "with blocks", "tiles")
