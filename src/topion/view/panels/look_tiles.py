"""Small pictures to choose from, in rows: themes, tint maps, lights."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from topion.view import style

TILE_PX = (84, 128)  # height, width of a picture
_GAP, _NAME = 10, 20


@dataclass(frozen=True)
class Choice:
    """key : what is chosen.  name : below its picture.  on : whether it is worn.  detail : a few
    words in its tooltip.  dim : whether it cannot be chosen now."""

    key: object
    name: str
    on: bool = False
    detail: str = ""
    dim: bool = False


class LookTiles(QWidget):
    """Pictures side by side, in as many rows as they need; a click or Enter chooses."""

    def __init__(self, name: str, picture: Callable[[object], QImage | None],
                 chosen: Callable[[object], object],
                 pointed: Callable[[object], object] | None = None) -> None:  # fmt: skip
        """pointed : told of the one that the pointer or the keys are at."""
        super().__init__()
        self._picture, self._chosen = picture, chosen
        self._pointed = pointed or (lambda _: None)
        self.choices: tuple[Choice, ...] = ()
        self._at = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(name)

    def show_choices(self, choices: Sequence[Choice]) -> None:
        """Show these."""
        self.choices = tuple(choices)
        self._at = next((n for n, c in enumerate(choices) if c.on), 0)
        worn = next((c.name for c in choices if c.on), "none")
        self.setAccessibleDescription(f"{worn}; of {', '.join(c.name for c in choices)}")
        self.setFixedHeight(self._rows() * (TILE_PX[0] + _NAME + _GAP))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(4 * (TILE_PX[1] + _GAP), TILE_PX[0] + _NAME + _GAP)

    def resizeEvent(self, event: object) -> None:
        self.setFixedHeight(self._rows() * (TILE_PX[0] + _NAME + _GAP))

    def _columns(self) -> int:
        return max(1, (self.width() + _GAP) // (TILE_PX[1] + _GAP))

    def _rows(self) -> int:
        return max(1, -(-len(self.choices) // self._columns()))

    def tile_rect(self, number: int) -> QRectF:
        """Where the picture of a choice is seen."""
        row, column = divmod(number, self._columns())
        x, y = column * (TILE_PX[1] + _GAP), row * (TILE_PX[0] + _NAME + _GAP)
        return QRectF(x + 1, y + 1, TILE_PX[1], TILE_PX[0])

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for number, choice in enumerate(self.choices):
            rect = self.tile_rect(number)
            painter.setOpacity(0.45 if choice.dim else 1.0)
            image = self._picture(choice.key)
            if image is None:
                painter.fillRect(rect, style.ink("panel2"))
            else:
                painter.drawImage(rect, image)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(style.ink("buoy" if choice.on else "line"), 2 if choice.on else 1))
            painter.drawRoundedRect(rect, 3, 3)
            if self.hasFocus() and number == self._at:
                painter.setPen(QPen(style.ink("tidal"), 1))
                painter.drawRoundedRect(rect.adjusted(3, 3, -3, -3), 2, 2)
            painter.setFont(style.font(12, bold=choice.on))
            painter.setPen(style.ink("ink"))
            name = painter.fontMetrics().elidedText(
                choice.name, Qt.TextElideMode.ElideRight, TILE_PX[1]
            )
            painter.drawText(QPointF(rect.left() + 2, rect.bottom() + 14), name)

    def _under(self, point: QPointF) -> int | None:
        for number in range(len(self.choices)):
            if self.tile_rect(number).adjusted(0, 0, 0, _NAME).contains(point):
                return number
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        at = self._under(event.position()) if event else None
        if at is not None:
            self._at = at
            self._chosen(self.choices[at].key)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        at = self._under(event.position()) if event else None
        self.setToolTip("" if at is None else self.choices[at].detail or self.choices[at].name)
        if at is not None:
            self._pointed(self.choices[at].key)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self.choices:
            return
        columns = self._columns()
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -columns,
                 Qt.Key.Key_Down: columns}  # fmt: skip
        key = Qt.Key(event.key())
        if key in steps:
            self._at = max(0, min(len(self.choices) - 1, self._at + steps[key]))
            self._pointed(self.choices[self._at].key)
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._chosen(self.choices[self._at].key)
        else:
            event.ignore()
