"""At cursor: what lies in the cell under the pointer, top to bottom, and why."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QEvent, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QWheelEvent
from PyQt6.QtWidgets import QWidget

from topion.grid.told import cell_told
from topion.render.cards import colour_card
from topion.render.portraits import ref_picture
from topion.survey.at_cursor import Lying, lying_at
from topion.view import style
from topion.view.session import Session
from topion.view.table.compose import pixmap_of

_ROW, _TOP = 44, 28
REFUSED = "refused"


class AtCursor(QWidget):
    """A list that follows the pointer; a click takes that item, arrow keys walk it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("At cursor")
        self.setToolTip("All that lies in the cell; a click takes it, and works on its layer")
        self.setMouseTracking(True)
        self.items: list[Lying] = []
        self._cell: tuple[int, ...] | None = None
        self._hover, self._first = -1, 0
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(25)
        self._timer.timeout.connect(self.refresh)
        self.use(session)

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = session
        self._cell = None
        session.moved.connect(self._soon)
        session.changed.connect(lambda _: self._soon())
        session.room_changed.connect(self._on_room)
        session.ahead.made.connect(self._soon)
        session.hands.changed.connect(self._soon)
        session.picked.changed.connect(self.update)
        self.refresh()

    def _on_room(self) -> None:
        self._cell = None  # of another room
        self._soon()

    def _soon(self) -> None:
        if not self._timer.isActive():
            self._timer.start()

    def refresh(self) -> None:
        """The list stays as it was when the pointer leaves the table, so that it can be clicked."""
        if self.session.cursor is not None:
            self._first = self._first if self.session.cursor == self._cell else 0
            self._cell = self.session.cursor
        if self._cell is not None and self.session.has_room:
            self.items = self._refused(self._cell)
            self.items += lying_at(
                self.session.project, self.session.room, self._cell, self.session.ahead.has
            )
        else:
            self.items = []
        told = (f"{f'{i.name} {i.detail}'.strip()}: {i.why}" for i in self.items)
        self.setAccessibleDescription("; ".join(told))
        self.update()

    def _refused(self, cell: tuple[int, ...]) -> list[Lying]:
        """The thing in the left hand, if it may not stand here, and why."""
        if self.session.gestures.picking:
            return []
        found = self.session.verdict_at("left", np.array([cell], np.float64))
        if found is None or found.allowed:
            return []
        why = found.reasons[0].told()
        return [Lying(found.prefab, why, "", prefab=found.prefab, detail=REFUSED)]

    def sizeHint(self) -> QSize:
        return QSize(248, 196)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        painter.setPen(style.ink("line"))
        painter.drawLine(12, 0, self.width() - 12, 0)
        painter.setPen(style.ink("soft"))
        painter.setFont(style.heading())
        where = f" · {cell_told(self._cell)}" if self._cell else ""
        pieces = any(item.piece is not None for item in self.items)
        title = "Pieces here" if pieces and self.session.gestures.picking else "At cursor"
        painter.drawText(QRectF(12, 8, self.width(), 16), f"{title}{where}")
        if not self.items:
            painter.setFont(style.font(13))
            painter.drawText(QRectF(12, 32, self.width(), 18), "nothing lies here")
        most = self._most_scrolled()
        self._first = min(self._first, most)
        if most > self._first:
            more = QRectF(0, 8, self.width() - 12, 16)
            painter.drawText(more, Qt.AlignmentFlag.AlignRight, f"{most - self._first} more")
        for number, item in enumerate(self.items):
            if number >= self._first:
                self._paint_item(painter, number, item)

    def _row(self, number: int) -> QRectF:
        return QRectF(6, _TOP + (number - self._first) * _ROW, self.width() - 12, _ROW - 2)

    def _most_scrolled(self) -> int:
        """Rows above the first that is seen, once the last one is."""
        return max(0, len(self.items) - int((self.height() - _TOP) // _ROW))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            to = self._first - (1 if event.angleDelta().y() > 0 else -1)
            self._first = max(0, min(to, self._most_scrolled()))
            self.update()

    def _paint_item(self, painter: QPainter, number: int, item: Lying) -> None:
        row = self._row(number)
        chosen = self.session.picked.lying == item
        if chosen or number == self._hover:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(style.ink("card" if chosen else "panel2"))
            painter.drawRoundedRect(row, 4, 4)
            painter.setBrush(Qt.BrushStyle.NoBrush)
        picture = self._picture(item)
        frame = QRectF(row.left() + 6, row.top() + 6, 30, 30)
        painter.fillRect(frame, style.ink("panel2"))
        if picture is not None:
            size = picture.size().scaled(30, 30, Qt.AspectRatioMode.KeepAspectRatio)
            target = QRectF(0, 0, size.width(), size.height())
            target.moveCenter(frame.center())
            painter.drawPixmap(target, picture, QRectF(picture.rect()))
        painter.setPen(QPen(style.ink("line")))
        painter.drawRect(frame)
        left, wide = row.left() + 44, row.width() - 48
        painter.setPen(style.ink("ink"))
        bold = style.font(13, bold=True)
        painter.setFont(bold)
        metrics = painter.fontMetrics()
        name = metrics.elidedText(item.name, Qt.TextElideMode.ElideRight, int(wide))
        painter.drawText(QRectF(left, row.top() + 4, wide, 17), name)
        taken = metrics.horizontalAdvance(name) + 6
        painter.setFont(style.font(13))
        if item.detail and wide - taken > 24:
            detail = painter.fontMetrics().elidedText(
                item.detail, Qt.TextElideMode.ElideRight, int(wide - taken)
            )
            painter.setPen(style.ink("buoy" if item.detail == REFUSED else "ink"))
            painter.drawText(QRectF(left + taken, row.top() + 4, wide - taken, 17), detail)
        painter.setPen(style.ink("soft"))
        painter.setFont(style.font(12))
        told = item.why
        if item.piece is None and item.tile is not None and item.layer in self.session.room.layers:
            told = f"{item.why} · {self.session.room.layers[item.layer].info.name}"
        why = painter.fontMetrics().elidedText(told, Qt.TextElideMode.ElideRight, int(wide))
        painter.drawText(QRectF(left, row.top() + 21, wide, 16), why)

    def _picture(self, item: Lying) -> QPixmap | None:
        project: Any = self.session.project
        if item.prefab and item.prefab in project.prefabs:
            rgba = project.prefabs[item.prefab].picture.rgba
        elif item.tile is not None:
            theme = self.session.room.info.theme if self.session.has_room else ""
            rgba = ref_picture(project, item.tile, theme)
        elif any(item.colours):
            rgba = colour_card(*item.colours)
        else:
            return None
        return pixmap_of(rgba)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._hover = self._at(event.position().y())
            if 0 <= self._hover < len(self.items):
                self.setToolTip(f"{self.items[self._hover].name}: {self.items[self._hover].why}")
            self.update()

    def leaveEvent(self, event: QEvent | None) -> None:
        self._hover = -1
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            number = self._at(event.position().y())
            if 0 <= number < len(self.items) and self.items[number].layer:
                self.pick(self.items[number])

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """The desk of what lies there."""
        number = self._at(event.position().y()) if event is not None else -1
        item = self.items[number] if 0 <= number < len(self.items) else None
        if item is not None and item.prefab:
            self.session.prefab_asked.emit(item.prefab)
        elif item is not None and item.brush:
            self.session.desk_asked.emit(item.brush)

    def _at(self, y: float) -> int:
        return self._first + int((y - _TOP) // _ROW) if y >= _TOP else -1

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if step is None or not self.items:
            event.ignore()
            return
        chosen = self.session.picked.lying
        at = self.items.index(chosen) + step if chosen in self.items else 0
        self.pick(self.items[at % len(self.items)])

    def pick(self, item: Lying) -> None:
        """Pick that; a piece or a curve is picked with the lasso, so that it can be pulled."""
        if item.piece is not None or item.curve is not None:
            self.session.gestures.use("lasso")
        self.session.picked.pick(item)
