"""The right column of the tile set desk: what is known of the marked slots."""

from __future__ import annotations

import time
from typing import Any

from PyQt6.QtCore import QRectF, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QPushButton, QWidget

from topion.edit.slots import rename_slot, set_slots, slot_at, slot_uses
from topion.model.tileset import Slot, TileSet
from topion.view import style
from topion.view.desks.trait_side import TraitSide, show_values
from topion.view.session import Session
from topion.view.table.compose import pixmap_of


class SlotSide(TraitSide):
    """Signals: pixels_asked((row, column)) to paint one."""

    pixels_asked = pyqtSignal(object)

    def __init__(self, session: Session) -> None:
        self.tileset_name = ""
        self.places: list[tuple[int, int]] = []
        super().__init__(session)
        self.pixels = QPushButton("pixels ›")
        self.pixels.setObjectName("plain")
        self.pixels.setAccessibleName("Paint its pixels")
        self.pixels.setToolTip("Paint the pixels and the tint mask of this slot")
        self.pixels.clicked.connect(lambda _: self.pixels_asked.emit(self.places[0]))
        self.head.addWidget(self.pixels)

    def add_preview(self) -> None:
        self.preview = _Preview()
        self.column.addWidget(self.preview)

    def add_rows(self) -> None:
        self.frames = self.text("Frames", "Further pictures of an animation, as row,column "
                                "row,column …", self._set_frames)  # fmt: skip
        self.time = self.text("Frame, ms", "How long each picture stays",
                              lambda: self.set_number("frame_ms", self.time, int))  # fmt: skip

    # --- showing --------------------------------------------------------------------------

    def show_slots(self, tileset_name: str, places: list[tuple[int, int]]) -> None:
        """Show what is known of these."""
        self.tileset_name, self.places = tileset_name, places
        self.refresh()

    def tileset(self) -> TileSet | None:
        """Whose slots they are; None once it was taken away."""
        return self.session.project.tilesets.get(self.tileset_name)

    def items(self) -> list[Slot]:
        tileset = self.tileset()
        return [slot_at(tileset, at) for at in self.places] if tileset is not None else []

    def own_name(self) -> str:
        tileset = self.tileset()
        one = tileset is not None and len(self.places) == 1
        return tileset.name_at(self.places[0]) if one and tileset is not None else ""

    def refresh(self, dirty: object = None) -> None:
        if not self.isVisible() and self.title.text():
            return
        slots, tileset, name = self.items(), self.tileset(), self.own_name()
        self.pixels.setVisible(bool(name))
        for part in (self.frames, self.time):
            part.setEnabled(bool(name) or (part is self.time and bool(slots)))
        self.show_traits()
        if not slots or tileset is None:
            self.title.setText("Mark slots on the sheet")
            self.preview.show_frames([], 250)
            self.show_uses([], of_one=False)
            return
        self.title.setText(f"Slot {name}" if name else f"{len(slots)} slots")
        show_values(self.time, [str(slot.frame_ms) for slot in slots])
        show_values(self.frames, [" ".join(f"{y},{x}" for y, x in slot.frames) for slot in slots])
        pictures = [tileset.pixels(at) for at in (self.places[0], *slots[0].frames)]
        self.preview.show_frames(pictures, slots[0].frame_ms)
        uses = slot_uses(self.session.project, tileset.name, name) if name else ()
        self.show_uses(list(uses), of_one=bool(name))

    # --- setting --------------------------------------------------------------------------

    def set_all(self, **changes: Any) -> None:
        self.session.try_(set_slots, self.tileset_name, self.places, **changes)
        self.refresh()

    def rename(self, old: str, new: str) -> None:
        self.session.try_(rename_slot, self.tileset_name, old, new)

    def _set_frames(self) -> None:
        if not self.frames.isModified():
            return
        try:
            pairs = [word.split(",") for word in self.frames.text().split()]
            frames = tuple((int(y), int(x)) for y, x in pairs)
        except ValueError:
            self.session.said.emit(f"Frames are places such as 3,0 3,1, not “{self.frames.text()}”")
            self.frames.setModified(False)
            self.refresh()
            return
        self.set_all(frames=frames)


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
