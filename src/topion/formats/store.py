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

from topion.brushes.kind import all_brushes
from topion.formats.files import INDEX, FileMark, Marks
from topion.formats.items import item_files
from topion.formats.room_files import format_of, head_bytes, layer_files, room_path
from topion.formats.text import json_text
from topion.model.condition import ALWAYS
from topion.model.derived import Kept
from topion.model.plain import JsonRecord, to_plain
from topion.model.project import Project
from topion.model.room import Room
from topion.model.shelves import TABLES, Shelf, shelves
from topion.things.rules.kind import known_rules

# 2 has an id, or numbers of things that were taken away; 3 has pieces; 4 has rooms that grow,
# groups, things with another side up, and stamps of what was picked; else 1
FORMAT = 10
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


def room_parts(room: Room) -> Iterator[Part]:
    """The settings of a room, and its layers."""
    name, path = room.info.name, room_path(room.info.name)
    layers = tuple(layer.info for _, layer in room.bottom_up())
    token = (room.info, room.order, layers, room.numbers, format_of(room))
    yield Part(("rooms", name), token, lambda: [(f"{path}/room.json", head_bytes(room))])
    for layer_id, layer in room.bottom_up():
        yield Part(("rooms", name, layer_id), layer.revision,
                   partial(layer_files, f"{path}/{layer_id}", layer))  # fmt: skip


def format_of_library(project: Project) -> int:
    """The oldest format that holds all of the library."""
    tilesets, blocks = project.tilesets.values(), project.blocks.values()
    tinted = any(t.two_tone or t.mask is not None for t in tilesets)
    themed = bool(project.shelf("themes")) or any(b.themes for b in blocks)
    sloped = any(slot.heights for t in tilesets for slot in t.slots.values())
    prefabs = project.prefabs.values()
    rules = (rule for prefab in prefabs for rule in known_rules(prefab.rules))
    asked = max((rule.oldest_format() for rule in rules), default=1)
    newer = ("properties", "points", "frames", "turned", "parts", "below_px", "floats", "role",
             "model_frames", "model_points", "counts")  # fmt: skip
    if (
        project.shelf("classes")
        or project.shelf("figures")
        or project.shelf("recordings")
        or any(getattr(p, name) for p in prefabs for name in newer)
        or any(p.when != ALWAYS for p in prefabs)
    ):
        asked = 6
    if project.shelf("accepted") or project.shelf("unasked"):
        asked = 7
    if project.shelf("placements"):
        asked = 8
    if project.shelf("legends"):
        asked = 10
    looks = 6 if sloped else 5 if project.palette or tinted or themed else 1
    return max((looks, asked, *(brush.oldest_format() for brush in all_brushes(project).values())))


def index_part(project: Project, version: int) -> Part:
    """The tables and lists of the project."""
    index = index_of(project, version)
    return Part(("project",), index, lambda: [(INDEX, json_text(index).encode())])


def index_of(project: Project, version: int) -> JsonRecord:
    """project.json as plain values; what is empty is left out."""
    names = {shelf.name: list(project.shelf(shelf.name)) for shelf in listed_shelves()}
    tables = {name: to_plain(getattr(project, name)) for name in TABLES if name != "name"}
    rest = {"id": project.id, "rooms": list(project.rooms), **names, **tables}
    known = {key: value for key, value in rest.items() if value}
    return {"format": version, "name": project.name, **known}


def listed_shelves() -> Iterator[Shelf]:
    """Shelves whose items are listed by name; the others are in the order of their table."""
    return (shelf for shelf in shelves() if not shelf.numbers)
