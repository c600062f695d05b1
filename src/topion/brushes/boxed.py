"""Shapes that fill a box from named parts: corners, edges, middles, and forms for thin boxes.

The name of a part has one letter an axis: of rows `n m s` (north, middle, south), of columns
`w m e`, of levels `b m t`; `a` stands for a box one cell thick there.
"""

from __future__ import annotations

import itertools
from abc import abstractmethod
from collections.abc import Mapping
from dataclasses import replace
from functools import cached_property
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from topion.brushes.forms import Form, form_of
from topion.brushes.shape import (
    Drawn,
    Handle,
    ShapeKind,
    corners,
    pulled_box,
    side_handles,
)
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.model.piece import Piece
from topion.model.tileset import TileRef
from topion.weaving.rules import Orientation, oriented_ref

ROWS, COLUMNS, LEVELS = "nmsa", "wmea", "bmta"
_INWARDS = {ROWS: {"a": "s", "n": "m", "s": "m"}, COLUMNS: {"a": "e", "w": "m", "e": "m"},
            LEVELS: {"a": "t", "b": "m", "m": "t"}}  # fmt: skip
INSIDE = 5  # the number of the form `mm` of a rectangle
_MOST_SIDE = 512


class BoxShape(ShapeKind):
    """letters : of each axis, in array order."""

    boxed: ClassVar[bool] = True
    oriented: ClassVar[bool] = True
    letters: ClassVar[tuple[str, ...]]

    def check_parts(self, what: str) -> None:
        """Raises BadValue for parts that are none of such a shape, or of both kinds."""
        if not self.parts:
            raise BadValue(f"the parts of {what}", (), "at least one")
        blocks = len(self.letters) == 3
        for key, ref in self.parts.items():
            known = len(key) == len(self.letters) and all(
                letter in row for letter, row in zip(key, self.letters, strict=True)
            )
            if not known:
                wanted = "three letters such as tnw" if blocks else "two letters such as nw"
                raise BadValue(f"a part of {what}", key, wanted)
            if ref.is_block != blocks:
                raise BadValue(f"part {key} of {what}", ref, "a block" if blocks else "a tile")

    @property
    def axes(self) -> int:  # type: ignore[override]
        return len(self.letters)

    @cached_property
    def found(self) -> Mapping[str, Form]:
        """What each of its forms shows as the brush has it, by the name of the place."""
        keys = ("".join(letters) for letters in itertools.product(*self.letters))
        return {
            key: form_of(stand_ins(key, self.letters), self.parts, turned_key, self.ways)
            for key in keys
        }

    @cached_property
    def forms(self) -> tuple[TileRef | None, ...]:
        """All forms in one orientation after the other."""
        return tuple(
            oriented_ref(form.tile, way) for way in self.orders for form in self.found.values()
        )

    @property
    def orders(self) -> tuple[Orientation, ...]:
        """The orientations of pieces, in the order of their codes."""
        if self.axes == 3:
            return tuple(Orientation(turn, False) for turn in range(4))
        return tuple(Orientation(turn, flip) for flip in (False, True) for turn in range(4))

    def lacking(self) -> tuple[str, ...]:
        missing = [key for key, form in self.found.items() if form.found == "stand-in"]
        return tuple(dict.fromkeys(self.form_words(key) for key in missing))

    @abstractmethod
    def form_words(self, key: str) -> str:
        """A form as a designer would call it."""

    # --- compiled -------------------------------------------------------------------------

    def form_numbers(self, piece: Piece) -> NDArray[np.uint16]:
        """The number of the form in each cell of its box, without the orientation."""
        way = Orientation(piece.turn % 4, piece.mirrored)
        shape = piece.box.shape
        if way.turn % 2:
            shape = (*shape[:-2], shape[-1], shape[-2])
        number = np.zeros((1,) * len(shape), np.uint16)
        for axis, side in enumerate(shape):
            along = [1] * len(shape)
            along[axis] = side
            number = number * np.uint16(4) + letters_along(side).reshape(along)
        number = np.rot90(number, -way.turn % 4, axes=(-2, -1))
        return number[..., ::-1] if way.mirrored else number

    def orientation_number(self, piece: Piece) -> int:
        """Where its orientation stands in `orders`."""
        return piece.turn % 4 + (4 if piece.mirrored and self.axes == 2 else 0)

    # --- from strokes ---------------------------------------------------------------------

    def drawn(self, marks: Drawn) -> Piece:
        made = Piece(self.name, corners(Box.of_cells(marks.cells)), seed=self.seed_of_new)
        for axis in marks.flip:
            made = self.as_in_mirror(made, axis)
        return self.fitted(made)

    def fitted(self, piece: Piece) -> Piece:
        box = piece.box
        if max(box.shape) > _MOST_SIDE:
            box = Box(
                box.lo, tuple(min(b, a + _MOST_SIDE) for a, b in zip(box.lo, box.hi, strict=True))
            )
        return replace(piece, points=corners(box))

    def handles(self, piece: Piece) -> tuple[Handle, ...]:
        return tuple(side_handles(piece.box))

    def pulled(self, piece: Piece, handle: Handle, by: tuple[int, ...]) -> Piece:
        box = pulled_box(piece.box, handle.sides, by)
        return self.fitted(replace(piece, points=corners(box)))

    def words(self, piece: Piece) -> str:
        return f"{self.kind} {self.size_words(piece)}"


def letters_along(side: int) -> NDArray[np.uint16]:
    """(side,): 0 at the low end, 1 between, 2 at the high end; 3 for a single cell."""
    if side == 1:
        return np.full(1, 3, np.uint16)
    found = np.ones(side, np.uint16)
    found[0], found[-1] = 0, 2
    return found


def turned_key(key: str, way: Orientation) -> str:
    """The name of the place a part comes to when it is turned about up, then mirrored."""
    level, row, column = key[:-2], key[-2], key[-1]
    for _ in range(way.turn % 4):  # what lies north comes to lie east, what lies west north
        row, column = _TO_ROW.get(column, column), _TO_COLUMN.get(row, row)
    if way.mirrored:
        column = {"w": "e", "e": "w"}.get(column, column)
    return level + row + column


_TO_ROW, _TO_COLUMN = {"w": "n", "e": "s"}, {"n": "e", "s": "w"}


def stand_ins(key: str, letters: tuple[str, ...]) -> list[str]:
    """The part itself and what stands in for it, best first: fewest steps inwards."""
    seen, queue = [key], [key]
    while queue:
        now = queue.pop(0)
        for axis, row in enumerate(letters):
            other = _INWARDS[row].get(now[axis])
            if other:
                following = now[:axis] + other + now[axis + 1 :]
                if following not in seen:
                    seen.append(following)
                    queue.append(following)
    return seen
