"""The cover of a weave: every way a cell can sit, and what answers it."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QToolTip, QWidget

from topion.grid.neighbours import bits_of
from topion.view import style
from topion.weaving.cover import FACE_NAMES, By, Case
from topion.weaving.ready import case_name

_COLUMNS = {47: 8, 64: 8}
WORDS: dict[By, str] = {
    "own": "own rule",
    "turned": "by turning or mirroring",
    "falls back": "falls back",
    "open": "open",
}
_PLACES = {"below": (2.0, 1.0), "north": (0.5, 1.0), "west": (1.0, 0.2), "east": (1.0, 1.8),
           "south": (1.5, 1.0), "above": (0.0, 1.0)}  # fmt: skip


class CoverGrid(QWidget):
    """Signals: asked(mask of a case that is open), pointed(number of the rule that answers, 0 for
    none)."""

    asked = pyqtSignal(int)
    pointed = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.cases: list[Case] = []
        self.colour = "#8a6a45"
        self._hover = -1
        self._chosen = 0
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Cover: the ways a cell can sit")

    def show_cases(self, cases: list[Case], colour: str) -> None:
        """Show these; colour : of the material."""
        self.cases, self.colour = cases, colour
        self.setFixedHeight(self._rows() * self._pitch() + 2)
        counts = self.counts()
        told = ", ".join(f"{WORDS[by]} {counts[by]}" for by in WORDS)
        self.setAccessibleDescription(told)
        self.update()

    def counts(self) -> dict[By, int]:
        """How many cases are answered so."""
        return {by: sum(case.by == by for case in self.cases) for by in WORDS}

    @property
    def deep(self) -> bool:
        """Whether these are the cases of faces."""
        return len(self.cases) == 64

    def _rows(self) -> int:
        return -(-len(self.cases) // self._columns())

    def _columns(self) -> int:
        return _COLUMNS.get(len(self.cases), 8)

    def _pitch(self) -> int:
        return 34

    def sizeHint(self) -> QSize:
        return QSize(self._columns() * self._pitch(), self._rows() * self._pitch() + 2)

    def rect_of(self, number: int) -> QRectF:
        """Where a case is drawn."""
        row, column = divmod(number, self._columns())
        pitch = self._pitch()
        return QRectF(column * pitch + 0.5, row * pitch + 0.5, pitch - 3, pitch - 3)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for number, case in enumerate(self.cases):
            rect = self.rect_of(number)
            painter.setBrush(style.ink("card" if number == self._hover else "panel"))
            edge = "ink" if number == self._hover or (
                self.hasFocus() and number == self._chosen) else "line"  # fmt: skip
            painter.setPen(QPen(style.ink(edge), 1))
            painter.drawRect(rect)
            painter.save()
            painter.setClipRect(rect)
            (self._paint_faces if self.deep else self._paint_case)(painter, rect, case)
            painter.restore()

    def _paint_case(self, painter: QPainter, rect: QRectF, case: Case) -> None:
        step = (rect.width() - 4) / 3
        alike = bits_of(case.mask)
        for y in range(3):
            for x in range(3):
                cell = QRectF(rect.left() + 2 + x * step, rect.top() + 2 + y * step, step, step)
                if y == x == 1:
                    _dot(painter, cell, self.colour)
                elif alike[y, x]:
                    _square(painter, cell.adjusted(0.6, 0.6, -0.6, -0.6), case.by)

    def _paint_faces(self, painter: QPainter, rect: QRectF, case: Case) -> None:
        """The four sides round the middle, above over them and below under them."""
        step = (rect.width() - 4) / 3
        for bit, name in enumerate(FACE_NAMES):
            y, x = _PLACES[name]
            flat = name in ("above", "below")
            cell = QRectF(rect.left() + 2 + x * step, rect.top() + 2 + y * step,
                          step, step * (0.5 if flat else 0.9))  # fmt: skip
            if case.mask >> bit & 1:
                _square(painter, cell.adjusted(0.6, 0.6, -0.6, -0.6), case.by)
        middle = QRectF(rect.left() + 2 + step, rect.top() + 2 + step, step, step)
        _dot(painter, middle, self.colour)

    def _at(self, x: float, y: float) -> int:
        pitch = self._pitch()
        column, row = int(x // pitch), int(y // pitch)
        number = row * self._columns() + column
        return number if 0 <= column < self._columns() and 0 <= number < len(self.cases) else -1

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._point(self._at(event.position().x(), event.position().y()))

    def leaveEvent(self, event: QEvent | None) -> None:
        self._point(-1)

    def _point(self, number: int) -> None:
        if number != self._hover:
            self._hover = number
            case = self.cases[number] if number >= 0 else None
            own = case is not None and case.by in ("own", "turned")
            self.pointed.emit(case.number if case is not None and own else 0)
            self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._take(self._at(event.position().x(), event.position().y()))

    def _take(self, number: int) -> None:
        if number >= 0:
            self.asked.emit(self.cases[number].mask)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -self._columns(),
                Qt.Key.Key_Down: self._columns()}.get(Qt.Key(event.key()))  # fmt: skip
        if step is not None and self.cases:
            self._chosen = max(0, min(len(self.cases) - 1, self._chosen + step))
            self.update()
        elif Qt.Key(event.key()) in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._take(self._chosen if self.cases else -1)
        else:
            event.ignore()

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent):
            number = self._at(event.pos().x(), event.pos().y())
            if number >= 0:
                QToolTip.showText(event.globalPos(), self.words(self.cases[number]), self)
                return True
        return super().event(event)

    def words(self, case: Case) -> str:
        """A case in a sentence."""
        faces = [name for bit, name in enumerate(FACE_NAMES) if case.mask >> bit & 1]
        name = ("same " + ", ".join(faces) if faces else "alone") if self.deep else (
            case_name(case.mask))  # fmt: skip
        match case.by:
            case "open":
                return f"{name}: open. A click makes its rule"
            case "falls back":
                return f"{name}: rule {case.number} of {case.book}. A click makes an own rule"
            case _:
                how = "" if case.by == "own" else ", turned or mirrored"
                return f"{name}: rule {case.number}{how}"


class CoverLegend(QWidget):
    """How many cases are answered how, with the sign of each."""

    def __init__(self, grid: CoverGrid) -> None:
        super().__init__()
        self._grid = grid
        self.setFixedHeight(38)
        self.setAccessibleName("Cover, counted")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(style.font(12))
        counts, x, y = self._grid.counts(), 0.0, 4
        for by, words in WORDS.items():
            text = f"{words} {counts[by]}"
            wide = painter.fontMetrics().horizontalAdvance(text) + 26
            if x + wide > self.width() and x:
                x, y = 0.0, y + 18
            _square(painter, QRectF(x + 0.5, y + 0.5, 10, 10), by)
            painter.setPen(style.ink("buoy" if by == "open" and counts[by] else "ink"))
            painter.drawText(QRectF(x + 15, y - 4, wide, 18), text)
            x += wide


def _square(painter: QPainter, rect: QRectF, by: By) -> None:
    painter.setPen(Qt.PenStyle.NoPen)
    if by == "own":
        painter.fillRect(rect, style.ink("ink"))
    elif by == "open":
        painter.fillRect(rect, style.ink("buoy"))
    elif by == "falls back":
        painter.setPen(QPen(style.ink("ink"), 1))
        painter.setBrush(style.ink("card"))
        painter.drawRect(rect)
    else:
        painter.fillRect(rect, style.ink("card"))
        painter.save()
        painter.setClipRect(rect, Qt.ClipOperation.IntersectClip)
        painter.setPen(QPen(style.ink("ink"), 1.3))
        x = rect.left() - rect.height()
        while x < rect.right():
            top = QPointF(x + rect.height(), rect.top())
            painter.drawLine(QPointF(x, rect.bottom()), top)
            x += 3.2
        painter.restore()


def _dot(painter: QPainter, cell: QRectF, colour: str) -> None:
    painter.save()
    painter.translate(cell.center())
    painter.rotate(45)
    half = cell.width() * 0.24
    painter.fillRect(QRectF(-half, -half, 2 * half, 2 * half), QColor(colour))
    painter.restore()
