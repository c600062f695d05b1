"""The right column of the tile set desk: what is known of the marked slots."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.edit.slots import SlotUse, rename_slot, set_slots, slot_at, slot_uses
from topion.model.tileset import Slot, TileSet
from topion.view import style
from topion.view.desks.parts import add_row, hairline, heading
from topion.view.session import Session
from topion.view.table.compose import pixmap_of

FLAGS = {
    "solid": "Solid",
    "walkable": "Walkable",
    "climbable": "Climbable",
    "opening": "Opening",
    "carries": "Carries things",
    "slope": "Slope",
    "not_for_use": "Not for use",
}
_TIPS = {
    "solid": "Fills its cell",
    "walkable": "Can be walked on",
    "climbable": "Can be climbed",
    "opening": "Lets through where all round is solid",
    "carries": "Things can stand on it",
    "slope": "Its top is not level",
    "not_for_use": "The survey finds it where it lies in a room",
}
_MIXED = "several"
_MOST_USES = 6


class SlotSide(QWidget):
    """Signals: asked(SlotUse) to jump to where a slot is used, pixels_asked((row, column)) to paint
    one."""

    asked = pyqtSignal(object)
    pixels_asked = pyqtSignal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.tileset_name = ""
        self.places: list[tuple[int, int]] = []
        self.setFixedWidth(300)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 14, 8)
        column.setSpacing(6)
        self.title = heading("")
        self.preview = _Preview()
        head = QHBoxLayout()
        head.addWidget(self.title, 1)
        self.pixels = QPushButton("pixels ›")
        self.pixels.setObjectName("plain")
        self.pixels.setAccessibleName("Paint its pixels")
        self.pixels.setToolTip("Paint the pixels and the tint mask of this slot")
        self.pixels.clicked.connect(lambda _: self.pixels_asked.emit(self.places[0]))
        head.addWidget(self.pixels)
        column.addLayout(head)
        column.addWidget(self.preview)
        grid = QGridLayout()
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(1, 1)
        self.name = self._text(
            grid, "Name", "A name that stays when the sheet changes", self._rename
        )
        self.tags = self._text(grid, "Tags", "Words by which rules and searches know it",
                               self._tag)  # fmt: skip
        self.top = self._text(grid, "Top", "Height of the surface that carries, 0 to 1",
                              lambda: self._number("top", self.top, float))  # fmt: skip
        self.frames = self._text(grid, "Frames", "Further pictures of an animation, as row,column "
                                 "row,column …", self._set_frames)  # fmt: skip
        self.time = self._text(grid, "Frame, ms", "How long each picture stays",
                               lambda: self._number("frame_ms", self.time, int))  # fmt: skip
        column.addLayout(grid)
        self.flags: dict[str, QCheckBox] = {}
        for field, words in FLAGS.items():
            box = QCheckBox(words)
            box.setToolTip(_TIPS[field])
            box.clicked.connect(lambda on, f=field: self._flag(f))
            self.flags[field] = box
            column.addWidget(box)
        column.addWidget(hairline())
        column.addWidget(heading("Used by"))
        self.uses = QVBoxLayout()
        self.uses.setSpacing(0)
        column.addLayout(self.uses)
        column.addStretch(1)
        session.changed.connect(self.refresh)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), style.ink("panel"))
        painter.setPen(style.ink("line"))
        painter.drawLine(0, 0, 0, self.height())

    def _text(
        self, grid: QGridLayout, label: str, tip: str, done: Callable[[], object]
    ) -> QLineEdit:
        edit = QLineEdit()
        edit.setAccessibleName(label)
        edit.setToolTip(tip)
        edit.editingFinished.connect(done)
        add_row(grid, label, edit)
        return edit

    # --- showing --------------------------------------------------------------------------

    def show_slots(self, tileset_name: str, places: list[tuple[int, int]]) -> None:
        """Show what is known of these."""
        self.tileset_name, self.places = tileset_name, places
        self.refresh()

    def tileset(self) -> TileSet | None:
        """Whose slots they are; None once it was taken away."""
        return self.session.project.tilesets.get(self.tileset_name)

    def slots(self) -> list[Slot]:
        """What is known of each."""
        tileset = self.tileset()
        return [slot_at(tileset, at) for at in self.places] if tileset is not None else []

    def refresh(self, dirty: object = None) -> None:
        """Show the marked slots as they are now; what differs among them is said so."""
        if not self.isVisible() and self.title.text():
            return
        slots, tileset = self.slots(), self.tileset()
        self.pixels.setVisible(len(slots) == 1)
        for part in (self.name, self.tags, self.top, self.frames, self.time, *self.flags.values()):
            part.setEnabled(bool(slots))
        if not slots or tileset is None:
            self.title.setText("Mark slots on the sheet")
            self.preview.show_frames([], 250)
            self._show_uses([])
            return
        one = len(slots) == 1
        name = tileset.name_at(self.places[0])
        self.title.setText(f"Slot {name}" if one else f"{len(slots)} slots")
        self.name.setEnabled(one)
        self.frames.setEnabled(one)
        _show(self.name, [name] if one else [""])
        _show(self.tags, [", ".join(slot.tags) for slot in slots])
        _show(self.top, [f"{slot.top:g}" for slot in slots])
        _show(self.time, [str(slot.frame_ms) for slot in slots])
        _show(self.frames, [" ".join(f"{y},{x}" for y, x in slot.frames) for slot in slots])
        for field, box in self.flags.items():
            values = {bool(getattr(slot, field)) for slot in slots}
            box.setTristate(len(values) > 1)
            box.setCheckState(Qt.CheckState.PartiallyChecked if len(values) > 1 else (
                Qt.CheckState.Checked if True in values else Qt.CheckState.Unchecked))  # fmt: skip
        pictures = [tileset.pixels(at) for at in (self.places[0], *slots[0].frames)]
        self.preview.show_frames(pictures, slots[0].frame_ms)
        self._show_uses(list(slot_uses(self.session.project, tileset.name, name)) if one else [])

    def _show_uses(self, found: list[SlotUse]) -> None:
        while (item := self.uses.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        for use in found[:_MOST_USES]:
            where = f"{use.room}: {use.cells:,} cells" if use.room else use.name
            button = QPushButton(f"{where} ›")
            button.setObjectName("plain")
            button.setToolTip("Go there")
            button.clicked.connect(lambda _, u=use: self.asked.emit(u))
            self.uses.addWidget(button)
        more = len(found) - _MOST_USES
        words = f"and {more} more" if more > 0 else "" if found else "nothing lays it"
        if words and len(self.places) == 1:
            self.uses.addWidget(QLabel(words))

    # --- setting --------------------------------------------------------------------------

    def _set(self, **changes: Any) -> None:
        self.session.try_(set_slots, self.tileset_name, self.places, **changes)
        self.refresh()

    def _flag(self, field: str) -> None:
        mixed = len({getattr(slot, field) for slot in self.slots()}) > 1
        on = not mixed and not getattr(self.slots()[0], field) if self.slots() else False
        self._set(**{field: True if mixed else on})

    def _rename(self) -> None:
        tileset, new = self.tileset(), self.name.text().strip()
        if tileset is not None and len(self.places) == 1:
            old = tileset.name_at(self.places[0])
            if new and new != old:
                self.session.try_(rename_slot, self.tileset_name, old, new)
            self.refresh()

    def _tag(self) -> None:
        if self.tags.text() != self.tags.placeholderText() and self.tags.isModified():
            tags = (word.strip() for word in self.tags.text().split(","))
            self._set(tags=tuple(dict.fromkeys(word for word in tags if word)))

    def _number(self, field: str, edit: QLineEdit, kind: Callable[[str], Any]) -> None:
        if not edit.isModified():
            return
        try:
            value = kind(edit.text().replace(",", "."))
        except ValueError:
            label = edit.accessibleName()
            self.session.said.emit(f"{label} is a number, not “{edit.text()}”")
            self.refresh()
            return
        self._set(**{field: value})

    def _set_frames(self) -> None:
        if not self.frames.isModified():
            return
        try:
            pairs = [word.split(",") for word in self.frames.text().split()]
            frames = tuple((int(y), int(x)) for y, x in pairs)
        except ValueError:
            self.session.said.emit(f"Frames are places such as 3,0 3,1, not “{self.frames.text()}”")
            self.refresh()
            return
        self._set(frames=frames)


def _show(edit: QLineEdit, values: list[str]) -> None:
    """The value of all of them, or that they differ."""
    if edit.hasFocus() and edit.isModified():
        return
    same = len(set(values)) == 1
    edit.setText(values[0] if same else "")
    edit.setPlaceholderText("" if same else _MIXED)
    edit.setModified(False)


class _Preview(QWidget):
    """The slot large, three by three as it repeats, its frames playing."""

    def __init__(self) -> None:
        super().__init__()
        self._frames: list[Any] = []
        self._ms = 250
        self.setFixedHeight(104)
        self.setAccessibleName("Preview of the slot")
        self._clock = QTimer(self)
        self._clock.setInterval(60)
        self._clock.timeout.connect(self.update)

    def show_frames(self, pictures: list[Any], frame_ms: int) -> None:
        """Show these in turn."""
        self._frames, self._ms = [pixmap_of(picture) for picture in pictures], frame_ms
        if len(pictures) > 1:
            self._clock.start()
        else:
            self._clock.stop()
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if not self._frames:
            return
        painter = QPainter(self)
        number = int(time.monotonic() * 1000 // self._ms) % len(self._frames)
        picture = self._frames[number]
        ratio = picture.height() / max(1, picture.width())
        side = min(96.0, 96 / max(ratio, 0.2))
        large = QRectF(0, 2, side, side * ratio)
        painter.fillRect(large, style.ink("panel2"))
        painter.drawPixmap(large, picture, QRectF(picture.rect()))
        for row in range(3):
            for column in range(3):
                part = QRectF(112 + column * side / 3, 2 + row * side * ratio / 3, side / 3,
                              side * ratio / 3)  # fmt: skip
                painter.drawPixmap(part, picture, QRectF(picture.rect()))
