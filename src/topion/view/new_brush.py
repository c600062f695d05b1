"""Making new brushes: from a sheet, from a picture, or a field of a prefab in hand."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage
from PyQt6.QtWidgets import QColorDialog, QFileDialog, QFrame, QLabel, QVBoxLayout, QWidget

from topion.brushes import CurveBrush, Echo, FieldBrush, Sown, TintBrush
from topion.brushes.kind import brush_or_none
from topion.brushes.region import RegionBrush
from topion.edit.library import free_name, put_brush
from topion.edit.models import with_brush
from topion.edit.prefabs import prefab_of_picture, with_thing_brush
from topion.errors import TopionError
from topion.model.curve import CurvePart
from topion.model.scrap import Scrap
from topion.model.solid import Block
from topion.pictures.png import read_png_file
from topion.render.cards import card_picture, colour_card
from topion.render.examples import example_of
from topion.things.field import Sows
from topion.view import style
from topion.view.files import Files
from topion.view.hands import HANDS
from topion.view.host import Host
from topion.view.panels.look_tiles import TILE_PX, Choice, LookTiles
from topion.view.session import Session
from topion.view.table.compose import image_of
from topion.view.turns import Turns


@dataclass(frozen=True)
class Way:
    """A way to a new brush.  kinds : of brushes, a picture of which shows what is laid.
    needs : what must be there first; nothing where it can be done."""

    name: str
    detail: str
    kinds: tuple[str, ...]
    does: Callable[[], object]
    needs: str = ""


class NewBrush:
    """What stands behind “+ New brush”."""

    def __init__(self, window: QWidget, host: Host, files: Files) -> None:
        self.window, self.host, self._files = window, host, files
        self.cards = NewBrushCards(window)
        self.cards.closed.connect(host.to_table)

    def show(self, button: QWidget) -> None:
        """The ways to a new brush, with pictures, above the button."""
        self.cards.show_ways(self.ways(), self.host.session, button)

    def ways(self) -> list[Way]:
        """What can be made of what."""
        sheets, picked = self.host.show_sheets, self.host.session.picking.area is not None
        return [
            Way("Weave", "Rules choose each tile by its neighbours; of slots of a sheet",
                ("weave", "inlay"), sheets),
            Way("Mosaic", "One of several tiles by chance, or a pattern; of slots of a sheet",
                ("mosaic",), sheets),
            Way("Panel, run, trail, ramp", "Shapes that stay editable; of slots of a sheet",
                ("panel", "run", "trail", "ramp"), sheets),
            Way("Stamp", "A block of tiles as it lies on the sheet", ("stamp",), sheets),
            Way("Thing", "A prefab that stands where it is put; of a picture", ("things",),
                self.ask_picture),
            Way("Field", "Sows the thing in hand by density", ("field",), self.field_of_hand,
                "" if self._placed_in_hand() else "Take a thing in hand first"),
            Way("Curve", "A smooth line that stays editable, and what stands along it", ("curve",),
                self.curve),
            Way("Echo", "Fills in the manner of the picked area", ("echo", "weave"),
                self.echo_of_picked, "" if picked else "Pick an area with the lasso first"),
            Way("Tint", "Colours of the palette over what is there", ("tint",), self.tint),
            Way("Region", "A named area that rules, conditions and cameras speak of", ("region",),
                self.region),
            Way("Block", "A block of one colour, for voxel rooms", ("mosaic",), self.ask_colour),
            Way("Mesh", "A block, a thing or cells of an open mesh", ("crate", "things"),
                self._files.ask_mesh),
        ]  # fmt: skip

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
            name = free_name(path.stem, project.prefabs, project.brushes)
            px = session.room.info.cell_px if session.has_room else 16
            prefab = prefab_of_picture(name, read_png_file(path), px)
            session.apply(with_thing_brush(project, prefab))
        except TopionError as problem:
            self.host.say(str(problem))
            return
        session.hands.take("left", prefab.name)
        self.host.show_bay("Things")

    def curve(self) -> None:
        """A curve, along which the thing in hand stands, if there is one."""
        session, prefab = self.host.session, self._placed_in_hand()
        name = free_name(f"{prefab} line" if prefab else "Curve", session.project.brushes)
        brush = CurveBrush(name, (CurvePart(prefab),) if prefab else ())
        if session.try_(put_brush, brush):
            session.hands.take("left", name)
            session.gestures.use("curve")
            self.host.show_bay("Things")

    def region(self) -> None:
        """A region of a name of its own, drawn with the left hand."""
        session = self.host.session
        name = free_name("Region", session.project.brushes)
        if session.try_(put_brush, RegionBrush(name)):
            session.hands.take("left", name)
            self.host.show_bay("Regions")

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
        scrap = self._sample()
        if scrap is None:
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

    def _sample(self) -> Scrap | None:
        """The cells of the area that is picked: of the worked layer, or of all where that has none
        there; says so where there is nothing at all."""
        picking = self.host.session.picking
        if picking.area is None:
            self.host.say("Pick an area with the lasso (S) first: it is the sample")
            return None
        over, found = picking.over, picking.scrap()
        if found is None or not any(layer.planes for layer in found.layers):
            picking.set_over("all layers")
            found = picking.scrap()
            picking.set_over(over)
        return found

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


class NewBrushCards(QFrame):
    """The ways to a new brush, each with what such a brush lays in this project.
    Signals: closed()."""

    closed = pyqtSignal()

    def __init__(self, window: QWidget) -> None:
        super().__init__(window, Qt.WindowType.Popup)
        self.setObjectName("popup")
        self.ways: list[Way] = []
        self._session: Session | None = None
        self.pictures: dict[object, QImage | None] = {}
        self.tiles = LookTiles("New brush", self._picture, self._take, self._tell)
        self._turns = Turns(self, self.tiles.update)
        self.told = QLabel()
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 8, 10)
        title = QLabel("New brush · what it lays")
        title.setFont(style.heading())
        for part in (title, self.tiles, self.told):
            column.addWidget(part)
        self.tiles.setFixedWidth(5 * (TILE_PX[1] + 10))

    def show_ways(self, ways: list[Way], session: Session, button: QWidget) -> None:
        """Show these above a button."""
        self.ways = ways
        self.pictures.clear()
        self._session = session
        self._turns.later()
        self.tiles.show_choices([
            Choice(n, way.name, detail=way.needs or way.detail, dim=bool(way.needs))
            for n, way in enumerate(ways)
        ])  # fmt: skip
        self._tell(0)
        self.adjustSize()
        corner = button.mapToGlobal(QPoint(button.width() - self.width(), -self.height() - 6))
        self.move(max(0, corner.x()), max(0, corner.y()))
        self.show()
        self.tiles.setFocus()

    def _picture(self, key: object) -> QImage | None:
        """None while others are drawn."""
        if key not in self.pictures and self._session is not None:
            way, session = self.ways[int(str(key))], self._session
            made = self._turns.make(lambda: (_picture_of(way, session),))
            if made is None:
                return None
            self.pictures[key] = made[0]
        return self.pictures.get(key)

    def hideEvent(self, event: object) -> None:
        self.closed.emit()

    def _take(self, key: object) -> None:
        way = self.ways[int(str(key))]
        if way.needs:
            self._tell(key)
            return
        self.hide()
        way.does()

    def _tell(self, key: object) -> None:
        """What the way that is pointed at makes, or what it needs first."""
        way = self.ways[int(str(key))]
        told = f"{way.detail}. <b>{way.needs}.</b>" if way.needs else f"{way.detail}."
        self.told.setText(f"<b>{way.name}</b> &nbsp;{told}")


def _picture_of(way: Way, session: Session) -> QImage | None:
    """What the first brush of those kinds lays; voxel ones for blocks and meshes."""
    project, deep = session.project, way.name in ("Block", "Mesh")
    for kind in way.kinds:
        brush = example_of(project, kind, deep=deep)
        if brush is not None:
            rgba = card_picture(project, brush, flat=not deep)
            high, wide = rgba.shape[:2]
            tall = min(high, max(1, round(wide * TILE_PX[0] / TILE_PX[1])))
            top = (high - tall) // 2
            return image_of(np.ascontiguousarray(rgba[top : top + tall]))
    return None if way.name != "Tint" else image_of(colour_card("#cf4a25", "#23786f"))
