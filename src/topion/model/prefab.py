"""Prefabs, and the things that are placed from them."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal, Protocol

import numpy as np

from topion.errors import BadValue
from topion.grid.arrays import CellList
from topion.model.picture import Picture

Turns = Literal["none", "quarters", "any"]
WIDEST_FOOTPRINT = 32  # cells
FARTHEST_CELL = 1e6


class PlacementRule(Protocol):
    """What a prefab asks of the place it stands in; the checks are in `topion.things`."""

    @property
    def kind(self) -> str: ...

    def sentence(self) -> str:
        """The rule in plain words."""

    def short(self) -> str:
        """Two or three words for a tally of refusals."""

    def reason(self, measured: object) -> tuple[str, str, str]:
        """A refusal as a sentence, what was measured, and what is wanted."""


@dataclass(frozen=True)
class Prefab:
    """A picture that can be placed, and what it asks of its place.

    footprint : rows of `#` (stands here) and `.`; its bottom middle cell is the thing's cell.
    anchor_px : (y, x) of the pixel that comes to the bottom middle of that cell.
    """

    name: str
    picture: Picture
    anchor_px: tuple[int, int]
    footprint: tuple[str, ...] = ("#",)
    class_name: str = ""
    turns: Turns = "none"
    mirrors: bool = False
    rules: tuple[PlacementRule, ...] = ()

    def __post_init__(self) -> None:
        widths = {len(row) for row in self.footprint}
        signs = set("".join(self.footprint))
        if len(widths) != 1 or not signs <= {"#", "."} or "#" not in signs:
            raise BadValue("the footprint", self.footprint, "equally long rows of # and .")
        if max(len(self.footprint), *widths) > WIDEST_FOOTPRINT:
            size = (len(self.footprint), *widths)
            raise BadValue("the footprint", size, f"at most {WIDEST_FOOTPRINT} cells a side")

    @cached_property
    def offsets(self) -> CellList:
        """(n, 2) cells it stands on, counted from the thing's own cell."""
        mask = np.array([[sign == "#" for sign in row] for row in self.footprint])
        seat = (mask.shape[0] - 1, (mask.shape[1] - 1) // 2)
        offsets = np.argwhere(mask) - seat
        offsets.flags.writeable = False
        return offsets


@dataclass(frozen=True)
class Thing:
    """One placed instance of a prefab.

    y, x : position in cells; whole numbers stand in the middle of a cell.
    turn : degrees clockwise.  scale : 1 is the prefab's own size.
    overridden : laid against a refusal, on purpose.
    """

    prefab: str
    y: float
    x: float
    turn: float = 0.0
    mirrored: bool = False
    scale: float = 1.0
    overridden: bool = False
    properties: dict[str, str] = field(default_factory=dict, hash=False)

    def __post_init__(self) -> None:
        for name in ("y", "x"):
            if not abs(getattr(self, name)) <= FARTHEST_CELL:
                raise BadValue(f"a thing's {name}", getattr(self, name), "within the room's reach")
        if not 0.01 <= self.scale <= 100:
            raise BadValue("a thing's scale", self.scale, "0.01 to 100")
        if not abs(self.turn) <= 36_000:
            raise BadValue("a thing's turn", self.turn, "degrees")

    @property
    def cell(self) -> tuple[int, int]:
        """The cell that its anchor stands in."""
        return int(np.floor(self.y + 0.5)), int(np.floor(self.x + 0.5))


def turned_offsets(prefab: Prefab, turn: float, mirrored: bool) -> CellList:
    """The cells a turned or mirrored thing stands on, counted from its own cell."""
    offsets = prefab.offsets
    if mirrored:
        offsets = offsets * (1, -1)
    for _ in range(round(turn / 90) % 4):
        offsets = np.stack([offsets[:, 1], -offsets[:, 0]], axis=1)
    return offsets
