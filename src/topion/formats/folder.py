"""The project folder `NAME.topion/`: written for version control, read in stages.

project.json                  names, tables of materials and tiles, bays
SHELF/NAME.json .png          items of the library, see `items.py`
rooms/NAME/…                  see `room_files.py`

Opening reads the library and the names of rooms; a room is read at its first use.  Saving writes
what changed since it was read or written.
"""

from __future__ import annotations

import os
import re
from collections.abc import Callable, Generator, Iterable, Iterator
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import Any

import topion.brushes
import topion.things.rules  # noqa: F401  (registers the kinds of rules)
from topion.errors import BadFile, TopionError
from topion.formats.items import item_files, item_names, read_item, stem
from topion.formats.room_files import (
    head_bytes,
    layer_files,
    needs_numbers,
    read_room,
    room_path,
)
from topion.formats.saving import finish_save, inside, write_folder
from topion.formats.text import json_text, parse_json, read_value
from topion.model.derived import Kept
from topion.model.picture import Picture
from topion.model.plain import Json, JsonRecord, to_plain
from topion.model.project import MOST_MATERIALS, MOST_TILES, Project
from topion.model.room import Room
from topion.model.rooms import Rooms
from topion.model.shelves import SHELVES, TABLES, Shelf, shelves
from topion.model.solid import MOST_BLOCKS, block_ref
from topion.pictures.png import read_bytes, read_png_file

FORMAT = 2  # 2 keeps numbers of things that were taken away; all else is written as 1
SUFFIX = ".topion"
_MOST_TEXT = 1 << 28
Step = Callable[[str], None]


_Key = tuple[str, ...]
_Kept = tuple[object, tuple[str, ...]]  # the token of a part as it was written, and its files


@dataclass
class _Written:
    """What a folder holds as far as we know, by owner: an item, a room, the project itself."""

    folder: Path
    owners: dict[_Key, dict[_Key, _Kept]] = field(default_factory=dict)


@dataclass(frozen=True)
class _Part:
    """A part of the project that has files of its own.  token : equal as long as they are."""

    key: _Key
    token: object
    files: Callable[[], Iterable[tuple[str, bytes]]]


_WRITTEN: Kept[_Written] = Kept()


# --- writing ------------------------------------------------------------------------------


def write_project(project: Project, folder: Path, each: Step | None = None) -> None:
    """Save the project; what the folder is known to hold is not written again.

    Raises CannotSave with the old state whole.
    """
    place = str(folder.resolve())
    known = _WRITTEN.ready(project, place)
    before = dict(known.owners) if known is not None else {}
    after: dict[_Key, dict[_Key, _Kept]] = {}

    def files() -> Iterator[tuple[str, bytes]]:
        for owner, parts in _owners(project, known is not None):
            after[owner] = yield from _changed(parts, before.get(owner, {}))

    left = before.keys() - _all_owners(project)

    def gone() -> set[str]:
        if known is None:
            return set(_owned_files(folder)) - _names(after)
        old = _names({owner: before[owner] for owner in (*left, *after) if owner in before})
        old -= _names(after)  # mostly nothing is left here
        others = before.keys() - left - after.keys()
        return old and old - _names({owner: before[owner] for owner in others})

    write_folder(folder, files(), gone, each)
    written = _WRITTEN.of(project, place, lambda: _Written(folder))
    written.owners.update(after)
    for owner in left:
        del written.owners[owner]
    source = project.rooms.source
    if isinstance(source, _FolderRooms):
        source.move(written)


def _changed(
    parts: Iterable[_Part], before: dict[_Key, _Kept]
) -> Generator[tuple[str, bytes], None, dict[_Key, _Kept]]:
    """The files of those parts that are not as they were; returns what then is kept."""
    after = {}
    for part in parts:
        old = before.get(part.key)
        if old is None or old[0] != part.token:
            names = []
            for name, data in part.files():
                names.append(name)
                yield name, data
            old = (part.token, tuple(names))
        after[part.key] = old
    return after


def _names(owners: dict[_Key, dict[_Key, _Kept]]) -> set[str]:
    return {name for parts in owners.values() for _, names in parts.values() for name in names}


def _all_owners(project: Project) -> set[_Key]:
    owners = {(shelf.name, name) for shelf in shelves() for name in project.shelf(shelf.name)}
    return {("project",), *owners, *(("rooms", name) for name in project.rooms)}


