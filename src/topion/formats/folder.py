"""The project folder `NAME.topion/`: written for version control, read in stages.

project.json                  id, names, tables of materials and tiles, bays
SHELF/NAME.json .png          items of the library, see `items.py`
rooms/NAME/…                  see `room_files.py`

Opening reads the library and the names of rooms; a room is read at its first use.  `writing.py`
saves what changed since it was read or written.
"""

from __future__ import annotations

import os
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path

import topion.brushes
import topion.conditions
import topion.roles
import topion.things.rules  # noqa: F401  (and of rules)
from topion.errors import BadFile
from topion.formats.files import FOREIGN, INDEX, FileMark, digest_of, inside, is_own
from topion.formats.former import former_names, use_new_names
from topion.formats.items import UNSETTLED, item_names, read_conflicts, read_item
from topion.formats.room_files import read_info, read_room, room_path
from topion.formats.saving import finish_save
from topion.formats.stems import former_stem
from topion.formats.store import (
    FORMAT,
    KeptPart,
    Same,
    Step,
    Store,
    index_of,
    listed_shelves,
    put_store,
    room_parts,
)
from topion.formats.text import MOST_JSON, parse_json, read_value
from topion.grid.hashing import seed_of
from topion.model.conflict import ItemConflict
from topion.model.picture import Picture
from topion.model.plain import Json, JsonRecord
from topion.model.project import MOST_MATERIALS, MOST_TILES, Project
from topion.model.room import Room, RoomInfo
from topion.model.rooms import Rooms
from topion.model.shelves import TABLES, Foreign, shelves
from topion.model.solid import MOST_BLOCKS
from topion.model.sound import NotSound, check_library
from topion.pictures.png import read_bytes, read_png

_MOST_ROWS = 1 << 28  # bytes of one file of cells
_MOST_INDEX = 1 << 24
_CLONE_NUMBERS = 1 << 16  # within which copies of a repository begin to give numbers
_MOST_FILES = 100_000  # in one list of project.json
_ID = re.compile(r"[0-9A-Za-z_-]{0,64}")


def read_project(folder: Path, each: Step | None = None, clone: str = "") -> Project:
    """Read a project folder: its library, and the names of its rooms.

    clone : tells the copy of a repository from other copies, in which others give numbers too.
    Raises BadFile and builds nothing if it is not sound; so does the first use of a room.
    """
    try:
        is_folder, is_there = folder.is_dir(), folder.exists()
    except (OSError, ValueError):  # a name that no folder can have
        is_folder = is_there = False
    if not is_folder:
        raise BadFile(folder, "is not a project folder" if is_there else "is missing")
    try:
        folder = folder.resolve()
        finish_save(folder)
        if not os.path.lexists(folder / INDEX):
            raise BadFile(folder, f"holds no {INDEX}, so it is not a project")
        return _Reader(_Files(folder, each or (lambda _: None)), clone).project()
    except OSError as problem:
        name = problem.filename or folder
        raise BadFile(name, f"cannot be read: {problem.strerror or problem}") from None


class _Files:
    """What lies at paths in a folder, noted as it is read."""

    def __init__(self, folder: Path, each: Step, store: Store | None = None) -> None:
        self.folder, self.each = folder, each
        self.store = store or Store(folder)

    def actual(self, name: str) -> str:
        """The path at which a file is there: `name`, or what its parts were called by the first
        versions, which wrote other names for letters beyond ASCII."""
        if os.path.lexists(os.path.join(self.folder, name)):
            return name
        at = ""
        for part in name.split("/"):
            here = os.path.join(self.folder, at)
            found = part
            if not os.path.lexists(os.path.join(here, part)) and os.path.isdir(here):
                known, dot, more = part.partition(".")
                found = _entry(here, former_stem(known) + dot + more) or part
            at = f"{at}/{found}" if at else found
        return at

    def read(self, name: str) -> bytes:
        self.each(name)
        name = self.actual(name)
        most = _MOST_ROWS if name.endswith(".rows") else MOST_JSON
        return self._read(name, _MOST_INDEX if name == INDEX else most)

    def _read(self, name: str, most: int) -> bytes:
        path = inside(self.folder, name)
        try:
            about = os.stat(path)
            data = read_bytes(path, most)
        except BadFile as problem:
            raise BadFile(name, problem.reason) from None
        except OSError as problem:
            missing = isinstance(problem, FileNotFoundError)
            raise BadFile(
                name, "is missing" if missing else f"cannot be read: {problem.strerror}"
            ) from None
        self.store.marks[name] = FileMark.of(about, digest_of(data))
        return data

    def picture(self, name: str) -> Picture:
        self.each(name)
        name = self.actual(name)
        return read_png(self._read(name, _MOST_ROWS), name)

    def there(self, name: str) -> bool:
        return os.path.exists(os.path.join(self.folder, self.actual(name)))

    def kept(self, token: object, names: Iterable[str]) -> KeptPart:
        """A part as it lies there; one whose files have former names is written anew."""
        names = tuple(names)
        actual = tuple(map(self.actual, names))
        return KeptPart(token if actual == names else object(), actual)


