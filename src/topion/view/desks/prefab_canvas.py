"""The picture of a prefab with its marks: the cells it stands in, and its anchor."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QMenu, QWidget

from topion.model.prefab import MOST_BELOW, Prefab
from topion.view import style
from topion.view.panels.sentence import Typed
from topion.view.table.compose import pixmap_of

_NEAR = 9.0  # px at which the pointer takes the anchor
_SEAT_GRIP = 60  # px from the right in which the seat is taken


class PrefabCanvas(QWidget):
    """anchored : called with (y, x) px once the anchor is let go.  stood : with (row, column) of a
    cell of the footprint that was clicked, which may lie one beyond it.

    seated : with how many px lie below the line that stands on the ground.  pointed : with all
    named points, (y, x) px, once one was put, moved, renamed or taken away.
    cell_px : of the room that the prefab is seen in.
    """

    def __init__(self) -> None:
        super().__init__()
        self.prefab: Prefab | None = None
        self.cell_px = 16
        self.anchored: Callable[[tuple[int, int]], object] = lambda _: None
        self.stood: Callable[[int, int], object] = lambda *_: None
        self.pointed: Callable[[dict[str, tuple[int, int]]], object] = lambda _: None
        self.seated: Callable[[int], object] = lambda _: None
        self._anchor: tuple[int, int] | None = None  # while it is dragged
        self._below: int | None = None  # likewise
        self._point: tuple[str, tuple[int, int]] | None = None  # likewise
        self.setMinimumSize(300, 240)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Picture and marks")
        self.setToolTip("Drag the red cross to the pixel that comes to the middle of its cell. "
                        "Drag the ochre line by its end to the height that stands on the "
                        "ground. Click a cell: stood in, or free. Right click puts a named point; "
                        "drag it where it belongs")  # fmt: skip

    def show_prefab(self, prefab: Prefab | None, cell_px: int) -> None:
        """Show another prefab, or the same as it is now."""
        self.prefab, self.cell_px = prefab, max(1, cell_px)
        self.update()

    # --- places ---------------------------------------------------------------------------

    def picture_frame(self) -> tuple[float, QPointF]:
        """Screen px a pixel, and where the anchor is seen: all of picture and cells fits."""
        prefab = self.prefab
        assert prefab is not None
        high, wide = prefab.picture.size_px
        rows, columns = len(prefab.footprint) + 1, len(prefab.footprint[0]) + 2
        y, x = prefab.foot_px
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
        zoom, origin = self.picture_frame()
        side = self.cell_px * zoom
        rows, seat = len(self.prefab.footprint), (len(self.prefab.footprint[0]) - 1) // 2
        return QRectF(origin.x() - side / 2 + (column - seat) * side,
                      origin.y() - (rows - row) * side, side, side)  # fmt: skip

    def anchor_point(self) -> QPointF:
        """Where the anchor is seen."""
        zoom, origin = self.picture_frame()
        if self.prefab is None:
            return origin
        at = self._anchor or self.prefab.anchor_px
        y, x = (a - b for a, b in zip(at, self.prefab.foot_px, strict=True))
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
        zoom, origin = self.picture_frame()
        self._paint_cells(painter, prefab)
        y, x = prefab.foot_px
        high, wide = prefab.picture.size_px
        target = QRectF(origin.x() - x * zoom, origin.y() - y * zoom, wide * zoom, high * zoom)
        painter.drawPixmap(target, pixmap_of(prefab.picture.rgba), QRectF(0, 0, wide, high))
        self._paint_seat(painter)
        self._paint_points(painter)
        self._paint_anchor(painter)
        painter.setPen(style.ink("soft"))
        painter.setFont(style.font(11))
        painter.drawText(
            QPointF(10, self.height() - 10),
            "click a cell: stood in or free · right click: a named point",
        )

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

    def points(self) -> dict[str, tuple[int, int]]:
        """The named points as they are seen, (y, x) px."""
        points = dict(self.prefab.points) if self.prefab is not None else {}
        return points | ({self._point[0]: self._point[1]} if self._point is not None else {})

    def point_at(self, px: tuple[int, int]) -> QPointF:
        """Where a pixel of the picture is seen."""
        assert self.prefab is not None
        zoom, origin = self.picture_frame()
        y, x = self.prefab.foot_px
        return origin + QPointF((px[1] + 0.5 - x) * zoom, (px[0] + 0.5 - y) * zoom)

    def _pixel(self, point: QPointF) -> tuple[int, int]:
        """The pixel that is seen there, within the picture."""
        assert self.prefab is not None
        zoom, origin = self.picture_frame()
        (high, wide), (y, x) = self.prefab.picture.size_px, self.prefab.foot_px
        away = (point - origin) / zoom
        row, column = int(y + away.y() // 1), int(x + away.x() // 1)
        return max(0, min(high - 1, row)), max(0, min(wide - 1, column))

    def _paint_points(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(style.font(11, bold=True))
        for name, px in self.points().items():
            at = self.point_at(px)
            painter.setPen(QPen(style.ink("ink"), 2))
            painter.setBrush(style.ink("card"))
            painter.drawEllipse(at, 5, 5)
            painter.drawText(at + QPointF(9, -4), name)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _near_point(self, at: QPointF) -> str:
        far = {
            name: (self.point_at(px) - at).manhattanLength() for name, px in self.points().items()
        }
        name = min(far, key=far.__getitem__, default="")
        return name if name and far[name] <= 1.5 * _NEAR else ""

    def put_point(self, name: str, px: tuple[int, int] | None, old: str = "") -> None:
        """A point at a pixel, by another name, or gone where it has none."""
        points = {n: at for n, at in self.points().items() if n not in (name, old)}
        self._point = None
        self.pointed(points | ({name: px} if px is not None else {}))

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is not None and self.prefab is not None:
            self.menu_at(QPointF(event.pos())).popup(event.globalPos())

    def menu_at(self, at: QPointF) -> QMenu:
        """What can be done there: with the named point that is near, or a new one."""
        menu, name = QMenu(self), self._near_point(at)
        if not name:
            px = self._pixel(at)
            menu.addAction("Put a named point here", lambda: self.put_point(self._free(), px))
            return menu
        px, where = self.points()[name], self.mapToGlobal(at.toPoint())
        self.naming = Typed(self, name, lambda new: self.put_point(new.strip() or name, px, name))
        menu.addAction(f"Rename {name}…", lambda: self.naming.open_at(where))
        menu.addAction(f"Take {name} away", lambda: self.put_point(name, None))
        return menu

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows move the anchor by a pixel, with Shift up and down the seat."""
        ways = {Qt.Key.Key_Up: (-1, 0), Qt.Key.Key_Down: (1, 0), Qt.Key.Key_Left: (0, -1),
                Qt.Key.Key_Right: (0, 1)}  # fmt: skip
        prefab = self.prefab
        if event is None or prefab is None or event.key() not in ways:
            if event is not None:
                event.ignore()
            return
        y, x = ways[Qt.Key(event.key())]
        high, wide = prefab.picture.size_px
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.seated(max(0, min(MOST_BELOW, prefab.below_px - y)))
        else:
            before = prefab.anchor_px
            self.anchored((max(0, min(high, before[0] + y)), max(0, min(wide, before[1] + x))))

    def _free(self) -> str:
        names = ("point", *(f"point {i}" for i in range(2, 99)))
        return next(name for name in names if name not in self.points())

    def seat_line(self) -> float:
        """The height on the screen at which it stands on the ground."""
        zoom, origin = self.picture_frame()
        if self._below is None or self.prefab is None:
            return origin.y()
        return origin.y() + (self.prefab.below_px - self._below) * zoom

    def _paint_seat(self, painter: QPainter) -> None:
        y, below = self.seat_line(), self._below
        if below is None:
            below = self.prefab.below_px if self.prefab is not None else 0
        painter.setPen(QPen(style.ink("ochre"), 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(6, y), QPointF(self.width() - 6, y))
        painter.setBrush(style.ink("ochre"))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawEllipse(QPointF(self.width() - 10, y), 4, 4)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(style.ink("ochre"))
        painter.setFont(style.font(11, bold=True))
        told = f"seat {below} px" if below else "seat"
        painter.drawText(QRectF(self.width() - 90, y - 18, 76, 16),
                         Qt.AlignmentFlag.AlignRight, told)  # fmt: skip

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
        if name := self._near_point(event.position()):
            self._point = name, self.points()[name]
            return
        if abs(event.position().y() - self.seat_line()) <= _NEAR / 2 and event.position().x() > (
            self.width() - _SEAT_GRIP
        ):
            self._below = self.prefab.below_px
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
        if self._point is not None:
            self._point = self._point[0], self._pixel(event.position())
            self.update()
            return
        if self._below is not None:
            zoom, origin = self.picture_frame()
            by = round((event.position().y() - origin.y()) / zoom)
            self._below = max(-MOST_BELOW, min(MOST_BELOW, self.prefab.below_px - by))
            self.update()
            return
        if self._anchor is None:
            near = (event.position() - self.anchor_point()).manhattanLength() <= 2 * _NEAR
            self.setCursor(Qt.CursorShape.SizeAllCursor if near else Qt.CursorShape.ArrowCursor)
            return
        zoom, origin = self.picture_frame()
        away = (event.position() - origin) / zoom
        y, x = self.prefab.foot_px
        high, wide = self.prefab.picture.size_px
        self._anchor = (
            max(0, min(high, round(y + away.y()))),
            max(0, min(wide, round(x + away.x()))),
        )
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._point is not None:
            name, px = self._point
            self.put_point(name, px)
        if self._below is not None:
            below, self._below = self._below, None
            self.seated(below)
            self.update()
        if self._anchor is not None:
            anchor, self._anchor = self._anchor, None
            self.anchored(anchor)
            self.update()
