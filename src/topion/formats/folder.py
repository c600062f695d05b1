"""The project folder `NAME.topion/`: written for version control, read in stages.

project.json                  names, tables of materials and tiles, bays
tilesets/NAME.json .png       cut and slots; the sheet as it was brought in
brushes/NAME.json
blocks/NAME.json              with the rows of its model, if it has one
prefabs/NAME.json .png        the same
rooms/NAME/room.json          settings, layers from bottom to top
rooms/NAME/ID.material.rows   materials of a layer of tiles or blocks, one line a row; the rows
                              of a voxel room follow level by level, the lowest first
rooms/NAME/ID.pinned.rows     tiles laid by hand, if any; all others follow from the rules.  Of
                              blocks, 32 times the number of the block, and its turn
rooms/NAME/ID.density.rows    of a field layer, 0 to 255, seen from above
rooms/NAME/ID.things.json     one thing a line
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import quote

import numpy as np

import topion.things.rules  # noqa: F401  (registers the kinds of rules)
from topion.brushes.looms import loom_of
from topion.errors import BadFile, TopionError
from topion.formats.saving import finish_save, inside, write_folder
from topion.formats.text import json_lines, json_text, parse_json, read_record
from topion.grid.orient import TURNS
from topion.grid.runs import BadRows, rows_to_text, text_to_rows
from topion.model.brush import Brush
from topion.model.picture import Picture
from topion.model.plain import to_plain
from topion.model.prefab import PlacementRule, Prefab, Thing, Turns
from topion.model.project import MOST_MATERIALS, MOST_TILES, Bay, Project
from topion.model.room import FULL_DENSITY, PLANES, Layer, LayerInfo, Room, RoomInfo
from topion.model.solid import MOST_BLOCKS, Block, VoxelModel, block_ref
from topion.model.tileset import Cut, Slot, TileRef, TileSet
from topion.pictures.png import read_bytes, read_png_file
from topion.weaving.block_loom import looks_of

FORMAT = 1
SUFFIX = ".topion"
_MOST_TEXT = 1 << 26
_OWNED = re.compile(
    r"(project\.json|(tilesets|prefabs)/[^/]+\.(json|png)|(brushes|blocks)/[^/]+\.json"
    r"|rooms/[^/]+/[^/]+\.(json|rows))"
)
Step = Callable[[str], None]
_NO_PICTURE = Picture(np.zeros((1, 1, 4), np.uint8), b"")


@dataclass(frozen=True)
class _Index:
    """project.json"""

    format: int
    name: str
    rooms: tuple[str, ...] = ()
    tilesets: tuple[str, ...] = ()
    prefabs: tuple[str, ...] = ()
    brushes: tuple[str, ...] = ()
    materials: tuple[str, ...] = ()
    bays: tuple[Bay, ...] = ()
    tiles: tuple[TileRef, ...] = ()
    block_names: tuple[str, ...] = ()


@dataclass(frozen=True)
class _Sheet:
    """tilesets/NAME.json"""

    name: str
    cut: Cut
    slots: dict[str, Slot] = field(default_factory=dict)


@dataclass(frozen=True)
class _PrefabFile:
    """prefabs/NAME.json: a Prefab without its picture"""

    name: str
    anchor_px: tuple[int, int]
    footprint: tuple[str, ...] = ("#",)
    class_name: str = ""
    turns: Turns = "none"
    mirrors: bool = False
    rules: tuple[PlacementRule, ...] = ()
    height: int = 1
    model: VoxelModel | None = None

    def __post_init__(self) -> None:
        self.with_picture(_NO_PICTURE)  # raises BadValue for what a Prefab would refuse

    def with_picture(self, picture: Picture) -> Prefab:
        return Prefab(picture=picture, **{f: getattr(self, f) for f in self.__dataclass_fields__})


@dataclass(frozen=True)
class _ThingLine(Thing):
    """One line of ID.things.json: a thing and its number"""

    id: int = 0


@dataclass(frozen=True)
class _LayerLine:
    id: str
    layer: LayerInfo


@dataclass(frozen=True)
class _RoomFile:
    """rooms/NAME/room.json"""

    room: RoomInfo
    layers: tuple[_LayerLine, ...] = ()


def stem(name: str) -> str:
    """A file name for any name: letters, digits, blank, - and _ stay, the rest is escaped."""
    return quote(name, safe=" -_").replace(".", "%2E")


# --- writing ------------------------------------------------------------------------------


def write_project(project: Project, folder: Path, each: Step | None = None) -> None:
    """Save the whole project.  Raises CannotSave with the old state whole."""
    write_folder(folder, _files(project), lambda name: bool(_OWNED.fullmatch(name)), each)


def _files(project: Project) -> Iterator[tuple[str, bytes]]:
    for tileset in project.tilesets.values():
        path = f"tilesets/{stem(tileset.name)}"
        yield f"{path}.json", _text(to_plain(_Sheet(tileset.name, tileset.cut, tileset.slots)))
        yield f"{path}.png", tileset.sheet.png
    for prefab in project.prefabs.values():
        path = f"prefabs/{stem(prefab.name)}"
        plain = to_plain(prefab)
        del plain["picture"]
        yield f"{path}.json", _text(plain)
        yield f"{path}.png", prefab.picture.png
    for block in project.blocks.values():
        yield f"blocks/{stem(block.name)}.json", _text(to_plain(block))
    for brush in project.brushes.values():
        yield f"brushes/{stem(brush.name)}.json", _text(to_plain(brush))
    for room in project.rooms.values():
        yield from _room_files(room)
    index = _Index(
        FORMAT,
        project.name,
        tuple(project.rooms),
        tuple(project.tilesets),
        tuple(project.prefabs),
        tuple(project.brushes),
        project.materials,
        project.bays,
        project.tiles,
        project.block_names,
    )
    yield "project.json", _text({"format": FORMAT, **to_plain(index)})


def _room_files(room: Room) -> Iterator[tuple[str, bytes]]:
    path = f"rooms/{stem(room.info.name)}"
    lines = tuple(_LayerLine(layer_id, layer.info) for layer_id, layer in room.bottom_up())
    yield f"{path}/room.json", _text(to_plain(_RoomFile(room.info, lines)))
    for layer_id, layer in room.bottom_up():
        for name, cells in stored_planes(layer).items():
            if name != "pinned" or cells.any():
                yield f"{path}/{layer_id}.{name}.rows", b"".join(rows_to_text(as_rows(cells)))
        if layer.info.kind == "things":
            yield f"{path}/{layer_id}.things.json", json_lines(things_plain(layer)).encode()


def stored_planes(layer: Layer) -> dict[str, np.ndarray]:
    """The arrays that cannot be derived: materials, what is pinned, density."""
    planes = layer.planes
    if "pinned" not in planes:
        return dict(planes)
    laid = planes["tile"] if "tile" in planes else looks_of(planes["block"], planes["turn"])
    pinned = np.where(planes["pinned"], laid, 0).astype(np.uint16)
    return {"material": planes["material"], "pinned": pinned}


def as_rows(cells: np.ndarray) -> np.ndarray:
    """(…, h, w) cells as (n, w) rows, level by level."""
    return cells.reshape(-1, cells.shape[-1])


def things_plain(layer: Layer) -> list[dict[str, Any]]:
    """Things as records with their number."""
    return [{"id": number, **to_plain(thing)} for number, thing in sorted(layer.things.items())]


def _text(plain: Any) -> bytes:
    return json_text(plain).encode()


# --- reading ------------------------------------------------------------------------------


def read_project(folder: Path, each: Step | None = None) -> Project:
    """Read a project folder whole, or raise BadFile and build nothing."""
    if not folder.is_dir():
        raise BadFile(folder, "is not a project folder" if folder.exists() else "is missing")
    if not (folder / "project.json").exists():
        raise BadFile(folder, "holds no project.json, so it is not a project")
    finish_save(folder)
    reader = _Reader(folder, each or (lambda _: None))
    return reader.project()


class _Reader:
    def __init__(self, folder: Path, each: Step) -> None:
        self.folder, self.each = folder, each

    def _bytes(self, name: str) -> bytes:
        self.each(name)
        try:
            return read_bytes(inside(self.folder, name), _MOST_TEXT * 4)
        except BadFile as problem:
            raise BadFile(name, problem.reason) from None

    def _record(self, wanted: Any, name: str) -> Any:
        return read_record(wanted, self._bytes(name), name)

    def _picture(self, name: str) -> Picture:
        self.each(name)
        path = inside(self.folder, name)
        try:
            return read_png_file(path)
        except BadFile as problem:
            raise BadFile(name, problem.reason, problem.place) from None

    def project(self) -> Project:
        data = self._bytes("project.json")
        head = parse_json(data, "project.json")
        found = head.get("format") if isinstance(head, dict) else None
        if isinstance(found, int) and found > FORMAT:
            raise BadFile(
                "project.json", f"has format {found}, but this Topion reads up to {FORMAT}"
            )
        index: _Index = read_record(_Index, data, "project.json")
        if index.format != FORMAT:
            raise BadFile("project.json", f"has format {index.format}, which is not known")
        if len(index.materials) > MOST_MATERIALS or len(index.tiles) > MOST_TILES:
            raise BadFile("project.json", "lists more materials or tiles than can be told apart")
        if len(index.block_names) > MOST_BLOCKS:
            raise BadFile("project.json", f"lists more than {MOST_BLOCKS} blocks")
        project = Project(
            index.name,
            materials=index.materials,
            tiles=index.tiles,
            bays=index.bays,
            block_names=index.block_names,
        )
        for name in index.tilesets:
            project.tilesets[name] = self._tileset(name)
        for name in index.prefabs:
            project.prefabs[name] = self._prefab(name)
        for name in index.block_names:
            project.blocks[name] = self._named(Block, "blocks", name)
        for name in index.brushes:
            project.brushes[name] = self._named(Brush, "brushes", name)
        check_library(project, "project.json")
        for name in index.rooms:
            project.rooms[name] = self._room(project, name)
        return project

    def _named(self, wanted: Any, shelf: str, name: str) -> Any:
        path = f"{shelf}/{stem(name)}.json"
        found = self._record(wanted, path)
        _check_name(found.name, name, path)
        return found

    def _tileset(self, name: str) -> TileSet:
        path = f"tilesets/{stem(name)}"
        sheet: _Sheet = self._named(_Sheet, "tilesets", name)
        picture = self._picture(f"{path}.png")
        try:
            return TileSet(name, picture, sheet.cut, sheet.slots)
        except TopionError as problem:
            raise BadFile(f"{path}.json", str(problem)) from None

    def _prefab(self, name: str) -> Prefab:
        path = f"prefabs/{stem(name)}"
        picture = self._picture(f"{path}.png")
        known: _PrefabFile = self._named(_PrefabFile, "prefabs", name)
        return known.with_picture(picture)

    def _room(self, project: Project, name: str) -> Room:
        path = f"rooms/{stem(name)}"
        record: _RoomFile = self._record(_RoomFile, f"{path}/room.json")
        _check_name(record.room.name, name, f"{path}/room.json")
        room = Room(record.room)
        for line in record.layers:
            if line.id in room.layers or not re.fullmatch(r"[\w-]+", line.id):
                raise BadFile(f"{path}/room.json", f"layer id “{line.id}” is taken or not allowed")
            room.layers[line.id] = self._layer(project, room, line, f"{path}/{line.id}")
        room.order = tuple(room.layers)
        return room

    def _layer(self, project: Project, room: Room, line: _LayerLine, path: str) -> Layer:
        info, size = line.layer, room.info.size
        if info.kind == room.info.cells_kind:
            material = self._rows(f"{path}.material.rows", size, len(project.materials))
            pinned = np.zeros(size, np.uint16)
            if (self.folder / f"{path}.pinned.rows").exists():
                pinned = self._rows(f"{path}.pinned.rows", size, highest_pinned(project, info))
            return checked_layer(project, info, material, pinned, f"{path}.pinned.rows")
        if "material" in PLANES[info.kind]:
            where = f"{path.rsplit('/', 1)[0]}/room.json"
            raise BadFile(where, f"layer {info.name} is of {info.kind}, but the room is not")
        if info.kind == "field":
            density = self._rows(f"{path}.density.rows", room.info.plan, FULL_DENSITY)
            return Layer(info, {"density": density.astype(np.uint8)})
        data = self._bytes(f"{path}.things.json")
        return Layer(info, {}, read_things(data, f"{path}.things.json"))

    def _rows(self, name: str, size: tuple[int, ...], highest: int) -> np.ndarray:
        data = self._bytes(name)
        try:
            rows = (math.prod(size[:-1]), size[-1])
            cells = text_to_rows(data, rows, highest=highest, each_strip=lambda: self.each(name))
            return cells.reshape(size)
        except BadRows as problem:
            raise BadFile(name, problem.reason, f"line {problem.line}") from None


def highest_pinned(project: Project, info: LayerInfo) -> int:
    """The largest number that may stand for a pinned tile or block."""
    return len(project.tiles) if info.kind == "tiles" else len(project.block_names) << 5 | TURNS


def checked_layer(
    project: Project, info: LayerInfo, material: np.ndarray, pinned: np.ndarray, file: str
) -> Layer:
    """A layer from what is stored: tiles and blocks follow from the rules unless pinned."""
    loom = loom_of(project, info.kind)
    planes = loom.planes(np.where(pinned, pinned, loom.whole(material)).astype(np.uint16))
    if "turn" in planes:
        bad = (planes["turn"] >= TURNS) | (planes["block"] > len(project.block_names))
        bad |= (pinned > 0) & (planes["block"] == 0)
        if bad.any():
            number = int(pinned[bad][0])
            line = int(np.argmax(as_rows(bad).any(axis=1))) + 1
            raise BadFile(file, f"{number} stands for no block and turn", f"line {line}")
    return Layer(info, {"material": material, **planes, "pinned": (pinned > 0).astype(np.uint8)})


def read_things(data: bytes, file: str) -> dict[int, Thing]:
    """Things by number from a list of records; BadFile names the line."""
    lines: tuple[_ThingLine, ...] = read_record(tuple[_ThingLine, ...], data, file)
    things: dict[int, Thing] = {}
    for number, line in enumerate(lines):
        if not 0 < line.id < 1 << 31:
            raise BadFile(file, f"{line.id} is no number for a thing", f"line {number + 2}")
        if line.id in things:
            raise BadFile(file, f"thing {line.id} is listed twice", f"line {number + 2}")
        values = {key: getattr(line, key) for key in Thing.__dataclass_fields__}
        things[line.id] = Thing(**values)
    return things


def check_library(project: Project, file: str) -> None:
    """Every name one part of the library uses for another must be known.  Raises BadFile."""
    try:
        for ref in project.tiles:
            project.tileset(ref.tileset).slot(ref.slot)
        known = {*project.tiles, *map(block_ref, project.block_names)}
        for block in project.blocks.values():
            for ref in block.faces:
                project.tileset(ref.tileset).slot(ref.slot)
        for brush in project.brushes.values():
            if brush.material and brush.material not in project.materials:
                raise BadFile(file, f"material “{brush.material}” of a brush is not listed")
            used = (block_ref(ref.slot) if ref.is_block else ref for ref in brush.tiles_used())
            missing = next((ref for ref in used if ref not in known), None)
            if missing:
                name = f"{missing.tileset or 'block'} {missing.slot}"
                raise BadFile(file, f"tile {name} is not listed")
    except BadFile:
        raise
    except TopionError as problem:
        raise BadFile(file, str(problem)) from None


def _check_name(found: str, wanted: str, file: str) -> None:
    if found != wanted:
        raise BadFile(file, f"is named “{found}” inside, but it is listed as “{wanted}”")
