"""Threads as paths of the painter, in cells of the sheet: kept as long as nothing moves."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cached_property

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainterPath, QPolygonF

from topion.plan.curves import Curve, curve, curve_of
from topion.plan.sheet import Point, Rect
from topion.plan.threads import Thread

_ARROW_AT = 0.62  # of a thread


class Drawn:
    """A thread as a path in cells of the sheet, x first."""

    def __init__(self, thread: Thread) -> None:
        self.thread = thread
        self.path = path_of(curve_of(thread))
        self.box: QRectF = self.path.controlPointRect()

    @cached_property
    def middle(self) -> Point:
        """Half way, as (y, x)."""
        at = self.path.pointAtPercent(0.5)
        return at.y(), at.x()

    @cached_property
    def long(self) -> float:
        """Its length in cells."""
        return self.path.length()


class ThreadPaths:
    """The paths of all threads."""

    def __init__(self) -> None:
        self._of: object = None
        self._paths: list[Drawn] = []

    def of(self, threads: Sequence[Thread]) -> list[Drawn]:
        """One for each, in their order."""
        if self._of is not threads:
            self._of, self._paths = threads, [Drawn(thread) for thread in threads]
        return self._paths


def arrow_of(path: QPainterPath, px: float) -> QPolygonF:
    """The head of an arrow on a path, as large at any zoom.  px : of a unit of the path."""
    at, turn = path.pointAtPercent(_ARROW_AT), math.radians(-path.angleAtPercent(_ARROW_AT))
    ahead = QPointF(math.cos(turn), math.sin(turn)) / px
    side = QPointF(-ahead.y(), ahead.x())
    return QPolygonF([at + ahead * 8, at - ahead * 4 + side * 5.5, at - ahead * 4 - side * 5.5])


def way(start: Point, inside: Rect | None, end: Point, into: Rect | None) -> QPainterPath:
    """A curve between two points of the sheet, in cells; see `curve`."""
    return path_of(curve(start, inside, end, into))


def path_of(points: Curve) -> QPainterPath:
    """A curve in cells of the sheet, x first."""
    first, one, other, last = (QPointF(x, y) for y, x in points)
    path = QPainterPath(first)
    path.cubicTo(one, other, last)
    return path
