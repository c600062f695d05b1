"""The rack: brush cards with live pictures, in bays."""

from __future__ import annotations

from PyQt6.QtCore import QMimeData, QPoint, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import (
    QDrag,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QWheelEvent,
)
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from topion.brushes.kind import BrushKind, brush_named, brush_or_none, lays_here
from topion.edit.library import moved_card
from topion.model.edit import Dirty
from topion.render.cards import card_picture
from topion.things.field import Sows
from topion.view import style
from topion.view.hands import Hand
from topion.view.hints import Hints
from topion.view.panels.emptied import emptied
from topion.view.panels.fields import bold
from topion.view.session import Session
from topion.view.table.compose import pixmap_of
from topion.view.turns import Turns

CARD = QSize(95, 117)
CARD_MIME = "application/x-topion-card"
_DIGITS = "1234567890"


class Card(QWidget):
    """One brush: left click takes it in the left hand, right click in the right."""

    def __init__(self, rack: Rack, name: str, digit: str) -> None:
        super().__init__()
        self.rack, self.name, self.digit = rack, name, digit
        self.setFixedSize(CARD)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAcceptDrops(True)
        self._pressed: QPoint | None = None
        brush = brush_named(rack.session.project, name)
        key = f" ({digit})" if digit else ""
        self.setAccessibleName(f"{name}, {brush.summary()}")
        self.setToolTip(
            f"{name}{key}: left click takes it in the left hand, right click in the right; "
            "double click opens its desk, drag moves the card"
        )

    def paintEvent(self, event: QPaintEvent | None) -> None:
        session = self.rack.session
        brush = brush_or_none(session.project, self.name)
        if brush is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rect = QRectF(1.5, 1.5, self.width() - 3, self.height() - 3)
        left = session.hands["left"] == self.name
        right = session.hands["right"] == self.name
        line = "buoy" if left else "tidal" if right else "line"
        painter.setBrush(style.ink("card"))
        painter.setPen(QPen(style.ink(line), 2.4 if left or right else 1))
        painter.drawRoundedRect(rect, 4, 4)
        if left and right:  # in both hands: each colour on its side
            painter.setPen(QPen(style.ink("tidal"), 2.4))
            painter.drawLine(rect.topRight() + _PAD, rect.bottomRight() - _PAD)
        if self.hasFocus():
            painter.setPen(QPen(style.ink("ink"), 1, Qt.PenStyle.DotLine))
            painter.drawRoundedRect(rect.adjusted(3, 3, -3, -3), 3, 3)
        picture = self.rack.picture(brush)
        frame = QRectF(6, 6, self.width() - 12, 61)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        if not picture.isNull():
            painter.drawPixmap(frame, picture, _cover(picture, frame))
        self._paint_text(painter, brush)
        self._paint_state(painter, brush.state(), frame)

    def _paint_state(self, painter: QPainter, state: str, frame: QRectF) -> None:
        """How it is turned, mirrored or shifted now, over the foot of its picture."""
        if not state:
            return
        painter.setFont(style.font(10, bold=True))
        text = _fitted(painter, state, frame.width() - 10)
        wide = painter.fontMetrics().horizontalAdvance(text) + 10
        tag = QRectF(frame.left() + 2, frame.bottom() - 16, wide, 14)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(style.ink("ochre"))
        painter.drawRoundedRect(tag, 3, 3)
        painter.setPen(style.ink("on_ink"))
        painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, text)

    def _paint_text(self, painter: QPainter, brush: BrushKind) -> None:
        wide = self.width() - 12
        painter.setPen(style.ink("ink"))
        painter.setFont(style.font(12, bold=True))
        painter.drawText(QRectF(7, 70, wide, 15), _fitted(painter, self.name, wide))
        painter.setPen(style.ink("soft"))
        painter.setFont(style.font(11))
        painter.drawText(QRectF(7, 85, wide, 14), _fitted(painter, brush.summary(), wide))
        if self.digit:
            box = QRectF(self.width() - 21, self.height() - 20, 14, 13)
            painter.setPen(QPen(style.ink("line")))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box, 2, 2)
            painter.setFont(style.font(10))
            painter.setPen(style.ink("soft"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, self.digit)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self._pressed = event.position().toPoint()
        if event.button() == Qt.MouseButton.RightButton:
            self.rack.session.hands.take("right", self.name)
        elif event.button() == Qt.MouseButton.LeftButton:
            self.rack.session.hands.take("left", self.name)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.rack.session.desk_asked.emit(self.name)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._pressed is None:
            return
        if not event.buttons() & Qt.MouseButton.LeftButton:
            return
        if (event.position().toPoint() - self._pressed).manhattanLength() < 12:
            return
        self._pressed = None
        drag = QDrag(self)
        data = QMimeData()
        data.setData(CARD_MIME, self.name.encode())
        drag.setMimeData(data)
        drag.setPixmap(self.grab())
        drag.exec(Qt.DropAction.MoveAction)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is None:
            return
        data = event.mimeData()
        if data is not None and data.hasFormat(CARD_MIME):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        if event is None:
            return
        data = event.mimeData()
        moved = data.data(CARD_MIME).data().decode() if data is not None else ""
        self.rack.move_card(moved, self.name)
        event.acceptProposedAction()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if Qt.Key(event.key()) in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            shifted = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
            self.rack.session.hands.take("right" if shifted else "left", self.name)
        else:
            event.ignore()


_PAD = QPoint(0, 4).toPointF()


def _fitted(painter: QPainter, text: str, wide: float) -> str:
    return painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(wide))


