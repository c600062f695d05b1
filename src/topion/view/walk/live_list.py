"""The live list: things and their state by layer, how much is done, and what happened just now."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QWidget

from topion.view import style
from topion.view.table.compose import pixmap_of
from topion.view.walk.run import WalkRun
from topion.walk.listed import Member, Row, cleared_of, news, rows_of
from topion.walk.state import Key

_ROW, _HEAD, _WIDE = 44, 22, 220
_LINE, _MOST_LINES = 17, 8  # of the things of a row that is open
_NEWS = 5
_OFTEN_MS, _SHARE = 50, 12  # between two lists, at least, and as times of what one takes


class LiveList(QWidget):
    """pointed : called with the key of the thing that is pointed at, or None.  led : with that of
    one to which the way is to be shown."""

    def __init__(self, run: WalkRun) -> None:
        super().__init__()
        self.run = run
        self.pointed: Callable[[Key | None], object] = lambda _: None
        self.led: Callable[[Key], object] = lambda _: None
        self._over, self._first = -1, 0
        self._open = ("", "")  # layer and prefab of the row whose things are told
        self.missed: frozenset[Key] = frozenset()  # things to which no way was found
        self._known: tuple[object, list[Row]] = (None, [])
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._show)
        self.setFixedWidth(_WIDE)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Things and their state")
        self.setToolTip("A click tells them one by one; with the reach map a double click plays "
                        "the way there")  # fmt: skip

    def sizeHint(self) -> QSize:
        return QSize(_WIDE, 400)

    def refresh(self) -> None:
        """Show how things are now: soon where time goes on, the later the longer it takes."""
        if not self.run.plays:
            self._show()
        elif not self._soon.isActive():
            self._soon.start()

    def _show(self) -> None:
        states = [f"{row.title}: {row.state}" for row in self.rows()]
        told = [f"{seconds:.1f} s {words}" for seconds, words in self.news()]
        self.setAccessibleDescription("; ".join([*states, *told]))
        self.update()

    # --- what it lists --------------------------------------------------------------------

    def rows(self) -> list[Row]:
        """Things of one prefab and layer together, in the order of the room."""
        state = self.run.now
        known = (state, self.missed)
        if self._known[0] != known:
            begun = time.perf_counter()
            self._known = (known, rows_of(state, self.missed))
            took = (time.perf_counter() - begun) * 1000
            self._soon.setInterval(round(max(_OFTEN_MS, took * _SHARE)))
        return self._known[1]

    def news(self) -> list[tuple[float, str]]:
        """(seconds, words) of what happened last, the latest first."""
        return news(self.run.states, self.run.at, _NEWS)

    # --- drawing --------------------------------------------------------------------------

    def places(self) -> Iterator[tuple[Row, QRectF]]:
        """Each row that is seen, with where; the name of a layer stands above its first, and below
        one that is open each of its things."""
        top, layer = 26.0, ""
        rows = self.rows()
        self._first = max(0, min(self._first, len(rows) - 1))
        several = len({row.layer for row in rows}) > 1
        for row in rows[self._first :]:
            if several and row.layer != layer:
                layer, top = row.layer, top + _HEAD
            if top + _ROW > self._foot():
                return
            high = _ROW + (_LINE * min(len(row.members), _MOST_LINES) + 4) * self._is_open(row)
            yield row, QRectF(0, top, self.width(), high)
            top += high

    def _is_open(self, row: Row) -> bool:
        return (row.layer, row.prefab) == self._open and len(row.members) > 1

    def _member_at(self, row: Row, rect: QRectF, y: float) -> Member:
        """The thing of a row that is pointed at: the first, but for those told by themselves."""
        number = int((y - rect.top() - _ROW) // _LINE) if self._is_open(row) else 0
        return row.members[max(0, min(number, len(row.members) - 1))]

    def _foot(self) -> float:
        """Where the rows end."""
        return self.height() - 36 - 18 * _NEWS - 82

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            self._first += -1 if event.angleDelta().y() > 0 else 1
            self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), style.ink("panel"))
        painter.setPen(style.ink("line"))
        painter.drawLine(self.width() - 1, 0, self.width() - 1, self.height())
        self._head(painter, 8, "Things and their state")
        live = sum(len(row.members) for row in self.rows())
        painter.drawText(QRectF(0, 8, self.width() - 10, 16), Qt.AlignmentFlag.AlignRight,
                         f"{live} live")  # fmt: skip
        layer, seen = "", 0
        several = len({row.layer for row in self.rows()}) > 1
        for number, (row, rect) in enumerate(self.places()):
            if several and row.layer != layer:
                layer = row.layer
                self._head(painter, rect.top() - _HEAD + 4, layer)
            self._draw_row(painter, row, rect, number == self._over)
            seen += 1
        hidden = len(self.rows()) - seen
        if hidden:
            painter.setFont(style.font(12))
            painter.setPen(style.ink("soft"))
            painter.drawText(QPointF(12, self._foot() + 14), f"{hidden} more: the wheel scrolls")
        self._draw_cleared(painter, self._foot() + 24)
        self._draw_news(painter, self._foot() + 86)

    def _head(self, painter: QPainter, top: float, words: str) -> None:
        painter.setFont(style.heading())
        painter.setPen(style.ink("soft"))
        painter.drawText(QRectF(12, top, self.width() - 20, 16), words)

    def _draw_row(self, painter: QPainter, row: Row, rect: QRectF, over: bool) -> None:
        if over:
            painter.fillRect(rect, style.ink("card"))
            painter.fillRect(QRectF(0, rect.top(), 3, rect.height()), style.ink("buoy"))
        frame = QRectF(12, rect.top() + 6, 32, 32)
        painter.fillRect(frame, style.ink("panel2"))
        prefab = self.run.now.world.project.prefabs.get(row.prefab)
        if prefab is not None:
            pixmap = pixmap_of(prefab.picture.rgba)
            size = pixmap.size().scaled(28, 28, Qt.AspectRatioMode.KeepAspectRatio)
            target = QRectF(0, 0, size.width(), size.height())
            target.moveCenter(frame.center())
            painter.drawPixmap(target, pixmap, QRectF(pixmap.rect()))
        painter.setPen(QPen(style.ink("line"), 1))
        painter.drawRect(frame)
        painter.setFont(style.font(13, bold=True))
        metrics = painter.fontMetrics()
        wide = min(88, metrics.horizontalAdvance(row.state) + 2)
        name = metrics.elidedText(
            row.title, Qt.TextElideMode.ElideRight, int(self.width() - 62 - wide)
        )
        painter.setPen(style.ink("ink"))
        painter.drawText(QPointF(52, rect.top() + 18), name)
        painter.setPen(style.ink(row.ink))
        painter.drawText(QRectF(self.width() - wide - 10, rect.top() + 5, wide, 18),
                         Qt.AlignmentFlag.AlignRight, row.state)  # fmt: skip
        painter.setFont(style.font(12))
        words = painter.fontMetrics().elidedText(row.words, Qt.TextElideMode.ElideRight,
                                                 self.width() - 62)  # fmt: skip
        painter.setPen(style.ink("soft"))
        painter.drawText(QPointF(52, rect.top() + 35), words)
        if self._is_open(row):
            self._draw_members(painter, row, rect)

    def _draw_members(self, painter: QPainter, row: Row, rect: QRectF) -> None:
        shown = row.members[:_MOST_LINES]
        for number, member in enumerate(shown):
            line = QRectF(52, rect.top() + _ROW - 4 + number * _LINE, self.width() - 62, _LINE)
            painter.setPen(style.ink("soft"))
            last = number == len(shown) - 1 and len(row.members) > len(shown)
            where = f"and {len(row.members) - number} more" if last else member.where
            painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, where)
            if not last:
                ink = "tidal" if member.done else "buoy" if member.missed else "soft"
                painter.setPen(style.ink(ink))
                right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
                painter.drawText(line, right, member.words)

    def _draw_cleared(self, painter: QPainter, top: float) -> None:
        done, every = cleared_of(self.run.now)
        self._head(painter, top, "Room cleared")
        bar = QRectF(12, top + 22, self.width() - 24, 8)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(style.ink("rail"))
        painter.drawRoundedRect(bar, 4, 4)
        if every and done:
            bar.setWidth(bar.width() * done / every)
            painter.setBrush(style.ink("tidal"))
            painter.drawRoundedRect(bar, 4, 4)
        painter.setPen(style.ink("soft"))
        painter.setFont(style.font(12))
        told = f"{done} of {every} done" if every else "nothing counts here"
        painter.drawText(QPointF(12, top + 48), told)

    def _draw_news(self, painter: QPainter, top: float) -> None:
        self._head(painter, top, "Just now")
        painter.setFont(style.font(12))
        for number, (seconds, words) in enumerate(self.news()):
            y = top + 32 + 18 * number
            painter.setPen(style.ink("soft"))
            painter.drawText(QPointF(12, y), f"{seconds:.1f} s")
            painter.setPen(style.ink("ink"))
            room = self.width() - 62
            painter.drawText(QPointF(52, y), painter.fontMetrics().elidedText(
                words, Qt.TextElideMode.ElideRight, room))  # fmt: skip

    # --- the pointer ----------------------------------------------------------------------

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        number, found = self._at(event.position())
        self._over = number
        self.pointed(found[1].key if found is not None else None)
        self.update()

    def _at(self, point: QPointF) -> tuple[int, tuple[Row, Member] | None]:
        """The row there and its number, and the thing of it."""
        for number, (row, rect) in enumerate(self.places()):
            if rect.contains(point):
                return number, (row, self._member_at(row, rect, point.y()))
        return -1, None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Tell the things of a row one by one, or no longer."""
        found = self._at(event.position())[1] if event is not None else None
        if found is not None:
            self._turn_over(found[0])

    def _turn_over(self, row: Row) -> None:
        self._open = ("", "") if self._is_open(row) else (row.layer, row.prefab)
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Once the Tab key led here: up and down among the rows, Enter tells the things of one."""
        rows = self.rows()
        if event is None or not rows:
            return
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if event.key() in steps:
            self._over = max(0, min(len(rows) - 1, self._over + steps[Qt.Key(event.key())]))
            self.pointed(rows[self._over].members[0].key)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._over >= 0:
            self._turn_over(rows[min(self._over, len(rows) - 1)])
        else:
            event.ignore()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """Show the way to a thing."""
        found = self._at(event.position())[1] if event is not None else None
        if found is not None:
            self.led(found[1].key)

    def leaveEvent(self, event: QEvent | None) -> None:
        self._over = -1
        self.pointed(None)
        self.update()
