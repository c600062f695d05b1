"""The sheet: where each placed room lies, what it snaps to, and where edges meet.

Lengths are cells of the sheet, points (y, x); a cell of a room is a cell of the sheet.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from topion.edit.places import titles
from topion.model.placement import Placement
from topion.model.project import Project
from topion.model.room import RoomInfo
from topion.walk.links import Cell, Doors

Point = tuple[float, float]
UNSEEN = (24, 32)  # cells of a room that was not read yet
_MEET = 1e-6


class Rect(NamedTuple):
    """A part of the sheet."""

    top: float
    left: float
    bottom: float
    right: float

    def holds(self, point: Point) -> bool:
        """Whether a point lies in it."""
        return self.top <= point[0] < self.bottom and self.left <= point[1] < self.right

    def meets(self, other: Rect) -> bool:
        """Whether both have an area in common."""
        return (self.top < other.bottom and other.top < self.bottom
                and self.left < other.right and other.left < self.right)  # fmt: skip

    def moved(self, by: Point) -> Rect:
        """So many cells on."""
        return Rect(self.top + by[0], self.left + by[1], self.bottom + by[0], self.right + by[1])

    @property
    def middle(self) -> Point:
        """Its middle."""
        return (self.top + self.bottom) / 2, (self.left + self.right) / 2


@dataclass(frozen=True)
class Spot:
    """A placed room as it lies on the sheet.  info : None for a room that was not read yet."""

    name: str
    room: str
    title: str
    rect: Rect
    info: RoomInfo | None
    place: Placement

    def point_of(self, cell: Cell) -> Point:
        """The middle of a cell of its room."""
        return self.rect.top + cell[-2] + 0.5, self.rect.left + cell[-1] + 0.5

    def cell_at(self, point: Point) -> tuple[int, int]:
        """(y, x) the cell of the room at a point, the nearest if it lies beside."""
        high, wide = self.rect.bottom - self.rect.top, self.rect.right - self.rect.left
        y, x = point[0] - self.rect.top, point[1] - self.rect.left
        return int(min(max(y, 0), high - 1)), int(min(max(x, 0), wide - 1))


class Joint(NamedTuple):
    """A line along which the edges of two spots meet."""

    start: Point
    end: Point
    one: str
    other: str


def laid_out(project: Project, known: Mapping[str, Doors]) -> dict[str, Spot]:
    """The placed rooms by the name of their place, in order.  known : of rooms that were read."""
    names, found = titles(project), {}
    for name, place in project.shelf("placements").items():
        if place.room not in project.rooms:
            continue
        doors = known.get(place.room)
        info = doors.info if doors is not None else None
        high, wide = info.plan if info is not None else UNSEEN
        top, left = place.at
        rect = Rect(top, left, top + high, left + wide)
        found[name] = Spot(name, place.room, names[name], rect, info, place)
    return found


def rects_of(spots: Iterable[Spot]) -> NDArray[np.float64]:
    """(n, 4) top, left, bottom, right."""
    return np.array([spot.rect for spot in spots], float).reshape(-1, 4)


def around(rects: Sequence[Rect]) -> Rect | None:
    """What holds all of them; None for none."""
    if not rects:
        return None
    all_of = np.array(rects)
    low, high = all_of[:, :2].min(axis=0), all_of[:, 2:].max(axis=0)
    return Rect(float(low[0]), float(low[1]), float(high[0]), float(high[1]))


def snapped(rect: Rect, others: NDArray[np.float64], reach: float, grid: float) -> Point:
    """How far a moved rect goes on to lie well: with an edge on an edge of another within `reach`
    cells, else on the `grid`, axis by axis.

    others : (n, 4) as of `rects_of`.  grid : in cells; 0 for none.
    """
    step = [_to_grid(rect[axis], grid) for axis in (0, 1)]
    if not len(others) or reach <= 0:
        return step[0], step[1]
    near = np.ones(len(others), bool)
    for axis in (0, 1):  # only those that lie within reach on both axes
        near &= (others[:, axis] <= rect[axis + 2] + reach) & (
            others[:, axis + 2] >= rect[axis] - reach
        )
    for axis in (0, 1):
        edges = others[near][:, [axis, axis + 2]].ravel()
        gaps = np.concatenate([edges - rect[axis], edges - rect[axis + 2]])
        if len(gaps):
            best = gaps[np.abs(gaps).argmin()]
            if abs(best) <= reach:
                step[axis] = float(best)
    return step[0], step[1]


def _to_grid(value: float, grid: float) -> float:
    return round(value / grid) * grid - value if grid else 0.0


def joints(spots: Sequence[Spot]) -> list[Joint]:
    """Where the edge of a spot lies on that of another one."""
    rects, found = rects_of(spots), []
    for axis in (0, 1):  # across which they meet
        along = 1 - axis
        ends, begins = rects[:, axis + 2], rects[:, axis]
        near = np.abs(ends[:, None] - begins[None, :]) < _MEET
        near &= rects[:, None, along] < rects[None, :, along + 2] - _MEET
        near &= rects[None, :, along] < rects[:, None, along + 2] - _MEET
        for one, other in np.argwhere(near):
            low = float(max(rects[one, along], rects[other, along]))
            high = float(min(rects[one, along + 2], rects[other, along + 2]))
            at = float(ends[one])
            start, end = ((at, low), (at, high)) if axis == 0 else ((low, at), (high, at))
            found.append(Joint(start, end, spots[one].name, spots[other].name))
    return found


def free_place(rects: NDArray[np.float64], size: Point, near: Point, gap: float = 6.0) -> Point:
    """Where a room of that size can stand beside all others, right of or below `near`."""
    if not len(rects):
        return near
    tries = [near, *((float(r[0]), float(r[3]) + gap) for r in rects),
             *((float(r[2]) + gap, float(r[1])) for r in rects)]  # fmt: skip
    tries.sort(key=lambda p: (p[0] - near[0]) ** 2 + (p[1] - near[1]) ** 2)
    for top, left in tries:
        own = (top - gap / 2, left - gap / 2, top + size[0] + gap / 2, left + size[1] + gap / 2)
        clear = ((rects[:, 2] <= own[0]) | (rects[:, 0] >= own[2])
                 | (rects[:, 3] <= own[1]) | (rects[:, 1] >= own[3]))  # fmt: skip
        if clear.all():
            return top, left
    return float(rects[:, 2].max()) + gap, float(rects[:, 1].min())
