"""Where the table looks: from cells to screen pixels and back."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF

# Screen px for each px of a tile: whole steps up, halves down, so that pixels stay crisp.
_KEEP_PX = 24.0
STEPS = (1 / 32, 1 / 16, 1 / 8, 1 / 4, 1 / 2, 1.0, 2.0, 3.0, 4.0, 6.0, 8.0, 12.0, 16.0)


@dataclass
class Camera:
    """left, top : screen px of the room's corner.  step : index into STEPS."""

    left: float = 0.0
    top: float = 0.0
    step: int = STEPS.index(1.0)
    cell_px: int = 16

    @property
    def zoom(self) -> float:
        """Zoom by steps, at a point or the middle."""
        return STEPS[self.step]

    @property
    def px(self) -> float:
        """Screen px of one cell."""
        return self.cell_px * self.zoom

    def to_cells(self, point: QPointF) -> tuple[float, float]:
        """(y, x) position in cells; whole numbers are the middles of cells."""
        return (
            (point.y() - self.top) / self.px - 0.5,
            (point.x() - self.left) / self.px - 0.5,
        )

    def rect_of(self, top: float, left: float, bottom: float, right: float) -> QRectF:
        """Screen rectangle of cells top ≤ y < bottom, left ≤ x < right."""
        return QRectF(
            self.left + left * self.px,
            self.top + top * self.px,
            (right - left) * self.px,
            (bottom - top) * self.px,
        )

    def zoom_at(self, point: QPointF, steps: int) -> None:
        """Zoom so that what lies under the point stays there."""
        old = self.px
        self.step = max(0, min(len(STEPS) - 1, self.step + steps))
        ratio = self.px / old
        self.left = round(point.x() - (point.x() - self.left) * ratio)
        self.top = round(point.y() - (point.y() - self.top) * ratio)

    def hold(self, size: tuple[int, ...], view: QRectF) -> None:
        """Keep some of a room in the view, or at its edge: px stay within what can be drawn."""
        high, wide = size[0] * self.px, size[1] * self.px
        keep = min(_KEEP_PX, wide, high)
        self.left = max(view.left() - wide + keep, min(self.left, view.right() - keep))
        self.top = max(view.top() - high + keep, min(self.top, view.bottom() - keep))

    def fit(self, size: tuple[int, ...], width: float, height: float, pad: float = 24) -> None:
        """Show the whole room, or its middle at a comfortable size."""
        room_h, room_w = size[0] * self.cell_px, size[1] * self.cell_px
        fitting = [
            i
            for i, z in enumerate(STEPS)
            if room_w * z <= width - pad and room_h * z <= height - pad
        ]
        self.step = max(fitting, default=0)
        self.centre(size, width, height)

    def show_room(self, size: tuple[int, ...], view: QRectF, pad: float = 24) -> None:
        """Show a room as large as it fits, but not smaller than its cells can be painted."""
        self.fit(size, view.width(), view.height(), pad)
        if self.zoom < 0.5:
            self.step = STEPS.index(1.0) if max(size) <= 128 else self.step
        self.centre(size, view.width(), view.height())
        self.left += view.left()
        self.top += view.top()
        if size[1] * self.px > view.width():
            self.left = round(view.left() + 12)
        if size[0] * self.px > view.height():
            self.top = round(view.top() + 12)

    def centre(self, size: tuple[int, ...], width: float, height: float) -> None:
        """Bring the middle of a room to the middle of the view."""
        self.left = round((width - size[1] * self.px) / 2)
        self.top = round((height - size[0] * self.px) / 2)
