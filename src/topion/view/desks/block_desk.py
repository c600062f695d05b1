"""The block desk: what a block looks like, in one colour, in tiles or in voxels."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QColorDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from topion.edit.blocks import (
    FACE_COUNTS,
    coloured_face,
    faced,
    new_block,
    plainly,
    set_block,
    with_face,
    with_look,
)
from topion.edit.voxels import with_model
from topion.model.solid import Block
from topion.model.tileset import TileRef
from topion.render.face_voxels import block_voxels
from topion.view import style
from topion.view.desks.block_shelf import BlockShelf, scrolled
from topion.view.desks.block_side import BlockSide
from topion.view.desks.colours import Colours, ask_colour
from topion.view.desks.desk_bar import DeskBar
from topion.view.desks.face_net import FaceNet
from topion.view.desks.model_room import ModelRoom
from topion.view.desks.parts import Switches
from topion.view.desks.slot_strip import SlotStrip
from topion.view.panels.fields import heading
from topion.view.session import Session
from topion.view.tables import Tables

_SIDES = (8, 16)  # voxels of a new model


class BlockDesk(QWidget):
    """ground : the room of voxels, for a block that has a model; None for others.

    Signals: painting(TileRef) when the pixels of a slot shall be painted.
    """

    painting = pyqtSignal(object)

    def __init__(self, session: Session, name: str = "") -> None:
        super().__init__()
        self.session = session
        self.ground: ModelRoom | None = None
        self.tables: Tables | None = None
        self.bar = DeskBar(session, tried=False)
        self.shelf = BlockShelf(session)
        self.shelf.picked.connect(self.show_block)
        self.side = BlockSide(session)
        self.side.renamed = self.show_block
        self.net = FaceNet()
        self.net.laid.connect(self._lay)
        self.strip = SlotStrip(session, deep=False, onto="a face")
        self.strip.picked.connect(lambda ref: self._lay(self.net.chosen, ref))
        self.kinds = Switches({"one colour": "0", "one tile": "1", "top, sides, bottom": "3",
                               "six tiles": "6", "voxels 8³": "8", "voxels 16³": "16"})  # fmt: skip
        self.kinds.setToolTip("What the block is made of")
        self.kinds.chosen = self.make
        self.stage = QStackedWidget()
        self._lay_out()
        names = list(session.project.blocks)
        self.show_block(name if name in names else names[0] if names else "")
        session.changed.connect(self._on_changed)

    # --- building -------------------------------------------------------------------------

    def _lay_out(self) -> None:
        left = QWidget()
        left.setFixedWidth(254)
        column = QVBoxLayout(left)
        column.setContentsMargins(14, 12, 8, 8)
        head = QHBoxLayout()
        head.addWidget(heading("Blocks"), 1)
        self.new = QPushButton("+ block")
        self.new.setObjectName("plain")
        self.new.setToolTip("A new block, with a brush that lays it")
        self.new.clicked.connect(lambda _: self.add_block())
        head.addWidget(self.new)
        column.addLayout(head)
        self.search = QLineEdit()
        self.search.setPlaceholderText("⌕ name or tag")
        self.search.setAccessibleName("Find a block")
        self.search.textChanged.connect(self.shelf.show_found)
        column.addWidget(self.search)
        column.addWidget(scrolled(self.shelf), 1)
        middle = QWidget()
        lines = QVBoxLayout(middle)
        lines.setContentsMargins(14, 12, 14, 8)
        made = QHBoxLayout()
        made.addWidget(heading("Made of"))
        made.addWidget(self.kinds, 1)
        lines.addLayout(made)
        lines.addWidget(self.stage, 1)
        self._plain = self._plain_page()
        self._faces = self._faces_page()
        self._voxels = QWidget()
        self._voxel_lines = QVBoxLayout(self._voxels)
        self._voxel_lines.setContentsMargins(0, 0, 0, 0)
        for page in (self._plain, self._faces, self._voxels):
            self.stage.addWidget(page)
        row = QHBoxLayout()
        row.setSpacing(0)
        for part, share in ((left, 0), (middle, 1), (self.side, 0)):
            row.addWidget(part, share)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.bar)
        whole.addLayout(row, 1)

    def _plain_page(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        self.swatch = QPushButton()
        self.swatch.setFixedSize(220, 150)
        self.swatch.setAccessibleName("Colour of the block")
        self.swatch.setToolTip("Choose another colour")
        self.swatch.clicked.connect(lambda _: self.side.ask_colour())
        column.addStretch(1)
        column.addWidget(self.swatch, 0, Qt.AlignmentFlag.AlignHCenter)
        self.colour_told = QLabel()
        column.addWidget(self.colour_told, 0, Qt.AlignmentFlag.AlignHCenter)
        column.addStretch(2)
        return page

    def _faces_page(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.addStretch(1)
        column.addWidget(self.net, 0, Qt.AlignmentFlag.AlignHCenter)
        ways = QHBoxLayout()
        ways.addStretch(1)
        for text, tip, does in (
            ("colour…", "One colour for the chosen face", self._ask_face_colour),
            ("turn ¼", "Turn the tile of the chosen face (right click)", self.net.turn),
            ("pixels ›", "Paint the pixels of the tile of the chosen face", self._paint_face),
        ):
            button = QPushButton(text)
            button.setToolTip(tip)
            button.clicked.connect(lambda _, d=does: d())
            ways.addWidget(button)
        ways.addStretch(1)
        column.addLayout(ways)
        column.addStretch(1)
        column.addWidget(self.strip)
        return page

    def paintEvent(self, event: QPaintEvent | None) -> None:
        QPainter(self).fillRect(self.rect(), style.ink("panel"))

    # --- showing --------------------------------------------------------------------------

    @property
    def name(self) -> str:
        """The block that is worked on."""
        return self.side.block_name

    @property
    def block(self) -> Block | None:
        """The block itself; None once it was taken away."""
        return self.side.block

    def show_block(self, name: str) -> None:
        """Work on another block."""
        self.side.show_block(name)
        for ref in self.block.tiles()[:1] if self.block is not None else ():
            self.strip.show_set(ref.tileset)
        self.refresh()

    def _on_changed(self, dirty: Any) -> None:
        if all(part.room for part in dirty) and dirty:
            return
        if self.block is None and self.session.project.blocks:
            self.show_block(next(iter(self.session.project.blocks)))
        else:
            self.refresh()

    def refresh(self) -> None:
        """Show the block as it is now."""
        block = self.block
        self.shelf.show_chosen(self.name)
        shows = _made_of(block) if block is not None else ""
        self._follow_model(block if shows == "voxels" else None)
        model = block.model if block is not None else None
        self.kinds.show_value(str(max(model.size)) if model is not None else shows)
        told = ""
        if block is not None:
            if shows == "voxels":
                self.stage.setCurrentWidget(self._voxels)
                told = " × ".join(map(str, model.size)) + " voxels" if model is not None else ""
            elif shows == "0":
                self.stage.setCurrentWidget(self._plain)
                colour = block.worn(self.side.theme).colour
                self.swatch.setStyleSheet(f"background: {colour}; border-radius: 6px;")
                self.colour_told.setText(colour)
                told = "one colour"
            else:
                self.stage.setCurrentWidget(self._faces)
                self.net.show_block(self.session.project, block)
                count = f"{shows} tile{'' if shows == '1' else 's'} on 6 faces"
                told = "a pattern of tiles" if shows == "pattern" else count
        self.bar.show_item("blocks", self.name, told)
        for segment in self.bar.segments.values():
            segment.setVisible(shows == "voxels")

    def _follow_model(self, block: Block | None) -> None:
        """Have the room of voxels of that block, or none."""
        shown = self.ground.name if self.ground is not None else ""
        if block is not None and shown == block.name:
            return
        if self.ground is not None:
            self.ground.close()
            self.ground = None
        if block is None:
            return
        self.ground = ModelRoom(self.session, block.name)
        self.ground.renewed.connect(self._renewed)
        self._show_voxels()

    def _show_voxels(self) -> None:
        assert self.ground is not None
        if self.tables is None:
            self.tables = Tables(self.ground.session, rulers=False)
            self.tables.show_for(3)
            self._voxel_lines.addWidget(self.tables, 1)
            self._palette_line = QHBoxLayout()
            self._voxel_lines.addLayout(self._palette_line)
            self.add = QPushButton("+ colour…")
            self.add.setToolTip("One more colour, in the left hand")
            self.add.clicked.connect(lambda _: self._ask_colour())
            self._palette_line.addWidget(self.add)
            self.change = QPushButton("change…")
            self.change.setToolTip("Another colour for the one in the left hand, in the look "
                                   "that is shown")  # fmt: skip
            self.change.clicked.connect(lambda _: self._ask_change())
            self._palette_line.addWidget(self.change)
            hint = QLabel("Left lays, right or E lifts, Alt picks; every gesture and the work "
                          "plane work.")  # fmt: skip
            style.tint(hint, "soft")
            self._palette_line.addWidget(hint, 1)
            self.colours = Colours(self.ground)
            self._voxel_lines.addWidget(self.colours)
        else:
            self.tables.use(self.ground.session)
            self.colours.follow(self.ground)
        self.tables.fit()

    def _renewed(self) -> None:
        if self.tables is not None and self.ground is not None:
            self.tables.use(self.ground.session)
            self.colours.follow(self.ground)

    def _ask_colour(self) -> None:
        if self.ground is not None:
            ask_colour(self.ground, self, clear=False)

    def _ask_face_colour(self) -> None:
        found = QColorDialog.getColor(QColor("#94744e"), self, "Colour of the face")
        if found.isValid():
            self.colour_face(found.name())

    def colour_face(self, colour: str) -> None:
        """One colour for the chosen face."""
        if self.block is not None and self.block.tiles():
            self.session.try_(coloured_face, self.name, self.net.chosen, colour)

    def _paint_face(self) -> None:
        faces = self.net.faces()
        if faces:
            self.painting.emit(faces[self.net.chosen][1])

    def _ask_change(self) -> None:
        held = self.ground.session.hands["left"] if self.ground is not None else ""
        block, theme = self.block, self.side.theme
        model = block.worn(theme).model if block is not None else None
        if block is None or block.model is None or model is None:
            return
        if held not in block.model.palette:
            self.session.said.emit("Take a colour that was laid in the left hand first")
            return
        now = QColor(model.palette[block.model.palette.index(held)])
        found = QColorDialog.getColor(now, self, f"Instead of {held}")
        if found.isValid():
            self.change_colour(held, found.name())

    # --- setting --------------------------------------------------------------------------

    def change_colour(self, old: str, new: str) -> None:
        """Another colour for one of the model, in the look that is shown."""
        block, ground = self.block, self.ground
        if block is None or block.model is None or ground is None:
            return
        number = block.model.palette.index(old)
        self._set(**with_look(block, self.side.theme, new, number=number))
        if ground.session.hands.can_take(new):
            ground.session.hands.take("left", new)

    def make(self, kind: str) -> None:
        """Make the block of one colour, of 1, 3 or 6 tiles, or of 8³ or 16³ voxels."""
        block = self.block
        if block is None:
            return
        if int(kind) in _SIDES:
            self._make_voxels(block, int(kind))
        elif kind == "0":
            self._set(**plainly(block))
        elif int(kind) in FACE_COUNTS:
            first = self._first_tile()
            if first is None:
                self.session.said.emit("Bring in a tile set first: faces are slots of it")
                return
            self._set(**faced(block, int(kind), first))

    def _make_voxels(self, block: Block, side: int) -> None:
        if block.model is not None and max(block.model.size) == side:
            return
        if block.model is not None:
            self.session.said.emit(f"{block.name} has voxels of another size; make it of one "
                                   "colour or of tiles first")  # fmt: skip
            return
        model = block_voxels(self.session.project, block, side)
        self.session.try_(with_model, block.name, model, f"{block.name} in voxels")

    def _first_tile(self) -> TileRef | None:
        name = self.strip.sets.currentText()
        tileset = self.session.project.tilesets.get(name)
        slots = tileset.filled_slots() if tileset is not None else ()
        return TileRef(name, next(iter(slots))) if slots else None

    def _lay(self, number: int, ref: TileRef) -> None:
        block = self.block
        if block is not None and number < len(block.tiles()):
            self._set(**with_face(block, number, ref))

    def _set(self, **changes: Any) -> None:
        self.session.try_(set_block, self.name, **changes)

    def add_block(self) -> None:
        """A new block of one colour, with its brush."""
        before = set(self.session.project.blocks)
        self.session.try_(new_block)
        for name in self.session.project.blocks:
            if name not in before:
                self.show_block(name)
                self.side.name.setFocus()
                self.side.name.selectAll()

    def close_desk(self) -> None:
        """Let go of what only the desk needs."""
        if self.tables is not None:
            self.tables.close_rooms()
        if self.ground is not None:
            self.ground.close()
        self.session.changed.disconnect(self._on_changed)


def _made_of(block: Block) -> str:
    """Voxels, a pattern, or how many tiles its faces have."""
    if block.model is not None:
        return "voxels"
    return "pattern" if block.pattern else str(len(block.faces))