def _entry(folder: str, pattern: str) -> str | None:
    """The one entry of a folder that is called so, or ends so behind a star."""
    if not pattern.startswith("*"):
        return pattern if os.path.lexists(os.path.join(folder, pattern)) else None
    found = [name for name in os.listdir(folder) if name.endswith(pattern[1:])]
    return found[0] if len(found) == 1 else None


@dataclass(frozen=True)
class Index:
    """project.json: its lists and tables by name.  version : of the format it is written in.
    conflicts : what a merge left in it.  foreign : names on shelves that are not known here.
    """

    values: JsonRecord
    version: int
    conflicts: tuple[ItemConflict, ...] = ()
    foreign: dict[str, tuple[str, ...]] = field(default_factory=dict)


def read_index(data: bytes) -> Index:
    """project.json from its bytes.  Raises BadFile."""
    index = parse_json(data, INDEX)
    version = _checked_format(index)
    lists = {"rooms": tuple[str, ...]}
    lists |= {shelf.name: tuple[str, ...] for shelf in listed_shelves()}
    wanted: JsonRecord = {"id": str, **lists, **{t.name: t.kind for t in TABLES.values()}}
    foreign: dict[str, tuple[str, ...]] = {}
    for key in index:
        if key in wanted or key in ("format", UNSETTLED):
            continue
        if not FOREIGN.fullmatch(key) or not isinstance(index[key], list):
            known = ", ".join(("format", *wanted))
            raise BadFile(INDEX, f"{key:.40}: is not known here; known are {known}")
        wanted_names = tuple[str, ...]  # a shelf of an extension that is missing
        foreign[key] = read_value(wanted_names, index[key], data, INDEX, (key,))
    if "name" not in index:
        raise BadFile(INDEX, "name: is missing")
    for key in wanted:
        if isinstance(index.get(key), list) and len(index[key]) > _MOST_FILES:
            raise BadFile(INDEX, f"{key}: lists more than {_MOST_FILES} of them")
    empty: JsonRecord = {"id": ""}
    values = {
        key: read_value(kind, index.get(key, empty.get(key, [])), data, INDEX, (key,))
        for key, kind in wanted.items()
    }
    left = read_conflicts(index.get(UNSETTLED, []), INDEX)
    return Index(values, version, left, foreign)


def check_index(index: Index, data: bytes) -> None:
    """Raises BadFile for an index that lists too much, or something twice."""
    values = index.values
    if not _ID.fullmatch(values["id"]):
        raise BadFile(INDEX, "id: must be letters and digits")
    if len(values["materials"]) > MOST_MATERIALS or len(values["tiles"]) > MOST_TILES:
        raise BadFile(INDEX, "lists more materials or tiles than can be told apart")
    if len(values["block_names"]) > MOST_BLOCKS:
        raise BadFile(INDEX, f"lists more than {MOST_BLOCKS} blocks")
    lists = ("rooms", *(shelf.name for shelf in listed_shelves()))
    for key in (*lists, "materials", "block_names"):
        seen: set[str] = set()
        for name in values[key]:
            if name in seen:
                raise BadFile(INDEX, f"lists “{name:.80}” twice under {key}")
            seen.add(name)


def _checked_format(index: Json) -> int:
    """The version of the format.  Raises BadFile."""
    if not isinstance(index, dict):
        raise BadFile(INDEX, "must be a record")
    found = index.get("format")
    if not isinstance(found, int) or isinstance(found, bool):
        raise BadFile(INDEX, f"format: must be a whole number, not {found!r:.40}")
    if found > FORMAT:
        raise BadFile(INDEX, f"has format {found:.6g}, but this Topion reads up to {FORMAT}")
    if found < 1:
        raise BadFile(INDEX, f"has format {found:.6g}, which is not known")
    return found


