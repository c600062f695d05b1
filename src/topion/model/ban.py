"""Places where a field sows nothing."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Annotated

from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.model.typed import between, typed

_FARTHEST = 1 << 15  # cells from the room's first one


@typed
@dataclass(frozen=True)
class Ban:
    """at : the middle, in cells, in array order.  radius : in cells, within which nothing of the
    field stands, whatever its seed and density.  held : the number of the thing that was taken
    from here and is held by the field, here or elsewhere; 0 for none."""

    at: tuple[float, ...]
    radius: Annotated[float, between(0.01, 1000, "cells")] = 0.5
    held: int = 0
    groups: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        if len(self.at) not in (2, 3) or not all(
            math.isfinite(v) and abs(v) <= _FARTHEST for v in self.at
        ):
            raise BadValue("a banned place", self.at, "two or three numbers, in cells")

    @property
    def axes(self) -> int:
        """Of the rooms it can lie in."""
        return len(self.at)

    @property
    def touched(self) -> Box:
        """The columns round it."""
        (y, x), far = self.at[-2:], self.radius
        return Box((math.floor(y - far + 0.5), math.floor(x - far + 0.5)),
                   (math.floor(y + far + 0.5) + 1, math.floor(x + far + 0.5) + 1))  # fmt: skip

    def shifted(self, by: tuple[float, ...]) -> Ban:
        """The same so many cells on, in array order."""
        return replace(self, at=tuple(round(a + b, 6) for a, b in zip(self.at, by, strict=True)))
