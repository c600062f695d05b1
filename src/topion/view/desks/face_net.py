"""The tiles on the faces of a block, laid out flat."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PyQt6.QtWidgets import QWidget

from topion.model.project import Project
from topion.model.solid import Block
from topion.model.tileset import TileRef
from topion.render.atlas import tile_picture
from topion.view import style
from topion.view.desks.rule_list import slot_of
from topion.view.table.compose import pixmap_of

_SIDES = {1: 240.0, 3: 176.0, 6: 132.0}  # px of a face, by their number
_PATTERN = 64.0
_GAP, _WORDS = 10.0, 18.0
# column and row of each face in a cross, in the order of `grid.orient.FACES`
_CROSS = ((1, 0), (1, 2), (3, 1), (2, 1), (1, 1), (0, 1))
_SIX = ("top", "bottom", "north", "east", "south", "west")
_LAYOUTS = {1: (("every side", (0, 0)),), 3: (("top", (0, 0)), ("sides", (1, 0)),
            ("bottom", (2, 0))), 6: tuple(zip(_SIX, _CROSS, strict=True))}  # fmt: skip


class FaceNet(QWidget):
    """Signals: laid(number, TileRef) when a tile is dropped on a face or turned.

    chosen : the face that a picked slot comes onto.
    """

    laid = pyqtSignal(int, object)

    def __init__(self) -> None:
        super().__init__()
        self._project: Project | None = None
        self._block: Block | None = None
        self.chosen = 0
        self.setAcceptDrops(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Faces")
        self.setToolTip("Click a face, then a slot below; or drag a slot onto a face. "
                        "Right click turns its tile by a quarter")  # fmt: skip

    def show_block(self, project: Project, block: Block) -> None:
        """Show the faces of a block, or its pattern."""
        self._project, self._block = project, block
        self.chosen = max(0, min(self.chosen, len(block.tiles()) - 1))
        width, height = self._extent()
        self.setFixedSize(QSize(int(width) + 3, int(height) + 3))
        self.update()

    def faces(self) -> list[tuple[str, TileRef, QRectF]]:
        """Each face with its name, its tile and where it is seen."""
        block = self._block
        if block is None:
            return []
        if block.pattern:
            return [
                (f"row {y + 1}, column {x + 1}", ref, _rect(x, y, _PATTERN, words=False))
                for y, row in enumerate(block.pattern)
                for x, ref in enumerate(row)
            ]
        layout, side = _LAYOUTS.get(len(block.faces), ()), _SIDES.get(len(block.faces), 0.0)
        return [
            (name, ref, _rect(*at, side))
            for (name, at), ref in zip(layout, block.faces, strict=True)
        ]

    def _extent(self) -> tuple[float, float]:
        rects = [rect for _, _, rect in self.faces()]
        words = 0.0 if self._block is not None and self._block.pattern else _WORDS
        return (max((r.right() for r in rects), default=1.0),
                max((r.bottom() for r in rects), default=1.0) + words)  # fmt: skip

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        pattern = self._block is not None and bool(self._block.pattern)
        for number, (name, ref, rect) in enumerate(self.faces()):
            if self._project is not None and ref.tileset in self._project.tilesets:
                picture = pixmap_of(tile_picture(self._project, ref))
                painter.drawPixmap(rect, picture, QRectF(picture.rect()))
            chosen = number == self.chosen
            ink = style.ink("buoy" if chosen else "line")
            painter.setPen(QPen(ink, 2 if chosen else 1))
            painter.drawRect(rect)
            if not pattern:
                painter.setPen(style.ink("ink" if chosen else "soft"))
                painter.setFont(style.font(12, bold=chosen))
                painter.drawText(rect.translated(0, rect.height()).adjusted(0, 1, 0, 0),
                                 Qt.AlignmentFlag.AlignLeft, name)  # fmt: skip

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        number = self._at(event) if event is not None else -1
        if event is None or number < 0:
            return
        self.chosen = number
        if event.button() == Qt.MouseButton.RightButton:
            self.turn()
        self.update()

    def turn(self) -> None:
        """Turn the tile of the chosen face by a quarter."""
        ref = self.faces()[self.chosen][1]
        self.laid.emit(self.chosen, ref._replace(turn=(ref.turn + 1) % 4))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self.faces():
            return
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if Qt.Key(event.key()) in step:
            self.chosen = (self.chosen + step[Qt.Key(event.key())]) % len(self.faces())
            self.update()
        else:
            event.ignore()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and slot_of(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        ref = slot_of(event.mimeData()) if event is not None else None
        if event is None or ref is None:
            return
        for number, (_, _, rect) in enumerate(self.faces()):
            if rect.contains(event.position()):
                self.chosen = number
                event.acceptProposedAction()
                self.laid.emit(number, ref)
                return

    def _at(self, event: QMouseEvent) -> int:
        rects = [rect for _, _, rect in self.faces()]
        return next((n for n, rect in enumerate(rects) if rect.contains(event.position())), -1)


def _rect(column: int, row: int, side: float, *, words: bool = True) -> QRectF:
    wide, high = (side + _GAP, side + _GAP + _WORDS) if words else (side, side)
    return QRectF(1.5 + column * wide, 1.5 + row * high, side, side)
