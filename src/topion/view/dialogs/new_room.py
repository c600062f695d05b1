"""Asking for a new room."""

from __future__ import annotations

import itertools

from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from topion.errors import TopionError
from topion.model.room import LONGEST_SIDE, LONGEST_VOXEL_SIDE
from topion.view import style
from topion.view.host import Host


class NewRoom(QDialog):
    """Name, kind, size in cells and cell size; a refusal is shown in the dialog."""

    def __init__(self, parent: QWidget, host: Host) -> None:
        super().__init__(parent)
        self.host = host
        self.setWindowTitle("New room")
        taken = host.session.project.rooms
        name = next(n for n in (f"Room {i}" for i in itertools.count(1)) if n not in taken)
        self.name = QLineEdit(name)
        self.width_cells, self.height_cells = self._spin(64), self._spin(40)
        self.cell = self._spin(16, 512)
        self.kind = QComboBox()
        self.kind.addItems(["flat, of tiles", "voxel, of blocks"])
        self.kind.setAccessibleName("Kind of room")
        self.levels = self._spin(24, LONGEST_VOXEL_SIDE)
        self.levels.setToolTip("Levels of a voxel room, from its floor to its ceiling")
        self.kind.currentIndexChanged.connect(self._show_kind)
        if host.session.has_room:
            self.cell.setValue(host.session.room.info.cell_px)
        size = QHBoxLayout()
        for widget in (self.width_cells, QLabel("×"), self.height_cells, QLabel("cells")):
            size.addWidget(widget)
        form = QFormLayout()
        form.addRow("Name", self.name)
        form.addRow("Kind", self.kind)
        form.addRow("Size", size)
        form.addRow("Levels", self.levels)
        form.addRow("Cell, px", self.cell)
        self.problem = QLabel()
        self.problem.setWordWrap(True)
        self.problem.setStyleSheet(f"color: {style.name('buoy')}")
        buttons = QDialogButtonBox()
        make = buttons.addButton("Make the room", QDialogButtonBox.ButtonRole.AcceptRole)
        if make is not None:
            make.setObjectName("strong")
        buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.make)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addLayout(form)
        layout.addWidget(self.problem)
        layout.addWidget(buttons)

        self._show_kind(0)

    def _show_kind(self, kind: int) -> None:
        self.levels.setEnabled(kind == 1)
        longest = LONGEST_VOXEL_SIDE if kind == 1 else LONGEST_SIDE
        for spin in (self.width_cells, self.height_cells):
            spin.setMaximum(longest)

    def _spin(self, value: int, most: int = LONGEST_SIDE) -> QSpinBox:
        spin = QSpinBox()
        spin.setRange(1, most)
        spin.setValue(value)
        return spin

    def make(self) -> None:
        """Make the room; a refusal is shown in the dialog."""
        size: tuple[int, ...] = (self.height_cells.value(), self.width_cells.value())
        if self.kind.currentIndex() == 1:
            size = (self.levels.value(), *size)
        try:
            room = self.host.session.handle.add_room(self.name.text(), size, self.cell.value())
        except TopionError as problem:
            self.problem.setText(str(problem))
            return
        self.accept()
        self.host.session.open_room(room.name)
