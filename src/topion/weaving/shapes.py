"""What settling asks of brushes whose strokes are pieces."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol, runtime_checkable

import numpy as np
from numpy.typing import NDArray

from topion.grid.boxes import Box
from topion.model.facets import Facet
from topion.model.piece import Piece
from topion.model.tileset import TileRef


@dataclass(frozen=True, eq=False)
class Coded:
    """A piece as numbers of forms: `codes` has 0 where it lays nothing, from the cell `corner`."""

    corner: tuple[int, ...]
    codes: NDArray[np.uint16]

    @property
    def box(self) -> Box:
        sides = zip(self.corner, self.codes.shape, strict=True)
        return Box(self.corner, tuple(lo + side for lo, side in sides))


@runtime_checkable
class Shapes(Facet, Protocol):
    """The facet of brushes whose strokes are pieces.  axes : of the rooms they lie in."""

    @property
    def axes(self) -> int: ...

    @property
    def joins(self) -> bool:
        """Where two pieces of it meet in a cell, the bits of their codes are taken together."""

    @property
    def material(self) -> str: ...

    @property
    def forms(self) -> tuple[TileRef | None, ...]:
        """What code 1, 2 … shows; None for nothing."""

    def coded(self, piece: Piece) -> Coded:
        """The form in each cell of a piece, whatever the room."""
