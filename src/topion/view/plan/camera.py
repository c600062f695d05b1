"""From cells of the sheet to px of its view and back."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF

from topion.plan.sheet import Point, Rect

LEAST_PX, MOST_PX = 0.02, 32.0  # of a cell
STEP = 1.25


@dataclass
class SheetCamera:
    """left, top : px of the point (0, 0) of the sheet.  px : of one cell."""

    left: float = 0.0
    top: float = 0.0
    px: float = 3.0

    def to_px(self, point: Point) -> QPointF:
        """A point of the sheet in the view."""
        return QPointF(self.left + point[1] * self.px, self.top + point[0] * self.px)

    def to_cells(self, at: QPointF) -> Point:
        """A point of the view on the sheet."""
        return (at.y() - self.top) / self.px, (at.x() - self.left) / self.px

    def rect_of(self, rect: Rect) -> QRectF:
        """A part of the sheet in the view."""
        return QRectF(self.to_px((rect.top, rect.left)), self.to_px((rect.bottom, rect.right)))

    def shown(self, width: float, height: float) -> Rect:
        """What of the sheet a view of that size shows."""
        top, left = self.to_cells(QPointF(0, 0))
        bottom, right = self.to_cells(QPointF(width, height))
        return Rect(top, left, bottom, right)

    def zoom_at(self, at: QPointF, factor: float) -> None:
        """Zoom so that what lies under a point of the view stays there."""
        old = self.px
        self.px = max(LEAST_PX, min(MOST_PX, self.px * factor))
        ratio = self.px / old
        self.left = at.x() - (at.x() - self.left) * ratio
        self.top = at.y() - (at.y() - self.top) * ratio

    def fit(self, rect: Rect, view: QRectF) -> None:
        """Show all of a part of the sheet, in the middle of the view."""
        high, wide = max(rect.bottom - rect.top, 1.0), max(rect.right - rect.left, 1.0)
        px = min(view.width() / wide, view.height() / high, 8.0)
        self.px = max(LEAST_PX, min(MOST_PX, px))
        middle = rect.middle
        self.left = view.center().x() - middle[1] * self.px
        self.top = view.center().y() - middle[0] * self.px
