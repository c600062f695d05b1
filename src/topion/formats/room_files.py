"""Rooms as files: settings, rows of cells, things; read when somebody first asks for a room.

rooms/NAME/room.json          settings, layers from bottom to top, conflicts to be settled
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
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from topion.errors import BadFile
from topion.formats.former import Names
from topion.formats.layer_files import OPTIONAL, LayerReading
from topion.formats.stems import stem
from topion.formats.text import json_text, read_record
from topion.model.conflict import Conflict
from topion.model.layer import Layer, LayerInfo
from topion.model.plain import to_plain
from topion.model.project import Project
from topion.model.room import MOST_BYTES, Room, RoomInfo

_SMALL = 1 << 24  # bytes that any room may take


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
    conflicts: tuple[Conflict, ...] = ()


def room_path(name: str) -> str:
    return f"rooms/{stem(name)}"


# --- writing ------------------------------------------------------------------------------


def head_bytes(room: Room) -> bytes:
    """room.json"""
    lines = tuple(_LayerLine(layer_id, layer.info) for layer_id, layer in room.bottom_up())
    numbers = room.numbers if needs_numbers(room) else 0
    return json_text(to_plain(RoomFile(room.info, lines, numbers, room.conflicts))).encode()


def needs_numbers(room: Room) -> bool:
    """Whether the highest number given does not show in the things that are there."""
    return room.numbers > highest_number(room)


def highest_number(room: Room) -> int:
    """The highest number that an entry of any layer has."""
    tables = (table for layer in room.layers.values() for table in layer.tables.values())
    return max((next(reversed(table), 0) for table in tables), default=0)


# --- reading ------------------------------------------------------------------------------


@dataclass(frozen=True, eq=False)
class RoomRead:
    """A room that was read.  whole : its files hold it as they would be written; else some hold
    conflicts beside their own, as a merge left them there."""

    room: Room
    whole: bool


def read_room(
    project: Project,
    name: str,
    read: Callable[[str], bytes],
    there: Callable[[str], bool],
    each: Callable[[str], None],
    names: Names = (),
) -> RoomRead:
    """A whole room; `read` fetches what lies at a path, `there` tells if something does.

    names : former ones, of which its files may speak.  Raises BadFile.
    """
    path, record = room_path(name), _read_head(name, read)
    room = Room(record.room, conflicts=record.conflicts)
    _check_memory(project, record, path, there)
    reading = LayerReading(project, record.room, path, read, there, each, names)
    for line in record.layers:
        if line.id in room.layers or not re.fullmatch(r"[\w-]+", line.id):
            raise BadFile(f"{path}/room.json", f"layer id “{line.id}” is taken or not allowed")
        check_kind(room.info, line.layer, f"{path}/room.json")
        room.layers[line.id] = reading.layer(line.id, line.layer)
    room.conflicts += tuple(reading.conflicts)
    room.order = tuple(room.layers)
    room.numbers = max(record.numbers, highest_number(room))
    return RoomRead(room, not reading.conflicts)


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
