"""Where a room stands on the plan of the world, and what it is worn in there."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from topion.model.refs import Ref
from topion.model.typed import Name, between, typed

FARTHEST_CELL = 1_000_000  # from the middle of the sheet
_Cells = Annotated[float, between(-FARTHEST_CELL, FARTHEST_CELL, "cells")]


@typed
@dataclass(frozen=True)
class Placement:
    """One place on the plan; a room may have several.

    name : by which doors lead here.  at : (y, x) of its north-west corner, in cells of the sheet.
    theme, tint : the names of a theme and of a tint map of the room; None for what the room is
    worn in, empty text for the first sheets and for colours as they are.
    begins : the world starts here, where the room has its start.
    """

    name: Name
    room: Annotated[str, Ref("rooms", perhaps=True)]
    at: tuple[_Cells, _Cells] = (0.0, 0.0)
    theme: str | None = None
    tint: str | None = None
    begins: bool = False
