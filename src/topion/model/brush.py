"""Brushes as data: what a library keeps of them; how they plan is told in `topion.brushes`."""

from __future__ import annotations

from typing import Protocol

from topion.model.tileset import TileRef


class Brush(Protocol):
    """A brush of the library."""

    @property
    def kind(self) -> str: ...
    @property
    def name(self) -> str: ...
    @property
    def colour(self) -> str:
        """`#rrggbb` for the strokes ribbon and the material's mark."""

    @property
    def layer(self) -> str:
        """Name of its home layer, or nothing."""

    @property
    def bay(self) -> str:
        """The bay of the rack in which its card comes to lie."""

    @property
    def material(self) -> str:
        """The material it gives to cells, or nothing."""

    def tiles_used(self) -> tuple[TileRef, ...]:
        """What it can lay; tiles enter the project's table with it."""
