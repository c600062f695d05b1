"""Items of the library as files: `SHELF/NAME.json`, and a PNG beside it for each picture."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from topion.errors import BadFile
from topion.formats.stems import stem
from topion.formats.text import json_text, parse_json, read_value
from topion.model.conflict import ItemConflict
from topion.model.picture import Picture
from topion.model.plain import Json, to_plain
from topion.model.shelves import Item, Shelf
from topion.pictures.png import note_of

UNSETTLED = "unsettled"  # where files of items and of the project hold what a merge left in them


def item_files(shelf: Shelf, item: Item) -> list[tuple[str, bytes]]:
    """(path in the folder, contents) of all that is kept of an item."""
    plain = to_plain(item)
    pictures = []
    for field in shelf.pictures:
        del plain[field]
        pictures.append((picture_path(shelf, item.name, field), getattr(item, field).png))
    return [(item_path(shelf, item.name), json_text(plain).encode()), *pictures]


def item_names(shelf: Shelf, name: str) -> tuple[str, ...]:
    """The paths of all files of an item."""
    pictures = (picture_path(shelf, name, field) for field in shelf.pictures)
    return (item_path(shelf, name), *pictures)


def item_path(shelf: Shelf, name: str) -> str:
    return f"{shelf.name}/{stem(name)}.json"


def picture_path(shelf: Shelf, name: str, field: str) -> str:
    """Of the first picture of an item, and of further ones, which add the name of their field."""
    more = "" if field == shelf.pictures[0] else f".{field}"
    return f"{shelf.name}/{stem(name)}{more}.png"


@dataclass(frozen=True)
class ItemRead:
    """An item that was read, and conflicts that a merge left in its files."""

    item: Any
    conflicts: tuple[ItemConflict, ...]


def read_item(
    shelf: Shelf,
    name: str,
    read: Callable[[str], bytes],
    picture: Callable[[str], Picture],
) -> ItemRead:
    """The item `name`; `read` and `picture` fetch what lies at a path.  Raises BadFile."""
    path = item_path(shelf, name)
    data = read(path)
    plain, left = parse_json(data, path), []
    if isinstance(plain, dict):
        left = list(plain.pop(UNSETTLED, []))
        for field in shelf.pictures:
            found = picture(picture_path(shelf, name, field))
            note, bare = note_of(found.png)
            plain[field] = Picture(found.rgba, bare) if note else found
            left += [parse_json(note.encode(), path)] if note else []
    item = read_value(shelf.item, plain, data, path)
    if item.name != name:
        raise BadFile(path, f"is named “{item.name}” inside, but it is listed as “{name}”")
    return ItemRead(item, read_conflicts(left, path))


def read_conflicts(plain: Json, path: str) -> tuple[ItemConflict, ...]:
    """Conflicts of the library from JSON values.  Raises BadFile."""
    kind = tuple[ItemConflict, ...]
    found: tuple[ItemConflict, ...] = read_value(kind, plain, b"", path, (UNSETTLED,))
    return found
