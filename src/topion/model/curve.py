"""Curves: smooth lines in a room, to which things can be attached."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Annotated, Literal

import numpy as np

from topion.errors import BadValue
from topion.grid.arrays import Positions
from topion.grid.bezier import Bend, Measured, cubics, handles
from topion.grid.boxes import Box
from topion.model.refs import Ref
from topion.model.typed import Seed, between, typed

MOST_POINTS = 2048
MOST_FILLED = 20_000  # things along one curve
MOST_PARTS = 32
_FARTHEST = 1 << 15  # cells from the room's first one
_Cells = Annotated[float, between(-1000, 1000, "cells")]
Place = tuple[float, ...]
By = Literal["pitch", "count", "gaps"]
Side = Literal["before", "after"]
SIDES: tuple[Side, Side] = ("before", "after")


@typed
@dataclass(frozen=True)
class CurvePoint:
    """at : in cells, in array order.  bend : smooth ones bend as their neighbours ask, corners do
    not, free ones have two handles.  before, after : those, counted from the point.
    """

    at: Place
    bend: Bend = "smooth"
    before: Place = ()
    after: Place = ()

    def __post_init__(self) -> None:
        axes = len(self.at)
        if axes not in (2, 3) or any(len(p) not in (0, axes) for p in (self.before, self.after)):
            raise BadValue("a point of a curve", self.at, "two or three numbers, handles alike")
        every = (*self.at, *self.before, *self.after)
        if not all(math.isfinite(v) and abs(v) <= _FARTHEST for v in every):
            raise BadValue("a point of a curve", self.at, f"within {_FARTHEST} cells")

    def shifted(self, by: Place) -> CurvePoint:
        """The same so many cells on."""
        return replace(self, at=tuple(round(a + b, 6) for a, b in zip(self.at, by, strict=True)))

    def handle(self, side: Side) -> Place:
        """Its handle, counted from the point; none is as one of no length."""
        found: Place = getattr(self, side)
        return found or (0.0,) * len(self.at)


@typed
@dataclass(frozen=True)
class CurvePart:
    """One prefab of what fills a curve, and how often it is taken beside the others."""

    prefab: Annotated[str, Ref("prefabs")]
    weight: float = 1.0

    def __post_init__(self) -> None:
        if not 0 < self.weight <= 1e6:
            raise BadValue("the weight of a part", self.weight, "above 0")


@typed
@dataclass(frozen=True)
class Fill:
    """What stands along a curve, and how.

    parts : one of them at each place, by weight.  by : so many cells from one to the next, so many
    in all (from corner to corner, where these have a part), or so many cells between their bodies.
    start, end, corner : other prefabs there.
    fits : the pitch or the gaps are stretched a little, so that the last one stands at the end.
    turns : they turn with the curve.  turn : degrees more.  aside : cells to the right of the way
    it goes; up : above the ground, or above the curve.
    """

    parts: tuple[CurvePart, ...] = ()
    by: By = "pitch"
    pitch: Annotated[float, between(0.05, 1000, "cells")] = 1.0
    count: Annotated[int, between(1, MOST_FILLED)] = 10
    apart: Annotated[float, between(0, 1000, "cells")] = 0.0
    start: Annotated[str, Ref("prefabs", perhaps=True)] = ""
    end: Annotated[str, Ref("prefabs", perhaps=True)] = ""
    corner: Annotated[str, Ref("prefabs", perhaps=True)] = ""
    fits: bool = True
    turns: bool = True
    turn: Annotated[float, between(-360, 360, "degrees")] = 0.0
    aside: _Cells = 0.0
    up: _Cells = 0.0
    seed: Seed = 1

    def __post_init__(self) -> None:
        if len(self.parts) > MOST_PARTS:
            raise BadValue("the parts of a curve", len(self.parts), f"at most {MOST_PARTS}")


@typed
@dataclass(frozen=True)
class Along:
    """Where on its curve a thing stands that is attached to one.

    share : of the length of the curve, 0 to 1.  aside, up, turns, turn : as of a Fill.
    filled : it was put there by what fills the curve, which puts it anew.
    """

    share: Annotated[float, between(0, 1)] = 0.0
    aside: _Cells = 0.0
    up: _Cells = 0.0
    turns: bool = True
    turn: Annotated[float, between(-36_000, 36_000, "degrees")] = 0.0
    filled: bool = False


@typed
@dataclass(frozen=True)
class Curve:
    """points : in the order of the way it goes.  closed : the last leads to the first again.

    on_ground : in voxel rooms, it lies on what carries there, whatever heights its points have.
    fill : what stands along it.  brush : that it was drawn with.  groups : as of things.
    """

    points: tuple[CurvePoint, ...]
    closed: bool = False
    on_ground: bool = False
    fill: Fill | None = None
    brush: Annotated[str, Ref("brushes", perhaps=True)] = ""
    groups: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        if not 2 <= len(self.points) <= MOST_POINTS:
            raise BadValue("the points of a curve", len(self.points), f"2 to {MOST_POINTS}")
        if len({len(point.at) for point in self.points}) != 1:
            raise BadValue("the points of a curve", len(self.points), "all in one kind of room")

    @property
    def axes(self) -> int:
        """Of the rooms it can lie in."""
        return len(self.points[0].at)

    @cached_property
    def places(self) -> Positions:
        """(n, axes) its points; of one on the ground, at no height."""
        return self._flat(np.array([point.at for point in self.points]))

    @cached_property
    def pulls(self) -> tuple[Positions, Positions]:
        """(n, axes) each: the handles before and after its points, counted from these; also those
        that follow from the neighbours."""
        free = tuple(self._flat(np.array([point.handle(side) for point in self.points]))
                     for side in SIDES)  # fmt: skip
        bends = [point.bend for point in self.points]
        return handles(self.places, bends, (free[0], free[1]), closed=self.closed)

    def _flat(self, at: Positions) -> Positions:
        if self.on_ground and self.axes == 3:
            at[:, 0] = 0.0
        return at

    @cached_property
    def line(self) -> Measured:
        """The curve by its length; of one on the ground, seen from above, at no height."""
        return Measured(cubics(self.places, self.pulls, closed=self.closed), self.closed)

    @property
    def length(self) -> float:
        """In cells; of one on the ground, seen from above."""
        return self.line.length

    @cached_property
    def touched(self) -> Box:
        """The columns in which it lies."""
        at = self.line.samples(1.0)[:, -2:]
        lo, hi = np.floor(at.min(axis=0) + 0.5), np.floor(at.max(axis=0) + 0.5)
        return Box(tuple(int(v) for v in lo), tuple(int(v) + 1 for v in hi))

    @cached_property
    def box(self) -> Box:
        """The cells round it, in array order."""
        at = np.array([point.at for point in self.points])
        lo = np.floor(at.min(axis=0) + 0.5).astype(int).tolist()
        hi = (np.floor(at.max(axis=0) + 0.5).astype(int) + 1).tolist()
        return Box((*lo[:-2], *self.touched.lo), (*hi[:-2], *self.touched.hi))

    def shifted(self, by: Place) -> Curve:
        """The same curve so many cells on, in array order."""
        return replace(self, points=tuple(point.shifted(by) for point in self.points))
