"""The left of the prefab desk: the picture with its marks, what it is called, how it may stand."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.edit.prefab_sets import MIXED, names_of, shared
from topion.edit.prefabs import with_cell
from topion.model.prefab import Prefab
from topion.view.desks.frame_strip import FrameStrip
from topion.view.desks.parts import Switches, add_row
from topion.view.desks.prefab_canvas import PrefabCanvas
from topion.view.desks.turned_strip import TurnedStrip
from topion.view.panels.fields import heading

_WIDE, _CANVAS = 346, 260  # px
_NO_YES = {"no": False, "yes": True}

Put = Callable[..., object]  # called with changes of the prefabs, by their fields


class PrefabFacts(QWidget):
    """renamed, classified : called with the text that was typed."""

    def __init__(self, put: Put, failed: Callable[[str], object]) -> None:
        """failed : with a sentence where a value cannot be."""
        super().__init__()
        self.setFixedWidth(_WIDE)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(14, 12, 14, 8)
        self._column.setSpacing(8)
        self._put, self._failed = put, failed
        self._prefab: Prefab | None = None
        self.renamed: Callable[[str], object] = lambda _: None
        self.classified: Callable[[str], object] = lambda _: None
        self.told = heading("")
        self._column.addWidget(self.told)
        self._add_canvas()
        self._add_grid()
        self.frames = FrameStrip()
        self.frames.put = lambda sets: put(frames=sets)
        self.frames.failed = failed
        self._column.addWidget(self.frames)
        self.parts = _button("Edit parts", "Paint the cells and place the things it is made of")
        self._column.addWidget(self.parts)
        self._add_voxels()
        self._column.addStretch(1)
        self.others = _button("Together with ▾", "Other prefabs that are set at the same time")
        self.copy = _button("Copy as new", "A new prefab like this one, with a brush of its own; "
                            "its desk opens")  # fmt: skip
        foot = QHBoxLayout()
        foot.addWidget(self.others)
        foot.addWidget(self.copy)
        self._column.addLayout(foot)

    def _add_canvas(self) -> None:
        self.canvas = PrefabCanvas()
        self.canvas.anchored = lambda anchor: self._put(anchor_px=anchor)
        self.canvas.stood = self._stand
        self.canvas.pointed = lambda points: self._put(points=points)
        self.canvas.seated = lambda below: self._put(below_px=below)
        self.canvas.setFixedHeight(_CANVAS)
        self._column.addWidget(self.canvas)

    def _add_grid(self) -> None:
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        self.title = self._text(grid, "Name", "What it is called")
        self.title.editingFinished.connect(lambda: self.renamed(self.title.text().strip()))
        self.class_name = self._text(grid, "Class", "What it has in common with others; rules can "
                                     "hold for a class")  # fmt: skip
        self.class_name.editingFinished.connect(self._classify)
        self.switches: dict[str, Switches] = {}
        quarters = {"none": "none", "quarters": "quarters", "any": "any"}
        self.turns = self._switch(grid, "Turns", "turns", quarters, "How it may be turned")
        self.turned = TurnedStrip()
        self.turned.put = lambda pictures: self._put(turned=pictures)
        self.turned.failed = self._failed
        self._turned_label = add_row(grid, "Turned pictures", self.turned)
        self._switch(grid, "Mirrored", "mirrors", _NO_YES, "Whether it may be mirrored")
        self.tips = self._switch(grid, "Held by walls too", "tips", _NO_YES, "In voxel rooms also "
                                 "with another side up, as on walls and ceilings")  # fmt: skip
        self._switch(grid, "In open space", "floats", _NO_YES,
                     "Nothing must carry it: it stays at the height it is put at")  # fmt: skip
        self._switch(grid, "Levels high", "height", {str(n): n for n in (1, 2, 3, 4)},
                     "How many levels of a voxel room its body takes")  # fmt: skip
        self._column.addLayout(grid)

    def _text(self, grid: QGridLayout, label: str, tip: str) -> QLineEdit:
        edit = QLineEdit()
        edit.setAccessibleName(label)
        edit.setToolTip(tip)
        add_row(grid, label, edit)
        return edit

    def _switch(self, grid: QGridLayout, label: str, field: str, values: dict[str, Any],
                tip: str) -> Switches:  # fmt: skip
        switch = self.switches[field] = Switches(values)
        switch.setToolTip(tip)
        switch.chosen = lambda value: self._put(**{field: value})
        add_row(grid, label, switch)
        return switch

    def _add_voxels(self) -> None:
        self._deep = heading("In voxel rooms")
        self._column.addWidget(self._deep)
        self.voxels = _button("Edit voxels", "Build its model as a small room of colours")
        self._model_told = QLabel()
        line = QHBoxLayout()
        line.addWidget(self.voxels)
        line.addWidget(self._model_told, 1)
        self._column.addLayout(line)

    # --- showing --------------------------------------------------------------------------

    def show_prefabs(self, prefabs: Sequence[Prefab], cell_px: int) -> None:
        """Show the first of them, and what all have in common."""
        prefab, several = prefabs[0], len(prefabs) > 1
        self._prefab = prefab
        high, wide = prefab.picture.size_px
        self.told.setText(f"Picture · {wide} × {high} px on cells of {cell_px} px")
        self.canvas.show_prefab(prefab, cell_px)
        class_name = shared(prefabs, "class_name")
        self.title.setEnabled(not several)
        self.class_name.setPlaceholderText("mixed" if class_name is MIXED else "")
        _show(self.title, names_of([known.name for known in prefabs]))
        _show(self.class_name, "" if class_name is MIXED else class_name)
        for field, switch in self.switches.items():
            switch.show_value(shared(prefabs, field))
        model = prefab.model
        words = " × ".join(map(str, model.size)) if model is not None else ""
        self._model_told.setText(f"model of {words} voxels" if words else "its picture, upright")
        for part in (self.turned, self._turned_label):
            part.setVisible((prefab.turns != "none" or bool(prefab.turned)) and not several)
        self.turned.show_prefab(prefab)
        self.frames.show_prefab(prefab)
        self.parts.setVisible(bool(prefab.parts) and not several)
        for alone in (self._deep, self.frames, self.voxels, self.copy, self._model_told):
            alone.setVisible(not several)

    # --- setting --------------------------------------------------------------------------

    def _stand(self, row: int, column: int) -> None:
        """It stands in a cell, or no longer; in one at least."""
        if self._prefab is None:
            return
        cells = with_cell(self._prefab.footprint, row, column)
        if any("#" in line for line in cells):
            self._put(footprint=cells)

    def _classify(self) -> None:
        if self.class_name.isModified():
            self.classified(self.class_name.text().strip())


def _show(edit: QLineEdit, text: str) -> None:
    """A text, unless another one is being typed."""
    if not (edit.hasFocus() and edit.isModified()):
        edit.setText(text)
        edit.setModified(False)


def _button(text: str, tip: str) -> QPushButton:
    button = QPushButton(text)
    button.setToolTip(tip)
    return button
