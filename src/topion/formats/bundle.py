"""One JSON file with the whole project, for other programs; its schema is published."""

from __future__ import annotations

import json
from collections.abc import Iterable
from pathlib import Path

import numpy as np

import topion.brushes
import topion.things.rules  # noqa: F401  (registers the kinds of rules)
from topion.errors import BadFile
from topion.formats.layer_files import (
    as_rows,
    check_pinned,
    entries_plain,
    is_written,
    read_entries,
)
from topion.formats.room_files import check_kind, check_memory, highest_number
from topion.formats.schema import Definitions
from topion.formats.text import json_text, misplaced, parse_json
from topion.grid.boxes import Box
from topion.grid.runs import BadRows, rows_to_text, text_to_rows
from topion.model.conflict import Conflict
from topion.model.layer import KINDS_OF_LAYERS, Layer, LayerInfo
from topion.model.plain import BadPlain, JsonRecord, from_plain, to_plain
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.model.room import Room, RoomInfo
from topion.model.shelves import TABLES, shelves
from topion.model.sound import NotSound, check_library, highest
from topion.pictures.png import read_bytes
from topion.things.sowings import sowing_of
from topion.weaving.settle import shown_over, shown_tiles, tile_planes

FORMAT = "topion-bundle"
VERSION = 1
_ROWS = {
    "type": "array",
    "items": {"type": "string", "pattern": r"^([0-9]+(\*[0-9]+)?( [0-9]+(\*[0-9]+)?)*)?$"},
    "description": "One text a row, north to south; of a voxel room level by level, the lowest "
    "first. `12*0 3*5 7` stands for twelve cells 0, three cells 5 and one cell 7.",
}
_LATER = (
    "palette",
    "former",
    "themes",
    "classes",
    "figures",
    "recordings",
    "accepted",
    "unasked",
    "placements",
    "legends",
    "conflicts",
)  # that bundles of earlier versions do not have
_OPTIONAL = (
    "inlay",
    "fore",
    "back",
    "bright",
    "inside",
    "size",
)  # planes left out where there are none
_SHOWN = ("tile", "over", "block", "turn")  # written for other programs; settled again when read


def schema() -> JsonRecord:
    """The JSON Schema of a bundle."""
    known = Definitions()
    tables = {name: known.of(table.kind) for name, table in TABLES.items()}
    items = {shelf.name: {"type": "array", "items": known.of(shelf.item)} for shelf in shelves()}
    room = {
        "type": "object",
        "required": ["room", "layers"],
        "properties": {
            "room": known.of(RoomInfo),
            "layers": {"type": "array", "items": _layer_schema(known)},
            "conflicts": known.of(tuple[Conflict, ...]),
        },
        "additionalProperties": False,
    }
    keys = ("format", "version", *TABLES, *items, "rooms")
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Topion bundle, version {VERSION}",
        "description": "A whole Topion project in one file. Materials, tiles and blocks stand in "
        "cells by their place in `materials`, `tiles` and `block_names`, from 1; 0 is nothing.",
        "type": "object",
        "required": [key for key in keys if key not in _LATER],
        "properties": {
            "format": {"const": FORMAT},
            "version": {"const": VERSION},
            **tables,
            **items,
            "rooms": {"type": "array", "items": room},
        },
        "additionalProperties": False,
        "$defs": known.made,
    }


def _layer_schema(known: Definitions) -> JsonRecord:
    planes = {plane for kind in KINDS_OF_LAYERS.values() for plane in kind.planes}
    tables = {}
    for name, kind in {n: t for k in KINDS_OF_LAYERS.values() for n, t in k.tables.items()}.items():
        entry = known.record(kind, more={"id": {"type": "integer"}})
        entry["required"].append("id")
        tables[name] = {"type": "array", "items": entry}
    return {
        "type": "object",
        "required": ["id", "layer"],
        "properties": {
            "id": {"type": "string"},
            "layer": known.of(LayerInfo),
            **dict.fromkeys((*sorted(planes), *_SHOWN), _ROWS),
            **tables,
            "sown": {"type": "array", "items": known.of(Thing)},
        },
        "additionalProperties": False,
    }


def bundle_plain(project: Project, rooms: Iterable[str] | None = None) -> JsonRecord:
    """The project as JSON values; `rooms` picks some of its rooms."""
    names = tuple(project.rooms) if rooms is None else rooms
    for name in names:
        project.room(name)  # raises UnknownName
    plain = {
        "format": FORMAT,
        "version": VERSION,
        **{name: to_plain(getattr(project, name)) for name in TABLES},
        **{
            shelf.name: [to_plain(item) for item in project.shelf(shelf.name).values()]
            for shelf in shelves()
        },
        "rooms": [_room_plain(project, project.rooms.passing(name)) for name in names],
    }
    return {key: value for key, value in plain.items() if value or key not in _LATER}


