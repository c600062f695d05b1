"""The places on both sides of a door as pictures, with the way between them."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QImage, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from topion.plan.threads import Port, Thread
from topion.view import style
from topion.view.plan.room_pictures import SIZES, Wanted
from topion.view.plan.work import PlanWork

_HIGH = 70
_AROUND = 11.0  # cells of a room that are shown round a door, to each side


class BothSides(QWidget):
    """The places on both sides of a door, with the way between them."""

    def __init__(self, work: PlanWork) -> None:
        super().__init__()
        self.setFixedHeight(_HIGH)
        self.setAccessibleName("Both sides of the door")
        self._work = work
        self._port: Port | None = None
        self._thread: Thread | None = None
        work.pictures.made.connect(self.update)

    def show_ends(self, port: Port, thread: Thread | None) -> None:
        """Show a door and where it leads."""
        self._port, self._thread = port, thread
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._port is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        wide = (self.width() - 42) / 2
        first, last = QRectF(0, 2, wide, _HIGH - 6), QRectF(wide + 42, 2, wide, _HIGH - 6)
        thread, port = self._thread, self._port
        turned = thread is not None and thread.there is not None and thread.there.key == port.key
        self._draw_side(painter, port.spot.name, port.point, first)
        if thread is None:
            painter.setPen(QPen(style.ink("line"), 1.2))
            painter.drawRect(last)
            painter.setPen(style.ink("soft"))
            painter.setFont(style.font(12))
            painter.drawText(last, 0x84, "nowhere yet")  # in the middle both ways
            return
        other = thread.here.spot.name if turned else thread.end.name
        self._draw_side(painter, other, thread.here.point if turned else thread.point, last)
        y = _HIGH / 2 - 2
        if thread.both or not turned:
            _arrow(painter, wide + 6, wide + 36, y - (6 if thread.both else 0))
        if thread.both or turned:
            _arrow(painter, wide + 36, wide + 6, y + (6 if thread.both else 0))

    def _draw_side(
        self, painter: QPainter, name: str, point: tuple[float, float], frame: QRectF
    ) -> None:  # fmt: skip
        spot = self._work.spots.get(name)
        if spot is None:
            return
        wanted = Wanted(spot.room, SIZES[1], spot.place.theme, spot.place.tint)
        image: QImage | None = self._work.pictures.image(wanted)
        if image is None:
            painter.fillRect(frame, style.ink("rail"))
        else:
            px = image.width() / (spot.rect.right - spot.rect.left)
            high, wide = 2 * _AROUND * px * frame.height() / frame.width(), 2 * _AROUND * px
            part = QRectF((point[1] - spot.rect.left) * px - wide / 2,
                          (point[0] - spot.rect.top) * px - high / 2, wide, high)  # fmt: skip
            part.moveLeft(max(0.0, min(part.left(), image.width() - wide)))
            part.moveTop(max(0.0, min(part.top(), image.height() - high)))
            painter.drawImage(frame, image, part)
            at = QPointF(frame.left() + ((point[1] - spot.rect.left) * px - part.left())
                         * frame.width() / wide,
                         frame.top() + ((point[0] - spot.rect.top) * px - part.top())
                         * frame.height() / high)  # fmt: skip
            painter.setPen(QPen(style.ink("card"), 4.0))
            painter.drawEllipse(at, 7, 7)
            painter.setPen(QPen(style.ink("buoy"), 2.0))
            painter.drawEllipse(at, 7, 7)
        painter.setPen(QPen(style.ink("ink"), 1.0))
        painter.drawRect(frame)


def _arrow(painter: QPainter, start: float, end: float, y: float) -> None:
    painter.setPen(QPen(style.ink("buoy"), 1.8))
    painter.drawLine(QPointF(start, y), QPointF(end, y))
    back = 6 if start > end else -6
    for dy in (-4.5, 4.5):
        painter.drawLine(QPointF(end + back, y + dy), QPointF(end, y))