class _Reader:
    def __init__(self, files: _Files, clone: str) -> None:
        self.files, self.clone = files, clone

    def project(self) -> Project:
        data = self.files.read(INDEX)
        index = read_index(data)
        check_index(index, data)
        values, store = index.values, self.files.store
        tables = {table: values[table] for table in TABLES if table != "name"}
        project = Project(values["name"], id=values["id"], **tables)
        put_store(project, store)
        left = list(index.conflicts)
        for shelf in shelves():
            for name in values[shelf.numbers or shelf.name]:
                found = read_item(shelf, name, self.files.read, self.files.picture)
                project.shelf(shelf.name)[name] = found.item
                token = object() if found.conflicts else Same(found.item)
                part = self.files.kept(token, item_names(shelf, name))
                store.owners[shelf.name, name] = {(shelf.name, name): part}
                left += found.conflicts
        self._take_foreign(project, index)
        take_up(project, left)
        names = former_names(project)
        if names:
            use_new_names(project, names)
        try:
            check_library(project)
        except NotSound as problem:
            raise BadFile(INDEX, str(problem)) from None
        for key, foreign in project.foreign.items():
            owner = ("foreign", key)
            store.owners[owner] = {owner: KeptPart(Same(foreign), tuple(foreign.files))}
        source = FolderRooms(project, store, self.files.each, index.version, self.clone)
        project.rooms = Rooms(unread=source.checked(values["rooms"]), source=source)
        token = object() if left else index_of(project, index.version)
        known = KeptPart(token, (INDEX,))
        store.owners["project",] = {("project",): known}
        return project

    def _take_foreign(self, project: Project, index: Index) -> None:
        """Keep what lies on shelves of extensions that are missing, byte by byte."""
        for key, names in index.foreign.items():
            found = _foreign_files(self.files.folder, key)
            files = {name: self.files.read(name) for name in found}
            project.foreign[key] = Foreign(names, files)


def _foreign_files(folder: Path, key: str) -> list[str]:
    """The files that lie on a shelf of somebody else."""
    if os.path.islink(folder / key) or not os.path.isdir(folder / key):
        return []
    return sorted(
        name for entry in os.listdir(folder / key) if is_own(name := f"{key}/{entry}", [key])
    )


def take_up(project: Project, left: list[ItemConflict]) -> None:
    """Put conflicts that a merge left in files onto their shelf, under names that are free."""
    shelf = project.shelf("conflicts")
    for conflict in left:
        name, more = conflict.name, 2
        while name in shelf:
            name, more = f"{conflict.name} {more}", more + 1
        shelf[name] = replace(conflict, name=name)


class FolderRooms:
    """Reads rooms of a folder when they are first asked for.

    version : of the format in which the folder is.  clone : see `read_project`.
    """

    def __init__(
        self, project: Project, store: Store, each: Step, version: int, clone: str = ""
    ) -> None:
        self._project, self._store, self._each, self.version = project, store, each, version
        self._clone = clone

    def checked(self, names: tuple[str, ...]) -> tuple[str, ...]:
        """The same names; BadFile for one that has no room.json."""
        files = self._files()
        for name in names:
            path = f"{room_path(name)}/room.json"
            if not os.path.isfile(os.path.join(files.folder, files.actual(path))):
                raise BadFile(path, "is missing")
        return names

    def path(self, name: str) -> str:
        """Where the files of a room lie now."""
        return self._files().actual(room_path(name))

    def _files(self, store: Store | None = None) -> _Files:
        return _Files(self._store.folder, self._each, store)

    def move(self, store: Store) -> None:
        """The rooms lie in another folder now."""
        self._store, self._each = store, lambda _: None

    def read(self, name: str, *, keep: bool = True) -> Room:
        """Raises BadFile."""
        store = self._store
        files = self._files(store if keep else None)
        names = former_names(self._project) if self._project.former else ()
        found = read_room(self._project, name, files.read, files.there, self._each, names)
        room = found.room
        if not keep:
            return room
        if self._clone:
            room.skip_numbers(seed_of(f"{self._clone} {name} {room.numbers}") % _CLONE_NUMBERS)
        store.owners["rooms", name] = {
            part.key: files.kept(part.token if found.whole else object(),
                                 filter(files.there, _names_of(room, part.key)))
            for part in room_parts(self._project, room)
        }  # fmt: skip
        return room

    def info(self, name: str) -> RoomInfo:
        """Reads its settings only.  Raises BadFile."""
        return read_info(name, self._files().read)

    def raw(self, name: str) -> Iterator[tuple[str, bytes]]:
        """The files of a room as they are."""
        files, path = self._files(), self.path(name)
        for found in sorted(inside(self._store.folder, path).iterdir()):
            if found.suffix in (".json", ".rows"):
                yield f"{room_path(name)}/{found.name}", files.read(f"{path}/{found.name}")


def _names_of(room: Room, key: tuple[str, ...]) -> Iterator[str]:
    """Files that a part of a room may be kept in."""
    path = room_path(room.info.name)
    if len(key) == 2:
        yield f"{path}/room.json"
        return
    traits = room.layers[key[2]].info.traits
    yield from (f"{path}/{key[2]}.{plane}.rows" for plane in traits.planes)
    yield from (f"{path}/{key[2]}.{table}.json" for table in traits.tables)


__all__ = ["FORMAT", "FolderRooms", "Index", "check_index", "read_index", "read_project"]
