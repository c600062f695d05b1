"""Mosaic: lays one tile of a weighted set, chosen by position."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from topion.brushes.laying import NIB, SEED, plan_material
from topion.model.brush import Marks, Place, Setting
from topion.model.edit import Edit
from topion.model.tileset import TileRef
from topion.weaving.rules import Orientation, Rule, RuleBook, Variant, oriented_tile, plain_rule


@dataclass(frozen=True)
class Mosaic:
    """turns, mirrors : each tile also comes turned by quarters, or mirrored."""

    kind: ClassVar[str] = "mosaic"
    name: str
    tiles: tuple[Variant, ...]
    layer: str = ""
    colour: str = "#7c7f80"
    seed: int = 0
    nib: int = 1
    turns: bool = False
    mirrors: bool = False

    @property
    def material(self) -> str:
        return self.name

    def book(self) -> RuleBook:
        return RuleBook((self._rule(),))

    def _rule(self) -> Rule:
        plain = plain_rule("any", self.tiles)
        ways = [Orientation(t, m) for t in range(4 if self.turns else 1) for m in (False, True)]
        if not self.mirrors:
            ways = [way for way in ways if not way.mirrored]
        return plain_rule(
            "any",
            tuple(
                Variant(oriented_tile(v.tile, plain, w), v.weight) for v in self.tiles for w in ways
            ),
        )

    def plan(self, place: Place, marks: Marks) -> Edit:
        return plan_material(self, place, marks)

    def summary(self) -> str:
        return f"mosaic · {len(self.tiles)}"

    def settings(self) -> tuple[Setting, ...]:
        return (
            NIB,
            Setting("turns", "Turn tiles", "switch", hint="Lay each tile in its four turns"),
            Setting("mirrors", "Mirror tiles", "switch", hint="Lay each tile also mirrored"),
            SEED,
        )

    def tiles_used(self) -> tuple[TileRef, ...]:
        return tuple(self.book().tiles_used())
