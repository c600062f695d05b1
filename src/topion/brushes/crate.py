"""Crate: a box of blocks from up to 27 parts: corners, edges, faces and inside."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np

from topion.brushes.boxed import COLUMNS, LEVELS, ROWS, BoxShape
from topion.brushes.kind import DEEP_SCRAP, Sample, Setting
from topion.brushes.marks import Marks
from topion.brushes.mosaic import block_turns
from topion.brushes.shape import STAYS, Drawn, corners
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.grid.orient import turn_words
from topion.model.piece import Piece
from topion.model.project import Project
from topion.model.tileset import TileRef
from topion.model.typed import Colour, Name
from topion.weaving.shapes import Coded

_NAMES = {"b": "bottom", "t": "top", "n": "north", "s": "south", "w": "west", "e": "east"}


@dataclass(frozen=True)
class Crate(BoxShape):
    """parts : blocks by the name of their place, such as `tnw`, `mmm` or `ama`; at least one.

    A part that is missing is found by turning another about the upright; else a box one thick
    shows its top, south or east; else bottom shows middle, middle shows top, and so on inwards.
    height : levels of a box that was drawn flat.  turn : quarters by which new ones are turned.
    """

    kind: ClassVar[str] = "crate"
    letters: ClassVar[tuple[str, ...]] = (LEVELS, ROWS, COLUMNS)
    name: Name
    parts: dict[str, TileRef]
    layer: str = ""
    colour: Colour = "#d8d2c4"
    height: int = 1
    turn: int = 0
    stays: bool = True

    def __post_init__(self) -> None:
        self.check_parts("a crate")
        if not 1 <= self.height <= 512:
            raise BadValue("the height", self.height, "1 to 512")
        if not 0 <= self.turn <= 3:
            raise BadValue("the turn", self.turn, "0 to 3 quarters")

    def drawn(self, marks: Drawn) -> Piece:
        box = Box.of_cells(marks.cells)
        if box.shape[0] < self.height:
            box = Box(box.lo, (box.lo[0] + self.height, *box.hi[1:]))
        return self.fitted(Piece(self.name, corners(box), turn=self.turn))

    def coded(self, piece: Piece) -> Coded:
        first = 1 + self.orientation_number(piece) * len(self.found)
        return Coded(piece.box.lo, (self.form_numbers(piece) + np.uint16(first)).astype(np.uint16))

    def form_words(self, key: str) -> str:
        if "a" in key:
            thin = key.count("a")
            return {3: "single", 2: "bar", 1: "one thick"}[thin]
        return " ".join(_NAMES[letter] for letter in key if letter in _NAMES) or "inside"

    def summary(self) -> str:
        blocks = len({ref.slot for ref in self.parts.values()})
        turned = f" · {turn_words(self.turn)}" if self.turn else ""
        return f"crate · 27 parts from {blocks}{turned}"

    def settings(self) -> tuple[Setting, ...]:
        return (
            Setting("height", "Height", "number", 1, 16, 1, "c", hint="Of a box drawn flat"),
            Setting("turn", "Turn", "number", 0, 3, 1, hint="Quarters clockwise about up (T)"),
            STAYS,
        )

    def sample(self, project: Project, *, deep: bool) -> Sample:
        return Sample(self, Marks(Box((1, 1, 2), (3, 4, 5)).cells()), DEEP_SCRAP)

    def turned(self, project: Project) -> Self:
        if block_turns(project, self) == "none":
            return self
        return self.changed(turn=(self.turn + 1) % 4)

    def straightened(self) -> Self:
        return self.changed(turn=0)
