"""Pieces: shapes of a brush that were placed in a layer and stay editable.

A piece is compiled over the painted cells of its layer; how, its brush knows.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Annotated

from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.grid.orient import TURNS
from topion.model.refs import Ref
from topion.model.typed import Seed, typed

MOST_POINTS = 1024
MOST_PIECE_CELLS = 1 << 22
_FARTHEST = 1 << 15  # cells from the room's first one
_BESIDE = 1  # cells beside its points that a piece may also lay, such as the head of a ramp

Point = tuple[int, ...]


@typed
@dataclass(frozen=True)
class Piece:
    """points : cells.  Two opposite corners of a box, both inside; the two ends of a run; all
    the corners of a trail.  order : pieces of higher order lie nearer.
    turn : quarters clockwise about up, or one of 24 in a voxel room.  mirrored : left and right
    of what the brush has change places before it is turned.  seed : for what falls by chance.
    groups : numbers of the groups it belongs to, the outermost first.
    """

    brush: Annotated[str, Ref("brushes")]
    points: tuple[Point, ...]
    order: float = 0.0
    turn: int = 0
    mirrored: bool = False
    seed: Seed = 0
    groups: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        if not 1 <= len(self.points) <= MOST_POINTS:
            raise BadValue("the points of a piece", len(self.points), f"1 to {MOST_POINTS}")
        axes = len(self.points[0])
        if axes not in (2, 3) or any(len(point) != axes for point in self.points):
            raise BadValue("a point of a piece", self.points[0], "two or three numbers, all alike")
        if any(abs(v) > _FARTHEST for point in self.points for v in point):
            raise BadValue("a point of a piece", self.points, f"within {_FARTHEST} cells")
        if self.box.size > MOST_PIECE_CELLS:
            raise BadValue(
                "the size of a piece", self.box.shape, f"at most {MOST_PIECE_CELLS} cells"
            )
        if not math.isfinite(self.order):
            raise BadValue("the order of a piece", self.order, "a finite number")
        if not 0 <= self.turn < (TURNS if axes == 3 else 4):
            raise BadValue("the turn of a piece", self.turn, "0 to 3 quarters, below 24 for blocks")

    @property
    def axes(self) -> int:
        """Of the rooms it can lie in."""
        return len(self.points[0])

    @cached_property
    def box(self) -> Box:
        """The smallest box round its points."""
        axes = tuple(zip(*self.points, strict=True))
        return Box(tuple(min(axis) for axis in axes), tuple(max(axis) + 1 for axis in axes))

    @property
    def touched(self) -> Box:
        """All cells it may lay."""
        return self.box.grown(_BESIDE)

    def shifted(self, by: tuple[int, ...]) -> Piece:
        """The same piece so many cells on, in array order."""
        moved = (tuple(v + d for v, d in zip(p, by, strict=True)) for p in self.points)
        return replace(self, points=tuple(moved))
