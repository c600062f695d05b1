"""Strokes: all Edits as a ribbon with a playhead; a click jumps there."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import (
    QColor,
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from topion.model.edit import Edit
from topion.view import style
from topion.view.session import Session

_HEIGHT = 31
_LEFT = 64
_MOST_SHOWN = 400


class Ribbon(QWidget):
    """Chips in order, those undone pale behind the playhead."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setFixedHeight(_HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Strokes")
        self.setMouseTracking(True)
        self._chips: list[tuple[int, QRectF]] = []  # Edits on once it is clicked, where
        self._scroll = 0.0
        self.use(session)

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = session
        session.changed.connect(lambda _: self._follow())
        self._follow()

    def sizeHint(self) -> QSize:
        return QSize(600, _HEIGHT)

    def chip_rect(self, number: int) -> QRectF | None:
        """Where the chip of the Edit with that number, from 0, is seen."""
        self._lay_out()
        return next((rect for at, rect in self._chips if at == number + 1), None)

    def _lay_out(self) -> float:
        history = self.session.handle.history
        metrics = QFontMetrics(style.font(12))
        first = max(0, len(history.edits) - _MOST_SHOWN)
        self._chips, x = [], _LEFT - self._scroll
        for number in range(first, len(history.edits)):
            wide = metrics.horizontalAdvance(history.edits[number].label) + 18
            if number == history.at:
                x += 10
            self._chips.append((number + 1, QRectF(x, 5, wide, 20)))
            x += wide + 4
        return x + self._scroll

    def _follow(self) -> None:
        """Keep the playhead in view."""
        self._scroll = 0.0
        total = self._lay_out()
        playhead = self._playhead()
        room = max(80, self.width() - 40)
        if playhead > room:
            self._scroll = min(playhead - room * 0.85, max(0.0, total - room))
            self._lay_out()
        at = self.session.handle.history.at
        self.setAccessibleDescription(
            f"{at} of {len(self.session.handle.history.edits)} strokes on"
        )
        self.update()

    def _playhead(self) -> float:
        at = self.session.handle.history.at
        for number, rect in self._chips:
            if number == at:
                return rect.right() + 4
        return _LEFT + 2 - self._scroll

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._follow()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), style.ink("panel"))
        painter.setPen(style.ink("line"))
        painter.drawLine(0, 0, self.width(), 0)
        history = self.session.handle.history
        self._lay_out()
        painter.setClipRect(_LEFT - 4, 0, self.width(), _HEIGHT)
        for number, rect in self._chips:
            if rect.right() > _LEFT - 4 and rect.left() < self.width():
                self._paint_chip(painter, rect, history.edits[number - 1], number <= history.at)
        painter.fillRect(QRectF(self._playhead(), 3, 3, 24), style.ink("buoy"))
        painter.setClipping(False)
        painter.setPen(style.ink("soft"))
        painter.setFont(style.heading())
        painter.drawText(QRectF(10, 0, _LEFT, _HEIGHT), Qt.AlignmentFlag.AlignVCenter, "Strokes")

    def _paint_chip(self, painter: QPainter, rect: QRectF, edit: Edit, on: bool) -> None:
        pen = QPen(style.ink("line"), 1, Qt.PenStyle.SolidLine if on else Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(style.ink("card") if on else Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(rect, 3, 3)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        colour = QColor(edit.colour)
        colour.setAlpha(255 if on else 90)
        painter.fillRect(QRectF(rect.left(), rect.top(), 4, rect.height()), colour)
        painter.setFont(style.font(12))
        painter.setPen(style.ink("ink", 255 if on else 110))
        painter.drawText(rect.adjusted(10, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, edit.label)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        for number, rect in self._chips:
            if rect.contains(event.position()):
                self.session.jump(number)
                return
        if self._chips and event.position().x() < self._chips[0][1].left():
            self.session.jump(self._chips[0][0] - 1)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        tip = "Before all strokes"
        for number, rect in self._chips:
            if rect.contains(event.position()):
                label = self.session.handle.history.edits[number - 1].label
                tip = f"{label}: click to go back or on to it"
        self.setToolTip(tip)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            total = self._lay_out()
            steps = event.angleDelta().y() or event.angleDelta().x()
            most = max(0.0, total - self.width() + 40)
            self._scroll = min(most, max(0.0, self._scroll - steps))
            self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None:
            event.ignore()
            return
        history = self.session.handle.history
        self.session.jump(history.at + step)
