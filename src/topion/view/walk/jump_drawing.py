"""The jump of a figure as a drawing, with handles for its height and its length."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from topion.model.figure import PLAIN_FIGURE, Figure
from topion.view import style
from topion.view.walk.pictures import draw_figure

_HIGH = 128
_REACH = 9.0


class JumpDrawing(QWidget):
    """put : called with a field of the figure and its value, in cells, once a handle is let go."""

    def __init__(self) -> None:
        super().__init__()
        self.put: Callable[[str, float], object] = lambda *_: None
        self.figure: Figure = PLAIN_FIGURE
        self._drags = ""
        self._at: QPointF | None = None
        self.setFixedHeight(_HIGH)
        self.setMouseTracking(True)
        self.setAccessibleName("Jump of the figure")
        self.setToolTip("Drag the top for its height, the end for its length")

    def sizeHint(self) -> QSize:
        return QSize(250, _HIGH)

    def show_figure(self, figure: Figure) -> None:
        """Draw another figure."""
        self.figure = figure
        self.update()

    # --- places ---------------------------------------------------------------------------

    def _px(self) -> float:
        """Of a cell."""
        high = max(self.figure.jump_height, self.figure.high) + 0.9
        return min((self.width() - 54) / (self.figure.jump_length + 1.2), (_HIGH - 16) / high)

    def _foot(self) -> QPointF:
        return QPointF(34, _HIGH - 10)

    def top_handle(self) -> QPointF:
        """Where its height is pulled."""
        px, foot = self._px(), self._foot()
        at = QPointF(foot.x() + self.figure.jump_length / 2 * px,
                     foot.y() - self.figure.jump_height * px)  # fmt: skip
        return self._at if self._drags == "jump_height" and self._at is not None else at

    def end_handle(self) -> QPointF:
        """Where its length is pulled."""
        at = self._foot() + QPointF(self.figure.jump_length * self._px(), 0)
        return self._at if self._drags == "jump_length" and self._at is not None else at

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), style.ink("card"))
        px, foot = self._px(), self._foot()
        painter.setPen(style.ink("line"))
        cells = 0
        while cells * px < self.width():
            painter.drawLine(
                QPointF(foot.x() + cells * px, 0), QPointF(foot.x() + cells * px, _HIGH)
            )
            painter.drawLine(
                QPointF(0, foot.y() - cells * px), QPointF(self.width(), foot.y() - cells * px)
            )
            cells += 1
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(style.ink("ink"), 2))
        painter.drawLine(QPointF(0, foot.y()), QPointF(self.width(), foot.y()))
        body = QRectF(foot.x() - self.figure.wide * px / 2, foot.y() - self.figure.high * px,
                      self.figure.wide * px, self.figure.high * px)  # fmt: skip
        draw_figure(painter, body, 1, 0)
        top, end = self.top_handle(), self.end_handle()
        path = QPainterPath(foot)
        path.quadTo(
            QPointF((foot.x() + end.x()) / 2, 2 * top.y() - foot.y()), QPointF(end.x(), foot.y())
        )
        painter.setPen(QPen(style.ink("tidal"), 2.2))
        painter.drawPath(path)
        painter.setPen(QPen(style.ink("buoy"), 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(top, QPointF(top.x(), foot.y()))
        self._handle(painter, top, f"{self._value('jump_height'):.3g} c high", QPointF(8, 4))
        self._handle(painter, end, f"{self._value('jump_length'):.3g} c long", QPointF(9, -7))

    def _handle(self, painter: QPainter, at: QPointF, words: str, by: QPointF) -> None:
        painter.setPen(QPen(style.ink("card"), 1.5))
        painter.setBrush(style.ink("buoy"))
        painter.drawEllipse(at, 5, 5)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(style.ink("ink"))
        painter.setFont(style.font(12, bold=True))
        wide = painter.fontMetrics().horizontalAdvance(words)
        x = min(at.x() + by.x(), self.width() - wide - 4)
        painter.drawText(QPointF(x, at.y() + by.y()), words)

    def _value(self, field: str) -> float:
        if self._drags != field or self._at is None:
            return float(getattr(self.figure, field))
        px, foot = self._px(), self._foot()
        far = foot.y() - self._at.y() if field == "jump_height" else self._at.x() - foot.x()
        return max(0.2, min(30.0, round(far / px, 1)))

    # --- the pointer ----------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        for field, at in (("jump_height", self.top_handle()), ("jump_length", self.end_handle())):
            if (event.position() - at).manhattanLength() <= 1.6 * _REACH:
                self._drags, self._at = field, at

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self._drags:
            return
        at = event.position()
        if self._drags == "jump_height":
            self._at = QPointF(self._foot().x() + self.figure.jump_length / 2 * self._px(), at.y())
        else:
            self._at = QPointF(at.x(), self._foot().y())
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drags and self._at is not None:
            field, value = self._drags, self._value(self._drags)
            self._drags, self._at = "", None
            self.put(field, value)
            self.update()
