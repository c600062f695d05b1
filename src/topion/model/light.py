"""The light of a voxel room: sun, sky, haze and the shadows of corners."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from topion.model.typed import Colour, between, typed


@typed
@dataclass(frozen=True)
class Light:
    """bearing : where the sun stands, degrees clockwise from north.  height : above the level.

    sun, shade : the colours of its light, and of the light that comes from all round.
    direct, ambient : how much there is of each.
    above, below : the sky at the top of the picture and at its foot.
    haze : how much of what lies farthest is lost in `below`.  corners : how dark corners are, 1 as
    they were always drawn.
    """

    bearing: Annotated[float, between(0, 360, "degrees")] = 212.471192
    height: Annotated[float, between(0, 90, "degrees")] = 56.898856
    sun: Colour = "#ffffff"
    direct: Annotated[float, between(0, 2)] = 0.40
    ambient: Annotated[float, between(0, 2)] = 0.62
    shade: Colour = "#ffffff"
    above: Colour = "#e9e5db"
    below: Colour = "#c6bdab"
    haze: Annotated[float, between(0, 1)] = 0.0
    corners: Annotated[float, between(0, 1.5)] = 1.0


PLAIN = Light()
READY: dict[str, Light] = {
    "Plain": PLAIN,
    "Morning": Light(96, 22, "#ffdcae", 0.55, 0.60, "#dfe6f2", "#f4e3cf", "#c9d3d8", 0.25, 1.0),
    "Noon": Light(170, 74, "#fffaf0", 0.52, 0.60, "#f2f6ff", "#cfe1ea", "#e8ead9", 0.0, 0.9),
    "Dusk": Light(214, 15, "#ffa461", 0.82, 0.56, "#b7aed2", "#575480", "#eaa277", 0.22, 1.1),
    "Fog": Light(180, 60, "#ffffff", 0.10, 0.80, "#e6ebea", "#c9d1d0", "#c4cccb", 0.85, 0.8),
    "Night": Light(220, 48, "#a9c0ff", 0.36, 0.42, "#93a6da", "#121a2c", "#2b3853", 0.28, 1.15),
}
