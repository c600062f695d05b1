"""A pattern of places for things: rows and columns, each place with a prefab and a way to stand."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated

from topion.errors import BadValue
from topion.model.refs import Ref
from topion.model.typed import between, typed

MOST_SIDE = 16
Count = Annotated[int, between(1, MOST_SIDE)]
Offset = Annotated[float, between(-64, 64, "cells")]


@typed
@dataclass(frozen=True)
class Spot:
    """One place of a pattern that differs from the others.

    prefab : instead of the brush's own; `left_out` places stay empty.  y, x : cells beside its
    place.  turn : degrees more, scale : times that of the brush.
    """

    row: int
    column: int
    prefab: Annotated[str, Ref("prefabs")] = ""
    left_out: bool = False
    y: Offset = 0.0
    x: Offset = 0.0
    turn: Annotated[float, between(-360, 360, "degrees")] = 0.0
    scale: Annotated[float, between(0.05, 20)] = 1.0


@typed
@dataclass(frozen=True)
class Pattern:
    """rows, columns : of places, `apart_y` and `apart_x` cells from each other.

    pivot : (row, column) of the place that stands under the pointer.  spots : those that differ.
    """

    rows: Count = 1
    columns: Count = 1
    apart_y: Annotated[float, between(0.25, 64, "cells")] = 1.0
    apart_x: Annotated[float, between(0.25, 64, "cells")] = 1.0
    pivot: tuple[int, int] = (0, 0)
    spots: tuple[Spot, ...] = ()

    def __post_init__(self) -> None:
        inside = [(spot.row, spot.column) for spot in self.spots]
        for row, column in (self.pivot, *inside):
            if not (0 <= row < self.rows and 0 <= column < self.columns):
                wanted = f"within {self.rows} rows and {self.columns} columns"
                raise BadValue("a place of the pattern", (row, column), wanted)
        if len(set(inside)) < len(inside):
            raise BadValue("the places of a pattern", len(inside), "each once")

    @property
    def is_one(self) -> bool:
        """Whether it is a single place like any other."""
        return self == Pattern()

    def at(self, row: int, column: int) -> Spot:
        """What stands at a place."""
        found = (spot for spot in self.spots if (spot.row, spot.column) == (row, column))
        return next(found, Spot(row, column))

    def places(self) -> Iterator[Spot]:
        """All that do not stay empty, row by row."""
        for row in range(self.rows):
            for column in range(self.columns):
                spot = self.at(row, column)
                if not spot.left_out:
                    yield spot

    def step(self, spot: Spot, turn: float, mirrored: bool) -> tuple[float, float]:
        """(y, x) of a place from the pivot, in cells, mirrored with the pattern and then turned."""
        y = (spot.row - self.pivot[0]) * self.apart_y + spot.y
        x = (spot.column - self.pivot[1]) * self.apart_x + spot.x
        if mirrored:
            x = -x
        angle = math.radians(turn)
        cos, sin = round(math.cos(angle), 12), round(math.sin(angle), 12)
        return round(y * cos + x * sin, 6), round(x * cos - y * sin, 6)

    def sized(self, rows: int, columns: int) -> Pattern:
        """With so many rows and columns; what lies beyond is dropped."""
        kept = tuple(s for s in self.spots if s.row < rows and s.column < columns)
        pivot = (min(self.pivot[0], rows - 1), min(self.pivot[1], columns - 1))
        return Pattern(rows, columns, self.apart_y, self.apart_x, pivot, kept)

    def with_spot(self, spot: Spot) -> Pattern:
        """With another place in it; one like any other is left out of the list."""
        rest = tuple(s for s in self.spots if (s.row, s.column) != (spot.row, spot.column))
        plain = spot == Spot(spot.row, spot.column)
        spots = tuple(sorted((*rest, *(() if plain else (spot,))), key=lambda s: (s.row, s.column)))
        return Pattern(self.rows, self.columns, self.apart_y, self.apart_x, self.pivot, spots)