def _cover(picture: QPixmap, frame: QRectF) -> QRectF:
    """The middle part of the picture with the proportions of the frame."""
    wide, high = picture.width(), picture.height()
    ratio = frame.width() / frame.height()
    if wide / high > ratio:
        part = high * ratio
        return QRectF((wide - part) / 2, 0, part, high)
    part = wide / ratio
    return QRectF(0, (high - part) / 2, wide, part)


class Rack(QWidget):
    """Bays as words, cards in a row that starts with the bay in front."""

    key_area = "rack"

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.hints = Hints()
        self.setObjectName("rack")
        self.setFixedHeight(160)
        self.bay = ""
        self._pictures: dict[str, tuple[object, QPixmap]] = {}
        self.cards: list[Card] = []
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 3, 10, 0)
        layout.setSpacing(2)
        head = QHBoxLayout()
        head.setSpacing(4)
        self._bays = QHBoxLayout()
        self._bays.setSpacing(2)
        head.addLayout(self._bays)
        self.search = QLineEdit()
        self.search.setAcceptDrops(False)  # files are for the window
        self.search.setObjectName("find")
        self.search.setPlaceholderText("⌕ find a brush")
        self.search.setAccessibleName("Find a brush")
        self.search.setToolTip("Show only cards with these letters (/)")
        self.search.setFixedWidth(150)
        self.search.textChanged.connect(lambda _: self.rebuild())
        head.addSpacing(12)
        head.addWidget(self.search)
        head.addStretch(1)
        self.new = QPushButton("+ New brush")
        self.new.setToolTip("Make a brush from a sheet or a picture (Ctrl+B)")
        head.addWidget(self.new)
        layout.addLayout(head)
        row = QHBoxLayout()
        row.setSpacing(10)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        row.addWidget(self._scroll, 1)
        row.addWidget(Legend(self))
        layout.addLayout(row, 1)
        self._turns = Turns(self, self._repaint)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(40)
        self._soon.timeout.connect(self._refresh)
        self.use(session)

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = session
        self._pictures.clear()
        session.hands.changed.connect(self._follow_hand)
        session.room_changed.connect(self._refresh)
        session.hands.mode_changed.connect(self._repaint)
        session.gestures.changed.connect(self._repaint)
        session.changed.connect(self._on_changed)
        session.ahead.made.connect(self._repaint)
        self.rebuild()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), style.ink("panel2"))
        painter.setPen(style.ink("line"))
        painter.drawLine(0, 0, self.width(), 0)

    def _follow_hand(self) -> None:
        """Bring the card that was taken into view."""
        self._repaint()
        name = self.session.hands[self.session.hands.shown]
        for card in self.cards:
            if card.name == name:
                self._scroll.ensureWidgetVisible(card, 40, 0)

    def _repaint(self) -> None:
        self.update()
        for card in self.cards:
            card.update()

    def _on_changed(self, dirty: tuple[Dirty, ...]) -> None:
        if any(not part.room for part in dirty):
            self._soon.start()

    def _refresh(self) -> None:
        names = [card.name for card in self.cards]
        if names != self._order():
            self.rebuild()
        else:
            self._repaint()

    def picture(self, brush: BrushKind) -> QPixmap:
        """The live picture of a card, drawn anew after the library changed."""
        project = self.session.project
        known = self._pictures.get(brush.name)
        worn = self.session.room.info if self.session.has_room else None
        theme, flat = (worn.theme, worn.axes == 2) if worn is not None else ("", False)
        stamps = project.stamp("prefabs", "tilesets", "blocks", "themes", "palette")
        key = (brush, theme, flat, stamps)
        if known is None or known[0] != key:
            if isinstance(brush, Sows) and not self.session.ahead.has_field(brush.field):
                return known[1] if known else QPixmap()
            drawn = self._turns.make(lambda: card_picture(project, brush, theme, flat=flat))
            if drawn is None:
                return known[1] if known else QPixmap()
            known = (key, pixmap_of(drawn))
            self._pictures[brush.name] = known
        return known[1]

    def _order(self) -> list[str]:
        """Names of the cards shown: from the bay in front on, or those that were found."""
        project = self.session.project
        bays = list(project.bays)
        at = next((i for i, bay in enumerate(bays) if bay.name == self.bay), 0)
        names = [name for bay in bays[at:] + bays[:at] for name in bay.brushes]
        names = [name for name in names if self._shows(name)]
        wanted = self.search.text().strip().lower()
        if wanted:
            names = [
                n for n in names if wanted in f"{n} {brush_named(project, n).summary()}".lower()
            ]
        return names

    def _shows(self, name: str) -> bool:
        """Whether a card belongs on the rack: its brush can lay in this kind of room."""
        session = self.session
        brush = brush_or_none(session.project, name)
        return brush is not None and (not session.has_room or lays_here(brush, session.room))

    def rebuild(self) -> None:
        """Lay out all cards anew."""
        project = self.session.project
        if self.bay not in [bay.name for bay in project.bays] and project.bays:
            self.bay = project.bays[0].name
        self._rebuild_bays()
        body = QWidget()
        line = QHBoxLayout(body)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(7)
        self._scroll.setWidget(body)  # first: what is put into it is dressed once
        body.setAutoFillBackground(False)
        self.cards = []
        for number, name in enumerate(self._order()):
            card = Card(self, name, _DIGITS[number] if number < len(_DIGITS) else "")
            self.cards.append(card)
            line.addWidget(card, 0, Qt.AlignmentFlag.AlignTop)
        if not self.cards:
            empty = QLabel("No brush here yet: “+ New brush” makes one from a sheet or a picture")
            empty.setContentsMargins(30, 30, 30, 30)
            style.tint(empty, "soft")
            line.addWidget(empty)
        line.addStretch(1)

    def _rebuild_bays(self) -> None:
        emptied(self._bays)
        for bay in self.session.project.bays:
            if bay.brushes and not any(self._shows(name) for name in bay.brushes):
                continue
            button = QPushButton(bay.name)
            button.setObjectName("plain")
            bold(button, bay.name == self.bay)
            button.setToolTip(f"Put the bay {bay.name} in front")
            button.clicked.connect(lambda _, name=bay.name: self.show_bay(name))
            self._bays.addWidget(button)

    def show_bay(self, name: str) -> None:
        """Put a bay in front."""
        self.bay = name
        self.rebuild()

    def take_digit(self, digit: str, hand: Hand) -> None:
        """Take the card with that digit."""
        for card in self.cards:
            if card.digit == digit:
                self.session.hands.take(hand, card.name)

    def move_card(self, name: str, before: str) -> None:
        """Put a card in the place of another."""
        if name == before:
            return
        for bay in self.session.project.bays:
            if before in bay.brushes:
                self.session.try_(moved_card, name, bay.name, bay.brushes.index(before))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        bar = self._scroll.horizontalScrollBar()
        if event is not None and bar is not None:
            bar.setValue(bar.value() - (event.angleDelta().y() or event.angleDelta().x()))