def _owners(project: Project, same_folder: bool) -> Iterator[tuple[_Key, Iterable[_Part]]]:
    """What may need writing: rooms that were not read stay as they are in their own folder."""
    for shelf in shelves():
        for name, item in project.shelf(shelf.name).items():
            key = (shelf.name, name)
            yield key, (_Part(key, _Same(item), partial(item_files, shelf, item)),)
    source = project.rooms.source
    version = FORMAT if isinstance(source, _FolderRooms) and source.is_newer else 1
    for name in project.rooms:
        room, key = project.rooms.peek(name), ("rooms", name)
        if room is not None:
            version = FORMAT if needs_numbers(room) else version
            yield key, _room_parts(room)
        elif isinstance(source, _FolderRooms) and not same_folder:
            yield key, (_Part(key, object(), partial(source.raw, name)),)
    index = _index(project, version)
    yield ("project",), (_Part(("project",), index,
                               lambda: [("project.json", json_text(index).encode())]),)  # fmt: skip


def _room_parts(room: Room) -> Iterator[_Part]:
    name, path = room.info.name, room_path(room.info.name)
    token = (room.info, room.order, tuple(la.info for _, la in room.bottom_up()), room.numbers,
             needs_numbers(room))  # fmt: skip
    yield _Part(("rooms", name), token, lambda: [(f"{path}/room.json", head_bytes(room))])
    for layer_id, layer in room.bottom_up():
        yield _Part(("rooms", name, layer_id), layer.revision,
                    partial(layer_files, f"{path}/{layer_id}", layer))  # fmt: skip


@dataclass(frozen=True, eq=False)
class _Same:
    """Equal to another one of the very same item; items never change."""

    item: Any

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.item is self.item

    def __hash__(self) -> int:
        return id(self.item)


def _index(project: Project, version: int) -> JsonRecord:
    """project.json as plain values; what is empty is left out."""
    names = {shelf.name: list(project.shelf(shelf.name)) for shelf in _listed_shelves()}
    tables = {name: to_plain(getattr(project, name)) for name in TABLES if name != "name"}
    rest = {"rooms": list(project.rooms), **names, **tables}
    known = {key: value for key, value in rest.items() if value}
    return {"format": version, "name": project.name, **known}


def _listed_shelves() -> Iterator[Shelf]:
    """Shelves whose items are listed by name; the others are in the order of their table."""
    return (shelf for shelf in shelves() if not shelf.numbers)


def _owned_files(folder: Path) -> Iterator[str]:
    """Files that are ours by their place and name, in a folder that we know nothing of."""
    places = "|".join(re.escape(name) for name in SHELVES)
    ours = re.compile(rf"project\.json|({places})/[^/]+\.(json|png)|rooms/[^/]+/[^/]+\.(json|rows)")
    for path in folder.rglob("*"):
        name = path.relative_to(folder).as_posix()
        if ours.fullmatch(name) and path.is_file():
            yield name


# --- reading ------------------------------------------------------------------------------


def read_project(folder: Path, each: Step | None = None) -> Project:
    """Read a project folder: its library, and the names of its rooms.

    Raises BadFile and builds nothing if it is not sound; so does the first use of a room.
    """
    if not folder.is_dir():
        raise BadFile(folder, "is not a project folder" if folder.exists() else "is missing")
    if not (folder / "project.json").exists():
        raise BadFile(folder, "holds no project.json, so it is not a project")
    finish_save(folder)
    return _Reader(_Files(folder, each or (lambda _: None))).project()


@dataclass
class _Files:
    """What lies at paths in a folder."""

    folder: Path
    each: Step

    def read(self, name: str) -> bytes:
        self.each(name)
        try:
            return read_bytes(inside(self.folder, name), _MOST_TEXT)
        except BadFile as problem:
            raise BadFile(name, problem.reason) from None

    def picture(self, name: str) -> Picture:
        self.each(name)
        try:
            return read_png_file(inside(self.folder, name))
        except BadFile as problem:
            raise BadFile(name, problem.reason, problem.place) from None

    def there(self, name: str) -> bool:
        return os.path.exists(os.path.join(self.folder, name))


