"""The right column of the tile set desk: what is known of the marked slots."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QPushButton

from topion.edit.slots import drawn_heights, rename_slot, set_slots, slot_at, slot_uses
from topion.model.tileset import Slot, TileSet
from topion.view.desks.parts import Switches, add_row
from topion.view.desks.slot_preview import SlotPreview
from topion.view.desks.trait_side import TraitSide, show_values
from topion.view.session import Session

_SLOPES = {"level": 0, "line": 2, "curve": 5}  # heights of the top


class SlotSide(TraitSide):
    """Signals: pixels_asked((row, column)) to paint one, pointing(on) while frames are pointed
    at on the sheet."""

    pixels_asked = pyqtSignal(object)
    pointing = pyqtSignal(bool)

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
        self.preview = SlotPreview()
        self.preview.pulled = lambda heights: self.set_all(heights=heights)
        self.column.addWidget(self.preview)

    def add_rows(self) -> None:
        self.slope = Switches(_SLOPES)
        self.slope.setToolTip("How its top runs from left to right; its points are dragged on the "
                              "picture")  # fmt: skip
        self.slope.chosen = self._set_slope
        add_row(self.grid, "Top runs", self.slope)
        self.frames = self.add_text("Frames", "Further pictures of an animation, as row,column "
                                "row,column …", self._set_frames)  # fmt: skip
        self.point = QPushButton("point at them")
        self.point.setCheckable(True)
        self.point.setToolTip("Click the frames on the sheet, one after the other; a frame that is "
                              "clicked again goes")  # fmt: skip
        self.point.toggled.connect(self.pointing.emit)
        add_row(self.grid, "", self.point)
        self.grid.setAlignment(self.point, Qt.AlignmentFlag.AlignLeft)
        self.time = self.add_text("Frame, ms", "How long each picture stays",
                              lambda: self.set_number("frame_ms", self.time, int))  # fmt: skip

    # --- showing --------------------------------------------------------------------------

    def show_slots(self, tileset_name: str, places: list[tuple[int, int]]) -> None:
        """Show what is known of these."""
        if (tileset_name, places) != (self.tileset_name, self.places):
            self.point.setChecked(False)
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
        self.frames.setEnabled(bool(name))
        self.point.setEnabled(bool(name))
        self.time.setEnabled(bool(slots))
        self.slope.setEnabled(bool(slots))
        self.show_traits()
        if not slots or tileset is None:
            self.title.setText("Mark slots on the sheet")
            self.preview.show_frames([], 250)
            self.preview.show_heights(())
            self.show_uses([], of_one=False)
            return
        self.title.setText(f"Slot {name}" if name else f"{len(slots)} slots")
        show_values(self.time, [str(slot.frame_ms) for slot in slots])
        show_values(self.frames, [" ".join(f"{y},{x}" for y, x in slot.frames) for slot in slots])
        pictures = [tileset.pixels(at) for at in (self.places[0], *slots[0].frames)]
        self.slope.show_value(len(slots[0].heights) if len(slots[0].heights) < 3 else 5)
        self.preview.show_heights(slots[0].heights)
        self.preview.show_frames(pictures, slots[0].frame_ms)
        uses = slot_uses(self.session.project, tileset.name, name) if name else ()
        self.show_uses(list(uses), of_one=bool(name))

    # --- setting --------------------------------------------------------------------------

    def set_all(self, **changes: Any) -> None:
        self.session.try_(set_slots, self.tileset_name, self.places, **changes)
        self.refresh()

    def rename(self, old: str, new: str) -> None:
        self.session.try_(rename_slot, self.tileset_name, old, new)

    def _set_slope(self, count: int) -> None:
        """A level top, or a line or a curve that begins as what is there, or as what is drawn."""
        slots, tileset = self.items(), self.tileset()
        if not slots or tileset is None:
            return
        known = slots[0].heights
        heights = drawn_heights(tileset.pixels(self.places[0]), count) if count else ()
        if known and count:
            at = np.linspace(0, 1, count)
            heights = tuple(np.interp(at, np.linspace(0, 1, len(known)), known).tolist())
        self.set_all(heights=heights, slope=bool(count))

    def point_at(self, place: tuple[int, int]) -> None:
        """One more frame of the animation, or one less."""
        slots = self.items()
        if len(slots) != 1 or place == self.places[0]:
            return
        frames = slots[0].frames
        less = tuple(at for at in frames if at != place)
        self.set_all(frames=less if len(less) < len(frames) else (*frames, place))

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
