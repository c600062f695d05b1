"""Which things of a room can be near a place: those that stay in squares, and those that move."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from topion.roles.kind import Edges

_SQUARE = 4  # cells a side

Square = tuple[int, int]


@dataclass(frozen=True)
class Places:
    """Numbers of things by the squares, of `side` units, that they stand in; `moving` are those
    that may be anywhere."""

    side: int
    squares: dict[Square, tuple[int, ...]]
    moving: tuple[int, ...]

    @classmethod
    def of(cls, staying: Iterable[tuple[int, Edges]], moving: Iterable[int], cell: int) -> Places:
        """staying : (number, edges in units) of what keeps its place.  cell : units."""
        side, squares = _SQUARE * cell, dict[Square, list[int]]()
        for number, edges in staying:
            for square in _squares(edges, side):
                squares.setdefault(square, []).append(number)
        return cls(side, {at: tuple(found) for at, found in squares.items()}, tuple(moving))

    def near(self, box: Edges) -> list[int]:
        """The numbers, rising, of all that may meet a box or its edge."""
        if not self.squares:
            return list(self.moving)
        found = {*self.moving}
        grown = (box[0] - 1, box[1] - 1, box[2] + 1, box[3] + 1)
        for square in _squares(grown, self.side):
            found.update(self.squares.get(square, ()))
        return sorted(found)


def _squares(edges: Edges, side: int) -> Iterable[Square]:
    rows = range(edges[1] // side, (edges[3] - 1) // side + 1)
    for column in range(edges[0] // side, (edges[2] - 1) // side + 1):
        for row in rows:
            yield column, row
