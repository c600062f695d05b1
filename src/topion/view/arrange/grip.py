"""The preview pulled on the table: dragged by its frame, scaled by its corners; its rows follow."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from topion.arrange.affine import affine
from topion.arrange.expression import NotAnExpression
from topion.view import style
from topion.view.arrange.preview import ends_of
from topion.view.arrange.work import ArrangeWork

Position = tuple[float, ...]
_KNOB_PX, _MARGIN_PX = 9.0, 14.0
_AXES = ("x", "y", "z")


class PreviewGrip:
    """looks : of the table that draws it.  rows : as they were when the pull began."""

    def __init__(self, work: ArrangeWork) -> None:
        self.work = work
        self._looks: Any = None
        self._rows: dict[str, str] = {}
        self._start: Position = ()
        self._middle: Position = ()
        self._how: Literal["", "move", "scale"] = ""

    def draw(self, painter: QPainter, looks: Any) -> None:
        """Its frame, with a knob at each corner."""
        self._looks = looks
        frame = self.frame()
        if frame is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for pen in (QPen(style.ink("card", 190), 3.0),
                    QPen(style.ink("tidal"), 1.3, Qt.PenStyle.DashLine)):  # fmt: skip
            painter.setPen(pen)
            painter.drawRoundedRect(frame, 3, 3)
        painter.setPen(QPen(style.ink("tidal"), 1.5))
        painter.setBrush(style.ink("card"))
        for corner in _corners(frame):
            painter.drawRect(QRectF(corner.x() - 4, corner.y() - 4, 8, 8))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def frame(self) -> QRectF | None:
        """Round where all of them come to stand, as it is seen."""
        found = self.work.found
        if found is None or self.work.session.preview is None or self._looks is None:
            return None
        ends = ends_of(found, self._looks)
        if not ends:
            return None
        xs, ys = [p.x() for p in ends], [p.y() for p in ends]
        frame = QRectF(min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys))
        return frame.adjusted(-_MARGIN_PX, -_MARGIN_PX, _MARGIN_PX, _MARGIN_PX)

    def at(self, point: QPointF) -> Literal["", "move", "scale"]:
        """What a press there would do."""
        frame = self.frame()
        if frame is None:
            return ""
        if any(np.hypot(c.x() - point.x(), c.y() - point.y()) <= _KNOB_PX
               for c in _corners(frame)):  # fmt: skip
            return "scale"
        return "move" if frame.contains(point) else ""

    def middle(self) -> Position:
        """(z, y, x) of the middle of where they come to stand."""
        found = self.work.found
        assert found is not None
        at = np.array([things[0].at for things in found.after])
        return tuple(((at.min(axis=0) + at.max(axis=0)) / 2).tolist())

    def press(self, how: Literal["move", "scale"], at: Position) -> None:
        """Begin to pull at a place of the room."""
        self._how, self._start = how, at
        self._rows, self._middle = dict(self.work.asked.rows), self.middle()

    @property
    def pulls(self) -> bool:
        """Whether it is pulled now."""
        return bool(self._how)

    def drag(self, at: Position) -> None:
        """The pointer is there: the rows of places are written anew from what they were."""
        if self._how == "move":
            by = np.round(np.subtract(at, self._start) * 2) / 2
            self._write({axis: (1.0, float(by[-1 - n])) for n, axis in enumerate("xy")})
            return
        middle = self._middle[-2:]
        before, now = (float(np.hypot(*np.subtract(p[-2:], middle))) for p in (self._start, at))
        times = min(max(round(now / max(before, 1e-6), 2), 0.05), 50.0)
        self._write({axis: (times, float(self._middle[-1 - n]) * (1 - times))
                     for n, axis in enumerate("xy")})  # fmt: skip

    def _write(self, ways: dict[str, tuple[float, float]]) -> None:
        for axis, (times, plus) in ways.items():
            try:
                text = affine(self._rows.get(axis, "value"), times, plus)
            except NotAnExpression:
                continue  # a row in error stays as it is typed
            if text != "value" or axis in self._rows:
                self.work.ask(axis, text)

    def release(self) -> None:
        """It stays where it is."""
        self._how = ""

    def drop(self) -> bool:
        """As it was; False if it is not pulled."""
        if not self._how:
            return False
        for axis in _AXES:
            self.work.ask(axis, self._rows.get(axis, ""))
        self._how = ""
        return True


def _corners(frame: QRectF) -> list[QPointF]:
    return [frame.topLeft(), frame.topRight(), frame.bottomRight(), frame.bottomLeft()]
