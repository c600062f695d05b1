"""How the sheet is looked at: its camera, what is dragged, what lies under the pointer."""

from __future__ import annotations

from dataclasses import dataclass, field

from topion.plan.sheet import Point, Rect, Spot
from topion.plan.threads import PORT, Port
from topion.view.plan.camera import SheetCamera
from topion.view.plan.curves import ThreadPaths


@dataclass
class Looks:
    """How the sheet is looked at.

    shift : of the places that are dragged, in cells.  hot : what is under the pointer.
    linking : doors are to be joined, so they are drawn larger.
    """

    camera: SheetCamera
    width: float = 0.0
    height: float = 0.0
    shift: dict[str, Point] = field(default_factory=dict)
    hot_port: PORT | None = None
    hot_spot: str = ""
    linking: bool = False
    paths: ThreadPaths = field(default_factory=ThreadPaths)

    def rect(self, spot: Spot) -> Rect:
        """Where a placed room is drawn, in cells."""
        by = self.shift.get(spot.name)
        return spot.rect.moved(by) if by else spot.rect

    def point(self, port: Port) -> Point:
        """Where a door is drawn."""
        by = self.shift.get(port.spot.name, (0.0, 0.0))
        return port.point[0] + by[0], port.point[1] + by[1]
