"""Making new brushes: from a sheet, from a picture, or a field of a prefab in hand."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QColorDialog, QFileDialog, QMenu

from topion.brushes import FieldBrush, Sown, ThingsBrush
from topion.brushes.library import put_brush, put_prefab
from topion.brushes.models import with_brush
from topion.errors import TopionError
from topion.model.edit import joined
from topion.model.prefab import Prefab
from topion.model.solid import Block
from topion.pictures.png import read_png_file
from topion.things.rules import KeepsCells

if TYPE_CHECKING:
    from topion.view.window import Window


class NewBrush:
    """The menu behind “+ New brush”."""

    def __init__(self, window: Window) -> None:
        self.window = window

    def menu(self) -> QMenu:
        menu = QMenu(self.window)
        menu.addAction("Stamp, mosaic or weave from a sheet…", self.window.show_sheets)
        menu.addAction("Thing from a picture…", self.ask_picture)
        menu.addAction("Block of one colour…", self.ask_colour)
        menu.addAction("Block, thing or cells from a mesh…", self.window.files.ask_mesh)
        field = menu.addAction("Field of the thing in hand", self.field_of_hand)
        if field is not None:
            field.setEnabled(self._thing_in_hand() is not None)
        return menu

    def _thing_in_hand(self) -> Any:
        session = self.window.session
        brush = session.project.brushes.get(session.hands[session.shown_hand])
        return brush if brush is not None and brush.kind == "things" else None

    def ask_picture(self) -> None:
        path, _ = QFileDialog.getOpenFileName(
            self.window, "A picture of the thing", "", "PNG (*.png)"
        )
        if path:
            self.thing_from(Path(path))

    def thing_from(self, path: Path) -> None:
        """A prefab that stands on the lowest visible row of the picture, and its brush."""
        session = self.window.session
        project = session.project
        try:
            picture = read_png_file(path)
            _, width = picture.size_px
            cells = max(1, round(width / (session.room.info.cell_px if session.has_room else 16)))
            prefab = Prefab(
                _free(path.stem, set(project.prefabs) | set(project.brushes)),
                picture,
                (_lowest_row(picture.rgba), _anchor_x(width, cells)),
                ("#" * cells,),
                mirrors=True,
                rules=(KeepsCells(),),
            )
            brush = ThingsBrush(prefab.name, prefab.name)
            edits = [put_prefab(project, prefab), put_brush(project, brush)]
            session.apply(joined(f"New thing {prefab.name}", edits))
        except TopionError as problem:
            self.window.say(str(problem))
            return
        session.take("left", prefab.name)
        self.window.rack.show_bay("Things")

    def ask_colour(self) -> None:
        colour = QColorDialog.getColor(QColor("#a5533b"), self.window, "Colour of the block")
        if colour.isValid():
            self.block_of(colour.name())

    def block_of(self, colour: str) -> None:
        """A block of one colour, and the brush that lays it."""
        session = self.window.session
        project = session.project
        name = _free("Block", {*project.brushes, *project.blocks})
        if session.try_(with_brush, Block(name, colour)):
            session.take("left", name)
            self.window.rack.show_bay("Built")

    def field_of_hand(self) -> None:
        """A field that sows the prefab of the things brush in hand."""
        thing = self._thing_in_hand()
        if thing is None:
            return
        session = self.window.session
        name = _free(f"{thing.prefab} field", set(session.project.brushes))
        brush = FieldBrush(name, (Sown(thing.prefab),), spacing=1.5)
        if session.try_(put_brush, brush):
            session.take("left", name)
            self.window.rack.show_bay("Fields")


def _free(stem: str, taken: set[str]) -> str:
    if stem not in taken:
        return stem
    return next(n for n in (f"{stem} {i}" for i in range(2, 10_000)) if n not in taken)


def _lowest_row(rgba: np.ndarray) -> int:
    """One below the lowest row with a visible pixel."""
    rows = np.flatnonzero(rgba[..., 3].any(axis=1))
    return int(rows[-1]) + 1 if len(rows) else rgba.shape[0]


def _anchor_x(width: int, cells: int) -> int:
    """The px column over the middle of the thing's own cell, the left one of two middles."""
    return round(width / cells * ((cells - 1) // 2 + 0.5))