def bundle_bytes(project: Project, rooms: Iterable[str] | None = None) -> bytes:
    return json_text(bundle_plain(project, rooms)).encode()


def _room_plain(project: Project, room: Room) -> JsonRecord:
    layers = []
    for layer_id, layer in room.bottom_up():
        plain: JsonRecord = {"id": layer_id, "layer": to_plain(layer.info)}
        planes = layer.info.traits.planes
        rows = {p: layer.plane(p) for p in planes if p not in _OPTIONAL or p in layer.planes}
        if layer.info.traits.shows:
            rows |= tile_planes(layer, shown_tiles(project, layer))
            over = shown_over(project, layer, Box.of_shape(layer.size))
            rows |= {} if over is None else {"over": over}
        for plane, cells in rows.items():
            plain[plane] = b"".join(rows_to_text(as_rows(cells))).decode().split("\n")[:-1]
        for table in layer.info.traits.tables:
            if is_written(layer, table):
                plain[table] = entries_plain(layer, table)
        if layer.info.kind == "field":
            sowing = sowing_of(project, room, layer_id)
            plain["sown"] = [to_plain(sowing.thing(row)) for row in range(len(sowing))]
        layers.append(plain)
    plain = {"room": to_plain(room.info), "layers": layers}
    return {**plain, "conflicts": to_plain(room.conflicts)} if room.conflicts else plain


def read_bundle(path: Path) -> Project:
    """The project a bundle holds; raises BadFile.  What shows and what is sown is derived."""
    data = read_bytes(path)
    plain = parse_json(data, path.name)
    if not isinstance(plain, dict) or plain.get("format") != FORMAT:
        raise BadFile(path.name, "is not a Topion bundle")
    if plain.get("version") != VERSION:
        raise BadFile(path.name, f"has version {plain.get('version')}; known is {VERSION}")
    try:
        project = _library(plain)
        try:
            check_library(project)
        except NotSound as problem:
            raise BadFile(path.name, str(problem)) from None
        for number, entry in enumerate(plain.get("rooms", [])):
            room = _room(project, entry, ("rooms", number), path.name)
            project.rooms[room.info.name] = room
    except BadPlain as problem:
        raise misplaced(problem, data, path.name) from None
    except (KeyError, TypeError, AttributeError, ValueError) as problem:
        raise BadFile(path.name, f"misses or misuses {problem}") from None
    return project


def _library(plain: JsonRecord) -> Project:
    values = {
        name: from_plain(table.kind, plain.get(name, []), (name,)) for name, table in TABLES.items()
    }
    project = Project(**values)
    for shelf in shelves():
        items = from_plain(tuple[shelf.item, ...], plain.get(shelf.name, []), (shelf.name,))  # type: ignore[name-defined]
        project.shelf(shelf.name).update({item.name: item for item in items})
    return project


def _room(project: Project, entry: JsonRecord, path: tuple[str | int, ...], file: str) -> Room:
    room = Room(from_plain(RoomInfo, entry["room"], (*path, "room")))
    for number, line in enumerate(entry["layers"]):
        here = (*path, "layers", number)
        info = from_plain(LayerInfo, line["layer"], (*here, "layer"))
        check_kind(room.info, info, file)
        planes = info.traits.planes.values()
        most = sum(np.dtype(kind).itemsize for kind in planes) * room.box.size
        check_memory(project, room.bytes_stored + most, file)
        room.layers[str(line["id"])] = _layer(project, room, info, line, here, file)
    room.order = tuple(room.layers)
    room.numbers = highest_number(room)
    conflicts = from_plain(tuple[Conflict, ...], entry.get("conflicts", []), (*path, "conflicts"))
    room.conflicts = conflicts
    return room


def _layer(
    project: Project,
    room: Room,
    info: LayerInfo,
    line: JsonRecord,
    path: tuple[str | int, ...],
    file: str,
) -> Layer:
    layer = Layer.empty(info, room.info.size, room.info.origin)
    for plane, dtype in info.traits.planes.items():
        if plane in _OPTIONAL and plane not in line:
            continue
        text = "".join(f"{row}\n" for row in line[plane]).encode("utf-8", "replace")
        shape = layer.shape(plane)
        size = (int(np.prod(shape[:-1])), shape[-1])
        try:
            cells = text_to_rows(text, size, highest=highest(project, layer, plane))
        except BadRows as problem:
            raise BadPlain((*path, plane, problem.line - 1), problem.reason) from None
        if cells.any():
            layer.planes[plane] = cells.reshape(shape).astype(dtype, copy=False)
    if "pinned" in layer.planes:
        check_pinned(project, layer, layer.planes["pinned"], file)
    for table in info.traits.tables:
        if table in line or table == info.traits.main_table:
            data = json.dumps(line[table]).encode()
            layer.tables[table] = read_entries(table, line[table], data, file, room.info)
    return layer
