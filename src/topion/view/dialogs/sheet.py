"""The cut of a sheet: seen over the picture, proposed by itself, changed by typing."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import (
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from topion.edit.library import put_tileset
from topion.errors import TopionError
from topion.formats.sheet import SlotCount, count_slots, tileset_from
from topion.formats.sheet_cuts import proposals
from topion.grid.arrays import CellMask
from topion.model.picture import Picture
from topion.model.tileset import Cut
from topion.pictures.png import read_png_file
from topion.view import style
from topion.view.dialogs.cut_cards import CutCards
from topion.view.dialogs.sheet_view import SheetView
from topion.view.host import Host
from topion.view.tasks import Step, Worker


def _slots(cut: Cut, rows: int, columns: int) -> str:
    return f"{columns} slots, one a drawing" if cut.rects else f"{columns} × {rows} slots"


class SheetDialog(QDialog):
    """Tile size, margin, spacing and name; the count of slots follows at once."""

    @staticmethod
    def read(path: Path) -> tuple[Picture, list[Cut]]:
        """Picture and proposed cuts; slow for large sheets, so called off the GUI thread."""
        sheet = read_png_file(path)
        return sheet, [found.cut for found in proposals(sheet.rgba)]

    def __init__(
        self, parent: QWidget, host: Host, path: Path, sheet: Picture, proposed: list[Cut]
    ) -> None:
        super().__init__(parent)
        self.host, self.path, self.sheet = host, path, sheet
        self.proposed = proposed
        self._loose: Cut | None = None  # the cut round each drawing, while it is chosen
        self._counting: Worker | None = None
        self.setWindowTitle(f"Bring in {path.name}")
        self.resize(980, 640)
        self.view = SheetView()
        self.view.show_sheet(sheet)
        start = proposed[0] if proposed else Cut((16, 16))
        self.tile_w, self.tile_h = self._spin(start.tile[1], 1), self._spin(start.tile[0], 1)
        self.margin, self.spacing = self._spin(start.margin), self._spin(start.spacing)
        self.name = QLineEdit(path.stem)
        for widget, text in (
            (self.tile_w, "Tile width, px"),
            (self.tile_h, "Tile height, px"),
            (self.margin, "Margin round the sheet, px"),
            (self.spacing, "Spacing between tiles, px"),
            (self.name, "Name of the tile set"),
        ):
            widget.setAccessibleName(text)
            widget.setToolTip(text)
        self._build_form()
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(60)
        self._soon.timeout.connect(lambda: self.refresh())
        for spin in (self.tile_w, self.tile_h, self.margin, self.spacing):
            spin.valueChanged.connect(self._typed)
        self.cards.chosen.connect(self.take)
        self.take(start)
        self.refresh()

    def _spin(self, value: int, least: int = 0) -> QSpinBox:
        spin = QSpinBox()
        spin.setRange(least, 512)
        spin.setValue(value)
        spin.setFixedWidth(70)
        return spin

    def _fields(self) -> QFormLayout:
        tile = QHBoxLayout()
        tile.addWidget(self.tile_w)
        tile.addWidget(QLabel("×"))
        tile.addWidget(self.tile_h)
        tile.addStretch(1)
        form = QFormLayout()
        form.setVerticalSpacing(9)
        form.setHorizontalSpacing(16)
        form.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
        form.addRow("Name", self.name)
        form.addRow("Tile, px", tile)
        form.addRow("Margin", self.margin)
        form.addRow("Spacing", self.spacing)
        return form

    def _build_form(self) -> None:
        height, width = self.sheet.size_px
        title = QLabel(self.path.name)
        title.setFont(style.font(16, bold=True))
        facts = QLabel(f"{width} × {height} px")
        style.tint(facts, "soft")
        form = self._fields()
        self.told = QLabel()
        self.told.setWordWrap(True)
        self.cards = CutCards(self.sheet, self.proposed)
        self.make = QPushButton("Bring it in")
        self.make.setObjectName("strong")
        self.make.setDefault(True)
        self.make.setToolTip("Make the tile set (Enter)")
        self.make.clicked.connect(self.bring_in)
        cancel = QPushButton("Cancel")
        cancel.clicked.connect(self.reject)
        self.problem = QLabel()
        self.problem.setWordWrap(True)
        style.tint(self.problem, "buoy")
        side = QVBoxLayout()
        side.setSpacing(8)
        for part in (title, facts):
            side.addWidget(part)
        side.addSpacing(6)
        side.addLayout(form)
        side.addWidget(self.told)
        side.addWidget(self.problem)
        side.addStretch(1)
        buttons = QHBoxLayout()
        buttons.addWidget(self.make, 1)
        buttons.addWidget(cancel)
        side.addLayout(buttons)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(14, 14, 14, 14)
        whole.setSpacing(16)
        seen = QVBoxLayout()
        seen.setSpacing(8)
        seen.addWidget(self.view, 1)
        if self.proposed:
            found = QLabel("Found in the picture, likeliest first")
            found.setFont(style.heading())
            style.tint(found, "soft")
            seen.addWidget(found)
            seen.addWidget(self.cards)
        whole.addLayout(seen, 1)
        whole.addLayout(side)

    def cut(self) -> Cut:
        """The cut as it is chosen or typed."""
        if self._loose is not None:
            return self._loose
        tile = (self.tile_h.value(), self.tile_w.value())
        return Cut(tile, self.margin.value(), self.spacing.value())

    def take(self, cut: Cut) -> None:
        """Set the numbers to those of a cut."""
        self.tile_h.setValue(cut.tile[0])
        self.tile_w.setValue(cut.tile[1])
        self.margin.setValue(cut.margin)
        self.spacing.setValue(cut.spacing)
        self._loose = cut if cut.rects else None
        self._soon.start()

    def _typed(self) -> None:
        self._loose = None
        self._soon.start()

    def refresh(self) -> None:
        """Show the cut over the sheet, and what it yields."""
        cut = self.cut()
        self.cards.mark(cut)
        rows, columns = cut.grid_of(self.sheet.size_px)
        self.make.setEnabled(bool(rows and columns))
        if not (rows and columns):
            self.view.show_cut(None, None)
            self.told.setText("No whole tile of this size fits the sheet")
            return
        self.view.show_cut(cut, None)
        self.told.setText(f"{_slots(cut, rows, columns)}: counting…")
        if self._counting is not None:  # that of an earlier cut; its answer is let fall
            self._counting.let_go()
        sheet, name = self.sheet, self.path.name

        def count(step: Step) -> tuple[SlotCount, CellMask]:
            return count_slots(sheet.rgba, cut), tileset_from(sheet, "sheet", cut, name).filled

        self._counting = Worker(count, "Counting")
        self._counting.finished.connect(lambda: self._show_count(cut))
        self._counting.begin()

    def _show_count(self, cut: Cut) -> None:
        if self._counting is None or self._counting.result is None:
            return
        count, filled = self._counting.result
        rows, columns = filled.shape
        self.view.show_cut(cut, filled)
        words = [f"{_slots(cut, rows, columns)}: {count.slots} in use"]
        if count.empty:
            words.append(f"{count.empty} empty, skipped")
        if count.equal:
            words.append(f"{count.equal} equal to an earlier one")
        self.told.setText("\n".join(words))

    def done(self, code: int) -> None:
        """Close; a count that still runs, or would begin, is let fall."""
        self._soon.stop()
        if self._counting is not None:
            self._counting.let_go()
        super().done(code)

    def bring_in(self) -> None:
        """Do what the dialog asks; a refusal is shown in it."""
        name = self.name.text().strip() or self.path.stem
        try:
            tileset = tileset_from(self.sheet, name, self.cut(), self.path.name)
            self.host.session.handle.history.apply(put_tileset(self.host.session.project, tileset))
        except TopionError as problem:
            self.problem.setText(str(problem))
            return
        self.host.sources.came_from(tileset, self.path)
        self.accept()
        self.host.show_sheets()
