"""Changes of one file of a project, told from the file alone."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from topion.comparing.cells import cells_changed
from topion.comparing.change import Change, What
from topion.errors import BadFile, TopionError
from topion.formats.files import INDEX
from topion.formats.items import UNSETTLED
from topion.formats.layer_files import split_entries
from topion.formats.stems import unstemmed
from topion.formats.text import parse_json
from topion.grid.boxes import Box
from topion.model.plain import Json, JsonRecord
from topion.pictures.png import png_size


@dataclass(frozen=True)
class Told:
    """How rooms and layers are called.  layers : by the path of a room and the id of the layer."""

    rooms: dict[str, str] = field(default_factory=dict)
    layers: dict[tuple[str, str], str] = field(default_factory=dict)

    def room(self, path: str) -> str:
        return self.rooms.get(path) or unstemmed(path.partition("/")[2])

    def layer(self, path: str, layer_id: str) -> str:
        return self.layers.get((path, layer_id), layer_id)


def file_changes(
    name: str, before: bytes | None, after: bytes | None, told: Told | None = None
) -> Iterator[Change]:
    """What differs in two versions of a file; None where there is none.  Raises BadFile.

    name : its path in the project folder.
    """
    if before == after:
        return
    try:
        yield from _changes(name, before, after, told or Told())
    except TopionError:
        raise
    except (KeyError, TypeError, ValueError, AttributeError, IndexError) as problem:
        reason = f"cannot be compared: {type(problem).__name__} {problem}"
        raise BadFile(name, reason) from None


def _changes(name: str, before: bytes | None, after: bytes | None, told: Told) -> Iterator[Change]:
    if name == INDEX:
        yield from _index(before, after)
    elif name.endswith("/room.json"):
        yield from _room(name, before, after, told)
    elif name.endswith(".rows"):
        yield from _cells(name, before, after, told)
    elif name.startswith("rooms/"):
        yield from _entries(name, before, after, told)
    elif name.endswith(".png"):
        yield from _picture(name, before, after)
    else:
        yield from _item(name, before, after)


def what_of(before: object, after: object) -> What:
    """Whether something came, went or became another."""
    return "added" if before is None else "removed" if after is None else "changed"


def _record(data: bytes | None, name: str) -> JsonRecord:
    found = {} if data is None else parse_json(data, name)
    return found if isinstance(found, dict) else {}


def values_changed(before: JsonRecord, after: JsonRecord) -> dict[str, tuple[Json, Json]]:
    """(before, after) of the values that differ, by name; None where there is none."""
    keys = [*before, *(key for key in after if key not in before)]
    return {key: (before.get(key), after.get(key)) for key in keys
            if before.get(key) != after.get(key)}  # fmt: skip


# --- the project --------------------------------------------------------------------------


def _index(before: bytes | None, after: bytes | None) -> Iterator[Change]:
    old, new = _record(before, INDEX), _record(after, INDEX)
    for key, (one, other) in values_changed(old, new).items():
        if key in (UNSETTLED, "format", "id"):
            continue
        if isinstance(one or [], list) and isinstance(other or [], list):
            yield from _list(key, one or [], other or [])
        else:
            yield Change("project", shelf=key, values={key: (one, other)})


def _list(key: str, before: list[Json], after: list[Json]) -> Iterator[Change]:
    """A list of names, or of records that have one."""
    old, new = ({_name_of(item): item for item in side} for side in (before, after))
    for name in (n for n in new if n not in old):
        values = {k: (None, v) for k, v in new[name].items()} if key == "former" else {}
        yield Change("project", "added", key, name, values=values)
    for name in (n for n in old if n not in new):
        yield Change("project", "removed", key, name)
    for name in (n for n in old if n in new):
        if old[name] != new[name]:
            own = ({"": side} if not isinstance(side, dict) else side
                   for side in (old[name], new[name]))  # fmt: skip
            yield Change("project", "changed", key, name, values=values_changed(*own))
    if old.keys() == new.keys() and [*old] != [*new]:
        yield Change("project", "changed", key, "")


def _name_of(item: Json) -> str:
    if isinstance(item, dict):
        return str(item.get("name", item.get("new", "")))
    return " ".join(map(str, item)) if isinstance(item, list) else str(item)


def _item(name: str, before: bytes | None, after: bytes | None) -> Iterator[Change]:
    old, new = _record(before, name), _record(after, name)
    shelf = name.partition("/")[0]
    title = str((new or old).get("name", unstemmed(name.partition("/")[2])))
    what = what_of(before, after)
    values = values_changed(old, new) if what == "changed" else {}
    values.pop(UNSETTLED, None)
    if values or what != "changed":  # the same may be written otherwise
        yield Change("item", what, shelf, title, values=values)


def _picture(name: str, before: bytes | None, after: bytes | None) -> Iterator[Change]:
    shelf, _, rest = name.partition("/")
    stem, _, field_ = rest.removesuffix(".png").partition(".")
    sizes = [None if data is None else list(reversed(png_size(data, name)))
             for data in (before, after)]  # fmt: skip
    values = {field_ or "picture": (sizes[0], sizes[1])}
    yield Change("item", what_of(before, after), shelf, unstemmed(stem), values=values)


# --- rooms --------------------------------------------------------------------------------


def _room(name: str, before: bytes | None, after: bytes | None, told: Told) -> Iterator[Change]:
    old, new = _record(before, name), _record(after, name)
    room = told.room(name.rpartition("/")[0])
    what = what_of(before, after)
    settings = values_changed(old.get("room", {}), new.get("room", {}))
    if what != "changed" or settings:
        yield Change("room", what, room=room, values=settings if what == "changed" else {})
    if what != "changed":
        return
    lines = [{line["id"]: line["layer"] for line in side.get("layers", [])} for side in (old, new)]
    for layer_id in {**lines[0], **lines[1]}:
        one, other = (side.get(layer_id) for side in lines)
        if one != other:
            values = values_changed(one, other) if one and other else {}
            title = str((other or one)["name"])  # type: ignore[index]
            yield Change("layer", what_of(one, other), room=room, layer=title, values=values)
    orders = [[i for i in side if i in lines[0] and i in lines[1]] for side in lines]
    if orders[0] != orders[1]:
        yield Change("layer", room=room, values={"order": (orders[0], orders[1])})


def _cells(name: str, before: bytes | None, after: bytes | None, told: Told) -> Iterator[Change]:
    path, layer_id, part = _parts(name)
    found = cells_changed(name, before, after)
    if not found.mask.any():
        return
    box = Box.of_cells(np.argwhere(found.mask)).shifted(found.box.lo)
    yield Change("cells", "changed", room=told.room(path), layer=told.layer(path, layer_id),
                 part=part, count=int(np.count_nonzero(found.mask)), lo=box.lo, hi=box.hi,
                 turned=tuple(found.turned()))  # fmt: skip


def _parts(name: str) -> tuple[str, str, str]:
    """(path of the room, id of the layer, plane or table)"""
    path, _, rest = name.rpartition("/")
    layer_id, part, _ = rest.rsplit(".", 2)
    return path, layer_id, part


def _entries(name: str, before: bytes | None, after: bytes | None, told: Told) -> Iterator[Change]:
    path, layer_id, part = _parts(name)
    sides = [{} if data is None else
             {entry["id"]: entry for entry in split_entries(parse_json(data, name), name).entries}
             for data in (before, after)]  # fmt: skip
    old, new = sides
    numbers = {
        "added": tuple(sorted(new.keys() - old.keys())),
        "removed": tuple(sorted(old.keys() - new.keys())),
        "changed": tuple(sorted(n for n in old.keys() & new.keys() if old[n] != new[n])),
    }
    count = sum(map(len, numbers.values()))
    if count:
        kept = {word: own for word, own in numbers.items() if own}
        yield Change("entries", "changed", room=told.room(path), layer=told.layer(path, layer_id),
                     part=part, count=count, numbers=kept,
                     turned=_prefabs(numbers, old, new))  # fmt: skip


def _prefabs(
    numbers: dict[str, tuple[int, ...]], old: dict[int, JsonRecord], new: dict[int, JsonRecord]
) -> tuple[tuple[str, str, int], ...]:
    """(what was done, of which prefab or brush, how many), the most first."""
    counts: dict[tuple[str, str], int] = {}
    for word, own in numbers.items():
        for number in own:
            entry = new.get(number) or old[number]
            key = word, str(entry.get("prefab", entry.get("brush", "")))
            counts[key] = counts.get(key, 0) + 1
    ranked = sorted(counts.items(), key=lambda pair: (-pair[1], pair[0]))
    return tuple((word, name, count) for (word, name), count in ranked)
