"""The pixels of a slot: painted with every gesture, with its neighbours beside it."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPixmap
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from topion.brushes.grounds import OWN, Ruled, shaped
from topion.brushes.grounds import ground_room as room_of
from topion.brushes.kind import BrushKind, all_brushes
from topion.grid.told import several
from topion.model.rooms import Rooms
from topion.render.scene import render_room
from topion.view import style
from topion.view.desks.colours import Colours, ask_colour
from topion.view.desks.desk_bar import DeskBar
from topion.view.desks.parts import Switches, lay_page, side_column
from topion.view.desks.pixel_room import PixelRoom
from topion.view.panels.fields import heading
from topion.view.session import Session
from topion.view.table.compose import pixmap_of
from topion.view.tables import Tables
from topion.weaving.looms import tile_ids
from topion.weaving.settle import shown_tiles


class PixelDesk(QWidget):
    """ground : the room of pixels; its session is the one at work."""

    def __init__(self, session: Session, tileset: str, at: tuple[int, int]) -> None:
        super().__init__()
        self.session = session
        self.ground = PixelRoom(session, tileset, at)
        self.bar = DeskBar(session, tried=False)
        self.tables = Tables(self.ground.session, rulers=False)
        self.tables.show_for(2)
        self.colours = Colours(self.ground)
        self.preview = Previews(self.ground)
        self.what = Switches({"pixels": False, "tint mask": True})
        self.what.setToolTip("Paint how the slot looks, or which pixels take the colours of a tint")
        self.what.chosen = self.ground.show_mask
        self.add = QPushButton("+ colour…")
        self.add.setToolTip("One more colour, in the left hand")
        self.add.clicked.connect(lambda _: ask_colour(self.ground, self, clear=True))
        self._lay_out()
        self.ground.renewed.connect(self._renewed)
        self.ground.painted.connect(self.preview.refresh)
        self.refresh()

    def _lay_out(self) -> None:
        left, column = side_column(290)
        head = QHBoxLayout()
        head.addWidget(heading("Paint"))
        head.addWidget(self.what, 1)
        column.addLayout(head)
        column.addWidget(self.colours)
        column.addWidget(self.add, 0, Qt.AlignmentFlag.AlignLeft)
        hint = QLabel("Left click takes a colour in the left hand, right click in the right. "
                      "Alt picks the colour that is there, E lifts.")  # fmt: skip
        hint.setWordWrap(True)
        style.tint(hint, "soft")
        column.addWidget(hint)
        column.addStretch(1)
        right, seen = side_column(330)
        seen.addWidget(self.preview)
        seen.addStretch(1)
        lay_page(self, self.bar, (left, 0), (self.tables, 1), (right, 0))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        QPainter(self).fillRect(self.rect(), style.ink("panel"))

    @property
    def name(self) -> str:
        """The slot that is painted."""
        return self.ground.slot

    def _renewed(self) -> None:
        """Another room of pixels."""
        self.tables.use(self.ground.session)
        self.colours.follow(self.ground)
        self.refresh()

    def refresh(self) -> None:
        """Show which slot it is."""
        pixels = self.ground.pixels()
        colours = several(len(self.ground.colours), "colour")
        told = f"{pixels.shape[1]} × {pixels.shape[0]} px · {colours}"
        self.bar.show_item(self.ground.tileset_name, self.name, told)
        self.what.show_value(self.ground.masked)
        self.add.setVisible(not self.ground.masked)
        self.preview.refresh()

    def close_desk(self) -> None:
        """Let go of what only the desk needs."""
        self.ground.close()


class Previews(QWidget):
    """The slot repeated three by three, and among its neighbours in a weave that lays it."""

    def __init__(self, ground: PixelRoom) -> None:
        super().__init__()
        self._ground = ground
        self.setFixedHeight(640)
        self.setAccessibleName("The slot repeated, and among its neighbours")
        self.refresh()

    def refresh(self) -> None:
        """Draw the slot as it looks now."""
        self._tile = pixmap_of(self._ground.pixels())
        self._woven = self._among_neighbours()
        self.update()

    def _weave(self) -> BrushKind | None:
        """The first weave that lays the slot."""
        slot, name = self._ground.slot, self._ground.tileset_name
        for brush in all_brushes(self._ground.main.project).values():
            if isinstance(brush, Ruled) and any(
                (ref.tileset, ref.slot) == (name, slot) for ref in brush.tiles_used()
            ):
                return brush
        return None

    def _among_neighbours(self) -> QPixmap | None:
        """A ready ground of a weave in which the slot shows; None where no weave lays it."""
        brush, project = self._weave(), self._ground.main.project
        if brush is None:
            return None
        own = self._ground.tileset_name, self._ground.slot
        wanted = [n for ref, n in tile_ids(project).items() if (ref.tileset, ref.slot) == own]
        for shape in ("Blob", "Islands", "All cases"):
            scrap = shaped(brush.material, shape)
            room = room_of(project, scrap, self._ground.pixels().shape[0])
            scratch = project.scratch(Rooms([(room.info.name, room)]))
            if np.isin(shown_tiles(scratch, room.layers[OWN]), wanted).any():
                break
        return pixmap_of(render_room(scratch, room))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setPen(style.ink("soft"))
        painter.setFont(style.heading())
        painter.drawText(QRectF(0, 0, self.width(), 16), "Side by side")
        side = 84.0
        high = side * self._tile.height() / max(1, self._tile.width())
        for row in range(3):
            for column in range(3):
                part = QRectF(column * side, 22 + row * high, side, high)
                painter.drawPixmap(part, self._tile, QRectF(self._tile.rect()))
        top = 22 + 3 * high + 18
        brush = self._weave()
        words = f"Among its neighbours in {brush.name}" if brush is not None else "No weave lays it"
        painter.setPen(style.ink("soft"))
        painter.drawText(QRectF(0, top, self.width(), 16), words)
        if self._woven is not None:
            wide = min(float(self.width()), 302.0)
            tall = wide * self._woven.height() / max(1, self._woven.width())
            painter.drawPixmap(QRectF(0, top + 22, wide, tall), self._woven,
                               QRectF(self._woven.rect()))  # fmt: skip
