"""The room that is shown in the legend desk: its symbols, and as it will be."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PyQt6.QtWidgets import QBoxLayout, QWidget

from topion.edit.symbols import own_colours
from topion.grid.symbols import SymbolGrid
from topion.model.typed import COLOUR
from topion.view import style
from topion.view.legend.symbol_rows import named
from topion.view.legend.work import LegendWork
from topion.view.table.compose import image_of

_ROOM = 14.0  # px round a picture
_HEAD = 24.0
_SIGN_PX = 9.0  # the smallest cell in which a sign can be read


class _Canvas(QWidget):
    """A picture as large as it fits, under a heading."""

    def __init__(self, work: LegendWork, title: str) -> None:
        super().__init__()
        self.work, self.title = work, title
        self.setMinimumSize(120, 100)

    def rect_of(self, size: tuple[int, int]) -> QRectF:
        """Where a room of so many (y, x) cells is drawn."""
        wide, high = self.width() - 2 * _ROOM, self.height() - _HEAD - 2 * _ROOM
        side = max(0.05, min(wide / size[1], high / size[0], 32.0))
        if side > 1:
            side = float(int(side))
        shown = QRectF(0, 0, size[1] * side, size[0] * side)
        shown.moveCenter(QPointF(self.width() / 2, _HEAD + (self.height() - _HEAD) / 2))
        return QRectF(round(shown.left()), round(shown.top()), shown.width(), shown.height())

    def begin(self, painter: QPainter, told: str) -> None:
        """Ground and heading."""
        painter.fillRect(self.rect(), style.ink("table"))
        painter.setFont(style.heading())
        painter.setPen(style.ink("soft"))
        painter.drawText(QPointF(_ROOM, 20), self.title)
        painter.setFont(style.font(12))
        at = QRectF(0, 6, self.width() - _ROOM, 20)
        painter.drawText(at, Qt.AlignmentFlag.AlignRight, told)


class SymbolsView(_Canvas):
    """Signals: picked(symbol) for a click on a cell."""

    picked = pyqtSignal(str)

    def __init__(self, work: LegendWork) -> None:
        super().__init__(work, "As it is written")
        self.setMouseTracking(True)
        self.setAccessibleName("The room as it is written")
        self._kept: QPixmap | None = None
        self._colours: dict[str, str] = {}
        for signal in (work.changed, work.shown_changed, work.legend_changed, work.lit_changed):
            signal.connect(self._forget)

    def _forget(self) -> None:
        self._kept = None
        self.update()

    def resizeEvent(self, event: object) -> None:
        self._kept = None

    def changeEvent(self, event: QEvent | None) -> None:
        self._kept = None  # it may be the colours
        super().changeEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._kept is None:
            self._kept = self._drawn()
        QPainter(self).drawPixmap(0, 0, self._kept)

    def _drawn(self) -> QPixmap:
        scale = self.devicePixelRatioF()
        pixmap = QPixmap((self.size().toSizeF() * scale).toSize())
        pixmap.setDevicePixelRatio(scale)
        painter = QPainter(pixmap)
        grid = self.work.grid
        self.begin(painter, "" if grid is None else f"{grid.size[1]} × {grid.size[0]}")
        if grid is not None:
            self._learn_colours()
            rect = self.rect_of(grid.size)
            painter.drawImage(rect, self._ground(grid))
            side = rect.width() / grid.size[1]
            if side >= _SIGN_PX and not self.work.of_pictures:
                self._draw_signs(painter, grid, rect, side)
            painter.setPen(QPen(style.ink("ink", 150), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(rect.adjusted(-0.5, -0.5, 0.5, 0.5))
        painter.end()
        return pixmap

    def _learn_colours(self) -> None:
        """Of all materials: those of brushes, and those that will be made."""
        work = self.work
        self._colours = own_colours(work.legend, work.made()["material"])
        brushes = work.session.project.brushes.values()
        self._colours |= {b.material: b.colour for b in brushes if b.material}

    def _ground(self, grid: SymbolGrid) -> QImage:
        """A pixel a cell: the colour of each symbol, faint where another one is lit."""
        table = np.array([self._colour(symbol) for symbol in grid.symbols], np.uint8)
        return image_of(table[grid.cells]).copy()

    def _colour(self, symbol: str) -> tuple[int, int, int, int]:
        meaning = self.work.meaning(symbol)
        if COLOUR.holds(symbol):
            colour = QColor(symbol)
        elif meaning.material:
            colour = QColor(self._of_material(meaning.material))
        else:
            colour = style.ink("card")
        lit = self.work.lit
        if lit and symbol != lit:
            colour = _mixed(colour, style.ink("card"), 0.72)
        elif symbol == lit and not COLOUR.holds(symbol):
            colour = _mixed(colour, style.ink("buoy"), 0.55)
        return colour.red(), colour.green(), colour.blue(), 255

    def _of_material(self, material: str) -> str:
        return self._colours.get(material, "#8c8577")

    def _draw_signs(self, painter: QPainter, grid: SymbolGrid, rect: QRectF, side: float) -> None:
        painter.setFont(style.font(max(7, int(side * 0.72)), medium=True))
        lit = self.work.lit
        inks = [self._sign_ink(s, faint=bool(lit) and s != lit) for s in grid.symbols]
        texts = ["" if symbol == " " else symbol[:3] for symbol in grid.symbols]
        for y, row in enumerate(grid.cells.tolist()):
            for x, number in enumerate(row):
                if texts[number]:
                    painter.setPen(inks[number])
                    at = QRectF(rect.left() + x * side, rect.top() + y * side, side, side)
                    painter.drawText(at, Qt.AlignmentFlag.AlignCenter, texts[number])

    def _sign_ink(self, symbol: str, *, faint: bool) -> QColor:
        red, green, blue, _ = self._colour(symbol)
        dark = 0.3 * red + 0.59 * green + 0.11 * blue < 140
        ink = QColor("#fbfaf5") if dark else QColor("#22303a")
        ink.setAlpha(110 if faint else 235)
        return ink

    def symbol_at(self, point: QPointF) -> tuple[str, tuple[int, int]] | None:
        """The symbol under a point, and its (y, x) cell."""
        grid = self.work.grid
        if grid is None:
            return None
        rect = self.rect_of(grid.size)
        if not rect.contains(point):
            return None
        side = rect.width() / grid.size[1]
        y = min(grid.size[0] - 1, int((point.y() - rect.top()) / side))
        x = min(grid.size[1] - 1, int((point.x() - rect.left()) / side))
        return grid.symbols[grid.cells[y, x]], (y, x)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        found = self.symbol_at(event.position()) if event is not None else None
        if found is None:
            self.setToolTip("")
            return
        symbol, (y, x) = found
        self.setToolTip(f"{named(symbol)} at {x}, {y}: {self.work.meaning(symbol).text()}")

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        found = self.symbol_at(event.position()) if event is not None else None
        if found is not None:
            self.picked.emit(found[0])


class LookView(_Canvas):
    """The same room, as it will be."""

    def __init__(self, work: LegendWork) -> None:
        super().__init__(work, "As it will be")
        self.setAccessibleName("The room as it will be")
        for signal in (work.changed, work.shown_changed, work.look_made):
            signal.connect(self.update)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        grid, look = self.work.grid, self.work.look
        self.begin(painter, self.work.look_problem)
        if grid is None:
            return
        rect = self.rect_of(grid.size)
        painter.fillRect(rect, QColor("#e9e2d2"))
        if look is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform,
                                  rect.width() < look.shape[1])  # fmt: skip
            painter.drawImage(rect, image_of(look))
        painter.setPen(QPen(style.ink("ink", 150), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(rect.adjusted(-0.5, -0.5, 0.5, 0.5))


class Views(QWidget):
    """Both, side by side where the room is high, else one above the other."""

    def __init__(self, work: LegendWork) -> None:
        super().__init__()
        self.work = work
        self.symbols, self.look = SymbolsView(work), LookView(work)
        self._box = QBoxLayout(QBoxLayout.Direction.TopToBottom, self)
        self._box.setContentsMargins(0, 0, 0, 0)
        self._box.setSpacing(1)
        self._box.addWidget(self.symbols, 1)
        self._box.addWidget(self.look, 1)
        for signal in (work.changed, work.shown_changed):
            signal.connect(self._turn)
        self._turn()

    def resizeEvent(self, event: object) -> None:
        self._turn()

    def _turn(self) -> None:
        """Whichever way the room is drawn larger."""
        grid = self.work.grid
        height, width = grid.size if grid is not None else (1, 1)
        beside = min(self.width() / 2 / width, self.height() / height)
        above = min(self.width() / width, self.height() / 2 / height)
        ways = QBoxLayout.Direction
        self._box.setDirection(ways.LeftToRight if beside > above else ways.TopToBottom)


def _mixed(a: QColor, b: QColor, share: float) -> QColor:
    """A colour between two, `share` of the second."""
    parts = ((p + (q - p) * share) for p, q in ((a.red(), b.red()), (a.green(), b.green()),
                                                (a.blue(), b.blue())))  # fmt: skip
    return QColor(*(round(v) for v in parts))