class _Reader:
    def __init__(self, files: _Files) -> None:
        self.files = files

    def project(self) -> Project:
        data = self.files.read("project.json")
        index = parse_json(data, "project.json")
        newer = _check_format(index)
        values = self._index(index, data)
        project = Project(values["name"], **{t: values[t] for t in TABLES if t != "name"})
        written = _Written(self.files.folder)
        _WRITTEN.of(project, str(self.files.folder.resolve()), lambda: written)
        for shelf in shelves():
            for name in values[shelf.numbers or shelf.name]:
                item = read_item(shelf, name, self.files.read, self.files.picture)
                project.shelf(shelf.name)[name] = item
                written.owners[shelf.name, name] = {
                    (shelf.name, name): (_Same(item), item_names(shelf, name))
                }
        check_library(project, "project.json")
        source = _FolderRooms(project, written, self.files.each, newer)
        project.rooms = Rooms(unread=source.checked(values["rooms"]), source=source)
        version = index["format"]
        written.owners["project",] = {("project",): (_index(project, version), ("project.json",))}
        return project

    def _index(self, index: Json, data: bytes) -> JsonRecord:
        """The lists and tables of project.json, checked."""
        lists = {"rooms": tuple[str, ...]}
        lists |= {shelf.name: tuple[str, ...] for shelf in _listed_shelves()}
        wanted: JsonRecord = {**lists, **{t.name: t.kind for t in TABLES.values()}}
        for key in index:
            if key not in wanted and key != "format":
                known = ", ".join(("format", *wanted))
                raise BadFile("project.json", f"{key}: is not known here; known are {known}")
        if "name" not in index:
            raise BadFile("project.json", "name: is missing")
        values = {
            key: read_value(kind, index.get(key, []), data, "project.json", (key,))
            for key, kind in wanted.items()
        }
        if len(values["materials"]) > MOST_MATERIALS or len(values["tiles"]) > MOST_TILES:
            raise BadFile("project.json", "lists more materials or tiles than can be told apart")
        if len(values["block_names"]) > MOST_BLOCKS:
            raise BadFile("project.json", f"lists more than {MOST_BLOCKS} blocks")
        for key in (*lists, "materials", "block_names"):
            if len(set(values[key])) < len(values[key]):
                twice = next(name for name in values[key] if values[key].count(name) > 1)
                raise BadFile("project.json", f"lists “{twice}” twice under {key}")
        return values


def _check_format(index: Json) -> bool:
    """Whether it is of a format that older versions cannot read.  Raises BadFile."""
    if not isinstance(index, dict):
        raise BadFile("project.json", "must be a record")
    found = index.get("format")
    if not isinstance(found, int) or isinstance(found, bool):
        raise BadFile("project.json", f"format: must be a whole number, not {found!r:.40}")
    if found > FORMAT:
        raise BadFile("project.json", f"has format {found}, but this Topion reads up to {FORMAT}")
    if found < 1:
        raise BadFile("project.json", f"has format {found}, which is not known")
    return found > 1


class _FolderRooms:
    """Reads rooms of a folder when they are first asked for.

    is_newer : whether some of them may need the newer format.
    """

    def __init__(self, project: Project, written: _Written, each: Step, newer: bool) -> None:
        self._project, self._written, self._each, self.is_newer = project, written, each, newer

    def checked(self, names: tuple[str, ...]) -> tuple[str, ...]:
        """The same names; BadFile for one that has no room.json."""
        for name in names:
            path = f"{room_path(name)}/room.json"
            if not os.path.isfile(os.path.join(self._written.folder, path)):
                raise BadFile(path, "is missing")
        return names

    def move(self, written: _Written) -> None:
        """The rooms lie in another folder now."""
        self._written, self._each = written, lambda _: None

    def read(self, name: str) -> Room:
        files = _Files(self._written.folder, self._each)
        room = read_room(self._project, name, files.read, files.there, self._each)
        self._written.owners["rooms", name] = {
            part.key: (part.token, tuple(filter(files.there, _names_of(room, part.key))))
            for part in _room_parts(room)
        }
        return room

    def raw(self, name: str) -> Iterator[tuple[str, bytes]]:
        """The files of a room as they are."""
        files = _Files(self._written.folder, self._each)
        path = room_path(name)
        for found in sorted((self._written.folder / path).iterdir()):
            if found.suffix in (".json", ".rows"):
                yield f"{path}/{found.name}", files.read(f"{path}/{found.name}")


def _names_of(room: Room, key: tuple[str, ...]) -> Iterator[str]:
    """Files that a part of a room may be kept in."""
    path = room_path(room.info.name)
    if len(key) == 2:
        yield f"{path}/room.json"
        return
    traits = room.layers[key[2]].info.traits
    yield from (f"{path}/{key[2]}.{plane}.rows" for plane in traits.planes)
    yield from (f"{path}/{key[2]}.{table}.json" for table in traits.tables)


def check_library(project: Project, file: str) -> None:
    """Every name one part of the library uses for another must be known.  Raises BadFile."""
    try:
        for ref in project.tiles:
            project.tileset(ref.tileset).slot(ref.slot)
        known = {*project.tiles, *map(block_ref, project.block_names)}
        for block in project.blocks.values():
            for ref in block.faces:
                project.tileset(ref.tileset).slot(ref.slot)
        materials = set(project.materials)
        for brush in project.brushes.values():
            if brush.material and brush.material not in materials:
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


__all__ = ["FORMAT", "SUFFIX", "read_project", "stem", "write_project"]
