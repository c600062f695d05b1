"""What a project folder holds as far as we know, part by part.

A part is what has files of its own: an item of the library, the settings of a room, a layer, the
index.  Its token is equal as long as the part is, so a save writes what changed.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import Any, TypeAlias

from topion.formats.files import INDEX, FileMark, Marks
from topion.formats.items import item_files
from topion.formats.layer_files import layer_files
from topion.formats.room_files import head_bytes, needs_numbers, room_path
from topion.formats.text import json_text
from topion.model.derived import Kept
from topion.model.plain import JsonRecord, to_plain
from topion.model.project import Project
from topion.model.room import Room
from topion.model.shelves import TABLES, Foreign, Shelf, shelves

# all before 11 had rows without a head; a folder may hold such files as long as they are not
# written anew
FORMAT = 11
SUFFIX = ".topion"
Key: TypeAlias = tuple[str, ...]  # ("brushes", "Mud"), ("rooms", "Yard", "ground"), ("project",)
Step = Callable[[str], None]


@dataclass(frozen=True)
class KeptPart:
    """A part as it was read or written: its token, and the names of its files."""

    token: object
    names: tuple[str, ...]


@dataclass
class Store:
    """A folder and what we know of it.

    owners : parts by key, by their owner: an item, a room, the project itself.
    marks : of the files that were read or written, by name.
    """

    folder: Path
    owners: dict[Key, dict[Key, KeptPart]] = field(default_factory=dict)
    marks: Marks = field(default_factory=dict)

    def copy(self) -> Store:
        return Store(self.folder, dict(self.owners), dict(self.marks))

    def noted(self, name: str, mark: FileMark) -> None:
        """A file was read."""
        self.marks[name] = mark


STORE: Kept[Store] = Kept()
_TABLES: Kept[dict[str, tuple[object, Any]]] = Kept()  # by name, and what each is written as


def store_of(project: Project) -> Store | None:
    """What is known of the folder a project was read from or written to."""
    return STORE.latest(project)


def put_store(project: Project, store: Store) -> None:
    """The project lies in that folder now."""
    project.derived[STORE] = (object(), store)


@dataclass(frozen=True)
class Part:
    """A part of the project, and what makes its files."""

    key: Key
    token: object
    files: Callable[[], Iterable[tuple[str, bytes]]]


@dataclass(frozen=True, eq=False)
class Same:
    """A token that is equal to another one of the very same item; items never change."""

    item: Any

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Same) and other.item is self.item

    def __hash__(self) -> int:
        return id(self.item)


def names_in(owners: Iterable[dict[Key, KeptPart]]) -> set[str]:
    """The files of these owners."""
    return {name for parts in owners for part in parts.values() for name in part.names}


def item_part(shelf: Shelf, item: Any) -> Part:
    """An item of the library."""
    return Part((shelf.name, item.name), Same(item), partial(item_files, shelf, item))


def foreign_part(key: str, shelf: Foreign) -> Part:
    """A shelf of an extension that is missing."""
    return Part(("foreign", key), Same(shelf), lambda: shelf.files.items())


def room_parts(project: Project, room: Room) -> Iterator[Part]:
    """The settings of a room, and its layers."""
    name, path = room.info.name, room_path(room.info.name)
    layers = tuple(layer.info for _, layer in room.bottom_up())
    numbers = room.numbers if needs_numbers(room) else 0
    token = (room.info, room.order, layers, numbers, room.conflicts)
    yield Part(("rooms", name), token, lambda: [(f"{path}/room.json", head_bytes(room))])
    for layer_id, layer in room.bottom_up():
        yield Part(("rooms", name, layer_id), layer.revision,
                   partial(layer_files, project, f"{path}/{layer_id}", layer))  # fmt: skip


def index_part(project: Project, version: int) -> Part:
    """The tables and lists of the project."""
    index = index_of(project, version)
    return Part(("project",), index, lambda: [(INDEX, json_text(index).encode())])


def index_of(project: Project, version: int) -> JsonRecord:
    """project.json as plain values; what is empty is left out."""
    names = {shelf.name: list(project.shelf(shelf.name)) for shelf in listed_shelves()}
    tables = {name: _table(project, name) for name in TABLES if name != "name"}
    rest = {"id": project.id, "rooms": list(project.rooms), **names, **tables}
    rest |= {key: list(shelf.names) for key, shelf in project.foreign.items()}
    known = {key: value for key, value in rest.items() if value}
    return {"format": version, "name": project.name, **known}


def _table(project: Project, name: str) -> Any:
    """A table, which never changes, as plain values; made once, to be read."""
    known, table = _TABLES.of(project, None, dict), getattr(project, name)
    if name not in known or known[name][0] is not table:
        known[name] = (table, to_plain(table))
    return known[name][1]


def listed_shelves() -> Iterator[Shelf]:
    """Shelves whose items are listed by name; the others are in the order of their table."""
    return (shelf for shelf in shelves() if not shelf.numbers)
