"""The figure with which a room is tried: its size, speeds and jump."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from topion.model.refs import Ref
from topion.model.typed import Name, between, typed


@typed
@dataclass(frozen=True)
class Figure:
    """Lengths in cells, speeds in cells a second.

    jump_height, jump_length : how high its feet come, and how far it comes running until they are
    as high again.  step : edges up to so high are walked up.  coyote : seconds after an edge in
    which it can still jump.  slopes : whether it walks up slopes of 1 : 1, or slides down.
    gravity : where it falls to in rooms seen from the side, until something turns it over.
    looks : the prefab it is drawn as; empty for a plain one.
    """

    name: Name
    wide: Annotated[float, between(0.1, 8)] = 0.8
    high: Annotated[float, between(0.1, 8)] = 1.8
    speed: Annotated[float, between(0.2, 30)] = 5.5
    jump_height: Annotated[float, between(0.1, 30)] = 3.2
    jump_length: Annotated[float, between(0.2, 60)] = 4.5
    climb: Annotated[float, between(0.2, 30)] = 3.5
    step: Annotated[float, between(0, 4)] = 0.5
    coyote: Annotated[float, between(0, 1)] = 0.0
    slopes: Literal["walks", "slides"] = "walks"
    gravity: Literal["down", "up"] = "down"
    looks: Annotated[str, Ref("prefabs", perhaps=True)] = ""


PLAIN_FIGURE = Figure("Figure")
