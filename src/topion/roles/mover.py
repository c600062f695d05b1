"""Mover: goes its way, whatever happens."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from math import isqrt
from typing import Annotated, ClassVar, Literal

from topion.errors import BadValue
from topion.model.form import Blank, Form, Mark
from topion.model.typed import between
from topion.roles.circle import ONE, ROUND, cosine, sine
from topion.roles.kind import Me, RoleKind, Track, Walk, choices

MOST_POINTS = 64
_FAR = 1024.0


@dataclass(frozen=True)
class Mover(RoleKind):
    """Goes round the middle of its group, along the curve it is attached to, or from point to
    point, and carries what stands on it.

    points : cells from its own place, (across, up or down) each, in voxel rooms (east, south, up).
    """

    kind: ClassVar[str] = "mover"
    wanders: ClassVar[bool] = True
    form: ClassVar[Form] = (
        "Moves ", Blank("goes", "choice", choices=choices("between points", "along its curve",
                                                          "round the middle of its group")),
        " at ", Blank("speed", "number", 0.1, 32), " cells a second, ",
        Blank("again", "choice", choices=choices("to and fro", "on and on", "once")),
        "; points: ", Blank("points", "points", none="none yet"), "; stands in the way: ",
        Blank("solid", "switch"), ".",
    )  # fmt: skip
    drawing: ClassVar[tuple[Mark, ...]] = (
        Mark("box", "ink", ((0.62, 0.1), (0.82, 0.5))),
        Mark("dashes", "tidal", ((0.5, 0.3), (0.2, 0.3), (0.2, 0.85))),
        Mark("dot", "tidal", ((0.2, 0.85),), 0.08),
    )  # fmt: skip
    goes: Literal["between points", "along its curve", "round the middle of its group"] = (
        "between points"
    )
    speed: Annotated[float, between(0.1, 32)] = 2.0
    again: Literal["to and fro", "on and on", "once"] = "to and fro"
    points: tuple[tuple[float, ...], ...] = ((4.0, 0.0),)
    solid: bool = True

    def __post_init__(self) -> None:
        if len(self.points) > MOST_POINTS:
            wanted = f"at most {MOST_POINTS}"
            raise BadValue("the points of a mover", len(self.points), wanted)
        for point in self.points:
            if len(point) not in (2, 3) or not all(abs(value) <= _FAR for value in point):
                told = ", ".join(f"{value:g}" for value in point)
                raise BadValue("a point of a mover", told, "two or three numbers, in cells")

    def in_the_way(self, me: Me) -> bool:
        return self.solid and not me.gone

    def moves(self, me: Me, walk: Walk) -> None:
        far = walk.a_tick(self.speed) * (walk.tick - me.since)
        if self.goes == "between points":
            me.x, me.y, me.z = self._along(self._stops(walk), far)
        elif self.goes == "along its curve":
            me.x, me.y, me.z = self._on_curve(walk.track_of(me), far)
        else:
            me.x, me.y = self._round(me, walk, far)

    def _stops(self, walk: Walk) -> list[tuple[int, int, int]]:
        stops = [(0, 0, 0)]
        for point in self.points:
            x, y, *up = (walk.units(value) for value in point)
            stops.append((x, y, up[0] if up else 0) if walk.deep else (x, -y, 0))
        return stops

    def _along(self, stops: list[tuple[int, int, int]], far: int) -> tuple[int, int, int]:
        """Where it is after so many units of its way."""
        if self.again == "on and on" and len(stops) > 1:
            stops = [*stops, stops[0]]
        legs = [isqrt(sum((b - a) ** 2 for a, b in zip(one, two, strict=True)))
                for one, two in pairwise(stops)]  # fmt: skip
        whole = sum(legs)
        if not whole:
            return stops[0]
        if self.again == "to and fro":
            far %= 2 * whole
            far = min(far, 2 * whole - far)
        else:
            far = far % whole if self.again == "on and on" else min(far, whole)
        for (one, two), leg in zip(pairwise(stops), legs, strict=True):
            if far <= leg and leg:
                x, y, z = (a + (b - a) * far // leg for a, b in zip(one, two, strict=True))
                return x, y, z
            far -= leg
        return stops[-1]

    def _on_curve(self, track: Track | None, far: int) -> tuple[int, int, int]:
        """From its own place on; where it has no curve it stays."""
        if track is None or not track.whole:
            return 0, 0, 0
        whole, at = track.whole, track.before + far
        if self.again == "to and fro":
            at %= 2 * whole
            at = min(at, 2 * whole - at)
        elif track.closed and self.again == "once":
            at = (track.before + min(far, whole)) % whole
        else:
            at = min(at, whole) if self.again == "once" else at % whole
        return track.place(at)

    def _round(self, me: Me, walk: Walk, far: int) -> tuple[int, int]:
        """Round the middle of its group, clockwise, as far from it as it was placed."""
        x, y = walk.middle_of_group(me)
        dx = (me.home[0] + me.home[2]) // 2 - x
        dy = (me.home[1] + me.home[3]) // 2 - y
        length = isqrt(dx * dx + dy * dy)
        if not length:
            return 0, 0
        step = far * ROUND * 113 // (length * 710)  # of a whole turn; 710 / 113 is twice pi
        if self.again == "to and fro":
            step %= 2 * ROUND
            step = min(step, 2 * ROUND - step)
        elif self.again == "once":
            step = min(step, ROUND)
        cos, sin = cosine(step), sine(step)
        return (dx * cos - dy * sin) // ONE - dx, (dx * sin + dy * cos) // ONE - dy

    def state(self, me: Me) -> str:
        return "moving"
