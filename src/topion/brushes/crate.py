"""Crate: lays a box of blocks from up to 27 parts: corners, edges, faces and inside.

A part is named by three letters, one an axis: `b m t` (bottom, middle, top), `n m s` (north to
south) and `w m e` (west to east); `a` stands for a box one cell thick there.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar, Self

import numpy as np
from numpy.typing import NDArray

from topion.brushes.kind import DEEP_SCRAP, BrushKind, Sample, Setting
from topion.brushes.laying import Laid, lay, refusal
from topion.brushes.marks import Marks, Place
from topion.brushes.mosaic import block_turns
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.grid.orient import composed_turns, turn_words
from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.tileset import TileRef
from topion.model.typed import Colour, Name
from topion.weaving.looms import tile_id

LETTERS = ("bmta", "nmsa", "wmea")


@dataclass(frozen=True)
class Crate(BrushKind):
    """parts : blocks by the name of their part; at least one.

    A part that is missing is found by turning another about the upright; else a box one thick
    shows its top, south or east; else bottom shows middle, middle shows top, and so on inwards.
    height : levels of a box that was drawn flat.  turn : quarters by which all of it is turned.
    """

    kind: ClassVar[str] = "crate"
    bay: ClassVar[str] = "Built"
    axes: ClassVar[int] = 3
    boxed: ClassVar[bool] = True
    name: Name
    parts: dict[str, TileRef]
    layer: str = ""
    colour: Colour = "#d8d2c4"
    height: int = 1
    turn: int = 0

    def __post_init__(self) -> None:
        if not self.parts:
            raise BadValue("the parts of a crate", (), "at least one block")
        for key, ref in self.parts.items():
            known = len(key) == 3 and all(c in row for c, row in zip(key, LETTERS, strict=True))
            if not known:
                raise BadValue("a part of a crate", key, "three letters such as tnw")
            if not ref.is_block:
                raise BadValue(f"part {key} of a crate", ref, "a block")
        if not 1 <= self.height <= 512:
            raise BadValue("the height", self.height, "1 to 512")
        if not 0 <= self.turn <= 3:
            raise BadValue("the turn", self.turn, "0 to 3 quarters")

    @property
    def material(self) -> str:
        return self.name

    @cached_property
    def forms(self) -> dict[str, TileRef]:
        """The block of each of the 64 forms."""
        found = {}
        for key in ("".join(letters) for letters in itertools.product(*LETTERS)):
            ref = self._form(_turned_key(key, -self.turn))
            found[key] = ref._replace(turn=int(composed_turns()[ref.turn, self.turn]))
        return found

    def _form(self, key: str) -> TileRef:
        for wanted in _stand_ins(key):
            for quarters in range(4):  # a part that turns clockwise into the wanted one
                source = _turned_key(wanted, -quarters)
                if source in self.parts:
                    ref = self.parts[source]
                    return ref._replace(turn=int(composed_turns()[ref.turn, quarters]))
        return next(iter(self.parts.values()))

    def plan(self, place: Place, marks: Marks) -> Edit:
        layer_id, layer = place.cells_layer(self.layer)
        refused = refusal(self, place, layer)
        if refused is not None:
            return refused
        if not len(marks.cells):
            return Edit(self.name)
        parts = [self._box(place, Box.of_cells(cells)) for cells in marks.copies()]
        flat, tiles = np.concatenate([p[0] for p in parts]), np.concatenate([p[1] for p in parts])
        flat, last = np.unique(flat[::-1], return_index=True)
        if not len(flat):
            return Edit(self.name)
        material = np.full(len(flat), place.project.material_id(self.material), np.uint16)
        records = lay(place, layer_id, Laid(flat, material, tiles[::-1][last]))
        return Edit(self.name, records, self.colour)

    def _box(self, place: Place, drawn: Box) -> tuple[NDArray[np.intp], NDArray[np.uint16]]:
        """Flat cells of one box inside the room, and their tiles."""
        top = max(drawn.hi[0], drawn.lo[0] + self.height)
        box = Box(drawn.lo, (top, *drawn.hi[1:]))
        cells = box.cells()
        cells = cells[place.room.box.holds(cells)]
        code = np.zeros(len(cells), np.intp)
        for axis in range(3):
            code = code * 4 + _letters(cells[:, axis], box.lo[axis], box.hi[axis])
        table = np.array([tile_id(place.project, ref) for ref in self.forms.values()], np.uint16)
        flat = np.ravel_multi_index(tuple(cells.T), place.room.info.size)
        return np.asarray(flat, np.intp), table[code]

    def summary(self) -> str:
        blocks = len({ref.slot for ref in self.parts.values()})
        turned = f" · {turn_words(self.turn)}" if self.turn else ""
        return f"crate · 27 parts from {blocks}{turned}"

    def settings(self) -> tuple[Setting, ...]:
        return (
            Setting("height", "Height", "number", 1, 16, 1, "c", hint="Of a box drawn flat"),
            Setting("turn", "Turn", "number", 0, 3, 1, hint="Quarters clockwise about up (T)"),
        )

    def tiles_used(self) -> tuple[TileRef, ...]:
        return tuple(self.parts.values())

    def sample(self, project: Project, *, deep: bool) -> Sample:
        return Sample(self, Marks(Box((1, 1, 2), (3, 4, 5)).cells()), DEEP_SCRAP)

    def turned(self, project: Project) -> Self:
        if block_turns(project, self) == "none":
            return self
        return self.changed(turn=(self.turn + 1) % 4)

    def straightened(self) -> Self:
        return self.changed(turn=0)


def _letters(at: NDArray[np.intp], lo: int, hi: int) -> NDArray[np.intp]:
    """0 at the low end, 1 between, 2 at the high end, 3 where the box is one cell thick."""
    if hi - lo == 1:
        return np.full(len(at), 3, np.intp)
    return np.where(at == lo, 0, np.where(at == hi - 1, 2, 1)).astype(np.intp)


def _turned_key(key: str, quarters: int) -> str:
    """The name of the place a part comes to after quarter turns clockwise seen from above."""
    for _ in range(quarters % 4):  # what lies north comes to lie east, what lies west north
        key = (
            key[0]
            + {"w": "n", "e": "s"}.get(key[2], key[2])
            + {"n": "e", "s": "w"}.get(key[1], key[1])
        )
    return key


_INWARDS = ({"a": "t", "b": "m", "m": "t"}, {"a": "s", "n": "m", "s": "m"},
            {"a": "e", "w": "m", "e": "m"})  # fmt: skip


def _stand_ins(key: str) -> list[str]:
    """The part itself and what stands in for it, best first: fewest steps inwards."""
    seen, queue = [key], [key]
    while queue:
        now = queue.pop(0)
        for axis in range(3):
            other = _INWARDS[axis].get(now[axis])
            if other is not None:
                following = now[:axis] + other + now[axis + 1 :]
                if following not in seen:
                    seen.append(following)
                    queue.append(following)
    return seen
