"""A strip of the slots of a tile set, or of the blocks, to be picked or dragged onto rules."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QDrag, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from topion.model.tileset import TileRef
from topion.render.portraits import ref_picture
from topion.view import style
from topion.view.desks.rule_list import mime_of
from topion.view.panels.fields import heading
from topion.view.session import Session
from topion.view.table.compose import pixmap_of

_SIDE, _PITCH = 34, 38
_ROWS = 2
_BLOCKS = "blocks"


class SlotStrip(QWidget):
    """Signals: picked(TileRef) when a slot is clicked."""

    picked = pyqtSignal(object)

    def __init__(self, session: Session, *, deep: bool, onto: str = "a rule") -> None:
        super().__init__()
        self.session, self.deep = session, deep
        self.sets = QComboBox()
        self.sets.setAccessibleName("Tile set")
        self.sets.setToolTip("Whose slots are shown")
        self.sets.activated.connect(lambda _: self.refresh())
        self.search = QLineEdit()
        self.search.setObjectName("find")
        self.search.setPlaceholderText("⌕ name or tag")
        self.search.setAccessibleName("Find a slot")
        self.search.setFixedWidth(120)
        self.search.textChanged.connect(lambda _: self.tiles.show_tiles(self._wanted()))
        head = QHBoxLayout()
        head.setContentsMargins(12, 0, 12, 0)
        title = heading(f"Slots · click one to lay it, or drag it onto {onto}")
        for part in (title, self.search, self.sets):
            head.addWidget(part, 1 if part is title else 0)
        self.tiles = _Tiles(self)
        self._scroll = QScrollArea()
        self._scroll.setWidget(self.tiles)
        self._scroll.setWidgetResizable(True)
        self._scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.tiles.setObjectName("slots")
        self.tiles.setStyleSheet("#slots { background: transparent; }")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 6, 0, 4)
        layout.setSpacing(4)
        layout.addLayout(head)
        layout.addWidget(self._scroll)
        self.setFixedHeight(46 + _ROWS * _PITCH + 12)
        session.changed.connect(self._on_changed)
        self.refresh()

    def _on_changed(self, dirty: object) -> None:
        if _of_sets(dirty):
            self.refresh()

    def show_set(self, name: str) -> None:
        """Show the slots of that tile set."""
        if name in self._names():
            self.sets.setCurrentText(name)
            self.tiles.show_tiles(self._wanted())

    def _names(self) -> list[str]:
        return [_BLOCKS] if self.deep else list(self.session.project.tilesets)

    def refresh(self) -> None:
        """Show the slots anew."""
        names = self._names()
        if names != [self.sets.itemText(n) for n in range(self.sets.count())]:
            now = self.sets.currentText()
            self.sets.clear()
            self.sets.addItems(names)
            if now in names:
                self.sets.setCurrentText(now)
        self.tiles.show_tiles(self._wanted())

    def _wanted(self) -> list[TileRef]:
        """The slots that the letters of the search are in."""
        project, letters = self.session.project, self.search.text().strip().lower()
        if self.deep:
            return [TileRef("", name) for name in project.blocks if letters in name.lower()]
        name = self.sets.currentText()
        if name not in project.tilesets:
            return []
        tileset = project.tileset(name)
        found = []
        for slot in tileset.filled_slots():
            tags = tileset.slots[slot].tags if slot in tileset.slots else ()
            if not letters or any(letters in word.lower() for word in (slot, *tags)):
                found.append(TileRef(name, slot))
        return found

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), style.ink("panel2"))
        painter.setPen(style.ink("line"))
        painter.drawLine(0, 0, self.width(), 0)


class _Tiles(QWidget):
    """The pictures, two rows of them."""

    def __init__(self, strip: SlotStrip) -> None:
        super().__init__()
        self._strip = strip
        self.refs: list[TileRef] = []
        self._pixmaps: dict[TileRef, object] = {}
        self._stamp: object = None
        self._pressed: tuple[QPointF, TileRef] | None = None
        self._chosen = 0
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Slots")

    def show_tiles(self, refs: list[TileRef]) -> None:
        stamp = self._strip.session.project.stamp("tilesets", "blocks")
        if stamp != self._stamp:
            self._pixmaps.clear()
            self._stamp = stamp
        self.refs = refs
        self.setMinimumWidth(12 + -(-len(refs) // _ROWS) * _PITCH)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(self.minimumWidth(), _ROWS * _PITCH + 4)

    def rect_of(self, number: int) -> QRectF:
        """Where a slot is seen."""
        column, row = divmod(number, _ROWS)
        return QRectF(12.5 + column * _PITCH, row * _PITCH + 1.5, _SIDE, _SIDE)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        project = self._strip.session.project
        seen = event.rect() if event is not None else self.rect()
        for number, ref in enumerate(self.refs):
            rect = self.rect_of(number)
            if not rect.toRect().intersects(seen):
                continue
            if ref not in self._pixmaps:
                self._pixmaps[ref] = pixmap_of(ref_picture(project, ref))
            painter.fillRect(rect, style.ink("card"))
            painter.drawPixmap(rect.toRect(), self._pixmaps[ref])  # type: ignore[call-overload]
            focus = self.hasFocus() and number == self._chosen
            painter.setPen(QPen(style.ink("ink" if focus else "line"), 2 if focus else 1))
            painter.drawRect(rect)

    def _at(self, point: QPointF) -> int:
        column, row = int((point.x() - 12) // _PITCH), int(point.y() // _PITCH)
        number = column * _ROWS + row
        return number if 0 <= row < _ROWS and 0 <= number < len(self.refs) else -1

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and (number := self._at(event.position())) >= 0:
            self._pressed = event.position(), self.refs[number]

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._pressed is not None:
            ref = self._pressed[1]
            self._pressed = None
            self._strip.picked.emit(ref)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._pressed is None:
            number = self._at(event.position())
            self.setToolTip(self.refs[number].slot if number >= 0 else "")
            return
        start, ref = self._pressed
        if (event.position() - start).manhattanLength() >= 10:
            self._pressed = None
            drag = QDrag(self)
            drag.setMimeData(mime_of(ref))
            drag.setPixmap(self.grab(self.rect_of(self.refs.index(ref)).toRect()))
            drag.exec(Qt.DropAction.CopyAction)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key = Qt.Key(event.key())
        step = {Qt.Key.Key_Left: -_ROWS, Qt.Key.Key_Right: _ROWS, Qt.Key.Key_Up: -1,
                Qt.Key.Key_Down: 1}.get(key)  # fmt: skip
        if step is not None and self.refs:
            self._chosen = max(0, min(len(self.refs) - 1, self._chosen + step))
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self.refs:
            self._strip.picked.emit(self.refs[self._chosen])
        else:
            event.ignore()


def _of_sets(dirty: object) -> bool:
    return any(part.shelf in ("tilesets", "blocks") for part in dirty)  # type: ignore[attr-defined]
