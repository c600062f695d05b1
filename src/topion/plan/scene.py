"""The plan as it is written into a picture: what lies on the sheet, and how large."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from topion.errors import BadValue
from topion.model.project import Project
from topion.plan.sheet import Joint, Point, Rect, Spot, around, joints, laid_out
from topion.plan.threads import PORT, Port, Thread, ports, threads
from topion.walk.links import Doors, begins_at, doors_by_room

MARGIN_PX = 56.0
_TITLE_PX = 20.0
LONGEST_PX = 4096.0
USUAL_PX = 4.0  # of a cell


@dataclass(frozen=True)
class PlanScene:
    """box : of the sheet that is shown, margins and all.  px : of a cell.  start : where the world
    starts; None where it does not."""

    spots: dict[str, Spot]
    known: dict[str, Doors]
    ports: dict[PORT, Port]
    threads: list[Thread]
    joints: list[Joint]
    box: Rect
    px: float
    start: Point | None

    @property
    def size_px(self) -> tuple[int, int]:
        """(height, width) of the picture."""
        return (round((self.box.bottom - self.box.top) * self.px),
                round((self.box.right - self.box.left) * self.px))  # fmt: skip

    def at(self, point: Point) -> Point:
        """A point of the sheet in the picture: (y, x) in px."""
        return (point[0] - self.box.top) * self.px, (point[1] - self.box.left) * self.px

    def title_at(self, spot: Spot) -> Point:
        """Where the title of a room begins, on its line: above it, or below where another room
        lies there."""
        rect = self.rect(spot.rect)
        high = _TITLE_PX / self.px
        band = Rect(spot.rect.top - high, spot.rect.left, spot.rect.top, spot.rect.left + high)
        taken = any(band.meets(other.rect) for other in self.spots.values() if other is not spot)
        return (rect.bottom + _TITLE_PX - 4 if taken else rect.top - 7), rect.left

    def goals(self) -> Iterator[tuple[Point, str]]:
        """What ends the world, at the first place of its room: where in the picture, and its
        name."""
        first = {spot.room: spot for spot in reversed(self.spots.values())}
        for room, spot in first.items():
            for goal in self.known[room].goals:
                if goal.world:
                    yield self.at(spot.point_of(goal.cell)), goal.prefab

    def rect(self, rect: Rect) -> Rect:
        """A part of the sheet in the picture, in px."""
        return Rect(*self.at((rect.top, rect.left)), *self.at((rect.bottom, rect.right)))


def scene_of(project: Project, scale: float = 1.0) -> PlanScene:
    """All of the plan; rooms are read in passing.  scale : 1 for 4 px a cell, or as much as fits.

    Raises BadValue for a plan without rooms, and for a scale that is none.
    """
    if not 0.01 <= scale <= 100:
        raise BadValue("the scale", scale, "0.01 to 100")
    known = doors_by_room(project)
    spots = laid_out(project, known)
    rect = around([spot.rect for spot in spots.values()])
    if rect is None:
        raise BadValue("the plan", "empty", "a sheet with at least one room")
    longest = max(rect.bottom - rect.top, rect.right - rect.left)
    px = min(USUAL_PX * scale, (LONGEST_PX - 2 * MARGIN_PX) / longest)
    more = MARGIN_PX / px
    box = Rect(rect.top - more, rect.left - more, rect.bottom + more, rect.right + more)
    first = begins_at(project)
    placed = next((spot for spot in spots.values() if spot.room == first), None)
    start = placed.point_of(known[first].starts[0]) if placed is not None else None
    return PlanScene(spots, known, ports(spots, known), threads(spots, known),
                     joints(list(spots.values())), box, px, start)  # fmt: skip
