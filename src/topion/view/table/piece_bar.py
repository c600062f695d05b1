"""The small bar at what is picked: what can be done to it in a click."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QWidget

from topion.brushes.kind import all_brushes
from topion.brushes.shape import ShapeKind
from topion.view import style
from topion.view.pieces import PickedPieces
from topion.view.session import Session

_TIPS = {
    "nearer": "One piece nearer (PgUp)", "farther": "One piece farther (PgDown)",
    "brush": "The same shape by another brush", "turn": "A quarter clockwise (T)",
    "mirror": "West and east change places (M)", "duplicate": "A copy beside it (Ctrl+D)",
    "melt in": "Into the painted cells of its layer",
    "group": "One group of all that is picked (Ctrl+G)", "copy": "To the clipboard (Ctrl+C)",
    "card": "Keep it as a card of the rack (Ctrl+Shift+B)",
    "prefab": "One thing made of it, whose parts can be edited (Ctrl+Shift+T)",
}  # fmt: skip
_OF_PIECES = ("nearer", "farther", "brush", "melt in")
_ABOVE_PX = 40


class PieceBar(QWidget):
    """Floats over the table; `place` puts it beside what is picked."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self.setAccessibleName("What is picked")
        line = QHBoxLayout(self)
        line.setContentsMargins(6, 1, 6, 1)
        line.setSpacing(0)
        self.buttons: dict[str, BarButton] = {}
        for name, does in self._acts().items():
            button = BarButton(name, _TIPS[name])
            button.clicked.connect(lambda _, act=does: act())
            self.buttons[name] = button
            line.addWidget(button)
        self.use(session)
        self.hide()

    def _acts(self) -> dict[str, Callable[[], object]]:
        return {
            "nearer": lambda: self.pieces.restack("nearer"),
            "farther": lambda: self.pieces.restack("farther"),
            "brush": self._show_brushes,
            "turn": lambda: self.session.picking.turn_about("up"),
            "mirror": lambda: self.session.picking.mirror(),
            "duplicate": lambda: self.session.picking.duplicate(),
            "melt in": lambda: self.pieces.melt(),
            "group": lambda: self.session.picking.group(),
            "copy": lambda: self.session.asked.emit("copy"),
            "card": lambda: self.session.asked.emit("keep as card"),
            "prefab": lambda: self.session.asked.emit("keep as prefab"),
        }

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = session

    @property
    def pieces(self) -> PickedPieces:
        """What is picked."""
        return self.session.pieces

    def place(self, round_: QRectF, view: QRectF) -> None:
        """Above what is picked, or below it, inside the view; hidden where nothing is seen."""
        first, picks = self.pieces.first(), self.session.picking.picks()
        if not round_.intersects(view) or not picks:
            self.hide()
            return
        names = {piece.brush for _, piece in self.pieces.there()}
        if first is not None:
            self.buttons["brush"].setText(f"{first[1].brush} ▾" if len(names) == 1 else "brush ▾")
        for name in _OF_PIECES:
            self.buttons[name].setVisible(first is not None)
        self.buttons["group"].setVisible(len(picks.entries) > 1)
        self.adjustSize()
        top = round_.top() - _ABOVE_PX - self.height()
        if top < view.top() + 4:
            top = min(round_.bottom() + 14, view.bottom() - self.height() - 6)
        left = round_.center().x() - self.width() / 2
        left = max(view.left() + 6, min(left, view.right() - self.width() - 6))
        self.move(round(left), round(max(top, view.top() + 4)))
        self.show()

    def _show_brushes(self) -> None:
        """The brushes that could show these shapes."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for name, brush in all_brushes(self.session.project).items():
            if isinstance(brush, ShapeKind) and brush.axes == self.session.room.info.axes:
                menu.addAction(f"{name}\t{brush.kind}", lambda n=name: self.pieces.rebrush(n))
        button = self.buttons["brush"]
        menu.popup(button.mapToGlobal(button.rect().bottomLeft()))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(style.ink("ink", 150)))
        painter.setBrush(style.ink("card"))
        round_ = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        painter.drawRoundedRect(round_, round_.height() / 2, round_.height() / 2)
        painter.setPen(QPen(style.ink("line")))
        for button in [b for b in self.buttons.values() if b.isVisible()][1:]:
            x = button.geometry().left()
            painter.drawLine(x, 1, x, self.height() - 2)


class BarButton(QPushButton):
    """A word with its sign before it."""

    def __init__(self, name: str, tip: str) -> None:
        super().__init__(name)
        self.name = name
        self.setToolTip(tip)
        self.setAccessibleName(tip)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    @property
    def _has_sign(self) -> bool:
        return self.name != "brush"

    def sizeHint(self) -> QSize:
        self.ensurePolished()
        wide = self.fontMetrics().horizontalAdvance(self.text())
        return QSize(wide + (38 if self._has_sign else 20), 27)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        lit = self.underMouse() or self.hasFocus()
        ink = style.ink("buoy" if lit else "ink")
        left = 10.0
        if self._has_sign:
            painter.setPen(QPen(ink, 1.4))
            _SIGNS[self.name](painter, QRectF(9, self.height() / 2 - 7, 14, 14))
            left = 28.0
        painter.setPen(ink)
        painter.setFont(style.font(13))
        rect = QRectF(left, 0, self.width() - left, self.height())
        painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, self.text())


# --- signs --------------------------------------------------------------------------------


def _sheets(painter: QPainter, r: QRectF, filled: int) -> None:
    """Two sheets, one over the other; `filled` is the one that moves."""
    back = QRectF(r.left() + 5, r.top(), 8.5, 8.5)
    front = QRectF(r.left(), r.top() + 5, 8.5, 8.5)
    for number, rect in ((0, back), (1, front)):
        painter.setBrush(style.ink("buoy") if number == filled else style.ink("card"))
        painter.drawRect(rect)


def _nearer(painter: QPainter, r: QRectF) -> None:
    _sheets(painter, r, 1)


def _farther(painter: QPainter, r: QRectF) -> None:
    _sheets(painter, r, 0)


def _turn(painter: QPainter, r: QRectF) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawArc(r.adjusted(1, 1, -1, -1), 40 * 16, 280 * 16)
    tip = QPointF(r.right() - 2.5, r.top() + 3.5)
    painter.setBrush(painter.pen().color())
    painter.drawPolygon(QPolygonF([tip + QPointF(2.5, -3), tip + QPointF(1.5, 2.8),
                                   tip + QPointF(-3, 0)]))  # fmt: skip


def _mirror(painter: QPainter, r: QRectF) -> None:
    middle = r.center().x()
    painter.drawLine(QPointF(middle, r.top()), QPointF(middle, r.bottom()))
    for sign in (-1, 1):
        near, far = middle + sign * 2.2, middle + sign * 6.5
        points = [QPointF(near, r.bottom() - 2), QPointF(far, r.bottom() - 2),
                  QPointF(near, r.top() + 2)]  # fmt: skip
        painter.setBrush(painter.pen().color() if sign < 0 else style.ink("card"))
        painter.drawPolygon(QPolygonF(points))


def _duplicate(painter: QPainter, r: QRectF) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(QRectF(r.left() + 4, r.top(), 9, 9))
    painter.setBrush(style.ink("card"))
    painter.drawRect(QRectF(r.left(), r.top() + 4, 9, 9))


def _melt(painter: QPainter, r: QRectF) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawLine(QPointF(r.left(), r.bottom() - 1), QPointF(r.right(), r.bottom() - 1))
    painter.drawRect(QRectF(r.left() + 3, r.top() + 5, 8, 4))
    painter.drawLine(QPointF(r.center().x(), r.top() - 1), QPointF(r.center().x(), r.top() + 4))


def _group(painter: QPainter, r: QRectF) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(r.adjusted(0.5, 0.5, -0.5, -0.5))
    painter.setBrush(painter.pen().color())
    for x, y in ((4, 4.5), (9.5, 5.5), (6, 9.5)):
        painter.drawEllipse(QPointF(r.left() + x, r.top() + y), 1.6, 1.6)


def _copy(painter: QPainter, r: QRectF) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(QRectF(r.left() + 2, r.top() + 2, 10, 12))
    painter.drawLine(QPointF(r.left() + 5, r.top() + 1), QPointF(r.left() + 9, r.top() + 1))
    for y in (6, 9):
        painter.drawLine(QPointF(r.left() + 4.5, r.top() + y), QPointF(r.left() + 9.5, r.top() + y))


def _card(painter: QPainter, r: QRectF) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(QRectF(r.left() + 1, r.top(), 11, 14), 2, 2)
    painter.setBrush(painter.pen().color())
    painter.drawRect(QRectF(r.left() + 3.5, r.top() + 2.5, 6, 5))


def _prefab(painter: QPainter, r: QRectF) -> None:
    """A figure over the cell it stands in."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(QRectF(r.left() + 1, r.top() + 9, 11, 5))
    painter.setBrush(painter.pen().color())
    painter.drawRect(QRectF(r.left() + 5, r.top() + 2, 3, 9))
    painter.drawEllipse(QPointF(r.left() + 6.5, r.top() + 2.5), 2.8, 2.8)


_SIGNS: dict[str, Callable[[QPainter, QRectF], None]] = {
    "nearer": _nearer, "farther": _farther, "turn": _turn, "mirror": _mirror,
    "duplicate": _duplicate, "melt in": _melt, "group": _group, "copy": _copy, "card": _card,
    "prefab": _prefab,
}  # fmt: skip
