"""One JSON file with the whole project, for other programs; its schema is published."""

from __future__ import annotations

import json
import math
from importlib import resources
from pathlib import Path
from typing import Any

import numpy as np

import topion.things.rules  # noqa: F401  (registers the kinds of rules)
from topion.errors import BadFile
from topion.formats.folder import (
    as_rows,
    check_library,
    checked_layer,
    highest_pinned,
    read_things,
    stored_planes,
    things_plain,
)
from topion.formats.text import json_text, misplaced, parse_json
from topion.grid.runs import BadRows, rows_to_text, text_to_rows
from topion.model.brush import Brush
from topion.model.plain import BadPlain, from_plain, to_plain
from topion.model.prefab import Prefab
from topion.model.project import Bay, Project
from topion.model.room import (
    FULL_DENSITY,
    PLANES,
    Layer,
    LayerInfo,
    Room,
    RoomInfo,
    plane_shape,
)
from topion.model.solid import Block
from topion.model.tileset import TileRef, TileSet
from topion.pictures.png import read_bytes
from topion.things.sowings import sowing_of

_DERIVED = ("tile", "block", "turn")  # written for other programs; woven again when read
FORMAT = "topion-bundle"
VERSION = 1


def schema() -> dict[str, Any]:
    """The JSON Schema of a bundle."""
    text = resources.files("topion.formats").joinpath("schemas/bundle.schema.json").read_text()
    found: dict[str, Any] = json.loads(text)
    return found


def bundle_plain(project: Project, rooms: tuple[str, ...] | None = None) -> dict[str, Any]:
    """The project as JSON values; `rooms` picks some of its rooms."""
    names = tuple(project.rooms) if rooms is None else rooms
    return {
        "format": FORMAT,
        "version": VERSION,
        "name": project.name,
        "materials": list(project.materials),
        "tiles": to_plain(project.tiles),
        "bays": to_plain(project.bays),
        "block_names": list(project.block_names),
        "blocks": [to_plain(b) for b in project.blocks.values()],
        "tilesets": [to_plain(t) for t in project.tilesets.values()],
        "prefabs": [to_plain(p) for p in project.prefabs.values()],
        "brushes": [to_plain(b) for b in project.brushes.values()],
        "rooms": [_room_plain(project, project.room(name)) for name in names],
    }


def bundle_bytes(project: Project, rooms: tuple[str, ...] | None = None) -> bytes:
    return json_text(bundle_plain(project, rooms)).encode()


def _room_plain(project: Project, room: Room) -> dict[str, Any]:
    layers = []
    for layer_id, layer in room.bottom_up():
        plain: dict[str, Any] = {"id": layer_id, "layer": to_plain(layer.info)}
        rows = stored_planes(layer)
        rows |= {name: layer.planes[name] for name in _DERIVED if name in layer.planes}
        for plane, cells in rows.items():
            plain[plane] = b"".join(rows_to_text(as_rows(cells))).decode().split("\n")[:-1]
        if layer.info.kind == "things":
            plain["things"] = things_plain(layer)
        if layer.info.kind == "field":
            sowing = sowing_of(project, room, layer_id)
            plain["sown"] = [to_plain(sowing.thing(row)) for row in range(len(sowing))]
        layers.append(plain)
    return {"room": to_plain(room.info), "layers": layers}


def read_bundle(path: Path) -> Project:
    """The project a bundle holds; raises BadFile.  Woven tiles and sown things are derived."""
    data = read_bytes(path)
    plain = parse_json(data, path.name)
    if not isinstance(plain, dict) or plain.get("format") != FORMAT:
        raise BadFile(path.name, "is not a Topion bundle")
    if plain.get("version") != VERSION:
        raise BadFile(path.name, f"has version {plain.get('version')}; known is {VERSION}")
    try:
        project = _library(plain)
        check_library(project, path.name)
        for number, entry in enumerate(plain.get("rooms", [])):
            room = _room(project, entry, ("rooms", number), path.name)
            project.rooms[room.info.name] = room
    except BadPlain as problem:
        raise misplaced(problem, data, path.name) from None
    except (KeyError, TypeError, AttributeError) as problem:
        raise BadFile(path.name, f"misses or misuses {problem}") from None
    return project


def _library(plain: dict[str, Any]) -> Project:
    def read(key: str, wanted: Any) -> Any:
        return from_plain(wanted, plain[key], (key,))

    def shelf(key: str, wanted: Any) -> dict[str, Any]:
        return {item.name: item for item in read(key, tuple[wanted, ...])}

    return Project(
        read("name", str),
        shelf("tilesets", TileSet),
        shelf("brushes", Brush),
        shelf("prefabs", Prefab),
        materials=read("materials", tuple[str, ...]),
        tiles=read("tiles", tuple[TileRef, ...]),
        bays=read("bays", tuple[Bay, ...]),
        blocks=shelf("blocks", Block) if "blocks" in plain else {},
        block_names=read("block_names", tuple[str, ...]) if "block_names" in plain else (),
    )


def _room(project: Project, entry: dict[str, Any], path: tuple[str | int, ...], file: str) -> Room:
    room = Room(from_plain(RoomInfo, entry["room"], (*path, "room")))
    for number, line in enumerate(entry["layers"]):
        here = (*path, "layers", number)
        info = from_plain(LayerInfo, line["layer"], (*here, "layer"))
        room.layers[str(line["id"])] = _layer(project, room, info, line, here, file)
    room.order = tuple(room.layers)
    return room


def _layer(
    project: Project,
    room: Room,
    info: LayerInfo,
    line: dict[str, Any],
    path: tuple[str | int, ...],
    file: str,
) -> Layer:
    def rows(plane: str, highest: int) -> np.ndarray:
        text = "".join(f"{row}\n" for row in line[plane]).encode()
        size = plane_shape(plane, room.info.size)
        try:
            rows = (math.prod(size[:-1]), size[-1])
            return text_to_rows(text, rows, highest=highest).reshape(size)
        except BadRows as problem:
            raise BadPlain((*path, plane, problem.line - 1), problem.reason) from None

    if info.kind == room.info.cells_kind:
        material = rows("material", len(project.materials))
        pinned = rows("pinned", highest_pinned(project, info))
        return checked_layer(project, info, material, pinned, file)
    if "material" in PLANES[info.kind]:
        raise BadPlain((*path, "layer", "kind"), f"{info.kind} do not lie in this kind of room")
    if info.kind == "field":
        return Layer(info, {"density": rows("density", FULL_DENSITY).astype(np.uint8)})
    return Layer(info, {}, read_things(json.dumps(line["things"]).encode(), file))
