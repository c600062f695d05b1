"""Open projects and their rooms as scripts see them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, Literal

import numpy as np

from topion.brushes import BrushKind, Lift
from topion.brushes.kind import brush_named
from topion.brushes.marks import Place
from topion.brushes.scraps import box_round
from topion.edit.clips import clip_of, taken_in, usual_anchor
from topion.edit.growing import planned
from topion.edit.history import History as History
from topion.edit.library import put_block, put_brush, put_prefab, put_tileset
from topion.edit.lock import InUse, PathLock
from topion.edit.names import UsedBy, copy_item, rename_item, used_by
from topion.edit.picked import Picks, scrap_of, taken_by_layer
from topion.edit.picking import entries_in
from topion.edit.rooms import (
    add_layer,
    add_room,
    remove_layer,
    remove_room,
    resize_room,
    set_layer,
    usual_layers,
)
from topion.edit.wear import put_theme_sheet, set_palette
from topion.errors import BadValue, NameTaken, UnknownName
from topion.formats.sheet import bring_in
from topion.formats.writing import take_over
from topion.grid.areas import Area
from topion.grid.arrays import Rgba
from topion.grid.lines import box_between
from topion.model.calls import checks_calls
from topion.model.edit import Edit
from topion.model.layer import LayerInfo, LayerKind
from topion.model.palette import with_tint
from topion.model.prefab import Prefab, Thing
from topion.model.project import Project
from topion.model.room import Room, RoomInfo
from topion.model.solid import Block
from topion.model.theme_sheet import ThemeSheet
from topion.model.tileset import Cut, TileSet
from topion.render.eye import View
from topion.render.scene import render_room
from topion.render.solid_scene import solid_bands
from topion.render.wear import worn
from topion.scripting.imports import Imports
from topion.scripting.looks import RoomLooks
from topion.scripting.saving import Saving, fresh_id
from topion.scripting.strokes import Cell, marks_of, why_cell
from topion.survey import Finding, Ledger
from topion.things.ground import Ground, Spots
from topion.things.sowings import sowing_of
from topion.things.sown import Tally
from topion.things.verdict import Verdict, verdict
from topion.weaving.looms import loom_for
from topion.weaving.settle import shown_materials, shown_tiles, woven_layers
from topion.weaving.why import Why


@checks_calls
class ProjectHandle(Imports):
    """A project with its history and its folder."""

    def __init__(self, project: Project, folder: Path | None = None) -> None:
        self.data = project
        self.folder = folder
        self.history = History(project)
        self.ledger = Ledger()
        self.locked: Path | None = None  # the folder that a window holds the lock of

    @property
    def name(self) -> str:
        return self.data.name

    def rooms(self) -> tuple[str, ...]:
        return tuple(self.data.rooms)

    def room(self, name: str) -> RoomHandle:
        """Raises UnknownName."""
        self.data.room(name)
        return RoomHandle(self, name)

    def ready_room(self, name: str) -> Room:
        """Read a room that was not in use yet, and settle what a view of it needs at once.

        Slow for large rooms, so windows call it on a thread.  Raises UnknownName and BadFile.
        """
        room = self.data.room(name)
        for _, layer in woven_layers(room):
            loom_for(self.data, layer)  # compiled by whoever asks first
            if room.info.axes == 3:  # rays ask for all cells of it
                shown_tiles(self.data, layer)
        return room

    def add_room(
        self,
        name: str,
        size: Cell = (40, 64),
        cell_px: int = 16,
        layers: Iterable[tuple[str, LayerKind]] = (),
        seen: Literal["top", "side"] = "top",
        metres: float = 1.0,
        grows: bool = False,
    ) -> RoomHandle:
        """A new room, flat for a size of (y, x) cells and voxel for (z, y, x).

        layers : names and kinds from bottom to top; one for cells and one for things by default.
        grows : strokes past its edge make it larger.
        """
        info = RoomInfo(name, size, cell_px, seen, metres=metres, grows=grows)
        asked = tuple(LayerInfo(n, kind) for n, kind in layers)
        self.history.apply(add_room(self.data, info, asked or usual_layers(info)))
        return self.room(name)

    def remove_room(self, name: str) -> None:
        self.history.apply(remove_room(self.data, name))

    def add_sheet(self, path: str | Path, name: str = "", cut: Cut | None = None) -> TileSet:
        """Bring in a tile sheet; without a cut the proposed one."""
        tileset = bring_in(Path(path), name or Path(path).stem, cut)
        self.history.apply(put_tileset(self.data, tileset))
        return tileset

    def add_tileset(self, tileset: TileSet) -> None:
        self.history.apply(put_tileset(self.data, tileset))

    def add_block(self, block: Block) -> None:
        """Add a block, or change the one of that name."""
        self.history.apply(put_block(self.data, block))

    def add_brush(self, brush: BrushKind, bay: str = "") -> None:
        """Add a brush to the rack, or change the one of that name."""
        self.history.apply(put_brush(self.data, brush, bay))

    def add_prefab(self, prefab: Prefab) -> None:
        """Add a prefab, or change the one of that name."""
        self.history.apply(put_prefab(self.data, prefab))

    def add_tint(self, name: str, colour: str, bright: str = "") -> int:
        """A colour of the palette; its number.  Raises BadValue when the palette is full."""
        palette = with_tint(self.data.palette, name, colour, bright)
        self.history.apply(set_palette(self.data, palette, f"New colour {palette[-1].name}"))
        return palette[-1].number

    def add_theme(self, sheet: ThemeSheet) -> None:
        """The sheet of a theme, in place of the one that is there."""
        self.history.apply(put_theme_sheet(self.data, sheet))

    def rename(self, shelf: str, old: str, new: str) -> None:
        """Give an item of a shelf (`brushes`, `prefabs` …) another name, wherever it is used."""
        self.history.apply(rename_item(self.data, shelf, old, new))

    def used_by(self, shelf: str, name: str) -> list[UsedBy]:
        """What uses that item, or the material of that name with `materials`."""
        return list(used_by(self.data, shelf, name))

    def take_from(self, other: ProjectHandle, shelf: str, name: str) -> None:
        """Take an item of another project, with all that it uses there.  Raises NameTaken."""
        self.history.apply(copy_item(other.data, self.data, shelf, name))

    def undo(self) -> bool:
        """False if there is nothing to undo."""
        return self.history.undo()

    def redo(self) -> bool:
        return self.history.redo()

    def check(self) -> list[Finding]:
        """The findings of the survey."""
        self.ledger.bring_up_to_date(self.data)
        return self.ledger.findings(self.data)

    def save(
        self,
        path: str | Path | None = None,
        each: Callable[[str], None] | None = None,
        *,
        over: bool = False,
    ) -> Path:
        """Write the project folder; `path` for a first or another one.

        over : also over another project, and over what others changed in the folder.
        Raises InUse if a window has it open, and what `save_frozen` raises.
        """
        saving = self.saving(path, over=over)
        lock = PathLock(saving.folder)
        if saving.folder.resolve() != self.locked and not lock.take():
            raise InUse(saving.folder)
        try:
            return self.saved(saving.write(each))
        finally:
            lock.release()

    def saving(self, path: str | Path | None = None, *, over: bool = False) -> Saving:
        """A save of what is there now, to be written on a thread while work goes on; to be told
        to `saved` when it is done."""
        folder = Path(path) if path is not None else self.folder
        if folder is None:
            raise BadValue("the folder to save to", None, "given, as the project has none yet")
        if not self.data.id and (self.history.changed or self.folder is None):
            self.data.id = fresh_id()
        return Saving(self.data.frozen(), self.history.moment(), folder, over)

    def saved(self, saving: Saving) -> Path:
        """That save is done; the project lies in its folder."""
        if saving.store is not None:
            take_over(self.data, saving.store)
        self.folder = saving.folder
        self.history.mark_saved(saving.moment)
        return saving.folder


@checks_calls
@dataclass(frozen=True, eq=False)
class RoomHandle(RoomLooks):
    """A room of an open project.  Every call that changes it is one Edit."""

    project: ProjectHandle
    name: str

    @property
    def data(self) -> Room:
        return self.project.data.room(self.name)

    @property
    def opened(self) -> ProjectHandle:
        """Its project."""
        return self.project

    @property
    def size(self) -> Cell:
        """(h, w) of a flat room, (d, h, w) of a voxel room."""
        return self.data.info.size

    def add_layer(self, name: str, kind: LayerKind, above: str = "") -> None:
        above_id = self.data.id_of(above) if above else ""
        self.project.history.apply(
            add_layer(self.project.data, self.name, LayerInfo(name, kind), above_id)
        )

    def set_layer(self, name: str, **changes: object) -> None:
        """Change shown, locked, opacity, offset or name of a layer."""
        self.project.history.apply(
            set_layer(self.project.data, self.name, self.data.id_of(name), **changes)
        )

    def resize(self, size: Cell, shift: Cell = ()) -> None:
        """Another size in cells; see `edit.rooms.resize_room`."""
        self.project.history.apply(
            resize_room(self.project.data, self.name, tuple(size), tuple(shift))
        )

    def remove_layer(self, name: str) -> None:
        self.project.history.apply(
            remove_layer(self.project.data, self.name, self.data.id_of(name))
        )

    # --- strokes --------------------------------------------------------------------------

    def lay(
        self,
        brush: str | BrushKind,
        *,
        cells: Iterable[Iterable[float]] | None = None,
        line: tuple[Cell, Cell] | None = None,
        box: tuple[Cell, Cell] | None = None,
        flood: Cell | None = None,
        curve: Iterable[Iterable[float]] | None = None,
        strength: float = 1.0,
        layer: str = "",
        override: bool = False,
        outline: bool = False,
        corners: bool = False,
        everywhere: bool = False,
    ) -> Edit:
        """Lay one stroke: exactly one of `cells`, `line`, `box` (corners, both included), `flood`
        (start) or `curve` (points it goes through; of a trail its corners).  Lines and curves have
        the nib or radius of the brush; cells are just those.

        Positions are (y, x) in a flat room and (z, y, x) in a voxel room, where a flood takes
        6-neighbours in all of space.

        strength : scales what a field lays.  layer : instead of the one the brush prefers.
        override : things are laid even where a rule refuses.
        Returns the Edit, empty if nothing changed.  Raises UnknownName, BadValue.
        """
        edit = self.plan(
            brush,
            cells=cells,
            line=line,
            box=box,
            flood=flood,
            curve=curve,
            strength=strength,
            layer=layer,
            override=override,
            outline=outline,
            corners=corners,
            everywhere=everywhere,
        )
        self.project.history.apply(edit)
        return edit

    def plan(
        self,
        brush: str | BrushKind,
        *,
        strength: float = 1.0,
        layer: str = "",
        override: bool = False,
        **way: object,
    ) -> Edit:
        """What `lay` would do, without doing it."""
        if not 0 <= strength <= 1:
            raise BadValue("the strength", strength, "0 to 1")
        known = brush_named(self.project.data, brush) if isinstance(brush, str) else brush
        place = Place(self.project.data, self.name, self.data.id_of(layer) if layer else "")
        if layer and known.layer:  # an explicit layer beats the brush's home
            known = known.at_home(layer)
        marks = marks_of(known, place, way)
        return planned(known, place, replace(marks, strength=strength, override=override))

    def lift(self, only: str | None = None, nib: int = 1, **way: Any) -> Edit:
        """Remove what meets the marked cells: everything, or what the brush `only` lays."""
        if only:
            self.project.data.brush(only)
        return self.lay(Lift(only=only or "", nib=nib), **way)

    def keep_stamp(
        self,
        name: str,
        box: tuple[Cell, Cell],
        layers: Iterable[str] = (),
        *,
        anchor: Cell = (),
        entries: bool = True,
    ) -> BrushKind:
        """Keep what lies in a box (corners, both included) as a stamp on the rack, as one Edit.

        layers : names of those whose cells it takes, all by default.  anchor : the cell of the room
        by which it is held, the usual one by default.  entries : whether things and pieces come.
        Raises BadValue for nothing, NameTaken, UnknownName.
        """
        data, room = self.project.data, self.data
        if name in data.brushes:
            raise NameTaken("brush", name)
        area = Area.of_box(box_between(*box))
        ids = tuple(room.id_of(layer) for layer in layers) or room.order
        found = entries_in(data, room, area) if entries else ()
        scrap = scrap_of(data, self.name, Picks(found, area, ids))
        if scrap is None:
            raise BadValue(f"what lies in {box} of {self.name}", "nothing", "something to keep")
        whole = box_round(room, area, taken_by_layer(Picks(found)))
        held = tuple(a - b for a, b in zip(anchor, whole.lo, strict=True)) if anchor else (
            usual_anchor(scrap, room.info.view))  # fmt: skip
        clip = clip_of(data, scrap, name, held)
        self.project.history.apply(taken_in(data, clip, "ours", name))
        return brush_named(self.project.data, name)

    # --- answers --------------------------------------------------------------------------

    def why(self, *cell: int, layer: str = "") -> Why | None:
        """Why the uppermost tile or block at a cell is what it is; None where nothing lies."""
        self._check_cell(cell)
        layers = reversed(self.data.cell_layers())
        for layer_id, known in layers:
            if (not layer or known.info.name == layer) and shown_materials(
                self.project.data, known
            )[cell]:
                return why_cell(self.project.data, self.data, layer_id, cell)
        return None

    def tally(self, field: str) -> Tally:
        """Wanted, placed and refused of the field layer that sows brush (or layer) `field`."""
        for layer_id, layer in self.data.bottom_up("field"):
            if field in (layer.info.brush, layer.info.name):
                return sowing_of(self.project.data, self.data, layer_id).tally
        known = [layer.info.brush for _, layer in self.data.bottom_up("field")]
        raise UnknownName(f"field in {self.name}", field, known)

    def sown(self, field: str) -> list[Thing]:
        """The things that field layer sows."""
        for layer_id, layer in self.data.bottom_up("field"):
            if field in (layer.info.brush, layer.info.name):
                sowing = sowing_of(self.project.data, self.data, layer_id)
                return [sowing.thing(row) for row in range(len(sowing))]
        raise UnknownName(f"field in {self.name}", field, [])

    def things(self, layer: str = "") -> list[Thing]:
        """The placed things, of all layers or one."""
        return [
            thing
            for _, known in self.data.bottom_up("things")
            if not layer or known.info.name == layer
            for thing in known.things.values()
        ]

    def verdict(
        self, prefab: str, *at: float, turn: float = 0.0, mirrored: bool = False
    ) -> Verdict:
        """May the prefab stand at that position?"""
        known = self.project.data.prefab(prefab)
        self._check_axes(at)
        spots = Spots(known, np.array([at], np.float64), turn, mirrored)
        return verdict(Ground(self.project.data, self.data), spots)

    def material(self, *cell: int, layer: str = "") -> str:
        """The uppermost material at a cell, or of one layer; empty text for none."""
        self._check_cell(cell)
        for _, known in reversed(self.data.cell_layers()):
            number = int(shown_materials(self.project.data, known)[cell])
            if number and (not layer or known.info.name == layer):
                return self.project.data.material_name(number)
        return ""

    def view(
        self,
        view: View = "south-east",
        size: tuple[int, int] = (800, 1280),
        perspective: bool = False,
    ) -> Rgba:
        """(h, w, 4) uint8: a voxel room from one of the fixed views, in a picture of that size."""
        data = self.project.data
        return solid_bands(data, self.data, view=view, size=size, perspective=perspective).whole()

    def render(
        self,
        scale: float = 1.0,
        layer: str | None = None,
        theme: str | None = None,
        tint: str | None = None,
    ) -> Rgba:
        """(h, w, 4) uint8, straight alpha: all shown layers, or one alone; in a theme or a tint
        map, by name, other than it is worn in."""
        layer_id = self.data.id_of(layer) if layer else None
        shown = worn(self.project.data, self.data, theme, tint)
        return render_room(self.project.data, shown, scale, layer_id)

    def _check_axes(self, at: tuple[float, ...]) -> None:
        if len(at) != len(self.size):
            raise BadValue("the place", at, f"{len(self.size)} numbers in {self.name}")

    def _check_cell(self, cell: Cell) -> None:
        self._check_axes(cell)
        if not all(0 <= v < side for v, side in zip(cell, self.size, strict=True)):
            size = " × ".join(map(str, self.size))
            raise BadValue("the cell", cell, f"inside {self.name}, {size} cells")
