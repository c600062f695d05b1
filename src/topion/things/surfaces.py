"""The sides on which a thing can be held: floor, ceiling and walls."""

from __future__ import annotations

from typing import Literal

from topion.grid.orient import matrices
from topion.model.room import View

Surface = Literal["floor", "ceiling", "north wall", "south wall", "west wall", "east wall"]
_OF_VIEW: dict[View, tuple[Surface, ...]] = {
    "top": ("floor",),
    "side": ("floor", "west wall", "ceiling", "east wall"),
    "voxel": ("floor", "north wall", "east wall", "south wall", "west wall", "ceiling"),
}
_SIDE_TURNS: dict[Surface, float] = {"west wall": 90.0, "ceiling": 180.0, "east wall": 270.0}
_TIPS: dict[Surface, int] = {"ceiling": 2, "north wall": 1, "south wall": 3, "west wall": 4,
                             "east wall": 5}  # fmt: skip


def surfaces(view: View) -> tuple[Surface, ...]:
    """Those that a room seen so has, one after the other."""
    return _OF_VIEW[view]


def stance_on(surface: Surface, view: View) -> tuple[float, int]:
    """(degrees more, side up) of a thing that is held by a surface."""
    if view == "side":
        return _SIDE_TURNS.get(surface, 0.0), 0
    return 0.0, _TIPS.get(surface, 0) if view == "voxel" else 0


def underside(view: View, turn: float, tip: int) -> tuple[int, ...]:
    """The step, in array order, from a thing to what it is held by on its own underside."""
    if view == "voxel":
        down = matrices()[4 * tip + round(turn / 90) % 4] @ (-1, 0, 0)
        return tuple(int(v) for v in down)
    return ((1, 0), (0, -1), (-1, 0), (0, 1))[round(turn / 90) % 4]
