"""Strokes: all Edits as a ribbon with a playhead and named marks; a click jumps there."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import (
    QColor,
    QContextMenuEvent,
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QInputDialog, QMenu, QPushButton, QWidget

from topion.model.edit import Edit
from topion.view import settings, style
from topion.view.panels.edit_peek import EditPeek
from topion.view.panels.fields import choice_button
from topion.view.panels.ribbon_chips import Chips, Filter, label_of
from topion.view.session import Session

_HEIGHT, _LEFT, _RIGHT = 31, 64, 190
_SLICES = (0.0, 0.2, 0.5, 1.0, 2.0, 5.0)
_MOST_LABELS = 24


class Ribbon(QWidget):
    """Chips in order, those undone pale behind the playhead; slices of one stroke under one bar."""

    key_area = "ribbon"

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setFixedHeight(_HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Strokes")
        self.setMouseTracking(True)
        self.filter = Filter()
        self.chips = Chips()
        self._widths: dict[str, float] = {}
        self.scrolled = 0.0
        self.peek = EditPeek(self)
        self.filter_button = self._button(
            "Which strokes are shown: of all rooms and brushes, or some"
        )
        self.slice_button = self._button(
            "A stroke that lasts longer is kept in slices, undone apart"
        )
        self.filter_button.clicked.connect(self._show_filters)
        self.slice_button.clicked.connect(self._show_slices)
        self.use(session)

    def _button(self, tip: str) -> QPushButton:
        button = choice_button("", tip)
        button.setParent(self)
        return button

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = session
        self.filter = Filter()
        session.slice_s = settings.slice_s()
        session.changed.connect(lambda _: self.follow())
        session.room_changed.connect(self.follow)
        self.follow()

    def sizeHint(self) -> QSize:
        return QSize(600, _HEIGHT)

    # --- where things lie -----------------------------------------------------------------

    def chip_rect(self, number: int) -> QRectF | None:
        """Where the chip of the Edit with that number, from 0, is seen; None if it is not shown."""
        numbers = self.chips.numbers
        place = int(np.searchsorted(numbers, number))
        shown = place < len(numbers) and numbers[place] == number
        return self._rect(place) if shown else None

    def flag_rect(self, at: int) -> QRectF | None:
        """Where the mark behind so many Edits is seen."""
        for known, left, wide, _ in self.chips.flags:
            if known == at:
                return QRectF(_LEFT - self.scrolled + left, 4, wide, 22)
        return None

    def _rect(self, place: int) -> QRectF:
        left, right = self.chips.left[place], self.chips.right[place]
        return QRectF(_LEFT - self.scrolled + left, 5, right - left, 20)

    def _wide(self, text: str) -> float:
        found = self._widths.get(text)
        if found is None:
            found = QFontMetrics(style.font(12)).horizontalAdvance(text)
            self._widths[text] = found
        return found

    def _lay_out(self) -> None:
        history, wanted = self.session.handle.history, self.filter
        self.chips = Chips.laid_out(history.edits, history.at, history.marks, self._wide, wanted)

    def follow(self) -> None:
        """Lay the chips out anew, and keep the playhead in view."""
        self._lay_out()
        room = max(80, self.width() - _LEFT - _RIGHT)
        playhead, total = self.chips.playhead, self.chips.total
        self.scrolled = (
            max(0.0, min(playhead - room * 0.85, total - room)) if playhead > room else 0
        )
        history = self.session.handle.history
        self.setAccessibleDescription(
            f"{history.at} of {len(history.edits)} strokes on"
            + "".join(f"; mark {name} at {at}" for at, name in sorted(history.marks.items()))
        )
        self._name_buttons()
        self.update()

    def _name_buttons(self) -> None:
        shown = self.filter.label or self.filter.room or "all strokes"
        self.filter_button.setText(f"{shown[:18]} ▾")
        seconds = self.session.slice_s
        self.slice_button.setText(f"slices {seconds:g} s ▾" if seconds else "no slices ▾")
        x = self.width() - 6
        for button in (self.slice_button, self.filter_button):
            button.adjustSize()
            x -= button.width()
            button.move(x, (_HEIGHT - button.height()) // 2)
        self.edge = float(x - 6)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.follow()

    # --- painting -------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), style.ink("panel"))
        painter.setPen(style.ink("line"))
        painter.drawLine(0, 0, self.width(), 0)
        history, chips = self.session.handle.history, self.chips
        painter.setClipRect(QRectF(_LEFT - 4, 0, self.edge - _LEFT + 4, _HEIGHT))
        off = self.scrolled
        painter.setFont(style.font(12))
        for place in chips.seen(off - 8, off + self.width()):
            number = int(chips.numbers[place])
            if number < len(history.edits):
                on = number < history.at
                self._paint_chip(painter, self._rect(place), history.edits[number], on)
        for at, _, _, name in chips.flags:
            rect = self.flag_rect(at)
            if rect is not None and rect.right() > 0 and rect.left() < self.edge:
                _paint_flag(painter, rect, name)
        x = _LEFT - off + chips.playhead
        painter.fillRect(QRectF(x + 2, 3, 3, 24), style.ink("buoy"))
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
        if edit.part[1] > 1:  # one bar over all slices of a stroke
            first, last = edit.part[0] == 1, edit.part[0] == edit.part[1]
            left, right = rect.left() - (0 if first else 4), rect.right() + (0 if last else 1)
            painter.fillRect(QRectF(left, 1.5, right - left, 2.5), style.ink("ochre"))
        painter.setPen(style.ink("ink", 255 if on else 110))
        painter.drawText(rect.adjusted(10, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, label_of(edit))

    # --- pointer and keys -----------------------------------------------------------------

    def number_at(self, point: QPointF) -> int | None:
        """The Edit whose chip is at a point."""
        if not _LEFT - 4 <= point.x() < self.edge:
            return None
        place = self.chips.at(point.x() - _LEFT + self.scrolled)
        return None if place is None else int(self.chips.numbers[place])

    def _flag_at(self, point: QPointF) -> tuple[int, str] | None:
        return self.chips.flag_at(point.x() - _LEFT + self.scrolled)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        flag, number = self._flag_at(event.position()), self.number_at(event.position())
        if number is not None:
            self.session.jump(number + 1)
        elif flag is not None:
            self.session.jump(flag[0])
        elif len(self.chips.left) and event.position().x() < self._rect(0).left():
            self.session.jump(int(self.chips.numbers[0]))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        number, edits = self.number_at(event.position()), self.session.handle.history.edits
        flag = self._flag_at(event.position())
        self.setToolTip(f"{flag[1]}: click to go there" if flag else "")
        if number is None or number >= len(edits):
            self.peek.away()
            return
        rect = self.chip_rect(number)
        if rect is not None:
            foot = self.mapToGlobal(QPointF(rect.center().x(), 0).toPoint())
            self.peek.want(self.session, edits[number], foot)

    def leaveEvent(self, event: QEvent | None) -> None:
        self.peek.away()

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is None:
            return
        point = QPointF(event.pos())
        number, flag = self.number_at(point), self._flag_at(point)
        menu = QMenu(self)
        if number is not None:
            menu.addAction("Mark the moment after it…", lambda: self.ask_mark(number + 1))
            menu.addAction("Mark the moment before it…", lambda: self.ask_mark(number))
            label = self.session.handle.history.edits[number].label
            menu.addAction(f"Only {label}", lambda: self.show_only(Filter(label=label)))
        elif flag is not None:
            menu.addAction("Rename mark…", lambda: self.ask_mark(flag[0]))
            menu.addAction("Take the mark away", lambda: self.mark(flag[0], ""))
        else:
            menu.addAction("Mark this moment…", lambda: self.ask_mark())
        menu.exec(event.globalPos())

    def ask_mark(self, at: int | None = None) -> None:
        """Ask for the name of a moment: of that behind so many Edits, or of now."""
        history = self.session.handle.history
        place = history.at if at is None else at
        old = history.marks.get(place, "")
        name, ok = QInputDialog.getText(self, "Mark a moment", "Name, such as “before the flood”",
                                        text=old)  # fmt: skip
        if ok and name.strip():
            self.mark(place, name.strip()[:60])

    def mark(self, at: int, name: str) -> None:
        """Name the moment after so many Edits; no name takes the mark away."""
        self.session.handle.history.mark(at, name)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            steps = event.angleDelta().y() or event.angleDelta().x()
            most = max(0.0, self.chips.total - self.width() + _LEFT + _RIGHT)
            self.scrolled = min(most, max(0.0, self.scrolled - steps))
            self.peek.away()
            self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None:
            event.ignore()
            return
        self.session.jump(self.session.handle.history.at + step)

    # --- filter and slices ----------------------------------------------------------------

    def show_only(self, wanted: Filter) -> None:
        """Show the Edits of a room or a brush, or all."""
        self.filter = wanted
        self.follow()

    def _show_filters(self) -> None:
        menu, session = QMenu(self), self.session
        menu.addAction("All strokes", lambda: self.show_only(Filter()))
        if session.has_room:
            room = session.room_name
            menu.addAction(f"Of {room}", lambda: self.show_only(Filter(room=room)))
        menu.addSeparator()
        labels = dict.fromkeys(edit.label for edit in reversed(session.handle.history.edits))
        for label in list(labels)[:_MOST_LABELS]:
            menu.addAction(f"Only {label}", lambda n=label: self.show_only(Filter(label=n)))
        menu.popup(self.filter_button.mapToGlobal(self.filter_button.rect().bottomLeft()))

    def _show_slices(self) -> None:
        menu = QMenu(self)
        for seconds in _SLICES:
            text = f"Slices of {seconds:g} s" if seconds else "No slices: one stroke, one undo"
            menu.addAction(text, lambda s=seconds: self.slice_by(s))
        menu.popup(self.slice_button.mapToGlobal(self.slice_button.rect().bottomLeft()))

    def slice_by(self, seconds: float) -> None:
        """Keep strokes that last longer in slices of so many seconds; 0 for none."""
        self.session.slice_s = seconds
        settings.remember_slice_s(seconds)
        self._name_buttons()


def _paint_flag(painter: QPainter, rect: QRectF, name: str) -> None:
    """A named moment: a pennant on its pole."""
    x, top, bottom = rect.left() + 3, rect.top(), rect.bottom()
    painter.setPen(QPen(style.ink("ochre"), 1.6))
    painter.drawLine(QPointF(x, top), QPointF(x, bottom))
    cloth = QPolygonF([QPointF(x, top + 1), QPointF(rect.right() - 2, top + 1),
                       QPointF(rect.right() - 7, rect.center().y() - 1),
                       QPointF(rect.right() - 2, bottom - 4), QPointF(x, bottom - 4)])  # fmt: skip
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(style.ink("ochre", 60))
    painter.drawPolygon(cloth)
    painter.setPen(style.ink("ink"))
    painter.drawText(QRectF(x + 5, top, rect.width() - 8, rect.height() - 3),
                     Qt.AlignmentFlag.AlignVCenter, name)  # fmt: skip
