"""Layers as files: planes of cells, and lists of numbered entries.

Each file can be read by itself: it says from which cell it counts, and what numbers in cells stand
for.  So two versions of a project can be put together file by file.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from functools import partial
from typing import Any

import numpy as np

from topion.errors import BadFile
from topion.formats.former import Names, cells_by_new_names, with_new_names
from topion.formats.plane_files import PlaneHead, check_highest, plane_bytes, read_plane
from topion.formats.text import json_lines, parse_json, read_value
from topion.grid.boxes import Box
from topion.model.ban import Ban
from topion.model.conflict import Conflict
from topion.model.curve import Curve
from topion.model.layer import Layer, LayerInfo
from topion.model.naming import cells_conflict, naming_of, translation
from topion.model.piece import Piece
from topion.model.plain import Json, JsonRecord, to_plain
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.model.room import RoomInfo
from topion.model.sound import highest, strays

MOST_ENTRIES = 250_000  # of one table of a layer
# planes that have no file where they hold nothing
OPTIONAL = ("pinned", "inlay", "fore", "back", "bright", "inside", "size")


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


# --- writing ------------------------------------------------------------------------------


def layer_files(project: Project, path: str, layer: Layer) -> Iterator[tuple[str, bytes]]:
    """What is stored in a layer; `path` leads to it, without the last part."""
    for name, cells in stored_planes(layer).items():
        yield f"{path}.{name}.rows", plane_bytes(_head(project, layer, name, cells), cells)
    for table in layer.info.traits.tables:
        if is_written(layer, table):
            head = [{"from": list(layer.origin)}] if any(layer.origin) else []
            lines = json_lines([*head, *entries_plain(layer, table)])
            yield f"{path}.{table}.json", lines.encode()


def _head(project: Project, layer: Layer, plane: str, cells: np.ndarray) -> PlaneHead:
    start = layer.origin[-cells.ndim :] if any(layer.origin) else ()
    naming = naming_of(project, layer, plane)
    if naming is None:
        return PlaneHead(cells.shape, start)
    return PlaneHead(cells.shape, start, naming.used(cells), naming.bits)


def stored_planes(layer: Layer) -> dict[str, np.ndarray]:
    """Its planes in the order of files; those that are optional only where they hold anything."""
    names = layer.info.traits.planes
    optional = {n for n in names if n in OPTIONAL and not _holds_anything(layer, n)}
    return {name: layer.plane(name) for name in names if name not in optional}


def _holds_anything(layer: Layer, plane: str) -> bool:
    cells = layer.planes.get(plane)
    return cells is not None and bool(cells.any())


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


@dataclass
class LayerReading:
    """Reads a layer whose files begin with a path.

    read : fetches what lies at a path.  there : tells if something does.  names : former ones.
    conflicts : those that its files hold, as a merge left them there, and of cells that lie
    outside the room.
    """

    project: Project
    room: RoomInfo
    path: str
    read: Callable[[str], bytes]
    there: Callable[[str], bool]
    each: Callable[[str], None]
    names: Names = ()
    conflicts: list[Conflict] = field(default_factory=list)

    def layer(self, layer_id: str, info: LayerInfo) -> Layer:
        """Raises BadFile."""
        path = f"{self.path}/{layer_id}"
        layer = Layer.empty(info, self.room.size, self.room.origin)
        for plane, dtype in info.traits.planes.items():
            file = f"{path}.{plane}.rows"
            if plane in OPTIONAL and not self.there(file):
                continue
            cells = self._cells(layer_id, layer, plane, file)
            if cells.any():  # an absent plane reads as zeros
                layer.planes[plane] = cells.astype(dtype, copy=False)
        for table in info.traits.tables:
            file = f"{path}.{table}.json"
            if self.there(file) or table == info.traits.main_table:
                layer.tables[table] = self._entries(table, file)
        if self.names:
            with_new_names(layer, self.names)
        return layer

    def _cells(self, layer_id: str, layer: Layer, plane: str, file: str) -> np.ndarray:
        """A plane in the shape of the room, by the numbers of the project."""
        shape = layer.shape(plane)
        found = read_plane(self.read(file), file, shape, partial(self.each, file))
        head, cells = found.head, found.cells
        self.conflicts += conflicts_of(found.conflicts, file)
        if cells.ndim != len(shape):
            raise BadFile(file, f"has {cells.ndim} sides, but it must have {len(shape)}", "line 1")
        naming = naming_of(self.project, layer, plane)
        if naming is not None and head.names:
            known = head.names
            if self.names:
                known = cells_by_new_names(known, naming.names.values(), self.names, plane)
            to = translation(known, naming.numbers(), naming.bits)
            cells = cells if to is None else to[cells]
        rows_from = 2 if found.headed else 1
        check_highest(cells, highest(self.project, layer, plane), file, rows_from)
        if plane == "pinned":
            check_pinned(self.project, layer, cells, file, rows_from)
        if not found.headed:
            return cells
        start = (self.room.origin or (0,) * self.room.axes)[-cells.ndim :]
        room = Box.of_shape(shape).shifted(start)
        if head.box == room:
            return cells
        both = head.box.clipped(room)
        placed = np.zeros(shape, cells.dtype)
        placed[both.slices_from(room.lo)] = cells[both.slices_from(head.box.lo)]
        cells = cells.copy()
        cells[both.slices_from(head.box.lo)] = 0
        if cells.any():
            at = head.box.lo
            self.conflicts.append(cells_conflict(layer_id, plane, at, cells, cells > 0, naming))
        return placed

    def _entries(self, table: str, file: str) -> dict[int, Any]:
        data = self.read(file)
        if data.count(b"\n") > MOST_ENTRIES + 4:
            raise BadFile(file, f"lists more than {MOST_ENTRIES} {table}")
        plain = parse_json(data, file)
        found = split_entries(plain, file)
        self.conflicts += conflicts_of(found.conflicts, file)
        entries = read_entries(table, plain, data, file, self.room)
        origin = self.room.origin or (0,) * self.room.axes
        start = found.start or (0,) * len(origin)
        if len(start) != len(origin):
            raise BadFile(file, f"from: must be {len(origin)} numbers", "line 2")
        by = tuple(a - b for a, b in zip(start, origin, strict=True))
        return {n: entry.shifted(by) for n, entry in entries.items()} if any(by) else entries


@dataclass(frozen=True)
class EntriesFile:
    """A list of entries, as JSON values.

    start : from which cell they count, in array order, from where the first cell of the room was
    when it was made; empty for that one.  entries : the records, but for these and the conflicts.
    """

    start: tuple[int, ...]
    entries: list[JsonRecord]
    conflicts: tuple[Json, ...] = ()


def split_entries(plain: Json, file: object) -> EntriesFile:
    """What a file of entries holds.  Raises BadFile for what is no list of records."""
    if not isinstance(plain, list) or not all(isinstance(item, dict) for item in plain):
        raise BadFile(file, "must be a list of records")
    start: tuple[int, ...] = ()
    if plain and plain[0].keys() == {"from"}:
        start = read_value(tuple[int, ...], plain[0]["from"], b"", file, ("from",))
    entries = [item for item in plain if "id" in item or not item.keys() <= {"from", "conflict"}]
    conflicts = tuple(item["conflict"] for item in plain if item.keys() == {"conflict"})
    return EntriesFile(start, entries, conflicts)


def entry_kind(table: str) -> type:
    """The type of the entries of a table."""
    return _LINES[table][0]


def conflicts_of(plain: Iterable[Json], file: object) -> tuple[Conflict, ...]:
    """Conflicts from JSON values.  Raises BadFile."""
    return tuple(read_value(Conflict, item, b"", file, ("conflict",)) for item in plain)


def check_pinned(
    project: Project, layer: Layer, pinned: np.ndarray, file: str, first_line: int = 1
) -> None:
    """Pinned blocks must be known and turned by no more than there are turns.  BadFile."""
    bad = strays(project, layer, "pinned", pinned)
    if bad.any():
        line = int(np.argmax(as_rows(bad).any(axis=1))) + first_line
        raise BadFile(file, f"{int(pinned[bad][0])} stands for no block and turn", f"line {line}")


def read_entries(table: str, plain: Json, data: bytes, file: str, room: RoomInfo) -> dict[int, Any]:
    """Entries of a table by number from a list of records, which is what `data` holds; BadFile
    names the line."""
    word = table.removesuffix("s")
    kind, line_kind = _LINES[table]
    if not isinstance(plain, list):
        read_value(tuple[line_kind, ...], plain, data, file)  # type: ignore[valid-type]
    if len(plain) > MOST_ENTRIES + 2:
        raise BadFile(file, f"lists more than {MOST_ENTRIES} {table}")
    found: dict[int, Any] = {}
    for number, item in enumerate(plain):
        if isinstance(item, dict) and item.keys() in ({"from"}, {"conflict"}):
            continue
        line = read_value(line_kind, item, data, file, (number,))
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
