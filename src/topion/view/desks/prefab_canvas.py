"""The picture of a prefab with its marks: the cells it stands in, and its anchor."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from topion.model.prefab import Prefab
from topion.view import style
from topion.view.table.compose import pixmap_of

_NEAR = 9.0  # px at which the pointer takes the anchor


class PrefabCanvas(QWidget):
    """anchored : called with (y, x) px once the anchor is let go.  stood : with (row, column) of a
    cell of the footprint that was clicked, which may lie one beyond it.

    cell_px : of the room that the prefab is seen in.
    """

    def __init__(self) -> None:
        super().__init__()
        self.prefab: Prefab | None = None
        self.cell_px = 16
        self.anchored: Callable[[tuple[int, int]], object] = lambda _: None
        self.stood: Callable[[int, int], object] = lambda *_: None
        self._anchor: tuple[int, int] | None = None  # while it is dragged
        self.setMinimumSize(320, 320)
        self.setMouseTracking(True)
        self.setAccessibleName("Picture and marks")
        self.setToolTip("Drag the red cross to the pixel that comes to the middle of its cell. "
                        "Click a cell: stood in, or free")  # fmt: skip

    def show_prefab(self, prefab: Prefab | None, cell_px: int) -> None:
        """Show another prefab, or the same as it is now."""
        self.prefab, self.cell_px = prefab, max(1, cell_px)
        self.update()

    # --- places ---------------------------------------------------------------------------

    def _frame(self) -> tuple[float, QPointF]:
        """Screen px a pixel, and where the anchor is seen: all of picture and cells fits."""
        prefab = self.prefab
        assert prefab is not None
        high, wide = prefab.picture.size_px
        rows, columns = len(prefab.footprint) + 1, len(prefab.footprint[0]) + 2
        y, x = prefab.anchor_px
        top, bottom = max(y, rows * self.cell_px), max(high - y, self.cell_px // 2)
        left = max(x, columns * self.cell_px // 2)
        right = max(wide - x, columns * self.cell_px // 2)
        share = min((self.width() - 20) / (left + right), (self.height() - 20) / (top + bottom))
        zoom = max(0.25, int(share) if share >= 1 else share)
        over = (self.width() - (left + right) * zoom) / 2
        above = (self.height() - (top + bottom) * zoom) / 2
        return zoom, QPointF(over + left * zoom, above + top * zoom)

    def cell_rect(self, row: int, column: int) -> QRectF:
        """Where a cell of the footprint is seen."""
        assert self.prefab is not None
        zoom, origin = self._frame()
        side = self.cell_px * zoom
        rows, seat = len(self.prefab.footprint), (len(self.prefab.footprint[0]) - 1) // 2
        return QRectF(origin.x() - side / 2 + (column - seat) * side,
                      origin.y() - (rows - row) * side, side, side)  # fmt: skip

    def anchor_point(self) -> QPointF:
        """Where the anchor is seen."""
        zoom, origin = self._frame()
        if self._anchor is None or self.prefab is None:
            return origin
        y, x = (a - b for a, b in zip(self._anchor, self.prefab.anchor_px, strict=True))
        return origin + QPointF(x * zoom, y * zoom)

    # --- drawing --------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), style.ink("card"))
        painter.setPen(style.ink("ink"))
        painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
        prefab = self.prefab
        if prefab is None:
            return
        zoom, origin = self._frame()
        self._paint_cells(painter, prefab)
        y, x = prefab.anchor_px
        high, wide = prefab.picture.size_px
        target = QRectF(origin.x() - x * zoom, origin.y() - y * zoom, wide * zoom, high * zoom)
        painter.drawPixmap(target, pixmap_of(prefab.picture.rgba), QRectF(0, 0, wide, high))
        painter.setPen(QPen(style.ink("ochre"), 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(6, origin.y()), QPointF(self.width() - 6, origin.y()))
        self._paint_anchor(painter)
        painter.setPen(style.ink("soft"))
        painter.setFont(style.font(11))
        painter.drawText(QPointF(10, self.height() - 10), "click a cell: stood in or free")

    def _paint_cells(self, painter: QPainter, prefab: Prefab) -> None:
        rows, columns = len(prefab.footprint), len(prefab.footprint[0])
        for row in range(-1, rows):
            for column in range(-1, columns + 1):
                inside = row >= 0 and 0 <= column < columns
                stands = inside and prefab.footprint[row][column] == "#"
                rect = self.cell_rect(row, column)
                if stands:
                    painter.fillRect(rect, style.ink("tidal", 38))
                painter.setPen(QPen(style.ink("tidal" if stands else "line"), 2 if stands else 1))
                painter.drawRect(rect)

    def _paint_anchor(self, painter: QPainter) -> None:
        at = self.anchor_point()
        for pen in (QPen(style.ink("card"), 5), QPen(style.ink("buoy"), 2.4)):
            painter.setPen(pen)
            painter.drawLine(at - QPointF(11, 0), at + QPointF(11, 0))
            painter.drawLine(at - QPointF(0, 11), at + QPointF(0, 11))
        y, x = self._anchor or (self.prefab.anchor_px if self.prefab else (0, 0))
        painter.setFont(style.font(11, bold=True))
        painter.drawText(at + QPointF(14, 16), f"anchor {x}, {y}")

    # --- the pointer ----------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.prefab is None or event.button() != Qt.MouseButton.LeftButton:
            return
        if (event.position() - self.anchor_point()).manhattanLength() <= 2 * _NEAR:
            self._anchor = self.prefab.anchor_px
            return
        rows, columns = len(self.prefab.footprint), len(self.prefab.footprint[0])
        for row in range(-1, rows):
            for column in range(-1, columns + 1):
                if self.cell_rect(row, column).contains(event.position()):
                    self.stood(row, column)
                    return

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.prefab is None:
            return
        if self._anchor is None:
            near = (event.position() - self.anchor_point()).manhattanLength() <= 2 * _NEAR
            self.setCursor(Qt.CursorShape.SizeAllCursor if near else Qt.CursorShape.ArrowCursor)
            return
        zoom, origin = self._frame()
        away = (event.position() - origin) / zoom
        y, x = self.prefab.anchor_px
        high, wide = self.prefab.picture.size_px
        self._anchor = (
            max(0, min(high, round(y + away.y()))),
            max(0, min(wide, round(x + away.x()))),
        )
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._anchor is not None:
            anchor, self._anchor = self._anchor, None
            self.anchored(anchor)
            self.update()
