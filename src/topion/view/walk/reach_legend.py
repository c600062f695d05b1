"""What the marks of the reach say, and how far the search is."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from topion.view import style
from topion.view.walk.reaching import Reaching

_HIGH = 66
_SIGNS = (("dash", "tidal", "stands, climbs"), ("dot", "tidal", "passes"),
          ("dot", "ochre", "no way back"), ("ring", "buoy", "no way found"))  # fmt: skip


class ReachLegend(QWidget):
    """Below the figure, while a room is walked."""

    def __init__(self, reaching: Reaching) -> None:
        super().__init__()
        self._reaching = reaching
        self.setFixedHeight(_HIGH)
        self.setAccessibleName("Reach map")
        self.setToolTip("Where the figure can get: M shows it over the room")
        reaching.changed.connect(self._renew)
        self._renew()

    def sizeHint(self) -> QSize:
        return QSize(250, _HIGH)

    def words(self) -> str:
        """How far it is."""
        reaching = self._reaching
        if not reaching.on:
            return "M shows it"
        if reaching.busy or reaching.reach is None:
            return "searching…"
        whole = "" if reaching.reach.whole else " · not all tried"
        return f"for this figure · {reaching.seconds:.1f} s{whole}"

    def _renew(self) -> None:
        self.setAccessibleDescription(self.words())
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(style.heading())
        painter.setPen(style.ink("soft"))
        painter.drawText(QRectF(0, 0, self.width(), 18), "Reach map")
        painter.setFont(style.font(12))
        painter.drawText(QRectF(0, 0, self.width(), 18), Qt.AlignmentFlag.AlignRight, self.words())
        reach = self._reaching.reach if self._reaching.on else None
        counts = {"no way found": len(reach.missed) if reach is not None else 0}
        for number, (shape, ink, told) in enumerate(_SIGNS):
            left, y = (number % 2) * self.width() / 2, 34.0 + 20 * (number // 2)
            _sign(painter, shape, ink, QPointF(left + 9, y))
            painter.setPen(style.ink("ink" if reach is not None else "soft"))
            painter.setFont(style.font(12))
            painter.drawText(QPointF(left + 24, y + 4), told)
            if counts.get(told):
                after = left + 30 + painter.fontMetrics().horizontalAdvance(told)
                painter.setFont(style.font(12, bold=True))
                painter.setPen(style.ink("buoy"))
                painter.drawText(QPointF(after, y + 4), str(counts[told]))


def _sign(painter: QPainter, shape: str, ink: str, at: QPointF) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    pen = QPen(style.ink(ink), 3 if shape == "dash" else 5 if shape == "dot" else 2)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    painter.setPen(pen)
    if shape == "dash":
        painter.drawLine(QPointF(at.x() - 7, at.y()), QPointF(at.x() + 7, at.y()))
    elif shape == "dot":
        painter.drawPoint(at)
    else:
        painter.drawEllipse(at, 5, 5)