class Legend(QWidget):
    """What both hands lay, always on screen."""

    def __init__(self, rack: Rack) -> None:
        super().__init__()
        self.rack = rack
        rack.hints.changed.connect(self.update)
        self.setFixedSize(132, 117)
        self.setAccessibleName("Hands")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        session = self.rack.session
        painter = QPainter(self)
        y = 2
        for hand, colour in (("left", "buoy"), ("right", "tidal")):
            brush = session.hands.in_hand(hand)  # type: ignore[arg-type]
            name = session.hands[hand] or "nothing"  # type: ignore[index]
            lifts = brush is not None and brush.lifts
            does, picks = "lifts" if lifts else "lays", session.gestures.picking
            if picks:
                does = "picks," if hand == "left" else "takes out"
                name = "moves, pulls" if hand == "left" else "of what is picked"
            painter.fillRect(0, y, 4, 30, style.ink(colour))
            painter.setPen(style.ink("soft"))
            painter.setFont(style.font(11))
            painter.drawText(QRectF(10, y, 122, 14), f"{hand} button {does}")
            painter.setPen(style.ink("ink"))
            painter.setFont(style.font(12, bold=True))
            painter.drawText(QRectF(10, y + 14, 122, 16), _fitted(painter, name, 120))
            y += 36
        painter.setFont(style.font(11))
        painter.setPen(style.ink("soft"))
        deep = session.has_room and session.room.info.axes == 3
        for text in self.rack.hints.shown(session.gestures.kind, deep=deep):
            painter.drawText(QRectF(0, y, 132, 14), text)
            y += 14
