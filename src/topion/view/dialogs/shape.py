"""A shape brush from marked slots: the arrangement is guessed, seen on a scrap, and corrected."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QIcon, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.brushes.boxed import BoxShape
from topion.brushes.shape import ShapeKind
from topion.brushes.slot_shapes import Arrangement, arrangements_for, parts_in, shape_of_slots
from topion.brushes.slots import ref_at
from topion.edit.shapes import put_shape
from topion.errors import TopionError
from topion.grid.boxes import Box
from topion.model.edit import written
from topion.model.tileset import TileRef, TileSet
from topion.render.cards import card_picture
from topion.render.portraits import ref_picture
from topion.view import style
from topion.view.host import Host
from topion.view.panels.emptied import emptied
from topion.view.table.compose import pixmap_of

_SCRAP = QSize(300, 240)
_MOST_NAMED = 6  # parts that others stand in for
_MOST_ROWS = 8  # of parts, before another column begins


class ShapeDialog(QDialog):
    """What the marked slots are, which part each is, and what the brush lays."""

    def __init__(self, parent: QWidget, host: Host, tileset: TileSet, box: Box) -> None:
        super().__init__(parent)
        self.host, self.tileset, self.box = host, tileset, box
        session = host.session
        self.deep = session.has_room and session.room.info.axes == 3
        self.setWindowTitle(f"A shape of {box.shape[1]} × {box.shape[0]} slots")
        self.arrangements = arrangements_for(tileset, box)
        self.kinds = QComboBox()
        self.kinds.setAccessibleName("What the slots are")
        self.kinds.addItems([found.words for found in self.arrangements])
        self.kinds.activated.connect(lambda _: self._rearrange())
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the brush")
        self.scrap = Scrap()
        self.lacking = QLabel()
        style.tint(self.lacking, "ochre")
        self.lacking.setWordWrap(True)
        self.parts: dict[str, QComboBox] = {}
        marked = (ref_at(tileset, (y, x)) for y, x in box.cells().tolist())
        self._refs: list[TileRef | None] = [None, *(ref for ref in marked if ref is not None)]
        self._grid = QGridLayout()
        self._grid.setVerticalSpacing(4)
        self.make = QPushButton("Make the brush")
        self.make.setObjectName("strong")
        self.make.setDefault(True)
        self.make.clicked.connect(self.take)
        cancel = QPushButton("Cancel")
        cancel.clicked.connect(self.reject)
        self._lay_out(cancel)
        if self.arrangements:
            self._rearrange()
        else:
            self.lacking.setText("No arrangement of this size is known: mark 3 × 3, 4 × 4, 5 × 3, "
                                 "3 × 1, 4 × 1, 6 × 1, 2 × 1 slots or the like")  # fmt: skip
            self.make.setEnabled(False)

    def _lay_out(self, cancel: QPushButton) -> None:
        side = QVBoxLayout()
        side.addWidget(self.kinds)
        side.addWidget(self.name)
        side.addSpacing(6)
        side.addLayout(self._grid)
        side.addStretch(1)
        side.addWidget(self.lacking)
        foot = QHBoxLayout()
        foot.addWidget(self.make, 1)
        foot.addWidget(cancel)
        side.addLayout(foot)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(14, 14, 14, 14)
        whole.setSpacing(16)
        whole.addWidget(self.scrap)
        whole.addLayout(side, 1)

    def arrangement(self) -> Arrangement:
        """The one that is chosen."""
        return self.arrangements[self.kinds.currentIndex()]

    def _rearrange(self) -> None:
        """Another arrangement: other parts, each with the slot where it lies."""
        emptied(self._grid)
        self.parts.clear()
        icons = [QIcon(pixmap_of(ref_picture(self.host.session.project, ref)))
                 for ref in self._refs[1:] if ref is not None]  # fmt: skip
        own = parts_in(self.tileset, self.box, self.arrangement())
        names = [name.replace("_", " ") for name in self.arrangement().part_names()]
        for number, name in enumerate(names):
            choice = QComboBox()
            choice.addItem("none")
            for icon, ref in zip(icons, self._refs[1:], strict=True):
                choice.addItem(icon, ref.slot if ref else "")
            choice.setCurrentIndex(self._refs.index(own.get(name)))
            choice.setAccessibleName(f"Slot of {name}")
            choice.activated.connect(lambda _: self.refresh())
            column, row = divmod(number, _MOST_ROWS)
            self._grid.addWidget(QLabel(self._words(name)), row, 2 * column)
            self._grid.addWidget(choice, row, 2 * column + 1)
            self.parts[name] = choice
        self.name.setText(self._free_name())
        self.refresh()

    def _words(self, part: str) -> str:
        """A part as a designer would call it."""
        try:
            brush = shape_of_slots(self.tileset, self.box, self.arrangement(), set())
        except TopionError:
            return part
        return f"{brush.form_words(part)}" if isinstance(brush, BoxShape) else part

    def _free_name(self) -> str:
        try:
            return self._made("").name
        except TopionError:
            return self.tileset.name

    def _made(self, name: str) -> ShapeKind:
        """The brush as it is set.  Raises BadValue."""
        taken = set(self.host.session.project.brushes)
        brush = shape_of_slots(self.tileset, self.box, self.arrangement(), taken)
        chosen = {part: self._refs[choice.currentIndex()] for part, choice in self.parts.items()}
        parts = {part: ref for part, ref in chosen.items() if ref is not None}
        return brush.changed(parts=parts, name=name or brush.name)

    def refresh(self) -> None:
        """Lay the brush on the scrap, and name what it has no part for."""
        try:
            brush = self._made(self.name.text().strip())
            project = self.host.session.project.scratch()
            brush, edit = put_shape(project, brush, deep=self.deep)
            list(written(project, [edit]))
            self.scrap.show_picture(card_picture(project, brush))
        except TopionError as problem:
            self.lacking.setText(str(problem))
            self.make.setEnabled(False)
            return
        self.make.setEnabled(True)
        missing = brush.lacking()
        more = f" and {len(missing) - _MOST_NAMED} more" if len(missing) > _MOST_NAMED else ""
        named = ", ".join(missing[:_MOST_NAMED])
        self.lacking.setText(f"Another part stands in for: {named}{more}" if missing else "")

    def take(self) -> None:
        """Put the brush on the rack and into the left hand."""
        session = self.host.session
        try:
            brush = self._made(self.name.text().strip())
            if brush.name in session.project.brushes:
                self.lacking.setText(f"There is already a brush {brush.name}")
                return
            brush, edit = put_shape(session.project, brush, deep=self.deep)
            session.apply(edit)
        except TopionError as problem:
            self.lacking.setText(str(problem))
            return
        session.hands.take("left", brush.name)
        self.accept()
        self.host.show_bay(brush.bay)
        self.host.to_table()


class Scrap(QWidget):
    """The picture of what the brush lays, as large as it fits."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(_SCRAP)
        self.setAccessibleName("What the brush lays")
        self._picture = None

    def show_picture(self, rgba: object) -> None:
        """Show that picture."""
        self._picture = pixmap_of(rgba)  # type: ignore[arg-type, assignment]
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), style.ink("table"))
        if self._picture is not None:
            size = self._picture.size().scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio)
            target = QRectF(0, 0, size.width(), size.height())
            target.moveCenter(QRectF(self.rect()).center())
            painter.drawPixmap(target, self._picture, QRectF(self._picture.rect()))
        painter.setPen(QPen(style.ink("line")))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
