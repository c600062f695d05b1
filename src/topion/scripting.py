"""The core as a script sees it: open a project, lay strokes, ask why, render, save.

The command line, the demo and the window use the same few calls.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, Literal
from uuid import uuid4

import numpy as np

from topion.brushes import BrushKind, Lift, ThingsBrush
from topion.brushes.gestures import Gesture, GestureKind
from topion.brushes.kind import brush_named
from topion.brushes.marks import Marks, Place
from topion.brushes.scraps import box_round
from topion.edit.clips import clip_of, conflicts, taken_in, usual_anchor
from topion.edit.growing import planned
from topion.edit.history import History as History
from topion.edit.history import Moment
from topion.edit.library import BAYS, put_block, put_brush, put_prefab, put_tileset
from topion.edit.lock import InUse, PathLock
from topion.edit.models import block_of_model, lay_model
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
from topion.errors import BadValue, NameTaken, TopionError, UnknownName
from topion.formats.folder import read_project
from topion.formats.meshes.read import Up
from topion.formats.meshes.voxels import model_from_file
from topion.formats.sheet import bring_in
from topion.formats.stamps_in import clip_of_file, clip_of_room
from topion.formats.store import SUFFIX, Store
from topion.formats.writing import Promise, save_frozen, take_over
from topion.grid.areas import Area
from topion.grid.arrays import Positions, Rgba
from topion.grid.lines import box_between
from topion.model.calls import checks_calls
from topion.model.edit import Edit, joined, written
from topion.model.layer import LayerInfo, LayerKind
from topion.model.prefab import Prefab, Thing
from topion.model.project import Project
from topion.model.room import Room, RoomInfo
from topion.model.shelves import SHELVES, Bay
from topion.model.solid import Block, VoxelModel
from topion.model.tileset import Cut, TileSet
from topion.model.typed import NAME
from topion.render.eye import View
from topion.render.portraits import model_prefab
from topion.render.scene import render_room
from topion.render.solid_scene import solid_bands
from topion.survey import Finding, Ledger
from topion.things.ground import Ground, Spots
from topion.things.sowing import Tally
from topion.things.sowings import sowing_of
from topion.things.verdict import Verdict, verdict
from topion.weaving.looms import loom_for
from topion.weaving.settle import shown_materials, shown_ref, shown_tiles, woven_layers
from topion.weaving.why import Why

Cell = tuple[int, ...]
_FARTHEST = 1e6  # cells: rooms are smaller, and lines longer than that are a mistake


@checks_calls
class ProjectHandle:
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

    def import_mesh(
        self,
        path: str | Path,
        name: str,
        size: int,
        into: Literal["prefab", "block", "room"] = "prefab",
        *,
        room: str = "",
        corner: tuple[int, int, int] = (0, 0, 0),
        up: Up | None = None,
        step: Callable[[str], object] = lambda _: None,
    ) -> VoxelModel:
        """Bring in a mesh as voxels, `size` along its longest side, as one Edit.

        into : a prefab of 16 voxels a cell with a brush that places it; a block; or cells of
        the voxel room `room` from `corner` on, or of a new room of its own.
        Raises BadFile, BadValue, NameTaken.
        """
        model = model_from_file(Path(path), size, up=up, step=step)
        self.history.apply(plan_model(self.data, name, model, into, room, corner))
        return model

    def import_stamp(
        self,
        path: str | Path,
        name: str,
        *,
        size: int = 32,
        levels: int = 16,
        up: Up | None = None,
        material: str = "",
        room: str = "",
        step: Callable[[str], object] = lambda _: None,
    ) -> BrushKind:
        """Bring something in as a stamp, as one Edit: a mesh, `size` cells along its longest side;
        an `.npy` array; a folder of PNG slices; a grey PNG as heights, white being `levels`; or,
        with `room`, a room of the project at `path`.

        material : all cells are of it; else each colour comes as a block with its brush.
        Raises BadFile, BadValue, NameTaken, UnknownName.
        """
        if name in self.data.brushes:
            raise NameTaken("brush", name)
        if material:
            self.data.material_id(material)
        if room:
            clip = clip_of_room(Path(path), room)
        else:
            clip = clip_of_file(Path(path), name, size=size, levels=levels, up=up,
                                material=material, step=step)  # fmt: skip
        different = conflicts(self.data, clip)
        if different:
            raise NameTaken(SHELVES[different[0][0]].word, different[0][1])
        self.history.apply(taken_in(self.data, clip, "ours", name))
        return brush_named(self.data, name)

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


def fresh_id() -> str:
    """An id that no other project has."""
    return uuid4().hex[:16]


@dataclass
class Saving:
    """What a save writes: the project as it was at a moment.  store : once it is written."""

    project: Project
    moment: Moment
    folder: Path
    over: bool = False
    store: Store | None = None

    def write(
        self, each: Callable[[str], None] | None = None, promise: Promise | None = None
    ) -> Saving:
        """Slow.  Raises what `save_frozen` raises."""
        self.store = save_frozen(self.project, self.folder, each, over=self.over, promise=promise)
        return self


@checks_calls
@dataclass(frozen=True, eq=False)
class RoomHandle:
    """A room of an open project.  Every call that changes it is one Edit."""

    project: ProjectHandle
    name: str

    @property
    def data(self) -> Room:
        return self.project.data.room(self.name)

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
        marks = self._marks(known, place, way)
        return planned(known, place, replace(marks, strength=strength, override=override))

    def lift(self, only: str | None = None, nib: int = 1, **way: Any) -> Edit:
        """Remove what meets the marked cells: everything, or what the brush `only` lays."""
        if only:
            self.project.data.brush(only)
        return self.lay(Lift(only=only or "", nib=nib), **way)

    def _marks(self, brush: BrushKind, place: Place, way: dict[str, object]) -> Marks:
        kinds = ("cells", "line", "box", "flood", "curve")
        given: dict[str, Any] = {key: way[key] for key in kinds if way.get(key) is not None}
        if len(given) != 1:
            raise BadValue(
                "the way of the stroke", sorted(given), "one of cells, line, box, flood or curve"
            )
        kind, value = next(iter(given.items()))
        points = _points(kind, value, place.room.info.size)
        if kind == "cells":
            return Marks(np.floor(points + 0.5).astype(np.intp))
        options = {k: bool(way.get(k)) for k in ("outline", "corners", "everywhere")}
        gesture_kind: GestureKind = kind  # type: ignore[assignment]
        return Gesture(gesture_kind, **options).marks(points, flooded_cells(place, brush))

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

    def render(self, scale: float = 1.0, layer: str | None = None) -> Rgba:
        """(h, w, 4) uint8, straight alpha: all shown layers, or one alone."""
        layer_id = self.data.id_of(layer) if layer else None
        return render_room(self.project.data, self.data, scale, layer_id)

    def _check_axes(self, at: tuple[float, ...]) -> None:
        if len(at) != len(self.size):
            raise BadValue("the place", at, f"{len(self.size)} numbers in {self.name}")

    def _check_cell(self, cell: Cell) -> None:
        self._check_axes(cell)
        if not all(0 <= v < side for v, side in zip(cell, self.size, strict=True)):
            size = " × ".join(map(str, self.size))
            raise BadValue("the cell", cell, f"inside {self.name}, {size} cells")


def _points(kind: str, value: Any, size: Cell) -> Positions:
    """(n, axes) positions of a stroke, or of the cells of a mask as large as the room."""
    if isinstance(value, np.ndarray) and value.dtype == bool:
        if kind != "cells" or value.shape != size:
            told = " × ".join(map(str, size))
            raise BadValue(f"the {kind} of the stroke", value, f"positions, or a mask of {told}")
        return np.argwhere(value).astype(np.float64)
    axes = "(z, y, x)" if len(size) == 3 else "(y, x)"
    try:
        points = np.array([value] if kind == "flood" else list(value), np.float64)
        points = points.reshape(len(points), len(size))
        if not (np.abs(points) <= _FARTHEST).all() or (kind == "box" and len(points) != 2):
            raise ValueError
    except (TypeError, ValueError, OverflowError):
        what = f"two corners {axes}" if kind == "box" else f"positions {axes} in cells"
        raise BadValue(f"the {kind} of the stroke", value, what) from None
    return points


def plan_model(
    project: Project,
    name: str,
    model: VoxelModel,
    into: str,
    room: str = "",
    corner: tuple[int, int, int] = (0, 0, 0),
) -> Edit:
    """The Edit that makes a model a prefab, a block, or cells of a room; see `import_mesh`."""
    if into == "block":
        return block_of_model(project, name, model)
    if into == "prefab":
        if name in project.prefabs or name in project.brushes:
            raise NameTaken("prefab or brush", name)
        prefab = model_prefab(name, model)
        put = put_prefab(project, prefab)
        known = project.with_items("prefabs", {name: prefab})
        return joined(put.label, (put, put_brush(known, ThingsBrush(name, name))))
    if into != "room":
        raise UnknownName("way to bring in a mesh", into, ("prefab", "block", "room"))
    if room:
        return lay_model(project, room, name, model, corner)
    info = RoomInfo(name, model.size)
    made = add_room(project, info, (LayerInfo("Blocks", "blocks"), LayerInfo("Things", "things")))
    known = project.scratch()
    list(written(known, [made]))
    return joined(f"Bring in {name}", (made, lay_model(known, name, name, model, (0, 0, 0))))


def flooded_cells(place: Place, brush: BrushKind) -> np.ndarray:
    """What a flood with this brush compares: the layer it lays on, or what lies uppermost."""
    room = place.room
    if brush.material:
        _, layer = place.cells_layer(brush.layer)
        return shown_materials(place.project, layer)
    top = np.zeros(room.info.size, np.uint16)
    for _, layer in room.cell_layers():
        material = shown_materials(place.project, layer)
        np.copyto(top, material, where=material > 0)
    return top


def why_cell(project: Project, room: Room, layer_id: str, cell: Cell) -> Why | None:
    """Why a cell of a tile layer shows its tile; a pinned tile has no rule."""
    layer = room.layers[layer_id]
    material = shown_materials(project, layer)
    if layer.plane("pinned")[cell]:
        name = project.material_name(int(material[cell]))
        return Why(name, 0, "pinned", 0, False, 0, 1, shown_ref(project, layer, cell), name)
    return loom_for(project, layer).why(material, *cell, first=layer.from_origin((0,) * len(cell)))


def new(path: str | Path | None = None, name: str = "") -> ProjectHandle:
    """A new project; saved at once if a path is given.  Raises TopionError if one is there."""
    folder = Path(path) if path is not None else None
    title = name or (name_of(folder) if folder else "Untitled")
    if not NAME.holds(title):
        raise BadValue("the name of the project", title, NAME.wanted)
    project = Project(title, bays=tuple(Bay(bay) for bay in BAYS))
    handle = ProjectHandle(project, None)
    handle.add_brush(Lift(), "Stamps")
    handle.history = History(project)
    if folder is not None:
        if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
            raise TopionError(f"{folder} is there already and not empty")
        handle.save(folder)
    return handle


def name_of(folder: Path) -> str:
    """What a project in that folder is called, whatever letters that has."""
    text = folder.name.removesuffix(SUFFIX).encode("utf-8", "replace").decode()
    return text.strip() or "Untitled"


def open(path: str | Path, each: Callable[[str], None] | None = None) -> ProjectHandle:
    """Open a project folder.  Raises BadFile and builds nothing if it is not sound."""
    folder = Path(path)
    return ProjectHandle(read_project(folder, each), folder)
