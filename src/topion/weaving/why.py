"""Why a cell shows its tile."""

from __future__ import annotations

from dataclasses import dataclass

from topion.model.tileset import TileRef
from topion.weaving.compiled import CompiledBook, OrientedRule


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


def answer(material: str, book: CompiledBook, rule: OrientedRule | None, byte: int) -> Why:
    """The answer for the first rule that fits, or None, and the variant byte of the cell."""
    if rule is None:
        return Why(material, 0, "", 0, False, 0, 0, book.last_resort, material)
    variant = int(rule.variant_of_byte[byte])
    return Why(
        material,
        rule.number,
        rule.name,
        rule.orientation.turn,
        rule.orientation.mirrored,
        variant,
        len(rule.ids),
        rule.refs[variant],
        rule.book,
    )
