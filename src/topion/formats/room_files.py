"""Rooms as files: settings, rows of cells, things; read when somebody first asks for a room.

rooms/NAME/room.json          settings, layers from bottom to top
rooms/NAME/ID.material.rows   materials of a layer of tiles or blocks, one line a row; the rows
                              of a voxel room follow level by level, the lowest first
rooms/NAME/ID.pinned.rows     tiles laid by hand, if any; all others follow from the rules.  Of
                              blocks, 32 times the number of the block, and its turn
rooms/NAME/ID.inlay.rows      second materials of a layer of tiles, if any
rooms/NAME/ID.fore.rows       of a tint map, numbers of colours of the palette; ID.back.rows and
                              ID.bright.rows (0 or 1) likewise, where any cell has one
rooms/NAME/ID.density.rows    of a field layer, 0 to 255, seen from above
rooms/NAME/ID.size.rows       of a field layer, 1 to 255, 128 as large as the field says; where
                              any cell has one
rooms/NAME/ID.held.json       of a field layer, things that stay where they were put, if any, and
                              ID.bans.json places where it sows nothing
rooms/NAME/ID.things.json     one thing a line
rooms/NAME/ID.pieces.json     one piece a line, if any
rooms/NAME/ID.curves.json     one curve a line, if any
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np

from topion.errors import BadFile
from topion.formats.stems import stem
from topion.formats.text import json_lines, json_text, read_record
from topion.grid.runs import BadRows, rows_to_text, text_to_rows
from topion.model.ban import Ban
from topion.model.curve import Curve
from topion.model.layer import Layer, LayerInfo
from topion.model.light import Light
from topion.model.piece import Piece
from topion.model.plain import JsonRecord, to_plain
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.model.room import MOST_BYTES, Room, RoomInfo
from topion.model.sound import highest, strays

MOST_ENTRIES = 250_000  # of one table of a layer
# planes that have no file where they hold nothing
OPTIONAL = ("pinned", "inlay", "fore", "back", "bright", "inside", "size")
_SMALL = 1 << 24  # bytes that any room may take


@dataclass(frozen=True)
class _ThingLine(Thing):
    """One line of ID.things.json: a thing and its number"""

    id: int = 0


@dataclass(frozen=True)
class _PieceLine(Piece):
    """One line of ID.pieces.json: a piece and its number"""

    id: int = 0


@dataclass(frozen=True)
class _CurveLine(Curve):
    """One line of ID.curves.json: a curve and its number"""

    id: int = 0


@dataclass(frozen=True)
class _BanLine(Ban):
    """One line of ID.bans.json: a place where a field sows nothing, and its number"""

    id: int = 0


_LINES: dict[str, tuple[type[Any], type[Any]]] = {
    "things": (Thing, _ThingLine), "pieces": (Piece, _PieceLine),
    "curves": (Curve, _CurveLine),
    "held": (Thing, _ThingLine), "bans": (Ban, _BanLine),
}  # fmt: skip


@dataclass(frozen=True)
class _LayerLine:
    id: str
    layer: LayerInfo


@dataclass(frozen=True)
class RoomFile:
    """rooms/NAME/room.json.  numbers : the highest ever given to a thing, where none has it."""

    room: RoomInfo
    layers: tuple[_LayerLine, ...] = ()
    numbers: int = 0


def room_path(name: str) -> str:
    return f"rooms/{stem(name)}"


# --- writing ------------------------------------------------------------------------------


def head_bytes(room: Room) -> bytes:
    """room.json"""
    lines = tuple(_LayerLine(layer_id, layer.info) for layer_id, layer in room.bottom_up())
    numbers = room.numbers if needs_numbers(room) else 0
    return json_text(to_plain(RoomFile(room.info, lines, numbers))).encode()


def _is_newer(thing: Thing) -> bool:
    """Whether only the newest format holds it."""
    return bool(thing.lean or thing.roll or thing.attached or thing.role
                or thing.when or thing.counts is not None)  # fmt: skip


def _is_newest(layer: Layer) -> bool:
    """Whether only the newest format holds it."""
    size, info = layer.planes.get("size"), layer.info
    return bool(layer.curves or layer.table("held") or layer.table("bans") or info.levels
                or info.drift or (size is not None and size.any()))  # fmt: skip


def format_of(room: Room) -> int:
    """The oldest format of a project that holds all of a room."""
    info, layers = room.info, room.layers.values()
    if any(_is_newest(la) for la in layers):
        return 9
    if any(getattr(thing.role, "place", "") for la in layers for thing in la.things.values()):
        return 8
    if (
        info.tags
        or any(la.info.kind == "region" for la in layers)
        or any(_is_newer(thing) for la in layers for thing in la.things.values())
    ):
        return 6
    later = info.theme or info.tint or info.light != Light()
    if later or any(la.info.traits.worn or la.info.attached or la.info.group for la in layers):
        return 5
    tables = [table for layer in room.layers.values() for table in layer.tables.values()]
    if (
        room.info.grows
        or room.info.origin
        or any(
            entry.groups or getattr(entry, "tip", 0) for table in tables for entry in table.values()
        )
    ):
        return 4
    inlays = (layer.planes.get("inlay") for layer in room.layers.values())
    if any(layer.pieces for layer in room.layers.values()) or any(
        plane is not None and plane.any() for plane in inlays
    ):
        return 3
    return 2 if needs_numbers(room) else 1


def needs_numbers(room: Room) -> bool:
    """Whether the highest number given does not show in the things that are there."""
    return room.numbers > highest_number(room)


def highest_number(room: Room) -> int:
    """The highest number that an entry of any layer has."""
    tables = (table for layer in room.layers.values() for table in layer.tables.values())
    return max((next(reversed(table), 0) for table in tables), default=0)


def layer_files(path: str, layer: Layer) -> Iterator[tuple[str, bytes]]:
    """What is stored in a layer; `path` leads to it, without the last part."""
    for name, cells in stored_planes(layer).items():
        yield f"{path}.{name}.rows", b"".join(rows_to_text(as_rows(cells)))
    for table in layer.info.traits.tables:
        if is_written(layer, table):
            yield f"{path}.{table}.json", json_lines(entries_plain(layer, table)).encode()


def stored_planes(layer: Layer) -> dict[str, np.ndarray]:
    """Its planes in the order of files; those that are optional only where they hold anything."""
    planes = {name: layer.plane(name) for name in layer.info.traits.planes}
    return {n: plane for n, plane in planes.items() if n not in OPTIONAL or plane.any()}


def as_rows(cells: np.ndarray) -> np.ndarray:
    """(…, h, w) cells as (n, w) rows, level by level."""
    return cells.reshape(-1, cells.shape[-1])


def is_written(layer: Layer, table: str) -> bool:
    """Whether a table has a file: always where what a layer holds are its entries first of all."""
    return bool(layer.table(table)) or table == layer.info.traits.main_table


def entries_plain(layer: Layer, table: str) -> list[JsonRecord]:
    """Entries as records with their number."""
    entries = sorted(layer.table(table).items())
    return [{"id": number, **to_plain(entry)} for number, entry in entries]


# --- reading ------------------------------------------------------------------------------


def read_room(
    project: Project,
    name: str,
    read: Callable[[str], bytes],
    there: Callable[[str], bool],
    each: Callable[[str], None],
) -> Room:
    """A whole room; `read` fetches what lies at a path, `there` tells if something does.

    Raises BadFile.
    """
    path, record = room_path(name), _read_head(name, read)
    room = Room(record.room)
    _check_memory(project, record, path, there)
    for line in record.layers:
        if line.id in room.layers or not re.fullmatch(r"[\w-]+", line.id):
            raise BadFile(f"{path}/room.json", f"layer id “{line.id}” is taken or not allowed")
        check_kind(room.info, line.layer, f"{path}/room.json")
        room.layers[line.id] = _layer(project, room, line, f"{path}/{line.id}", read, there, each)
    room.order = tuple(room.layers)
    room.numbers = max(record.numbers, highest_number(room))
    return room


def read_info(name: str, read: Callable[[str], bytes]) -> RoomInfo:
    """What a room is beside its layers.  Raises BadFile."""
    return _read_head(name, read).room


def _read_head(name: str, read: Callable[[str], bytes]) -> RoomFile:
    file = f"{room_path(name)}/room.json"
    record: RoomFile = read_record(RoomFile, read(file), file)
    if record.room.name != name:
        reason = f"is named “{record.room.name}” inside, but it is listed as “{name}”"
        raise BadFile(file, reason)
    return record


def _check_memory(
    project: Project, record: RoomFile, path: str, there: Callable[[str], bool]
) -> None:
    """Raises BadFile, before memory is taken, for a room that needs more than a project may."""
    needed = 0
    for line in record.layers:
        layer = Layer(line.layer, record.room.size)
        for plane, dtype in line.layer.traits.planes.items():
            if plane not in OPTIONAL or there(f"{path}/{line.id}.{plane}.rows"):
                needed += math.prod(layer.shape(plane)) * np.dtype(dtype).itemsize
    check_memory(project, needed, f"{path}/room.json")


def check_memory(project: Project, needed: int, file: str) -> None:
    """Raises BadFile if so many bytes more were too much for the rooms of a project in use."""
    if needed > _SMALL:
        needed += sum(room.bytes_stored for room in project.rooms.read_ones())
    if needed > MOST_BYTES:
        reason = f"its rooms in use would take {needed >> 20} MiB, more than {MOST_BYTES >> 20} MiB"
        raise BadFile(file, reason)


def check_kind(info: RoomInfo, layer: LayerInfo, file: str) -> None:
    """Raises BadFile for tiles in a room of blocks, and the other way round."""
    if not info.may_hold(layer):
        raise BadFile(file, f"layer {layer.name} is of {layer.kind}, but the room is not")


def _layer(
    project: Project,
    room: Room,
    line: _LayerLine,
    path: str,
    read: Callable[[str], bytes],
    there: Callable[[str], bool],
    each: Callable[[str], None],
) -> Layer:
    layer = Layer.empty(line.layer, room.info.size, room.info.origin)
    for plane in line.layer.traits.planes:
        file = f"{path}.{plane}.rows"
        if plane in OPTIONAL and not there(file):
            continue
        cells = rows_of(read(file), file, layer.shape(plane), highest(project, layer, plane),
                        partial(each, file))  # fmt: skip
        if cells.any():  # an absent plane reads as zeros
            layer.planes[plane] = cells.astype(line.layer.traits.planes[plane], copy=False)
    check_pinned(project, layer, f"{path}.pinned.rows")
    for table in line.layer.traits.tables:
        file = f"{path}.{table}.json"
        if there(file) or table == line.layer.traits.main_table:
            layer.tables[table] = read_entries(table, read(file), file, room.info)
    return layer


def rows_of(
    data: bytes,
    file: str,
    shape: tuple[int, ...],
    most: int,
    each_strip: Callable[[], None] | None = None,
) -> np.ndarray:
    """A plane from its text; BadFile names the line."""
    try:
        rows = (math.prod(shape[:-1]), shape[-1])
        return text_to_rows(data, rows, highest=most, each_strip=each_strip).reshape(shape)
    except BadRows as problem:
        raise BadFile(file, problem.reason, f"line {problem.line}") from None


def check_pinned(project: Project, layer: Layer, file: str) -> None:
    """Pinned blocks must be known and turned by no more than there are turns.  BadFile."""
    pinned = layer.planes.get("pinned")
    if pinned is None:
        return
    bad = strays(project, layer, "pinned", pinned)
    if bad.any():
        line = int(np.argmax(as_rows(bad).any(axis=1))) + 1
        raise BadFile(file, f"{int(pinned[bad][0])} stands for no block and turn", f"line {line}")


def read_entries(table: str, data: bytes, file: str, room: RoomInfo) -> dict[int, Any]:
    """Entries of a table by number from a list of records; BadFile names the line."""
    word = table.removesuffix("s")
    if data.count(b"\n") > MOST_ENTRIES + 2:
        raise BadFile(file, f"lists more than {MOST_ENTRIES} {table}")
    kind, line_kind = _LINES[table]
    lines: tuple[Any, ...] = read_record(tuple[line_kind, ...], data, file)  # type: ignore[valid-type]
    found: dict[int, Any] = {}
    for number, line in enumerate(lines):
        if not 0 < line.id < 1 << 31:
            raise BadFile(file, f"{line.id} is no number for a {word}", f"line {number + 2}")
        if line.id in found:
            raise BadFile(file, f"{word} {line.id} is listed twice", f"line {number + 2}")
        entry = kind(**{key: getattr(line, key) for key in kind.__dataclass_fields__})
        if getattr(entry, "axes", room.axes) != room.axes:
            reason = f"{word} {line.id} is of another kind of room"
            raise BadFile(file, reason, f"line {number + 2}")
        found[line.id] = entry
    return dict(sorted(found.items()))
