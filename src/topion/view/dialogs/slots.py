"""Slots: mark tiles of a sheet and take them in hand, or make a brush of them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.brushes.slot_shapes import arrangements_for
from topion.brushes.slots import block_of, mosaic_of, pattern_of, stamp_of
from topion.brushes.weave_slots import weave_of
from topion.edit.library import put_brush
from topion.edit.models import with_brush
from topion.errors import TopionError
from topion.grid.boxes import Box
from topion.model.tileset import TileSet
from topion.view import style
from topion.view.dialogs.choices import Choice
from topion.view.dialogs.shape import ShapeDialog
from topion.view.dialogs.sheet_view import SheetView
from topion.view.host import Host


class SlotsDialog(QDialog):
    """Stays open beside the table; drag over slots to mark a block."""

    def __init__(self, parent: QWidget, host: Host, bring_in: Callable[[], object]) -> None:
        super().__init__(parent)
        self.host = host
        self.setWindowTitle("Sheets")
        self.resize(560, 600)
        self.sheets = Choice()
        self.sheets.setAccessibleName("Sheet")
        self.sheets.activated.connect(lambda _: self._show_sheet())
        self.more = QPushButton("Bring in another…")
        self.more.clicked.connect(lambda _: bring_in())
        self.view = SheetView()
        self.view.selectable = True
        self.view.setToolTip("Drag to mark slots; wheel zooms, middle drag moves")
        self.view.marked.connect(lambda _: self._tell())
        self.told = QLabel()
        self.told.setStyleSheet(f"color: {style.name('soft')}")
        head = QHBoxLayout()
        head.addWidget(self.sheets, 1)
        head.addWidget(self.more)
        foot = QHBoxLayout()
        self.buttons: dict[str, QPushButton] = {}
        for key, text, tip in (
            ("left", "In left hand", "Lay the marked block with the left button"),
            ("right", "In right hand", "Lay the marked block with the right button"),
            ("mosaic", "Mosaic", "A brush that lays one of the marked tiles, by chance"),
            ("pattern", "Pattern", "A brush that repeats the marked block by its place in rooms"),
            ("weave", "Weave", "A brush whose tiles follow their neighbours: mark 3 × 3 tiles "
             "(corners, edges, middle), 5 × 3 with inner corners to the right, or any others"),
            ("shape", "Shape…", "A panel, run, trail or ramp of the marked slots: 3 × 3, 4 × 4, "
             "5 × 3, 3 × 1, 6 × 1 … tiles as they lie on the sheet"),
            ("block", "Block", "A block for voxel rooms: mark 1 slot for all its sides, 3 for top, "
             "sides and bottom, 6 for up, down, north, east, south and west; any other block of "
             "slots repeats over its faces by place"),
        ):  # fmt: skip
            button = QPushButton(text)
            button.setToolTip(tip)
            button.clicked.connect(lambda _, k=key: self.take(k))
            self.buttons[key] = button
            foot.addWidget(button)
        host.session.changed.connect(lambda _: self.refresh() if self.isVisible() else None)
        layout = QVBoxLayout(self)
        layout.addLayout(head)
        layout.addWidget(self.view, 1)
        layout.addWidget(self.told)
        layout.addLayout(foot)

    def refresh(self) -> None:
        """Show anew what the session says."""
        names = list(self.host.session.project.tilesets)
        if names != [self.sheets.itemText(i) for i in range(self.sheets.count())]:
            self.sheets.clear()
            self.sheets.addItems(names)
            self.sheets.setCurrentIndex(len(names) - 1)
            self._show_sheet()
        self._tell()

    def tileset(self) -> TileSet:
        """The tile set whose sheet is shown.  Raises UnknownName once it was taken back."""
        found: TileSet = self.host.session.project.tileset(self.sheets.currentText())
        return found

    def _show_sheet(self) -> None:
        if self.sheets.currentText() not in self.host.session.project.tilesets:
            self.view.clear()
            self._tell()
            return
        tileset = self.tileset()
        self.view.show_sheet(tileset.sheet)
        self.view.show_cut(tileset.cut, tileset.filled)
        self._tell()

    def _tell(self) -> None:
        box = self.view.selection
        there = self.sheets.currentText() in self.host.session.project.tilesets
        for button in self.buttons.values():
            button.setEnabled(there and box is not None)
        if not there:
            self.told.setText("The sheet was taken back; bring in another")
            return
        if box is None:
            self.told.setText("Drag over the sheet to mark slots")
            return
        height, width = box.shape
        self.buttons["shape"].setEnabled(bool(arrangements_for(self.tileset(), box)))
        first = self.tileset().name_at((box.lo[0], box.lo[1]))
        self.told.setText(f"{width} × {height} slots marked, from {first}")

    def take(self, what: str) -> None:
        """Make a brush of the marked slots and take it in hand."""
        box = self.view.selection
        if box is None:
            return
        session = self.host.session
        if what == "block":
            self._take_block(box)
            return
        if what == "shape":
            ShapeDialog(self, self.host, self.tileset(), box).show()
            return
        make: Any = {"mosaic": mosaic_of, "weave": weave_of, "pattern": pattern_of}.get(
            what, stamp_of
        )
        try:
            brush = make(self.tileset(), box, set(session.project.brushes))
            session.apply(put_brush(session.project, brush))
        except TopionError as problem:
            self.told.setText(str(problem))
            return
        session.hands.take("right" if what == "right" else "left", brush.name)
        self.host.show_bay(brush.bay)
        self.host.to_table()

    def _take_block(self, box: Box) -> None:
        """Make a block of the marked slots, and the brush that lays it."""
        session = self.host.session
        taken = {*session.project.brushes, *session.project.blocks}
        try:
            block = block_of(self.tileset(), box, taken)
            session.apply(with_brush(session.project, block))
        except TopionError as problem:
            self.told.setText(str(problem))
            return
        self.told.setText(f"{block.name} lies in the bay Built of voxel rooms")
        if session.has_room and session.room.info.cells_kind == "blocks":
            session.hands.take("left", block.name)
            self.host.show_bay("Built")
