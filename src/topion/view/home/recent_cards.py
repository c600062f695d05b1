"""The projects to go on with, as cards in a grid that scrolls."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from topion.edit.journals import Unsaved, strokes
from topion.formats.recents import Look, Recent
from topion.view import style
from topion.view.home.looking import Looking, Seen
from topion.view.home.times import said, short_path
from topion.view.plan.room_pictures import draw_filling

_WIDE, _HIGH, _GAP = 246, 265, 14
_PICTURE, _SMALL = QRectF(8, 8, 230, 166), (42, 32)
_ELIDE = Qt.TextElideMode.ElideRight
Card = Recent | Unsaved


class RecentCards(QWidget):
    """Signals: opened(path), brought(a kept journal), shown_where(path), forgotten(path)."""

    opened = pyqtSignal(str)
    brought = pyqtSignal(object)
    shown_where = pyqtSignal(str)
    forgotten = pyqtSignal(str)

    def __init__(self, looking: Looking) -> None:
        super().__init__()
        self.looking = looking
        self.cards: list[Card] = []
        self.chosen = 0
        self._columns = 3
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Projects to go on with")
        looking.seen.connect(lambda _: self.update())

    def show_cards(self, cards: list[Card]) -> None:
        """Show these."""
        self.cards = cards
        self.chosen = min(self.chosen, max(0, len(cards) - 1))
        self._measure()
        told = "; ".join(card.name for card in cards)
        self.setAccessibleDescription(told)
        self.update()

    def _measure(self) -> None:
        self._columns = max(1, (self.width() + _GAP) // (_WIDE + _GAP))
        rows = -(-len(self.cards) // self._columns)
        self.setMinimumHeight(max(1, rows) * (_HIGH + _GAP) - _GAP + 4)

    def resizeEvent(self, event: object) -> None:
        self._measure()

    def sizeHint(self) -> QSize:
        return QSize(3 * (_WIDE + _GAP), 2 * (_HIGH + _GAP))

    def rect_of(self, number: int) -> QRectF:
        """Where a card is seen."""
        row, column = divmod(number, self._columns)
        return QRectF(column * (_WIDE + _GAP) + 1, row * (_HIGH + _GAP) + 1, _WIDE, _HIGH)

    def buttons_of(self, number: int) -> dict[str, QRectF]:
        """What can be pressed on the card of a project that is gone."""
        rect = self.rect_of(number)
        wide = (_WIDE - 24) / 2
        y = rect.bottom() - 34
        return {"Show where": QRectF(rect.left() + 8, y, wide, 25),
                "Forget it": QRectF(rect.left() + 16 + wide, y, wide, 25)}  # fmt: skip

    # --- drawn --------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        seen = QRectF(event.rect()) if event is not None else QRectF(self.rect())
        for number, card in enumerate(self.cards):
            rect = self.rect_of(number)
            if not rect.intersects(seen):
                continue
            known = self.looking.known.get(card.path) if isinstance(card, Recent) else None
            gone = known is not None and not known.look.there
            self._draw_frame(painter, rect, chosen=number == self.chosen, gone=gone)
            painter.save()
            painter.translate(rect.topLeft())
            if isinstance(card, Unsaved):
                self._draw_unsaved(painter, card)
            elif gone:
                self._draw_gone(painter, card, number)
            else:
                self._draw_card(painter, card, known)
            painter.restore()

    def _draw_frame(self, painter: QPainter, rect: QRectF, *, chosen: bool, gone: bool) -> None:
        ink, wide = ("buoy", 2) if chosen and self.hasFocus() else ("line", 1)
        line = Qt.PenStyle.DashLine if gone else Qt.PenStyle.SolidLine
        painter.setPen(QPen(style.ink("soft" if gone and ink == "line" else ink), wide, line))
        painter.setBrush(style.ink("panel2" if gone else "card"))
        painter.drawRoundedRect(rect, 5, 5)

    def _draw_card(self, painter: QPainter, card: Recent, known: Seen | None) -> None:
        look = known.look if known is not None else Look(card)
        self._draw_pictures(painter, known)
        title = look.recent.name
        self._line(painter, 193, title, "ink", 15, bold=True, room=90)
        painter.setFont(style.font(12))
        painter.setPen(style.ink("soft"))
        rooms = QRectF(8, 180, _WIDE - 16, 18)
        painter.drawText(rooms, Qt.AlignmentFlag.AlignRight, look.recent.told())
        place = f", in {look.recent.room}" if look.recent.room else ""
        self._line(painter, 213, f"{said(card.when)}{place}", "ink", 13)
        self._line(painter, 233, short_path(card.path, str(Path.home())), "soft", 12)
        text, ink, strong = _told(look, read=known is not None)
        self._line(painter, 252, text, ink, 12, bold=strong)

    def _draw_pictures(self, painter: QPainter, known: Seen | None) -> None:
        painter.fillRect(_PICTURE, style.ink("panel2"))
        if known is None:
            return
        if known.picture is not None:
            draw_filling(painter, known.picture, _PICTURE)
        for place, image in enumerate(reversed(known.small)):
            right = _PICTURE.right() - 8 - place * (_SMALL[0] + 4)
            at = QRectF(right - _SMALL[0], _PICTURE.bottom() - 8 - _SMALL[1], *_SMALL)
            _draw_small(painter, image, at)

    def _draw_unsaved(self, painter: QPainter, card: Unsaved) -> None:
        painter.fillRect(_PICTURE, style.ink("panel2"))
        painter.setPen(style.ink("soft"))
        painter.setFont(style.font(13))
        painter.drawText(_PICTURE, Qt.AlignmentFlag.AlignCenter, "has no folder yet")
        self._line(painter, 193, card.name, "ink", 15, bold=True)
        self._line(painter, 213, "never saved", "ink", 13)
        self._line(painter, 252, f"{strokes(card.strokes)} kept, none lost", "tidal", 12, bold=True)

    def _draw_gone(self, painter: QPainter, card: Recent, number: int) -> None:
        painter.fillRect(_PICTURE, style.ink("panel2"))
        folder = QRectF(_PICTURE.center().x() - 34, _PICTURE.top() + 44, 68, 46)
        painter.setPen(QPen(style.ink("soft"), 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(folder)
        painter.drawLine(folder.topLeft() + QPointF(0, 0), folder.topLeft() + QPointF(24, 0))
        painter.setPen(QPen(style.ink("buoy"), 1.8))
        middle = folder.center()
        for a, b in ((QPointF(-9, -8), QPointF(9, 8)), (QPointF(9, -8), QPointF(-9, 8))):
            painter.drawLine(middle + a, middle + b)
        painter.setPen(style.ink("soft"))
        painter.setFont(style.font(12))
        where = short_path(str(Path(card.path).parent), str(Path.home()))
        told = f"Not at {where} any more.\nPlug the drive in, or show where it went."
        words = QRectF(_PICTURE.left() + 8, folder.bottom() + 12, _PICTURE.width() - 16, 60)
        flags = Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(words, flags, told)
        self._line(painter, 193, card.name, "soft", 15, bold=True)
        self._line(painter, 213, f"last seen {said(card.when)}", "soft", 13)
        painter.translate(-self.rect_of(number).topLeft())
        for text, rect in self.buttons_of(number).items():
            painter.setPen(QPen(style.ink("line"), 1))
            painter.setBrush(style.ink("card"))
            painter.drawRoundedRect(rect, 12, 12)
            painter.setPen(style.ink("ink"))
            painter.setFont(style.font(13))
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)

    @staticmethod
    def _line(
        painter: QPainter, y: float, text: str, ink: str, size: int, *, bold: bool = False,
        room: int = 16,
    ) -> None:  # fmt: skip
        painter.setFont(style.font(size, bold=bold))
        painter.setPen(style.ink(ink))
        shown = painter.fontMetrics().elidedText(text, _ELIDE, _WIDE - room)
        painter.drawText(QPointF(8, y), shown)

    # --- chosen -------------------------------------------------------------------------------

    def number_at(self, point: QPointF) -> int | None:
        """The card under a point."""
        return next((n for n in range(len(self.cards)) if self.rect_of(n).contains(point)), None)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        over = self.number_at(event.position()) if event is not None else None
        shape = Qt.CursorShape
        self.setCursor(shape.PointingHandCursor if over is not None else shape.ArrowCursor)
        card = self.cards[over] if over is not None else None
        self.setToolTip(card.path if isinstance(card, Recent) else "")

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        number = self.number_at(event.position()) if event is not None else None
        if number is None or event is None:
            return
        self.chosen = number
        self.update()
        card = self.cards[number]
        known = self.looking.known.get(card.path) if isinstance(card, Recent) else None
        if isinstance(card, Recent) and known is not None and not known.look.there:
            for text, rect in self.buttons_of(number).items():
                if rect.contains(event.position()):
                    (self.forgotten if text == "Forget it" else self.shown_where).emit(card.path)
            return
        self.open_chosen()

    def open_chosen(self) -> None:
        """Go on with the chosen one."""
        if self.chosen >= len(self.cards):
            return
        card = self.cards[self.chosen]
        if isinstance(card, Unsaved):
            self.brought.emit(card.kept)
        else:
            self.opened.emit(card.path)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -self._columns,
                 Qt.Key.Key_Down: self._columns}  # fmt: skip
        key = Qt.Key(event.key())
        if key in steps and self.cards:
            self.chosen = max(0, min(len(self.cards) - 1, self.chosen + steps[key]))
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.open_chosen()
        elif key == Qt.Key.Key_Delete and self.cards:
            card = self.cards[self.chosen]
            if isinstance(card, Recent):
                self.forgotten.emit(card.path)
        else:
            super().keyPressEvent(event)


def _draw_small(painter: QPainter, image: QImage, at: QRectF) -> None:
    draw_filling(painter, image, at)
    painter.setPen(QPen(style.ink("card"), 1.5))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(at)


def _told(look: Look, *, read: bool) -> tuple[str, str, bool]:
    """What is to be known of a project before it is opened, its ink, and whether it is strong."""
    if not read:
        return "looking…", "soft", False
    if look.problem:
        return look.problem, "buoy", False
    if look.in_use:
        return "open in another window: opens to read", "ochre", True
    if look.unsaved:
        return f"{strokes(look.unsaved)} not saved yet, none lost", "tidal", True
    return "saved", "soft", False
