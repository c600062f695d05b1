"""The place where the table or a desk is shown."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QStackedWidget, QWidget

from topion.brushes.kind import brush_or_none
from topion.edit.slots import SlotUse
from topion.edit.voxels import with_prefab_model
from topion.errors import TopionError
from topion.model.tileset import TileRef
from topion.render.upright import upright_model
from topion.view.desks.block_desk import BlockDesk
from topion.view.desks.parts_desk import PartsDesk
from topion.view.desks.pixel_desk import PixelDesk
from topion.view.desks.prefab_desk import PrefabDesk
from topion.view.desks.tileset_desk import TileSetDesk
from topion.view.desks.voxel_desk import VoxelDesk
from topion.view.desks.weave_desk import WeaveDesk
from topion.view.desks.weave_work import ruled_brush
from topion.view.host import Host
from topion.view.session import Session


class Desks(QStackedWidget):
    """Signals: changed() when a desk is shown, or the table again; jumped(cell) when a cell of the
    worked room shall be shown.

    desk : the one that is shown; None for the table.
    """

    changed = pyqtSignal()
    jumped = pyqtSignal(object)

    def __init__(self, session: Session, table: QWidget, host: Host) -> None:
        super().__init__()
        self.session, self.host = session, host
        self.desk: Any = None
        self._again: Callable[[str], object] | None = None  # shows the tile sets as before
        self.addWidget(table)
        self.use(session)

    def use(self, session: Session) -> None:
        """Work on another session; a desk is left."""
        self.close_desk()
        self.session = session
        session.changed.connect(lambda _: self._follow())

    @property
    def session_at_work(self) -> Session:
        """Where strokes are laid."""
        if isinstance(self.desk, WeaveDesk) and self.desk.in_room:
            return self.session
        ground = self.desk.ground if self.desk is not None else None
        return ground.session if ground is not None else self.session

    @staticmethod
    def has_desk(session: Session, brush: str) -> bool:
        """Whether there is a desk for that brush: of its rules, or of the tile it lays."""
        found = brush_or_none(session.project, brush)
        return found is not None and bool(found.tiles_used() or found.places())

    def open(self, brush: str) -> None:
        """Show the desk of a brush: that of its rules, or of the block or the slots that it lays;
        one without a desk is said."""
        found = brush_or_none(self.session.project, brush)
        if ruled_brush(self.session.project, brush):
            self.close_desk()
            desk = WeaveDesk(self.session, brush)
            desk.bar.tried.connect(self._try_in_room)
            desk.learning.jumped.connect(self._jump)
            self._show(desk)
            desk.tables.shown.setFocus()
        elif found is not None and found.places():
            self.open_prefab(next(iter(found.places())))
        elif found is None or not found.tiles_used():
            self.session.said.emit(f"{brush or 'An empty hand'} has no desk of its own yet")
        else:
            self.open_tile(found.tiles_used()[0])

    def open_prefab(self, name: str, *more: str) -> None:
        """Show the desk of a prefab, with others that are set together with it; one that is not
        there is said."""
        if name not in self.session.project.prefabs:
            self.session.said.emit(f"There is no prefab {name}")
            return
        self.close_desk()
        desk = PrefabDesk(self.session, name, more)
        desk.bar.tried.connect(self._try_in_room)
        desk.voxels_asked.connect(self.open_voxels)
        desk.parts_asked.connect(self.open_parts)
        self._show(desk)
        desk.facts.canvas.setFocus()

    def open_voxels(self, name: str) -> None:
        """Build the model of a prefab, its picture where it has none; the way back leads to it."""
        prefab = self.session.project.prefabs.get(name)
        if prefab is None:
            return
        if prefab.model is None:
            first = upright_model(prefab.picture.rgba, _cell_px(self.session))
            if not self.session.try_(with_prefab_model, name, first, f"A model for {name}"):
                return
        self.close_desk()
        desk = VoxelDesk(self.session, name)
        self._show(desk)
        desk.bar.left.disconnect()
        desk.bar.left.connect(lambda: self.open_prefab(name))
        desk.tables.shown.setFocus()

    def open_parts(self, name: str) -> None:
        """Edit the parts of a composite prefab; the way back leads to it."""
        try:
            desk = PartsDesk(self.session, name)
        except TopionError as problem:
            self.session.said.emit(str(problem))
            return
        self.close_desk()
        self._show(desk)
        desk.bar.left.disconnect()
        desk.bar.left.connect(lambda: self.open_prefab(name))
        desk.tables.shown.setFocus()

    def open_tile(self, ref: TileRef) -> None:
        """Show the desk of a block, or a slot on its sheet."""
        if ref.is_block:
            self.open_blocks(ref.slot)
            return
        self.host.show_sheets()
        desk = self.desk
        if isinstance(desk, TileSetDesk) and ref.tileset in self.session.project.tilesets:
            desk.show_slot(ref.tileset, ref.slot)

    def open_blocks(self, name: str = "") -> None:
        """Show the blocks, with that one to be worked on."""
        self.close_desk()
        desk = BlockDesk(self.session, name)
        desk.side.asked.connect(self._go_to)
        desk.painting.connect(self._paint_tile)
        self._show(desk)
        desk.shelf.setFocus()

    def _paint_tile(self, ref: TileRef) -> None:
        """Paint the slot of a tile; the way back leads to its sheet."""
        self.open_tile(ref)
        tileset = self.session.project.tilesets.get(ref.tileset)
        if isinstance(self.desk, TileSetDesk) and tileset is not None:
            self.open_pixels(tileset.slot(ref.slot).at)

    def open_tile_sets(self, bring_in: Callable[[], object], name: str = "") -> None:
        """Show the tile sets.  bring_in : asks for another sheet.  name : the one to be shown."""
        self.close_desk()
        desk = TileSetDesk(self.host, bring_in, name)
        desk.left.connect(self.close_desk)
        desk.weave_made.connect(self.open)
        desk.side.asked.connect(self._go_to)
        desk.side.pixels_asked.connect(self.open_pixels)
        self._again = lambda shown: self.open_tile_sets(bring_in, shown)
        self._show(desk)
        desk.view.setFocus()

    def open_pixels(self, at: tuple[int, int]) -> None:
        """Paint a slot of the tile set that is shown; the way back leads to that."""
        name = self.desk.name if isinstance(self.desk, TileSetDesk) else ""
        if name not in self.session.project.tilesets:
            return
        try:
            desk = PixelDesk(self.session, name, at)
        except TopionError as problem:
            self.session.said.emit(str(problem))
            return
        again = self._again
        self.close_desk()
        self._show(desk)
        desk.bar.left.disconnect()
        desk.bar.left.connect(lambda: again(name) if again is not None else self.close_desk())
        desk.tables.shown.setFocus()

    def show_desk(self, desk: Any) -> None:
        """Show a desk that was made elsewhere, in the place of the one that is shown."""
        self.close_desk()
        self._show(desk)

    def _show(self, desk: Any) -> None:
        self.desk = desk
        for signal in (desk.bar.left, desk.bar.done):
            signal.connect(self.close_desk)
        self.changed.emit()  # what is hidden gives its place before the desk takes it
        self.addWidget(desk)
        self.setCurrentWidget(desk)

    def close_desk(self) -> bool:
        """Show the table again; False if it is shown already."""
        desk = self.desk
        if desk is None:
            return False
        self.desk = None
        self.setCurrentIndex(0)
        desk.close_desk()
        self.removeWidget(desk)
        desk.deleteLater()
        self.changed.emit()
        return True

    def _try_in_room(self) -> None:
        if isinstance(self.desk, WeaveDesk | PrefabDesk):
            name = self.desk.name
            self.close_desk()
            if self.session.hands.can_take(name):
                self.session.hands.take("left", name)

    def _jump(self, cell: tuple[int, ...]) -> None:
        self.close_desk()
        self.jumped.emit(cell)

    def _go_to(self, use: SlotUse) -> None:
        """Where a slot is used: the cells of a room, or the desk of a brush."""
        if use.room:
            self.close_desk()
            if use.room != self.session.room_name:
                self.session.open_room(use.room)
            self.jumped.emit(use.first)
        elif self.has_desk(self.session, use.name):
            self.open(use.name)
        else:
            self.session.said.emit(f"{use.name} has no desk of its own yet")

    def _follow(self) -> None:
        """The brush of the desk was taken away, as by undo: the desk goes, too."""
        desk = self.desk
        lost = isinstance(desk, WeaveDesk) and desk.ground.brush is None
        lost |= isinstance(desk, VoxelDesk | PartsDesk) and desk.ground.item is None
        lost |= isinstance(desk, PrefabDesk) and desk.prefab is None
        if lost or (isinstance(desk, PixelDesk) and desk.ground.item is None):
            self.close_desk()


def _cell_px(session: Session) -> int:
    """That of the flat room that is open, else the usual."""
    known = session.room.info if session.has_room else None
    return known.cell_px if known is not None and known.axes == 2 else 16
