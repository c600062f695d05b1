"""Inlay: lays a second material over the first, with rules and transparent tiles of its own."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import ClassVar

import numpy as np

from topion.brushes.kind import Sample, Setting
from topion.brushes.laying import NIB, SEED, Nib, beneath, marked_cells, refusal, rising
from topion.brushes.marks import Marks, Place
from topion.brushes.spaced import PITCH, RATE, Spaced
from topion.grid.boxes import Box
from topion.grid.told import several
from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.records import cells_changed
from topion.model.scrap import Scrap
from topion.model.tileset import TileRef
from topion.model.typed import Colour, Name, Seed
from topion.weaving.rules import RuleBook


@dataclass(frozen=True)
class Inlay(Spaced):
    """rules : choose its tiles by their neighbours, which count as both their materials."""

    kind: ClassVar[str] = "inlay"
    axes: ClassVar[int] = 2
    name: Name
    rules: RuleBook = field(default_factory=RuleBook)
    layer: str = ""
    colour: Colour = "#6f8440"
    seed: Seed = 0
    nib: Nib = 1
    ground: Scrap | None = None

    @property
    def material(self) -> str:
        return self.name

    def book(self) -> RuleBook:
        return self.rules

    def plan(self, place: Place, marks: Marks) -> Edit:
        layer_id, layer = place.cells_layer(self.layer)
        refused = refusal(self, place, layer)
        if refused is not None:
            return refused
        cells = marked_cells(place, marks, self.nib)
        if not len(cells):
            return Edit(self.name)
        flat = rising(np.asarray(np.ravel_multi_index(tuple(cells.T), layer.size), np.intp))
        number = place.project.material_id(self.material)
        ground = layer.plane("material").reshape(-1)[flat]
        there = layer.plane("inlay").reshape(-1)[flat]
        free = (ground > 0) & ((there == 0) | (there == number)) & (ground != number)
        reasons = self._reasons(place, ground, there, number)
        flat = flat[free]
        after = np.full(len(flat), number, np.uint16)
        records = cells_changed(
            place.room_name, layer_id, layer.size, flat, {"inlay": there[free]}, {"inlay": after}
        )
        notes = beneath(place, layer, cells)
        return Edit(self.name, records, self.colour, reasons, (*reasons, *notes))

    def _reasons(
        self, place: Place, ground: np.ndarray, there: np.ndarray, number: int
    ) -> tuple[str, ...]:
        """Why some of the cells take no inlay."""
        other = there[(there > 0) & (there != number)]
        found = []
        if len(other):
            name = place.project.material_name(int(other[0]))
            found.append(f"{name} is inlaid there already, and a cell takes one")
        if (ground == 0).any():
            found.append("an inlay needs ground below it")
        if (ground == number).any():
            found.append(f"the ground there is {self.name} itself")
        return tuple(found)

    def summary(self) -> str:
        count = len(self.rules.rules)
        return f"inlay · {several(count, 'rule')}"

    def settings(self) -> tuple[Setting, ...]:
        return (NIB, SEED, PITCH, RATE)

    @cached_property
    def _tiles(self) -> tuple[TileRef, ...]:
        return tuple(self.rules.tiles_used())

    def sample(self, project: Project, *, deep: bool) -> Sample:
        """On the ground itself: without one it cannot lie."""
        return Sample(self.at_home("base"), Marks(Box((1, 0), (3, 5)).cells()))

    def tiles_used(self) -> tuple[TileRef, ...]:
        return self._tiles
