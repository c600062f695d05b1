"""Making new brushes: from a sheet, from a picture, or a field of a prefab in hand."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QColorDialog, QFileDialog, QMenu, QWidget

from topion.brushes import Echo, FieldBrush, Sown, ThingsBrush, TintBrush
from topion.brushes.kind import brush_or_none
from topion.edit.library import free_name, put_brush, put_prefab
from topion.edit.models import with_brush
from topion.errors import TopionError
from topion.model.edit import joined
from topion.model.prefab import Prefab
from topion.model.solid import Block
from topion.pictures.png import read_png_file
from topion.things.field import Sows
from topion.things.rules import KeepsCells
from topion.view.files import Files
from topion.view.hands import HANDS
from topion.view.host import Host


class NewBrush:
    """The menu behind “+ New brush”."""

    def __init__(self, window: QWidget, host: Host, files: Files) -> None:
        self.window, self.host, self._files = window, host, files

    def menu(self) -> QMenu:
        """What can be made of what."""
        menu = QMenu(self.window)
        menu.addAction("Stamp, mosaic, weave or shape from a sheet…", self.host.show_sheets)
        menu.addAction("Thing from a picture…", self.ask_picture)
        menu.addAction("Block of one colour…", self.ask_colour)
        menu.addAction("Block, thing or cells from a mesh…", self._files.ask_mesh)
        menu.addAction("Tint of palette colours", self.tint)
        echo = menu.addAction("Echo of the area that is picked", self.echo_of_picked)
        if echo is not None:
            echo.setEnabled(self.host.session.picking.area is not None)
        field = menu.addAction("Field of the thing in hand", self.field_of_hand)
        if field is not None:
            field.setEnabled(bool(self._placed_in_hand()))
        return menu

    def _placed_in_hand(self) -> str:
        """The prefab that the brush in hand places one by one; nothing for other brushes."""
        session = self.host.session
        brush = brush_or_none(session.project, session.hands[session.hands.shown])
        if brush is None or isinstance(brush, Sows):
            return ""
        return next(iter(brush.places()), "")

    def ask_picture(self) -> None:
        """Ask for a picture of a thing."""
        path, _ = QFileDialog.getOpenFileName(
            self.window, "A picture of the thing", "", "PNG (*.png)"
        )
        if path:
            self.thing_from(Path(path))

    def thing_from(self, path: Path) -> None:
        """A prefab that stands on the lowest visible row of the picture, and its brush."""
        session = self.host.session
        project = session.project
        try:
            picture = read_png_file(path)
            _, width = picture.size_px
            cells = max(1, round(width / (session.room.info.cell_px if session.has_room else 16)))
            prefab = Prefab(
                free_name(path.stem, project.prefabs, project.brushes),
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
            self.host.say(str(problem))
            return
        session.hands.take("left", prefab.name)
        self.host.show_bay("Things")

    def ask_colour(self) -> None:
        """Ask for the colour of a block."""
        colour = QColorDialog.getColor(QColor("#a5533b"), self.window, "Colour of the block")
        if colour.isValid():
            self.block_of(colour.name())

    def block_of(self, colour: str) -> None:
        """A block of one colour, and the brush that lays it."""
        session = self.host.session
        project = session.project
        name = free_name("Block", project.brushes, project.blocks)
        if session.try_(with_brush, Block(name, colour)):
            session.hands.take("left", name)
            self.host.show_bay("Built")

    def tint(self) -> None:
        """A brush that tints, in both hands: left foreground, right background."""
        session = self.host.session
        brush = TintBrush(free_name("Tint", session.project.brushes), 1, 2)
        if not session.try_(put_brush, brush):
            return
        for hand in HANDS:
            session.hands.take(hand, brush.name)
        session.hands.show("left")
        self.host.show_bay("Looks")
        if not session.project.palette:
            session.asked.emit("looks")
            self.host.say("Add colours to the palette, or import some, then paint with them")

    def echo_of_picked(self) -> None:
        """A brush that fills in the manner of the area that is picked."""
        session = self.host.session
        scrap = session.picking.scrap()
        if scrap is None:
            self.host.say("Pick an area with the lasso (S) first: it is the sample")
            return
        name = free_name("Echo", session.project.brushes)
        try:
            brush = Echo(name, scrap)
        except TopionError as problem:
            self.host.say(str(problem))
            return
        if session.try_(put_brush, brush):
            session.picking.pick()
            session.gestures.use("box")
            session.hands.take("left", name)
            self.host.show_bay(brush.bay)

    def field_of_hand(self) -> None:
        """A field that sows the prefab of the things brush in hand."""
        prefab = self._placed_in_hand()
        if not prefab:
            return
        session = self.host.session
        name = free_name(f"{prefab} field", session.project.brushes)
        brush = FieldBrush(name, (Sown(prefab),), spacing=1.5)
        if session.try_(put_brush, brush):
            session.hands.take("left", name)
            self.host.show_bay("Fields")


def _lowest_row(rgba: np.ndarray) -> int:
    """One below the lowest row with a visible pixel."""
    rows = np.flatnonzero(rgba[..., 3].any(axis=1))
    return int(rows[-1]) + 1 if len(rows) else rgba.shape[0]


def _anchor_x(width: int, cells: int) -> int:
    """The px column over the middle of the thing's own cell, the left one of two middles."""
    return round(width / cells * ((cells - 1) // 2 + 0.5))
