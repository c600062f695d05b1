"""Items of the library as files: `SHELF/NAME.json`, and a PNG beside it for each picture."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from topion.errors import BadFile
from topion.formats.stems import stem
from topion.formats.text import json_text, parse_json, read_value
from topion.model.picture import Picture
from topion.model.plain import to_plain
from topion.model.shelves import Item, Shelf


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


def read_item(
    shelf: Shelf,
    name: str,
    read: Callable[[str], bytes],
    picture: Callable[[str], Picture],
) -> Any:
    """The item `name`; `read` and `picture` fetch what lies at a path.  Raises BadFile."""
    path = item_path(shelf, name)
    data = read(path)
    plain = parse_json(data, path)
    if isinstance(plain, dict):
        for field in shelf.pictures:
            plain[field] = picture(picture_path(shelf, name, field))
    found = read_value(shelf.item, plain, data, path)
    if found.name != name:
        raise BadFile(path, f"is named “{found.name}” inside, but it is listed as “{name}”")
    return found
