"""Mosaic: lays one tile of a weighted set, chosen by position."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar, Self

from topion.brushes.kind import FLAT_SCRAP, BrushKind, CannotTurn, Sample, Setting
from topion.brushes.laying import NIB, SEED, Nib, plan_material
from topion.brushes.marks import Marks, Place
from topion.brushes.spaced import PITCH, RATE, Spaced
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.grid.orient import TURNS, turn_words
from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.solid import BlockTurns
from topion.model.tileset import TileRef
from topion.model.typed import Colour, Name, Seed
from topion.weaving.rules import (
    Orientation,
    Pattern,
    Rule,
    RuleBook,
    Variant,
    check_pattern,
    oriented_tile,
    plain_rule,
)


@dataclass(frozen=True)
class Mosaic(Spaced):
    """turns, mirrors : each tile also comes turned by quarters, or mirrored.

    turn : one of 24 by which blocks are turned as they are laid; turned ones are pinned.
    pattern : rows of tiles that repeat by their place in the room, instead of the others.
    """

    kind: ClassVar[str] = "mosaic"
    name: Name
    tiles: tuple[Variant, ...]
    layer: str = ""
    colour: Colour = "#7c7f80"
    seed: Seed = 0
    nib: Nib = 1
    turns: bool = False
    mirrors: bool = False
    turn: int = 0
    pattern: Pattern = ()

    def __post_init__(self) -> None:
        if not 0 <= self.turn < TURNS:
            raise BadValue("the turn", self.turn, f"0 to {TURNS - 1}")
        check_pattern(self.pattern, "the pattern of a mosaic")

    @property
    def material(self) -> str:
        return self.name

    def book(self) -> RuleBook:
        return RuleBook((self._rule(),))

    def _rule(self) -> Rule:
        if self.pattern:
            return plain_rule("pattern", self.tiles, self.pattern)
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
        return plan_material(self, place, marks, self.turn if self.lays_blocks() else 0)

    def summary(self) -> str:
        turned = f" · {turn_words(self.turn)}" if self.turn else ""
        if self.pattern:
            return f"mosaic · pattern {len(self.pattern[0])} × {len(self.pattern)}"
        return f"mosaic · {len(self.tiles)}{turned}"

    def settings(self) -> tuple[Setting, ...]:
        turns = Setting("turns", "Turn tiles", "switch", hint="Lay each tile in its four turns")
        if self.lays_blocks():
            turn = Setting("turn", "Turn", "number", 0, TURNS - 1, 1,
                           hint="Quarters about up (T), then tipped over (Shift+T)")  # fmt: skip
            return (NIB, turn, turns, SEED, PITCH, RATE)
        mirrors = Setting("mirrors", "Mirror tiles", "switch", hint="Lay each tile also mirrored")
        return (NIB, turns, mirrors, SEED, PITCH, RATE)

    @cached_property
    def _tiles(self) -> tuple[TileRef, ...]:
        return tuple(self.book().tiles_used())

    def tiles_used(self) -> tuple[TileRef, ...]:
        return self._tiles

    def covers_ground(self, *, deep: bool) -> bool:
        return not deep

    def sample(self, project: Project, *, deep: bool) -> Sample:
        if deep:
            return super().sample(project, deep=deep)
        return Sample(self.at_home("own"), Marks(Box((1, 1), (3, 4)).cells()), FLAT_SCRAP)

    def turned(self, project: Project) -> Self:
        if block_turns(project, self) == "none":
            return self
        return self.changed(turn=self.turn // 4 * 4 + (self.turn + 1) % 4)

    def tipped(self, project: Project) -> Self:
        if block_turns(project, self) != "any":
            raise CannotTurn(self.name, "tipped over")
        return self.changed(turn=(self.turn + 4) % TURNS)

    def straightened(self) -> Self:
        return self.changed(turn=0)


def block_turns(project: Project, brush: BrushKind) -> BlockTurns:
    """How the blocks that a brush lays may be turned, by the one that allows least.

    Raises CannotTurn where they may not be; "none" for a brush that lays no blocks.
    """
    blocks = project.blocks
    used = [blocks[ref.slot].turns for ref in brush.tiles_used() if ref.slot in blocks]
    ways: tuple[BlockTurns, ...] = ("none", "quarters", "any")
    found: BlockTurns = next((way for way in ways if way in used), "none")
    if found == "none" and used:
        raise CannotTurn(brush.name)
    return found
