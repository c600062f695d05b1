"""Weave: lays a material; neighbourhood rules choose the tiles."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import ClassVar

from topion.brushes.kind import Setting
from topion.brushes.laying import NIB, SEED, Nib, plan_material
from topion.brushes.marks import Marks, Place
from topion.brushes.spaced import PITCH, RATE, Spaced
from topion.grid.told import several
from topion.model.edit import Edit
from topion.model.scrap import Scrap
from topion.model.tileset import TileRef
from topion.model.typed import Colour, Name, Seed
from topion.weaving.rules import RuleBook


@dataclass(frozen=True)
class Weave(Spaced):
    """material : its name in cells, the brush's own unless given.  nib : width in cells."""

    kind: ClassVar[str] = "weave"
    name: Name
    rules: RuleBook = field(default_factory=RuleBook)
    layer: str = ""
    colour: Colour = "#8a6a45"
    seed: Seed = 0
    nib: Nib = 1
    ground: Scrap | None = None

    @property
    def material(self) -> str:
        return self.name

    def book(self) -> RuleBook:
        return self.rules

    def plan(self, place: Place, marks: Marks) -> Edit:
        return plan_material(self, place, marks)

    def summary(self) -> str:
        count = len(self.rules.rules)
        return f"weave · {several(count, 'rule')}"

    def settings(self) -> tuple[Setting, ...]:
        return (NIB, SEED, PITCH, RATE)

    @cached_property
    def _tiles(self) -> tuple[TileRef, ...]:
        return tuple(self.rules.tiles_used())

    def tiles_used(self) -> tuple[TileRef, ...]:
        return self._tiles

    def facts(self) -> tuple[tuple[str, str], ...]:
        return (*super().facts(), ("Beyond the room", self.rules.beyond))

    def covers_ground(self, *, deep: bool) -> bool:
        return True
