"""Threads as paths of the painter."""

from __future__ import annotations

from PyQt6.QtGui import QPainterPath

from topion.plan.curves import curve, curve_of
from topion.plan.sheet import Point, Rect
from topion.plan.threads import Thread
from topion.view.plan.camera import SheetCamera


def thread_path(camera: SheetCamera, thread: Thread) -> QPainterPath:
    """A thread in px of the view, from the door it begins at."""
    return _path(camera, curve_of(thread, camera.px))


def way(
    camera: SheetCamera, start: Point, inside: Rect | None, end: Point, into: Rect | None
) -> QPainterPath:  # fmt: skip
    """A curve between two points of the sheet; see `curve`."""
    return _path(camera, curve(start, inside, end, into, camera.px))


def _path(camera: SheetCamera, points: tuple[Point, Point, Point, Point]) -> QPainterPath:
    first, one, other, last = (camera.to_px(point) for point in points)
    path = QPainterPath(first)
    path.cubicTo(one, other, last)
    return path
