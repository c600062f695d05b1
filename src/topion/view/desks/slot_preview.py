"""A slot large, as it repeats, its frames playing, and the slope of its top drawn over it."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from topion.view import style
from topion.view.table.compose import pixmap_of

_LARGE, _REACH = 150.0, 9.0  # px of the picture, and how near the pointer takes a point


class SlotPreview(QWidget):
    """heights : those of the top of the slot, from its left to its right edge, 0 to 1; shown while
    a point is pulled.  pulled : called with the heights once it is let go."""

    def __init__(self) -> None:
        super().__init__()
        self.heights: tuple[float, ...] = ()
        self.pulled: Callable[[tuple[float, ...]], object] = lambda _: None
        self._frames: list[Any] = []
        self._ms = 250
        self._held: int | None = None
        self._at = 0  # the point that keys move
        self._steps = 16  # heights a point can have: one a pixel
        self.setFixedHeight(int(_LARGE) + 12)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Preview of the slot")
        self.setToolTip("The slot, and among its like; points of its slope are dragged, or "
                        "moved by the arrow keys")  # fmt: skip
        self._clock = QTimer(self)
        self._clock.setInterval(60)
        self._clock.timeout.connect(self.update)

    def show_frames(self, pictures: list[Any], frame_ms: int) -> None:
        """Show these in turn."""
        self._frames, self._ms = [pixmap_of(picture) for picture in pictures], frame_ms
        self._steps = pictures[0].shape[0] if pictures else 16
        if len(pictures) > 1:
            self._clock.start()
        else:
            self._clock.stop()
        self.update()

    def show_heights(self, heights: tuple[float, ...]) -> None:
        """Show the slope of the top; none for a level one."""
        if self._held is None:
            self.heights = heights
            self.setToolTip("Drag the points of the line to where the top is" if heights else "")
            self.update()

    def large(self) -> QRectF:
        """Where the slot is seen large."""
        picture = self._frames[0] if self._frames else None
        ratio = picture.height() / max(1, picture.width()) if picture is not None else 1.0
        wide = min(_LARGE, _LARGE / max(ratio, 0.2))
        return QRectF(6, 6, wide, wide * ratio)

    def point(self, number: int) -> QPointF:
        """Where a point of the slope is seen."""
        rect, count = self.large(), len(self.heights)
        return QPointF(rect.left() + rect.width() * number / max(1, count - 1),
                       rect.bottom() - rect.height() * self.heights[number])  # fmt: skip

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if not self._frames:
            return
        painter = QPainter(self)
        number = int(time.monotonic() * 1000 // self._ms) % len(self._frames)
        picture, large = self._frames[number], self.large()
        painter.fillRect(large, style.ink("panel2"))
        painter.drawPixmap(large, picture, QRectF(picture.rect()))
        side = min(32.0, (self.width() - large.right() - 18) / 3)
        high = side * large.height() / large.width()
        for row, column in np.ndindex(3, 3):
            part = QRectF(large.right() + 14 + column * side, 6 + row * high, side, high)
            painter.drawPixmap(part, picture, QRectF(picture.rect()))
        self._paint_slope(painter)

    def _paint_slope(self, painter: QPainter) -> None:
        if not self.heights:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        points = [self.point(number) for number in range(len(self.heights))]
        for pen in (QPen(style.ink("card"), 4), QPen(style.ink("buoy"), 2)):
            painter.setPen(pen)
            painter.drawPolyline(QPolygonF(points))
        painter.setPen(QPen(style.ink("buoy"), 2))
        painter.setBrush(style.ink("card"))
        for number, at in enumerate(points):
            held = number == (self._at if self.hasFocus() else self._held)
            painter.drawEllipse(at, *((6, 6) if held else (4.5, 4.5)))

    def _near(self, at: QPointF) -> int | None:
        far = [(self.point(n) - at).manhattanLength() for n in range(len(self.heights))]
        if not far or min(far) > 2 * _REACH:
            return None
        return far.index(min(far))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._held = self._near(event.position())
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._held is None:
            near = self._near(event.position()) is not None
            self.setCursor(Qt.CursorShape.SizeVerCursor if near else Qt.CursorShape.ArrowCursor)
            return
        rect = self.large()
        height = (rect.bottom() - event.position().y()) / rect.height()
        self._put(self._held, height)

    def _put(self, number: int, height: float) -> None:
        heights = list(self.heights)
        heights[number] = round(min(1.0, max(0.0, height)) * self._steps) / self._steps
        self.heights = tuple(heights)
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and right among the points of the slope, up and down move one."""
        if event is None or not self.heights:
            return
        along = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        up = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1}.get(Qt.Key(event.key()), 0)
        if not along and not up:
            event.ignore()
            return
        self._at = max(0, min(len(self.heights) - 1, self._at + along))
        self.update()
        if up:
            self._put(self._at, self.heights[self._at] + up / self._steps)
            self.pulled(self.heights)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._held is not None:
            self._held = None
            self.pulled(self.heights)
            self.update()
