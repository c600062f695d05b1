"""The colours of a room that is painted, to be taken in hand."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QColorDialog, QWidget

from topion.brushes.kind import all_brushes
from topion.edit.pixels import colour_name, colour_of
from topion.view import style
from topion.view.desks.colour_room import ColourRoom
from topion.view.hands import HANDS, Hand

_SWATCH, _COLUMNS = 30, 8
_BUTTONS: dict[Qt.MouseButton, Hand] = {
    Qt.MouseButton.LeftButton: "left",
    Qt.MouseButton.RightButton: "right",
}


def ask_colour(ground: ColourRoom, parent: QWidget, *, clear: bool) -> None:
    """Ask for one more colour.  clear : whether it may be more or less so."""
    options = QColorDialog.ColorDialogOption(0)
    if clear:
        options = QColorDialog.ColorDialogOption.ShowAlphaChannel
    held = ground.session.hands["left"]
    now = colour_of(held if held.startswith("#") else "#808080")
    found = QColorDialog.getColor(QColor(*now), parent, "One more colour", options)
    if found.isValid():
        ground.add_colour(colour_name((found.red(), found.green(), found.blue(), found.alpha())))


class Colours(QWidget):
    """The palette: a click takes a colour in a hand."""

    def __init__(self, ground: ColourRoom) -> None:
        super().__init__()
        self._ground = ground
        self._chosen = 0
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Colours")
        self.follow(ground)

    def follow(self, ground: ColourRoom) -> None:
        """Show the colours of a room, or of the session it has now."""
        self._ground = ground
        ground.session.hands.changed.connect(self.update)
        rows = -(-len(ground.colours) // _COLUMNS)
        self.setFixedHeight(min(14, rows) * (_SWATCH + 3) + 4)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(_COLUMNS * (_SWATCH + 3), self.height())

    def rect_of(self, number: int) -> QRectF:
        """Where a colour is shown."""
        row, column = divmod(number, _COLUMNS)
        pitch = _SWATCH + 3
        return QRectF(1.5 + column * pitch, 1.5 + row * pitch, _SWATCH, _SWATCH)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        hands = self._ground.session.hands
        brushes = all_brushes(self._ground.session.project)
        for number, name in enumerate(self._ground.colours):
            rect = self.rect_of(number)
            painter.fillRect(rect, QColor(brushes[name].colour))
            painter.setPen(QPen(style.ink("line"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(rect)
            for hand, ink, inset in (("left", "buoy", 0.0), ("right", "tidal", 3.0)):
                if hands[hand] == name:  # type: ignore[index]
                    painter.setPen(QPen(style.ink(ink), 3))
                    painter.drawRect(rect.adjusted(inset, inset, -inset, -inset))
            if self.hasFocus() and number == self._chosen:
                painter.setPen(QPen(style.ink("ink"), 1, Qt.PenStyle.DotLine))
                painter.drawRect(rect.adjusted(6, 6, -6, -6))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        hand = _BUTTONS.get(event.button()) if event is not None else None
        if event is None or hand is None:
            return
        for number, name in enumerate(self._ground.colours):
            if self.rect_of(number).contains(event.position()):
                self._ground.session.hands.take(hand, name)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -_COLUMNS,
                Qt.Key.Key_Down: _COLUMNS}.get(Qt.Key(event.key()))  # fmt: skip
        count = len(self._ground.colours)
        if step is not None:
            self._chosen = max(0, min(count - 1, self._chosen + step))
            self.update()
        elif Qt.Key(event.key()) in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and count:
            shifted = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
            hand = HANDS[1 if shifted else 0]
            self._ground.session.hands.take(hand, self._ground.colours[self._chosen])
        else:
            event.ignore()
