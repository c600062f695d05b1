"""A sheet with its cut drawn over it; slots can be marked with the pointer."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QWidget

from topion.grid.boxes import Box
from topion.grid.neighbours import bits_of
from topion.model.picture import Picture
from topion.model.tileset import Cut
from topion.view import style
from topion.view.table.compose import image_of

_CHECK_PX = 8
_MOST_LINES = 600  # of a cut; a finer one is shown as corners only where one looks closely


class SheetView(QWidget):
    """Signals: marked(Box of slots)."""

    marked = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumSize(420, 360)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Sheet")
        self.image: QImage | None = None
        self.cut: Cut | None = None
        self.grid = (0, 0)
        self.filled: np.ndarray | None = None
        self.selection: Box | None = None
        self.selectable = False
        self.pointed: Callable[[tuple[int, int]], object] | None = None  # takes clicks on slots
        self.marks: dict[tuple[int, int], str] = {}  # the ink of a frame round a slot
        self.cases: dict[tuple[int, int], int] = {}  # which case a slot is taken for
        self._from: tuple[int, int] | None = None
        self._zoom = 0.0
        self._origin = QPointF(0, 0)
        self._pan: QPointF | None = None

    def sizeHint(self) -> QSize:
        return QSize(640, 520)

    def show_sheet(self, sheet: Picture) -> None:
        """Show a sheet without a cut."""
        self.image = image_of(sheet.rgba)
        self._zoom = 0.0
        self.selection = None
        self.update()

    def clear(self) -> None:
        """Show no sheet."""
        self.image, self.cut, self.filled, self.selection = None, None, None, None
        self.update()

    def show_cut(self, cut: Cut | None, filled: np.ndarray | None) -> None:
        """Show a cut over the sheet."""
        self.cut, self.filled = cut, filled
        if cut is not None and self.image is not None:
            self.grid = cut.grid_of((self.image.height(), self.image.width()))
        self.update()

    def show_cases(self, cases: dict[tuple[int, int], int]) -> None:
        """Draw over slots which of the 47 cases they are taken for."""
        if cases != self.cases:
            self.cases = cases
            self.update()

    def show_marks(self, marks: dict[tuple[int, int], str]) -> None:
        """Frame slots, each with an ink by its name."""
        self.marks = marks
        self.update()

    def select(self, box: Box) -> None:
        """Mark a block of slots; what reaches beyond the sheet is left out."""
        self.selection = box.clipped(Box((0, 0), self.grid))
        self.update()
        self.marked.emit(box)

    def _place(self) -> None:
        """Fit the sheet when it is first seen: whole steps where it is smaller than the view."""
        if self.image is None or self._zoom:
            return
        share = min(
            (self.width() - 24) / self.image.width(), (self.height() - 24) / self.image.height()
        )
        self._zoom = max(1.0, int(share * 4) / 4) if share >= 1 else share
        self._origin = QPointF(
            (self.width() - self.image.width() * self._zoom) / 2,
            (self.height() - self.image.height() * self._zoom) / 2,
        )

    def slot_rect(self, row: int, column: int) -> QRectF:
        """Where a slot is seen."""
        if self.cut is None:
            return QRectF()
        self._place()
        y, x = self.cut.corner_px((row, column))
        height, width = self.cut.size_of((row, column))
        zoom = self._zoom
        return QRectF(
            self._origin.x() + x * zoom, self._origin.y() + y * zoom, width * zoom, height * zoom
        )

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), style.ink("table"))
        if self.image is None:
            return
        self._place()
        target = QRectF(
            self._origin.x(),
            self._origin.y(),
            self.image.width() * self._zoom,
            self.image.height() * self._zoom,
        )
        self._paint_checks(painter, target)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self._zoom < 1)
        painter.drawImage(target, self.image)
        if self.cut is not None:
            self._paint_cut(painter)
        self._paint_cases(painter)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for at, ink in self.marks.items():
            painter.setPen(QPen(style.ink(ink), 2.4))
            painter.drawRect(self.slot_rect(*at).adjusted(1, 1, -1, -1))
        if self.selection is not None:
            rects = self._marked_rects(self.selection)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for pen in (QPen(QColor(255, 255, 255, 230), 5), QPen(style.ink("buoy"), 2.4)):
                painter.setPen(pen)
                for rect in rects:
                    painter.drawRect(rect)

    def _paint_cases(self, painter: QPainter) -> None:
        """A small card in each slot: neighbours that are the same, and the cell itself a dot."""
        for at, mask in self.cases.items():
            rect = self.slot_rect(*at)
            side = min(27.0, rect.width() * 0.5)
            if side < 12:
                continue
            card = QRectF(rect.right() - side - 2, rect.bottom() - side - 2, side, side)
            painter.fillRect(card, style.ink("card", 225))
            step, near = side / 3, bits_of(mask)
            for y in range(3):
                for x in range(3):
                    cell = QRectF(card.left() + x * step, card.top() + y * step, step, step)
                    if y == x == 1:
                        inset = step * 0.3
                        painter.fillRect(cell.adjusted(inset, inset, -inset, -inset),
                                         style.ink("buoy"))  # fmt: skip
                    elif near[y, x]:
                        painter.fillRect(cell.adjusted(0.8, 0.8, -0.8, -0.8), style.ink("ink"))

    def _marked_rects(self, box: Box) -> list[QRectF]:
        lo, hi = box.lo, box.hi
        if self.cut is not None and self.cut.rects:
            return [self.slot_rect(0, column) for column in range(lo[1], hi[1])]
        return [self.slot_rect(*lo).united(self.slot_rect(hi[0] - 1, hi[1] - 1))]

    def _paint_checks(self, painter: QPainter, target: QRectF) -> None:
        area = target.intersected(QRectF(self.rect()))
        painter.fillRect(area, QColor("#8d8a84"))
        painter.save()
        painter.setClipRect(area)
        top = int(area.top()) // _CHECK_PX
        for row in range(top, int(area.bottom()) // _CHECK_PX + 1):
            for column in range(int(area.left()) // _CHECK_PX, int(area.right()) // _CHECK_PX + 1):
                if (row + column) % 2:
                    painter.fillRect(column * _CHECK_PX, row * _CHECK_PX, _CHECK_PX, _CHECK_PX,
                                     QColor("#9b9892"))  # fmt: skip
        painter.restore()

    def _paint_cut(self, painter: QPainter) -> None:
        rows, columns = self.grid
        cut = self.cut
        if cut is None or rows * columns == 0:
            return
        pitch = min(cut.tile) * self._zoom
        if pitch < 3:
            return
        lines = QColor(20, 26, 30, 70) if self.selectable else style.ink("buoy", 190)
        painter.setPen(QPen(lines, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        first, last = self._seen_slots()
        shade = QColor(20, 26, 30, 110)
        for row in range(first[0], last[0]):
            for column in range(first[1], last[1]):
                rect = self.slot_rect(row, column)
                if self.filled is not None and not self.filled[row, column]:
                    painter.fillRect(rect, shade)
                painter.drawRect(rect.adjusted(0.5, 0.5, -0.5, -0.5))

    def _seen_slots(self) -> tuple[tuple[int, int], tuple[int, int]]:
        rows, columns = self.grid
        if self.cut is not None and self.cut.rects:
            return (0, 0), (rows, columns)
        one = self.slot_rect(0, 0)
        step_y = (self.cut.tile[0] + self.cut.spacing) * self._zoom if self.cut else 1
        step_x = (self.cut.tile[1] + self.cut.spacing) * self._zoom if self.cut else 1
        first = (max(0, int(-one.top() // step_y)), max(0, int(-one.left() // step_x)))
        last = (
            min(rows, int((self.height() - one.top()) // step_y) + 1),
            min(columns, int((self.width() - one.left()) // step_x) + 1),
        )
        return first, last

    def _slot_at(self, point: QPointF) -> tuple[int, int] | None:
        if self.cut is None or self.image is None:
            return None
        if self.cut.rects:
            return 0, self._nearest_rect(point)
        first = self.slot_rect(0, 0)
        row = int((point.y() - first.top()) // ((self.cut.tile[0] + self.cut.spacing) * self._zoom))
        column = int(
            (point.x() - first.left()) // ((self.cut.tile[1] + self.cut.spacing) * self._zoom)
        )
        rows, columns = self.grid
        return (max(0, min(rows - 1, row)), max(0, min(columns - 1, column)))

    def _nearest_rect(self, point: QPointF) -> int:
        """The number of the rectangle under the pointer, or else of the one next to it."""

        def away(number: int) -> float:
            rect = self.slot_rect(0, number)
            x = max(rect.left() - point.x(), 0.0, point.x() - rect.right())
            y = max(rect.top() - point.y(), 0.0, point.y() - rect.bottom())
            return x * x + y * y

        return min(range(self.grid[1]), key=away)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if event.button() == Qt.MouseButton.MiddleButton:
            self._pan = event.position()
        elif self.pointed is not None and event.button() == Qt.MouseButton.LeftButton:
            at = self._slot_at(event.position())
            if at is not None:
                self.pointed(at)
        elif self.selectable and event.button() == Qt.MouseButton.LeftButton:
            self._from = self._slot_at(event.position())
            self._mark(event.position())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._pan is not None:
            self._origin += event.position() - self._pan
            self._pan = event.position()
            self.update()
        elif self._from is not None:
            self._mark(event.position())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._pan = None
        if self._from is not None:
            self._from = None
            self.marked.emit(self.selection)

    def _mark(self, point: QPointF) -> None:
        to = self._slot_at(point)
        if to is None or self._from is None:
            return
        self.selection = Box(
            (min(self._from[0], to[0]), min(self._from[1], to[1])),
            (max(self._from[0], to[0]) + 1, max(self._from[1], to[1]) + 1),
        )
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None or self.image is None:
            return
        self._place()
        old = self._zoom
        factor = 1.25 if event.angleDelta().y() > 0 else 0.8
        self._zoom = max(0.02, min(24.0, old * factor))
        at = event.position()
        self._origin = at - (at - self._origin) * (self._zoom / old)
        self.update()
