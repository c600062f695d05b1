"""The tile set desk: a sheet with its slots, what is known of them, and brushes made of them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.brushes.slot_shapes import arrangements_for
from topion.brushes.slots import block_of, mosaic_of, pattern_of, stamp_of
from topion.brushes.weave_slots import WeaveLayout, weave_layouts, weave_of
from topion.edit.library import put_brush
from topion.edit.models import with_brush
from topion.edit.prefabs import prefab_of_frames, prefab_of_slots, with_thing_brush
from topion.edit.resheet import with_pictures
from topion.edit.slots import found_slots
from topion.errors import TopionError
from topion.grid.boxes import Box
from topion.grid.told import several
from topion.model.picture import Picture
from topion.model.prefab import Prefab
from topion.model.tileset import TileSet
from topion.pictures.png import read_png_file
from topion.view import style
from topion.view.desks.desk_bar import DeskBar
from topion.view.desks.resheet_panel import WORDS, ResheetPanel
from topion.view.desks.sheet_head import SheetHead
from topion.view.desks.slot_side import SlotSide
from topion.view.dialogs.shape import ShapeDialog
from topion.view.dialogs.sheet_view import SheetView
from topion.view.host import Host
from topion.view.panels.fields import heading
from topion.view.tasks import run_task

_MAKES = (
    ("left", "In left hand", "Lay the marked block with the left button"),
    ("right", "In right hand", "Lay the marked block with the right button"),
    ("mosaic", "Mosaic", "A brush that lays one of the marked tiles, by chance"),
    ("pattern", "Pattern", "A brush that repeats the marked block by its place in rooms"),
    ("shape", "Shape…", "A panel, run, trail or ramp of the marked slots: 3 × 3, 4 × 4, 5 × 3, "
     "3 × 1, 6 × 1 … tiles as they lie on the sheet"),
    ("thing", "Thing", "A prefab with the picture of the marked slots, that stands on its ground"),
    ("frames", "Frames", "An animated thing: each marked slot is a picture of it"),
    ("block", "Block", "A block for voxel rooms: mark 1 slot for all its sides, 3 for top, sides "
     "and bottom, 6 for up, down, north, east, south and west; any other block of slots repeats "
     "over its faces by place"),
)  # fmt: skip


class TileSetDesk(QWidget):
    """Signals: left() to go back to the table, weave_made(name) when its desk shall be shown."""

    left = pyqtSignal()
    weave_made = pyqtSignal(str)
    key_area = "sheet"

    def __init__(self, host: Host, bring_in: Callable[[], object], name: str = "") -> None:
        super().__init__()
        self.host, self.session = host, host.session
        self.ground = None
        self.tables = None
        self.layouts: list[WeaveLayout] = []
        self.bar = DeskBar(self.session, gestures=False, tried=False)
        self.head = SheetHead(host, bring_in)
        self.sheets, self.search = self.head.sheets, self.head.search
        self.sheets.activated.connect(lambda _: self._show_sheet())
        self.search.textChanged.connect(lambda _: self._show_found())
        self.head.replaced.connect(self.replace_by)
        self.head.recut.connect(self.cut_otherwise)
        self.head.added.connect(self.add_pictures)
        self.view = SheetView()
        self.view.selectable = True
        self.view.setToolTip("Drag to mark slots; wheel zooms, middle drag moves")
        self.view.marked.connect(lambda _: self._tell())
        self.told = QLabel()
        style.tint(self.told, "soft")
        self.buttons = {key: self._button(key, text, tip) for key, text, tip in _MAKES}
        self.layout_choice = QComboBox()
        self.layout_choice.setAccessibleName("What the marked slots are in a weave")
        self.layout_choice.setToolTip("Which case each slot is taken for; shown on the sheet")
        self.layout_choice.activated.connect(lambda _: self._show_layout())
        self.buttons["weave"] = self._button(
            "weave", "Make the weave", "A brush whose tiles follow their neighbours; its desk opens"
        )
        self.buttons["weave"].setObjectName("strong")
        self.side = SlotSide(self.session)
        self.side.pointing.connect(self._point)
        self.resheet = ResheetPanel(self.session)
        self.resheet.hide()
        self.resheet.changed.connect(self._show_change)
        self.resheet.done.connect(self._end_resheet)
        self._lay_out()
        self.session.changed.connect(self.refresh)
        self.refresh()
        if name:
            self.show_set(name)

    def _button(self, key: str, text: str, tip: str) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        button.clicked.connect(lambda _: self.take(key))
        return button

    def _lay_out(self) -> None:
        self.foot = QWidget()
        rows = QVBoxLayout(self.foot)
        rows.setContentsMargins(12, 4, 12, 10)
        rows.addWidget(self.told)
        makes = QHBoxLayout()
        makes.setSpacing(6)
        makes.addWidget(heading("Make of them"))
        for key, _, _ in _MAKES:
            makes.addWidget(self.buttons[key])
        makes.addStretch(1)
        weave = QHBoxLayout()
        weave.setSpacing(6)
        weave.addWidget(heading("Or a weave"))
        weave.addWidget(self.layout_choice, 1)
        weave.addWidget(self.buttons["weave"])
        for row in (makes, weave):
            rows.addLayout(row)
        middle = QVBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.head)
        middle.addWidget(self.view, 1)
        middle.addWidget(self.foot)
        whole = QHBoxLayout()
        whole.setSpacing(0)
        whole.addLayout(middle, 1)
        whole.addWidget(self.side)
        whole.addWidget(self.resheet)
        page = QVBoxLayout(self)
        page.setContentsMargins(0, 0, 0, 0)
        page.setSpacing(0)
        page.addWidget(self.bar)
        page.addLayout(whole, 1)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        QPainter(self).fillRect(self.rect(), style.ink("panel"))

    # --- showing --------------------------------------------------------------------------

    @property
    def name(self) -> str:
        """The tile set that is shown."""
        return self.sheets.currentText()

    def refresh(self, dirty: object = None) -> None:
        """Show anew what the session says."""
        names = list(self.session.project.tilesets)
        if names != [self.sheets.itemText(i) for i in range(self.sheets.count())]:
            self.sheets.clear()
            self.sheets.addItems(names)
            self.sheets.setCurrentIndex(len(names) - 1)
            self._show_sheet()
        self._tell()

    def show_set(self, name: str) -> None:
        """Show another tile set."""
        if name in self.session.project.tilesets:
            self.sheets.setCurrentText(name)
            self._show_sheet()

    def show_slot(self, name: str, slot: str) -> None:
        """Show another tile set with one of its slots marked; one that is gone is not."""
        self.show_set(name)
        tileset = self.session.project.tilesets.get(name)
        if tileset is not None and slot in tileset.filled_slots():
            y, x = tileset.slot(slot).at
            self.view.select(Box((y, x), (y + 1, x + 1)))

    def tileset(self) -> TileSet:
        """The tile set whose sheet is shown.  Raises UnknownName once it was taken back."""
        found: TileSet = self.session.project.tileset(self.name)
        return found

    def _show_sheet(self) -> None:
        if self.name not in self.session.project.tilesets:
            self.view.clear()
        else:
            tileset = self.tileset()
            self.view.show_sheet(tileset.sheet)
            self.view.show_cut(tileset.cut, tileset.filled)
        self.search.clear()
        self.head.refresh()
        self._tell()

    def _show_found(self) -> None:
        """Only the slots that were asked for stay bright."""
        if self.name not in self.session.project.tilesets:
            return
        tileset, asked = self.tileset(), self.search.text()
        shown = tileset.filled
        if asked.strip():
            names = found_slots(self.session.project, self.name, asked)
            shown = shown.copy()
            for y, x in zip(*shown.nonzero(), strict=True):
                shown[y, x] = tileset.name_at((int(y), int(x))) in names
            count = int(shown.sum())
            self.told.setText(f"{several(count, 'slot')} found")
        self.view.show_cut(tileset.cut, shown)

    def _tell(self) -> None:
        box = self.view.selection
        there = self.name in self.session.project.tilesets
        for button in self.buttons.values():
            button.setEnabled(there and box is not None)
        self.bar.show_item("tile sets", self.name, self._facts() if there else "")
        if not there or box is None:
            self.told.setText("Drag over the sheet to mark slots" if there else
                              "The sheet was taken back; bring in another")  # fmt: skip
            self.side.show_slots(self.name, [])
            self._show_layouts([])
            return
        tileset = self.tileset()
        height, width = box.shape
        self.buttons["shape"].setEnabled(bool(arrangements_for(tileset, box)))
        first = tileset.name_at((box.lo[0], box.lo[1]))
        self.told.setText(f"{width} × {height} slots marked, from {first}")
        places = [(int(y), int(x)) for y, x in box.cells() if tileset.filled[int(y), int(x)]]
        self.side.show_slots(self.name, places)
        self._show_layouts(weave_layouts(tileset, box))

    def _facts(self) -> str:
        tileset = self.tileset()
        height, width = tileset.cut.tile
        return f"{several(int(tileset.filled.sum()), 'slot')} of {width} × {height} px"

    def _show_layouts(self, layouts: list[WeaveLayout]) -> None:
        """What the slots may be in a weave, the likeliest in front."""
        words = [layout.words for layout in layouts]
        if words != [layout.words for layout in self.layouts]:
            self.layout_choice.clear()
            self.layout_choice.addItems(words)
        self.layouts = layouts
        self.layout_choice.setEnabled(bool(layouts))
        self.buttons["weave"].setEnabled(bool(layouts))
        self._show_layout()

    def _show_layout(self) -> None:
        layout = self._layout()
        self.view.show_cases(dict(layout.cases) if layout is not None else {})

    def _layout(self) -> WeaveLayout | None:
        at = self.layout_choice.currentIndex()
        return self.layouts[at] if 0 <= at < len(self.layouts) else None

    def _point(self, on: bool) -> None:
        """Clicks on the sheet are frames of the marked slot, or mark slots as ever."""
        self.view.pointed = self._point_at if on else None
        self._show_frames()

    def _point_at(self, place: tuple[int, int]) -> None:
        self.side.point_at(place)
        self._show_frames()

    def _show_frames(self) -> None:
        slots = self.side.items() if self.view.pointed is not None else []
        frames = slots[0].frames if len(slots) == 1 else ()
        self.view.show_marks(dict.fromkeys(frames, "tidal"))

    # --- another sheet --------------------------------------------------------------------

    def cut_otherwise(self) -> None:
        """Show the cut of the sheet, to be changed."""
        self._begin_resheet(self.tileset().sheet, None)

    def replace_by(self, path: Path) -> None:
        """Show what becomes of the slots on the sheet in a file."""
        found: list[Any] = []
        run_task(self, f"Reading {path.name}", lambda step: read_png_file(path), found.append,
                 self.host.fail)  # fmt: skip
        if found:
            self._begin_resheet(found[0], path)

    def add_pictures(self, paths: list[Path]) -> None:
        """Make each picture a slot, in rows at the foot of the sheet."""
        try:
            pictures = {path.stem: read_png_file(path).rgba for path in paths}
        except TopionError as problem:
            self.host.fail(str(problem))
            return
        if pictures and self.session.try_(with_pictures, self.name, pictures):
            self._show_sheet()

    def _begin_resheet(self, sheet: Picture, path: Path | None) -> None:
        self.view.show_sheet(sheet)
        self.view.selectable = False
        self._set_resheeting(True)
        self.resheet.show_sheet(self.name, sheet, path)

    def _set_resheeting(self, on: bool) -> None:
        self.side.setVisible(not on)
        self.resheet.setVisible(on)
        self.foot.setVisible(not on)
        self.head.setEnabled(not on)

    def _show_change(self) -> None:
        change = self.resheet.change
        if change is None:
            self.view.show_marks({})
            return
        self.view.show_sheet(change.after.sheet)
        self.view.show_cut(change.after.cut, change.after.filled)
        self.view.show_marks({c.new: WORDS[c.how][2] for c in change.changes
                              if c.new is not None and c.how != "same"})  # fmt: skip

    def _end_resheet(self, taken: bool) -> None:
        path = self.resheet.path
        if taken and path is not None:
            self.host.sources.came_from(self.tileset(), path)
        elif path is not None:
            self.host.sources.leave(self.name)
        self.view.selectable = True
        self.view.show_marks({})
        self._set_resheeting(False)
        self._show_sheet()

    # --- making ---------------------------------------------------------------------------

    def take(self, what: str) -> None:
        """Make a brush of the marked slots and take it in hand."""
        box = self.view.selection
        if box is None:
            return
        if what == "block":
            self._take_block(box)
            return
        if what in ("thing", "frames"):
            self._take_thing(box, prefab_of_slots if what == "thing" else prefab_of_frames)
            return
        if what == "shape":
            ShapeDialog(self, self.host, self.tileset(), box).show()
            return
        taken = set(self.session.project.brushes)
        make: Any = {"mosaic": mosaic_of, "pattern": pattern_of}.get(what, stamp_of)
        try:
            if what == "weave":
                brush: Any = weave_of(self.tileset(), box, taken, self._layout())
            else:
                brush = make(self.tileset(), box, taken)
            self.session.apply(put_brush(self.session.project, brush))
        except TopionError as problem:
            self.told.setText(str(problem))
            return
        self.session.hands.take("right" if what == "right" else "left", brush.name)
        self.host.show_bay(brush.bay)
        if what == "weave":
            self.weave_made.emit(brush.name)
        else:
            self.left.emit()

    def _take_thing(self, box: Box, make: Callable[..., Prefab]) -> None:
        """Make a prefab of the marked slots, and the brush that places it; its desk opens."""
        project = self.session.project
        try:
            taken = {*project.brushes, *project.prefabs}
            prefab = make(self.tileset(), box, taken)
            self.session.apply(with_thing_brush(project, prefab))
        except TopionError as problem:
            self.told.setText(str(problem))
            return
        self.session.hands.take("left", prefab.name)
        self.host.show_bay("Things")
        self.session.prefab_asked.emit(prefab.name)

    def _take_block(self, box: Box) -> None:
        """Make a block of the marked slots, and the brush that lays it."""
        session = self.session
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

    def close_desk(self) -> None:
        """Nothing is held that only the desk needs."""
