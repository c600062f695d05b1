"""Where a tile sheet is dropped to begin with it."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from topion.view import style
from topion.view.home.drawings import draw_sheet_way
from topion.view.home.kit_seen import kit_seen

_STEPS = ("finds the tile size", "names the slots", "makes brushes of them")


class DropBox(QWidget):
    """Signals: asked() for a sheet to be chosen.  The window takes what is dropped."""

    asked = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.hovered = False
        self._kit = kit_seen()
        self._kit.made.connect(self.update)
        self.setMinimumHeight(166)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName("Drop a tile sheet here, or choose a PNG")
        self.setToolTip("Drop a PNG here, or click to choose one: it is cut, brushes are made "
                        "of it, and you paint")  # fmt: skip

    def sizeHint(self) -> QSize:
        return QSize(428, 170)

    def hover(self, on: bool) -> None:
        """Something that can be dropped hangs over the window."""
        self.hovered = on
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rect = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        ink = "buoy" if self.hovered else "tidal"
        painter.setPen(QPen(style.ink(ink), 1.6, Qt.PenStyle.DashLine))
        painter.setBrush(style.ink("card", 255 if self.hovered or self.hasFocus() else 120))
        painter.drawRoundedRect(rect, 6, 6)
        painter.setFont(style.font(15, bold=True))
        painter.setPen(style.ink("ink"))
        painter.drawText(rect.adjusted(17, 12, -17, 0), 0, "Drop a tile sheet here")
        painter.setFont(style.font(13, bold=True))
        painter.setPen(style.ink("tidal"))
        painter.drawText(rect.adjusted(17, 13, -15, 0), Qt.AlignmentFlag.AlignRight,
                         "or choose a PNG …")  # fmt: skip
        area = QRectF(rect.left() + 17, rect.top() + 46, rect.width() - 32, 66)
        kit = self._kit.pictures()
        if kit is not None:
            draw_sheet_way(painter, area, kit.sheet)
        third = (area.width() - 60) / 3
        painter.setFont(style.font(11))
        painter.setPen(style.ink("soft"))
        for number, text in enumerate(_STEPS):
            x = area.left() + number * (third + 30)
            words = QRectF(x, area.bottom() + 10, third + 26, 18)
            painter.drawText(words, Qt.AlignmentFlag.AlignLeft, text)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.asked.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space):
            self.asked.emit()
        else:
            super().keyPressEvent(event)
