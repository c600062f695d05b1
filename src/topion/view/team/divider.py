"""The line over the table between another version of the room and this one."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from topion.view import style

WIDE = 24
_STEP = 0.02  # of the table, by a key


class Divider(QWidget):
    """Drag it, or move it with the arrows.  share : of the width of the table that lies left of it.

    Signals: moved().
    """

    moved = pyqtSignal()
    key_area = "compare"

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.share = 0.5
        self.left, self.right = "then", "now"
        self._held: float | None = None
        self.setCursor(Qt.CursorShape.SplitHCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Between then and now")
        self.setToolTip("Drag: the other version left of it, this one right (arrows, Home, End)")
        parent.installEventFilter(self)
        self.place()
        self.hide()

    def place(self) -> None:
        """Stand where it shall, over all of the table's height."""
        above = self.parentWidget()
        if above is not None:
            middle = round(self.share * above.width())
            self.setGeometry(middle - WIDE // 2, 0, WIDE, above.height())
            self.raise_()
            for part in above.findChildren(QWidget, "floating"):
                part.raise_()

    def move_to(self, share: float) -> None:
        """Lie further left or right, within the table."""
        self.share = max(0.0, min(1.0, share))
        self.place()
        self.moved.emit()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle, high = self.width() / 2, float(self.height())
        painter.setPen(QPen(style.ink("card"), 4))
        painter.drawLine(QPointF(middle, 0), QPointF(middle, high))
        painter.setPen(QPen(style.ink("ink"), 1.6))
        painter.drawLine(QPointF(middle, 0), QPointF(middle, high))
        grip = QRectF(middle - 9, high / 2 - 20, 18, 40)
        painter.setBrush(style.ink("card"))
        painter.setPen(QPen(style.ink("tidal" if self.hasFocus() else "ink"), 1.6))
        painter.drawRoundedRect(grip, 9, 9)
        painter.setBrush(style.ink("ink"))
        painter.setPen(Qt.PenStyle.NoPen)
        for way in (-1, 1):
            tip = QPointF(middle + way * 6, high / 2)
            back = middle + way * 2
            painter.drawPolygon(QPolygonF([tip, QPointF(back, high / 2 - 4),
                                           QPointF(back, high / 2 + 4)]))  # fmt: skip

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._held = event.position().x() - WIDE / 2

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        above = self.parentWidget()
        if event is not None and self._held is not None and above is not None:
            at = self.x() + event.position().x() - self._held
            self.move_to(at / max(1, above.width()))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._held = None

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        ways = {Qt.Key.Key_Left: self.share - _STEP, Qt.Key.Key_Right: self.share + _STEP,
                Qt.Key.Key_Home: 0.0, Qt.Key.Key_End: 1.0}  # fmt: skip
        if event is not None and event.key() in ways:
            self.move_to(ways[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Resize:
            self.place()
        return False
