"""Records put together: items of the library, the settings of a room, the index of the project."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any

import topion.brushes
import topion.conditions
import topion.roles
import topion.things.rules  # noqa: F401  (registers the kinds that items are of)
from topion.errors import BadFile, TopionError
from topion.formats.files import INDEX
from topion.formats.items import UNSETTLED
from topion.formats.room_files import RoomFile
from topion.formats.stems import stem
from topion.formats.text import json_text, parse_json, read_value
from topion.grid.boxes import Box
from topion.merging.boxes import merged_box
from topion.merging.files import MergedFile, kept_conflicts
from topion.merging.values import (
    MISSING,
    Both,
    Path,
    Three,
    merged_keyed,
    merged_order,
    merged_values,
    others_of,
)
from topion.model.conflict import ItemConflict, SettingConflict, Side
from topion.model.palette import MOST_TINTS
from topion.model.plain import BadPlain, Json, JsonRecord, from_plain, to_plain
from topion.model.shelves import SHELVES, TABLES

_SIDES: tuple[Side, Side] = ("theirs", "ours")
UNITED = ("materials", "tiles", "block_names")  # tables whose places stand in cells


def _record(data: bytes | None, file: str) -> JsonRecord:
    if data is None:
        return {}
    found = parse_json(data, file)
    if not isinstance(found, dict):
        raise BadFile(file, "must be a record")
    return found


# --- items of the library -----------------------------------------------------------------


def merged_item(file: str, base: bytes | None, ours: bytes, theirs: bytes) -> MergedFile:
    """Three versions of SHELF/NAME.json.  base : None where there was none.  Raises BadFile."""
    sides = Three(base, ours, theirs).each(lambda data: _record(data, file))
    kept = kept_conflicts(sides.each(lambda side: side.pop(UNSETTLED, [])))
    made, both = merged_values(Three(sides.base or MISSING, sides.ours, sides.theirs))
    shelf, _, path = file.partition("/")
    if not _is_sound(shelf, made):
        made, both = sides.ours, [Both((), sides.theirs)]
    made, both = _called_as(path.removesuffix(".json"), made, sides.each(_name_in), both)
    name = str(made.get("name", ""))
    fresh = tuple(to_plain(one) for one in item_conflicts(shelf, name, made, sides.theirs, both))
    every = [*kept, *fresh]
    whole = {**made, UNSETTLED: every} if every else made
    return MergedFile(json_text(whole).encode(), fresh)


def _name_in(plain: JsonRecord) -> str:
    return str(plain.get("name", ""))


def _called_as(
    path: str, made: JsonRecord, names: Three[str], both: list[Both]
) -> tuple[JsonRecord, list[Both]]:
    """Called as its file is, which version control may have moved."""
    fitting = next((name for name in names if stem(name) == path), "")
    if not fitting:
        return made, both
    return {**made, "name": fitting}, [one for one in both if one.path != ("name",)]


def _is_sound(shelf: str, plain: JsonRecord) -> bool:
    """Whether values of both sides, put together, are an item; those of pictures, which lie in
    files of their own, are not asked."""
    item: Any = SHELVES.get(shelf)
    if item is None or item.pictures:
        return True
    try:
        from_plain(item.item, plain)
    except TopionError:
        return False
    return True


def item_conflicts(
    shelf: str, name: str, made: JsonRecord, theirs: JsonRecord, both: Iterable[Both]
) -> Iterable[ItemConflict]:
    """One for each side."""
    found = list(both)
    for side in _SIDES:
        own = [one for one in found if one.side == side]
        if any(not one.path for one in own):
            values = {key: theirs.get(key) for key in {**made, **theirs}
                      if made.get(key) != theirs.get(key)}  # fmt: skip
            yield ItemConflict(
                conflict_name(shelf, name, values), shelf, name, values=values, side=side
            )
        elif own:
            values = others_of(made, own, side)
            yield ItemConflict(
                conflict_name(shelf, name, values), shelf, name, values=values, side=side
            )


def conflict_name(shelf: str, name: str, values: Iterable[str]) -> str:
    """What a conflict of an item is called."""
    what = f" · {', '.join(values)}" if values else ""
    return f"{shelf} {name}{what}".strip()[:160]


# --- room.json ----------------------------------------------------------------------------


def merged_room(file: str, base: bytes | None, ours: bytes, theirs: bytes) -> MergedFile:
    """Three versions of room.json.  Raises BadFile."""
    sides = Three(base, ours, theirs).each(lambda data: _record(data, file))
    numbers = [side.get("numbers", 0) for side in sides[1:]]
    kept = kept_conflicts(sides.each(lambda side: list(side.get("conflicts", []))))
    infos = sides.each(lambda side: dict(side.get("room", {})))
    info, both = _merged_info(infos, file)
    info, both = _called_as(file.split("/")[-2], info, infos.each(_name_in), both)
    conflicts = _settings("", info, both)
    layers, found = merged_keyed(sides.each(lambda side: list(side.get("layers", []))), "id")
    # a layer that one side took away has no files any more, whatever the other one set
    gone = {one.path[0] for one in found if len(one.path) == 1}
    layers = [layer for layer in layers if layer["id"] not in gone]
    for layer in layers:
        own = [replace(one, path=one.path[2:]) for one in found if one.path[0] == layer["id"]]
        conflicts += _settings(layer["id"], layer["layer"], own)
    fresh = tuple(to_plain(one) for one in conflicts)
    made: JsonRecord = {"room": info, "layers": layers}
    highest = max((n for n in numbers if isinstance(n, int)), default=0)
    made |= {"numbers": highest} if highest else {}
    made |= {"conflicts": [*kept, *fresh]} if kept or fresh else {}
    read_value(RoomFile, made, b"", file)
    return MergedFile(json_text(made).encode(), fresh)


def _settings(layer: str, made: JsonRecord, both: list[Both]) -> list[SettingConflict]:
    found = []
    for side in _SIDES:
        own = [one for one in both if one.side == side]
        if own:
            found.append(SettingConflict(layer, values=others_of(made, own, side), side=side))
    return found


def _merged_info(sides: Three[JsonRecord], file: str) -> tuple[JsonRecord, list[Both]]:
    """The settings of a room; its size and origin go together."""
    before, mine, yours = sides.each(_box_of)
    if mine is None or yours is None:
        raise BadFile(file, "room: its size is missing")
    info, both = merged_values(sides.each(_without_size))
    box = merged_box(before or mine, mine, yours)
    info = {"name": info.pop("name", ""), "size": list(box.shape), **info}
    return (info | {"origin": list(box.lo)} if any(box.lo) else info), both


def _without_size(info: JsonRecord) -> Json:
    return {key: value for key, value in info.items() if key not in ("size", "origin")}


def _box_of(info: JsonRecord) -> Box | None:
    try:
        size = from_plain(tuple[int, ...], info.get("size", []))
        origin = from_plain(tuple[int, ...], info.get("origin", [])) or (0,) * len(size)
    except BadPlain:
        return None
    return Box.of_shape(size).shifted(origin) if size and len(size) == len(origin) else None


# --- project.json -------------------------------------------------------------------------


def merged_index(base: bytes | None, ours: bytes, theirs: bytes) -> MergedFile:
    """Three versions of project.json.  Raises BadFile."""
    sides = Three(base, ours, theirs).each(lambda data: _record(data, INDEX))
    kept = kept_conflicts(sides.each(lambda side: side.pop(UNSETTLED, [])))
    made: JsonRecord = {}
    fresh: list[ItemConflict] = []
    for key in merged_order(sides.each(list), every=True):
        value, both = _merged_part(key, Three(*(side.get(key, MISSING) for side in sides)))
        if value is not MISSING and value != []:
            made[key] = value
        if both:
            theirs_now = None if both[0].value is MISSING else both[0].value
            fresh.append(ItemConflict(f"the {key} of the project", key, values={key: theirs_now}))
    plain = tuple(to_plain(one) for one in fresh)
    if kept or plain:
        made[UNSETTLED] = [*kept, *plain]
    return MergedFile(json_text(made).encode(), plain)


def _merged_part(key: str, sides: Three[Json]) -> tuple[Json, list[Both]]:
    lists: Three[list[Json]] = sides.each(lambda side: side if isinstance(side, list) else [])
    if key == "format":
        known = [side for side in sides[1:] if isinstance(side, int)]
        return max(known, default=MISSING), []
    if key in UNITED:
        return _united(lists), []
    if key == "palette":
        return _merged_palette(lists)
    if key == "bays":
        return merged_keyed(lists, "name", (), _merged_bay)
    if key == "rooms" or (key in SHELVES and key not in TABLES):
        return merged_order(lists), []
    return merged_values(sides)


def _united(sides: Three[list[Json]]) -> list[Json]:
    """A table whose places stand in cells: ours, and behind it what only theirs has."""
    base, ours, theirs = sides
    now = dict(_renamed(base, theirs))
    made = [now.get(_frozen(item), item) for item in ours]
    before = {_frozen(item) for item in base}
    there = {_frozen(item) for item in made}
    return made + [item for item in theirs if _frozen(item) not in there | before]


def _renamed(base: list[Json], side: list[Json]) -> Iterable[tuple[Any, Json]]:
    """(before, now) of what stands at the same place under another name."""
    known, there = {_frozen(item) for item in base}, {_frozen(item) for item in side}
    for old, new in zip(base, side, strict=False):
        if old != new and _frozen(old) not in there and _frozen(new) not in known:
            yield _frozen(old), new


def _frozen(item: Json) -> Any:
    return tuple(map(_frozen, item)) if isinstance(item, list) else item


def _merged_palette(sides: Three[list[Json]]) -> tuple[list[Json], list[Both]]:
    """Colours by number; one that both added under one number gets another where it is theirs."""
    base, ours, theirs = sides
    known = {tint["number"] for tint in base}
    mine = {tint["number"]: tint for tint in ours}
    taken = known | {*mine} | {tint["number"] for tint in theirs}
    names = {tint["name"]: tint for tint in ours}
    made = []
    for tint in theirs:
        number = tint["number"]
        if number not in known and tint["name"] in names:
            tint = names[tint["name"]]  # both added one of that name
        elif number not in known and mine.get(number, tint) != tint:
            free = min({*range(1, MOST_TINTS + 1)} - taken, default=0)
            if not free:
                return ours, [Both((), theirs)]
            taken.add(free)
            tint = {**tint, "number": free}
        made.append(tint)
    return merged_keyed(Three(base, ours, made), "number")


def _merged_bay(sides: Three[Json], path: Path) -> tuple[Json, list[Both]]:
    """A bay that one side emptied or took away stays where the other one put cards."""
    if sides.ours is MISSING or sides.theirs is MISSING:
        return merged_values(sides, path)
    cards = sides.each(lambda side: [] if side is MISSING else list(side.get("brushes", [])))
    brushes = merged_order(cards)
    return {**sides.ours, **({"brushes": brushes} if brushes else {})}, []
