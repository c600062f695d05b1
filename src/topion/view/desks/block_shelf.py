"""All blocks of the project as small pictures, of which one is chosen."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PyQt6.QtWidgets import QScrollArea, QWidget

from topion.model.tileset import TileRef
from topion.render.portraits import ref_picture
from topion.view import style
from topion.view.session import Session
from topion.view.table.compose import pixmap_of
from topion.view.turns import Turns

_COLUMNS, _WIDE, _HIGH, _PICTURE = 3, 74, 66, 40


class BlockShelf(QWidget):
    """Signals: picked(name)."""

    picked = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.chosen = ""
        self.letters = ""
        self._pictures: dict[str, QPixmap] = {}
        self._turns = Turns(self, self.update)
        self._stamp: object = None
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Blocks")
        self.setMouseTracking(True)

    def names(self) -> list[str]:
        """Those that the letters are in, of their names or tags."""
        wanted = self.letters.strip().lower()
        return [name for name, block in self.session.project.blocks.items()
                if any(wanted in word.lower() for word in (name, *block.tags))]  # fmt: skip

    def show_chosen(self, name: str) -> None:
        """Show which is worked on."""
        self.chosen = name
        stamp = self.session.project.stamp("tilesets", "blocks")
        if stamp != self._stamp:
            self._stamp = stamp
            self._pictures.clear()
        rows = -(-len(self.names()) // _COLUMNS)
        self.setFixedSize(QSize(_COLUMNS * _WIDE, max(1, rows) * _HIGH + 4))
        self.update()

    def show_found(self, letters: str) -> None:
        """Show only those with these letters."""
        self.letters = letters
        self.show_chosen(self.chosen)

    def rect_of(self, number: int) -> QRectF:
        """Where a block is seen."""
        row, column = divmod(number, _COLUMNS)
        return QRectF(column * _WIDE + 1, row * _HIGH + 1, _WIDE - 4, _HIGH - 4)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        seen = event.rect() if event is not None else self.rect()
        for number, name in enumerate(self.names()):
            rect = self.rect_of(number)
            if not rect.toRect().intersects(seen):
                continue
            chosen = name == self.chosen
            painter.setPen(QPen(style.ink("buoy" if chosen else "line"), 2 if chosen else 1))
            painter.setBrush(style.ink("card"))
            painter.drawRoundedRect(rect, 4, 4)
            at = QRectF(rect.center().x() - _PICTURE / 2, rect.top() + 3, _PICTURE, _PICTURE)
            if (picture := self._picture(name)) is not None:
                painter.drawPixmap(at, picture, QRectF(picture.rect()))
            painter.setPen(style.ink("ink"))
            painter.setFont(style.font(11, bold=chosen))
            words = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, _WIDE - 10)
            painter.drawText(rect.adjusted(0, 0, 0, -3), Qt.AlignmentFlag.AlignHCenter
                             | Qt.AlignmentFlag.AlignBottom, words)  # fmt: skip

    def _picture(self, name: str) -> QPixmap | None:
        """None while others are drawn."""
        if name not in self._pictures:
            ref = TileRef("", name)
            drawn = self._turns.make(lambda: ref_picture(self.session.project, ref))
            if drawn is None:
                return None
            self._pictures[name] = pixmap_of(drawn)
        return self._pictures[name]

    def _at(self, point: QPointF) -> str:
        found = (n for k, n in enumerate(self.names()) if self.rect_of(k).contains(point))
        return next(found, "")

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.setToolTip(self._at(event.position()))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        name = self._at(event.position()) if event is not None else ""
        if name:
            self.picked.emit(name)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        names = self.names()
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -_COLUMNS,
                Qt.Key.Key_Down: _COLUMNS}  # fmt: skip
        if event is None or Qt.Key(event.key()) not in step or not names:
            super().keyPressEvent(event)
            return
        at = names.index(self.chosen) if self.chosen in names else 0
        self.picked.emit(names[max(0, min(len(names) - 1, at + step[Qt.Key(event.key())]))])


def scrolled(widget: QWidget) -> QScrollArea:
    """A part that scrolls up and down, without a frame."""
    area = QScrollArea()
    area.setWidget(widget)
    area.setFrameShape(QScrollArea.Shape.NoFrame)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    widget.setObjectName("scrolled")
    widget.setStyleSheet("#scrolled { background: transparent; }")
    return area
