"""What a slot of a tile set and a block have in common: how they act in a room."""

from __future__ import annotations

from dataclasses import dataclass

from topion.errors import BadValue


@dataclass(frozen=True, kw_only=True)
class Traits:
    """How a tile or a block acts, whatever it looks like.

    solid : fills its cell.  walkable : can be walked on.  climbable : can be climbed.
    opening : lets through where all round is solid.  slope : its top is not level.
    carries : things can stand on it.  top : height of the surface that carries, 0 to 1.
    not_for_use : the survey finds it where it lies in a room.
    """

    tags: tuple[str, ...] = ()
    solid: bool = False
    walkable: bool = False
    climbable: bool = False
    opening: bool = False
    slope: bool = False
    carries: bool = False
    not_for_use: bool = False
    top: float = 1.0

    def check_top(self, what: str) -> None:
        """Raises BadValue for a surface beside its cell."""
        if not 0 <= self.top <= 1:
            raise BadValue(f"the top of {what}", self.top, "0 to 1")
