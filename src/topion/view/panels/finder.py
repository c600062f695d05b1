"""The finder: any command, brush, prefab, room or thing by a few letters."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field

from PyQt6.QtCore import QEvent, QObject, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PyQt6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from topion.letters import found
from topion.view import style

_WIDE, _ROW, _MOST = 560, 34, 11
_HEAD = 54
_KINDS = {"command": "ink", "brush": "buoy", "prefab": "tidal", "room": "ochre", "thing": "tidal",
          "tile set": "soft", "region": "ochre", "finding": "buoy"}  # fmt: skip


@dataclass(frozen=True)
class Found:
    """Something that can be found.  kind : what it is.  told : more about it, at the right.

    does : what Enter does; other : what Shift+Enter does.  picture : of it, made when it is
    shown.  colour : of it, where it has one.
    """

    name: str
    kind: str
    does: Callable[[], object]
    told: str = ""
    other: Callable[[], object] | None = None
    picture: Callable[[], QPixmap | None] = field(default=lambda: None)
    colour: str = ""


class Finder(QWidget):
    """Over the window; Esc or a click beside it puts it away.  Signals: closed()."""

    closed = pyqtSignal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.entries: list[Found] = []
        self.rows: list[Found] = []
        self.chosen = 0
        self.field = QLineEdit()
        self.field.setPlaceholderText("a few letters of a command, brush, prefab, room, thing …")
        self.field.setAccessibleName("Find by letters")
        self.field.setFont(style.font(16))
        self.field.setFixedHeight(36)
        self.field.textChanged.connect(self._look)
        self.field.installEventFilter(self)
        self.list = _Rows(self)
        self.setAccessibleName("Finder")
        self._sheet = QWidget(self)
        column = QVBoxLayout(self._sheet)
        column.setContentsMargins(9, 9, 9, 7)
        column.setSpacing(6)
        column.addWidget(self.field)
        column.addWidget(self.list)
        self.hide()

    def show_over(self, area: QWidget, entries: Iterable[Found]) -> None:
        """Show it over the window, with these to be found."""
        self.entries = list(entries)
        self.setGeometry(area.rect())
        self.field.setFont(style.font(16))
        self.field.clear()
        self._look("")
        self.show()
        self.raise_()
        self.field.setFocus()

    def _look(self, letters: str) -> None:
        named = ((entry.name, entry) for entry in self.entries)
        self.rows = list(found(letters, named, _MOST))
        self.chosen = 0
        self.list.show_rows()
        high = _HEAD + max(1, len(self.rows)) * _ROW + 4
        wide = min(_WIDE, self.width() - 40)
        self._sheet.setGeometry((self.width() - wide) // 2, max(30, self.height() // 6), wide, high)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), style.VEIL)
        painter.setPen(QPen(style.ink("ink", 190)))
        painter.setBrush(style.ink("card"))
        painter.drawRoundedRect(QRectF(self._sheet.geometry()), 7, 7)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.close_finder()

    def close_finder(self) -> None:
        """Put it away."""
        self.hide()
        self.entries, self.rows = [], []
        self.closed.emit()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if watched is self.field and isinstance(event, QKeyEvent):
            if event.type() == QEvent.Type.KeyPress and self._key(event):
                return True
            if event.type() == QEvent.Type.ShortcutOverride:
                event.accept()  # letters belong to the field
                return True
        return super().eventFilter(watched, event)

    def _key(self, event: QKeyEvent) -> bool:
        key, steps = Qt.Key(event.key()), {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}
        if key in steps and self.rows:
            self.choose((self.chosen + steps[key]) % len(self.rows))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.take(other=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        elif key == Qt.Key.Key_Escape:
            self.close_finder()
        else:
            return False
        return True

    def choose(self, number: int) -> None:
        """Choose a row."""
        self.chosen = number
        self.list.update()

    def take(self, *, other: bool = False) -> None:
        """Do what the chosen row does."""
        if self.chosen >= len(self.rows):
            return
        row = self.rows[self.chosen]
        self.close_finder()
        if other and row.other is not None:
            row.other()
        else:
            row.does()


class _Rows(QWidget):
    """What was found."""

    def __init__(self, finder: Finder) -> None:
        super().__init__()
        self._finder = finder
        self._pictures: dict[int, QPixmap | None] = {}
        self.setMouseTracking(True)
        self.setAccessibleName("Found")

    def sizeHint(self) -> QSize:
        return QSize(_WIDE, max(1, len(self._finder.rows)) * _ROW)

    def show_rows(self) -> None:
        """Show other rows."""
        self._pictures.clear()
        self.setFixedHeight(max(1, len(self._finder.rows)) * _ROW)
        self.setAccessibleDescription("; ".join(row.name for row in self._finder.rows))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if not self._finder.rows:
            painter.setPen(style.ink("soft"))
            painter.setFont(style.font(13))
            painter.drawText(QPointF(10, 22), "nothing has these letters")
        for number, row in enumerate(self._finder.rows):
            self._draw(painter, QRectF(0, number * _ROW, self.width(), _ROW), number, row)

    def _draw(self, painter: QPainter, rect: QRectF, number: int, row: Found) -> None:
        if number == self._finder.chosen:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(style.ink("panel2"))
            painter.drawRoundedRect(rect, 4, 4)
        if number not in self._pictures:
            self._pictures[number] = row.picture()
        picture = self._pictures[number]
        square = QRectF(rect.left() + 8, rect.top() + 5, 24, 24)
        if picture is not None:
            scale = min(24 / picture.width(), 24 / picture.height())
            wide, high = picture.width() * scale, picture.height() * scale
            at = QRectF(0, 0, wide, high)
            at.moveCenter(square.center())
            painter.drawPixmap(at, picture, QRectF(picture.rect()))
        else:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(row.colour or style.name(_KINDS.get(row.kind, "soft"))))
            if row.colour:
                painter.drawRoundedRect(square.adjusted(4, 4, -4, -4), 3, 3)
            else:
                painter.drawEllipse(square.center(), 4.0, 4.0)
        painter.setFont(style.font(14, bold=number == self._finder.chosen))
        painter.setPen(style.ink("ink"))
        wide = int(rect.width() - 200)
        name = painter.fontMetrics().elidedText(row.name, Qt.TextElideMode.ElideRight, wide)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(rect.adjusted(42, 0, 0, 0), middle, name)
        painter.setFont(style.font(12))
        painter.setPen(style.ink("soft"))
        told = " · ".join(part for part in (row.kind, row.told) if part)
        told = painter.fontMetrics().elidedText(told, Qt.TextElideMode.ElideRight, 150)
        painter.drawText(rect.adjusted(0, 0, -10, 0), middle | Qt.AlignmentFlag.AlignRight, told)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._finder.choose(min(int(event.position().y() // _ROW), len(self._finder.rows)))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._finder.take(other=event.button() == Qt.MouseButton.RightButton)
