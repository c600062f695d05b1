"""The properties of a room, a new one or one that is there; and shifting all it holds."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import (
    QCheckBox,
    QColorDialog,
    QComboBox,
    QDialog,
    QDoubleSpinBox,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QWidget,
)

from topion.edit import rooms as edits
from topion.errors import TopionError
from topion.model.edit import Edit, joined, written
from topion.model.project import Project
from topion.model.room import LONGEST_SIDE, LONGEST_VOXEL_SIDE, RoomInfo
from topion.parsing import words_of
from topion.view.dialogs.form import finish, problem_line, spin
from topion.view.host import Host

ANCHORS = {"north-west": (0.0, 0.0), "middle": (0.5, 0.5), "south-east": (1.0, 1.0)}
_SEEN = {"from above": "top", "from the side": "side"}


@dataclass(frozen=True)
class _Asked:
    """What the dialog asks for.  anchor : which part of what was there stays where it is."""

    name: str
    size: tuple[int, ...]
    anchor: tuple[float, float]
    changes: dict[str, Any]


class RoomDialog(QDialog):
    """Name, size, cells, view, backdrop, growth and notes; a refusal is shown in the dialog.

    room : of which the properties are; a new one without.
    """

    def __init__(self, parent: QWidget, host: Host, room: RoomInfo | None = None) -> None:
        super().__init__(parent)
        self.host, self.room = host, room
        self.setWindowTitle(f"Room {room.name}" if room else "New room")
        self.name = QLineEdit(room.name if room else self._free_name())
        self.width_cells = spin(room.size[-1] if room else 64, LONGEST_SIDE, "Width in cells")
        self.height_cells = spin(room.size[-2] if room else 40, LONGEST_SIDE, "Height in cells")
        deep = room.size[0] if room and room.axes == 3 else 24
        self.levels = spin(deep, LONGEST_VOXEL_SIDE, "Levels from its floor to its ceiling")
        self.cell = spin(room.cell_px if room else 16, 512, "Px a cell is drawn with")
        self.metres = QDoubleSpinBox()
        self.metres.setRange(0.001, 1000)
        self.metres.setDecimals(3)
        self.metres.setValue(room.metres if room else 1.0)
        self.metres.setAccessibleName("Metres a cell is long")
        self.kind = _choice(["flat, of tiles", "voxel, of blocks"], "Kind of room")
        self.seen = _choice(list(_SEEN), "How it is looked at")
        self.anchor = _choice(list(ANCHORS), "Which part stays where it is")
        self.grows = QCheckBox("when it is painted past its edge")
        self.grows.setToolTip("Strokes past its edge make the room larger; undo takes that back")
        self.backdrop = Swatch(room.backdrop if room else "#e9e2d2")
        self.notes = QPlainTextEdit(room.notes if room else "")
        self.notes.setFixedHeight(58)
        self.tags = QLineEdit(", ".join(room.tags) if room else "")
        self.tags.setAccessibleName("Tags")
        self.tags.setToolTip("Words by which rules of things know the room, with commas between")
        self.notes.setAccessibleName("Notes")
        self._form = QFormLayout()
        self._lay_out()
        self._fill()
        self.kind.currentIndexChanged.connect(self._show_kind)
        self._show_kind()

    def _free_name(self) -> str:
        taken = self.host.session.project.rooms
        return next(n for n in (f"Room {i}" for i in itertools.count(1)) if n not in taken)

    def _lay_out(self) -> None:
        size = QHBoxLayout()
        for widget in (self.width_cells, QLabel("×"), self.height_cells, QLabel("cells")):
            size.addWidget(widget)
        form = self._form
        form.addRow("Name", self.name)
        form.addRow("Kind", self.kind)
        form.addRow("Size", size)
        form.addRow("Levels", self.levels)
        form.addRow("Stays in place", self.anchor)
        form.addRow("Grows", self.grows)
        form.addRow("Seen", self.seen)
        form.addRow("Cell, px", self.cell)
        form.addRow("Cell, metres", self.metres)
        form.addRow("Backdrop", self.backdrop)
        form.addRow("Tags", self.tags)
        form.addRow("Notes", self.notes)
        self.problem = problem_line()
        words = "Make the room" if self.room is None else "Set"
        finish(self, form, words, self.make, self.problem)

    def _fill(self) -> None:
        """What is known of the room, or usual for a new one."""
        room, session = self.room, self.host.session
        if room is None:
            if session.has_room:
                self.cell.setValue(session.room.info.cell_px)
            return
        self.kind.setCurrentIndex(room.axes - 2)
        self.seen.setCurrentIndex(list(_SEEN.values()).index(room.seen))
        self.grows.setChecked(room.grows)

    def _show_kind(self) -> None:
        deep = self.kind.currentIndex() == 1
        for widget, shown in ((self.levels, deep), (self.metres, deep), (self.seen, not deep),
                              (self.cell, not deep), (self.backdrop, not deep),
                              (self.anchor, self.room is not None),
                              (self.kind, self.room is None)):  # fmt: skip
            self._form.setRowVisible(widget, shown)
        for field in (self.width_cells, self.height_cells):
            field.setMaximum(LONGEST_VOXEL_SIDE if deep else LONGEST_SIDE)

    def make(self) -> None:
        """Do what the dialog asks; a refusal is shown in it."""
        asked, session = self._asked(), self.host.session
        try:
            edit = self._plan(session.project, asked)
        except TopionError as problem:
            self.problem.setText(str(problem))
            return
        said: list[str] = []
        session.said.connect(said.append)
        try:
            done = session.apply(edit) if edit else True
        finally:
            session.said.disconnect(said.append)
        if not done:
            self.problem.setText(said[-1] if said else "Nothing was changed")
            return
        self.accept()
        if self.room is None:
            session.open_room(asked.name)

    def _asked(self) -> _Asked:
        deep = self.kind.currentIndex() == 1
        size: tuple[int, ...] = (self.height_cells.value(), self.width_cells.value())
        if deep:
            size = (self.levels.value(), *size)
        changes: dict[str, Any] = {
            "grows": self.grows.isChecked(),
            "notes": self.notes.toPlainText(),
            "tags": words_of(self.tags.text()),
        }
        if deep:
            changes["metres"] = self.metres.value()
        else:
            changes["seen"] = _SEEN[self.seen.currentText()]
            changes["cell_px"] = self.cell.value()
            changes["backdrop"] = self.backdrop.colour
        return _Asked(self.name.text(), size, ANCHORS[self.anchor.currentText()], changes)

    def _plan(self, project: Project, asked: _Asked) -> Edit:
        """One Edit for all of it.  Raises TopionError."""
        if self.room is None:
            info = RoomInfo(asked.name, asked.size, **asked.changes)
            return edits.add_room(project, info, edits.usual_layers(info))
        old = self.room.name
        plans: list[Callable[[Project], Edit]] = [
            lambda p: edits.set_room(p, old, **asked.changes),
            lambda p: edits.resize_room(p, old, asked.size, _shift(self.room, asked)),
            lambda p: edits.rename_room(p, old, asked.name),
        ]
        scratch = project.scratch(project.rooms.frozen())
        made = list(written(scratch, (plan(scratch) for plan in plans)))
        real = [edit for edit in made if edit]
        return joined(real[-1].label if len(real) == 1 else f"Set {old}", real)


def _shift(room: RoomInfo | None, asked: _Asked) -> tuple[int, ...]:
    """Where the old first cell comes to lie; levels grow upwards."""
    before = room.size if room else asked.size
    plan = zip(before[-2:], asked.size[-2:], asked.anchor, strict=True)
    return (0,) * (len(asked.size) - 2) + tuple(int((new - old) * at) for old, new, at in plan)


class ShiftDialog(QDialog):
    """How far all that a room holds is shifted, and whether it comes in again."""

    def __init__(self, parent: QWidget, host: Host) -> None:
        super().__init__(parent)
        self.host = host
        self.setWindowTitle(f"Shift all of {host.session.room_name}")
        axes = host.session.room.info.axes
        self.steps = []
        form = QFormLayout()
        for axis, words in enumerate(("East", "South", "Up")[:axes]):
            side = host.session.room.info.size[-1 - axis]
            tip = f"Cells {words.lower()}; less than 0 is the other way"
            self.steps.append(spin(0, side, tip, least=-side))
            form.addRow(f"{words}, cells", self.steps[-1])
        self.wraps = QCheckBox("comes in again at the other edge")
        form.addRow("What leaves", self.wraps)
        finish(self, form, "Shift", self.make)

    def make(self) -> None:
        """Shift it."""
        session = self.host.session
        by = tuple(field.value() for field in reversed(self.steps))
        self.accept()
        session.try_(edits.shift_contents, session.room_name, by, wraps=self.wraps.isChecked())


class Swatch(QPushButton):
    """A colour, chosen by a click."""

    def __init__(self, colour: str) -> None:
        super().__init__()
        self.setAccessibleName("Backdrop")
        self.setToolTip("The colour behind all layers")
        self.clicked.connect(self._ask)
        self.show_colour(colour)

    def show_colour(self, colour: str) -> None:
        """Show another one."""
        self.colour = colour
        dark = QColor(colour).lightness() < 128
        self.setText(colour)
        self.setStyleSheet(f"background: {colour}; color: {'#ffffff' if dark else '#22303a'};")

    def _ask(self) -> None:
        found = QColorDialog.getColor(QColor(self.colour), self, "Backdrop")
        if found.isValid():
            self.show_colour(found.name())


def _choice(texts: list[str], name: str) -> QComboBox:
    box = QComboBox()
    box.addItems(texts)
    box.setAccessibleName(name)
    return box
