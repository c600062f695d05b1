"""Numbered entries put together: things, pieces, curves, held things, banned places."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from topion.errors import BadFile
from topion.formats.layer_files import EntriesFile, entry_kind, split_entries
from topion.formats.text import json_lines, parse_json, read_value
from topion.grid.hashing import seed_of
from topion.merging.files import MergedFile, kept_conflicts
from topion.merging.numbers import renumbered
from topion.merging.values import MISSING, Both, Path, Three, merged_keyed, merged_values, others_of
from topion.model.conflict import EntryConflict
from topion.model.plain import Json, JsonRecord, to_plain

_PLACE = ("y", "x", "z", "along")  # of a thing, which moves as a whole
_HIGH = 1 << 24  # numbers that are given while two files are put together lie above it


def merged_entries(file: str, base: bytes | None, ours: bytes, theirs: bytes) -> MergedFile:
    """Three versions of a file of entries put together.

    file : its path, of which the last part is ID.TABLE.json.  base : None where there was none.
    An entry that both added under one number gets another one where it is theirs.  Raises BadFile.
    """
    layer, table, _ = file.rpartition("/")[2].rsplit(".", 2)
    own = _read(ours, file)
    before = EntriesFile(own.start, []) if base is None else _read(base, file)
    sides = Three(before, own, _read(theirs, file))
    start = _merged_start(sides.each(lambda side: side.start))
    rows = sides.each(lambda side: _moved(side, start, table, file))
    made, both = merged_keyed(_apart(rows, file), "id", (), _merged_entry)
    made.sort(key=lambda entry: int(entry["id"]))
    fresh = tuple(to_plain(one) for one in _conflicts(layer, table, made, both))
    kept = kept_conflicts(sides.each(lambda side: list(side.conflicts)))
    head = [{"from": list(start)}] if any(start) else []
    lines = [*head, *made, *({"conflict": one} for one in (*kept, *fresh))]
    return MergedFile(json_lines(lines).encode(), fresh)


def _read(data: bytes, file: str) -> EntriesFile:
    found = split_entries(parse_json(data, file), file)
    for entry in found.entries:
        if not isinstance(entry.get("id"), int):
            raise BadFile(file, "has an entry without a number")
    return found


def _merged_start(sides: Three[tuple[int, ...]]) -> tuple[int, ...]:
    """From where the merged file counts, as the room does."""
    base, ours, theirs = sides
    if ours in (base, theirs):
        return theirs
    if theirs == base:
        return ours
    axes = max(len(ours), len(theirs))
    whole = [side or (0,) * axes for side in (ours, theirs)]
    return tuple(min(pair) for pair in zip(*whole, strict=True))


def _moved(side: EntriesFile, start: tuple[int, ...], table: str, file: str) -> list[JsonRecord]:
    """Its entries as they count from another cell."""
    axes = max(len(side.start), len(start))
    old, new = side.start or (0,) * axes, start or (0,) * axes
    by = tuple(a - b for a, b in zip(old, new, strict=True))
    if not any(by):
        return side.entries
    kind: Any = entry_kind(table)
    made = []
    for record in side.entries:
        bare = {key: value for key, value in record.items() if key != "id"}
        entry = read_value(kind, bare, b"", file, (str(record["id"]),))
        made.append({"id": record["id"], **to_plain(entry.shifted(by))})
    return made


def _apart(sides: Three[list[JsonRecord]], file: str) -> Three[list[Json]]:
    """The same, with other numbers for entries of theirs where both added some under one."""
    base, ours, theirs = sides
    known = {entry["id"] for entry in base}
    mine = {entry["id"]: entry for entry in ours}
    taken = {*known, *mine, *(entry["id"] for entry in theirs)}
    numbers: dict[int, int] = {}
    for entry in theirs:
        number = entry["id"]
        if number in known or mine.get(number, entry) == entry:
            continue
        fresh = _HIGH + seed_of(f"{file} {entry}") % (1 << 30)
        while fresh in taken:
            fresh += 1
        taken.add(fresh)
        numbers[number] = fresh
    before = {entry["id"]: entry for entry in base}
    moved = [entry if before.get(entry["id"]) == entry else renumbered(entry, numbers)
             for entry in theirs]  # fmt: skip
    return Three(base, ours, moved if numbers else theirs)


def _merged_entry(sides: Three[Json], path: Path) -> tuple[Json, list[Both]]:
    """One entry.  Its place is one value: who moves it moves all of it."""
    value, both = merged_values(sides.each(_packed), path)
    if value is MISSING or not isinstance(value, dict):
        return value, both
    return _unpacked(value), [_unpacked_both(one, len(path)) for one in both]


def _packed(entry: Json) -> Json:
    if entry is MISSING or "x" not in entry:
        return entry
    rest = {key: value for key, value in entry.items() if key not in _PLACE}
    return {**rest, "@place": tuple(entry.get(key, MISSING) for key in _PLACE)}


def _unpacked(entry: JsonRecord) -> JsonRecord:
    place = entry.get("@place")
    if place is None:
        return entry
    own = {key: v for key, v in zip(_PLACE, place, strict=True) if v is not MISSING}
    made: JsonRecord = {}
    for key, value in entry.items():
        if key == "prefab":
            made |= {key: value, **{k: v for k, v in own.items() if k in ("y", "x")}}
        elif key != "@place":
            made[key] = value
    return {**made, **own}


@dataclass(frozen=True)
class _Place:
    """The place of an entry that does not stand."""

    values: JsonRecord


def _unpacked_both(one: Both, depth: int) -> Both:
    if len(one.path) > depth and one.path[depth] == "@place":
        own = dict(zip(_PLACE, one.value, strict=True))
        return Both((*one.path[:depth], "@place"), _Place(own), one.side)
    if isinstance(one.value, dict) and len(one.path) == depth:
        return Both(one.path, _unpacked(one.value), one.side)
    return one


def _conflicts(
    layer: str, table: str, made: list[JsonRecord], both: Iterable[Both]
) -> Iterable[EntryConflict]:
    """One for each entry and side."""
    known = {str(entry["id"]): entry for entry in made}
    found: dict[tuple[str, Any], list[Both]] = {}
    for one in both:
        found.setdefault((one.path[0], one.side), []).append(one)
    for (number, side), own in found.items():
        gone = any(len(one.path) == 1 for one in own)
        values: JsonRecord = {}
        for one in own if not gone else ():
            if isinstance(one.value, _Place):
                values |= {k: None if v is MISSING else v for k, v in one.value.values.items()}
        rest = [Both(one.path[1:], one.value, one.side) for one in own
                if not gone and not isinstance(one.value, _Place)]  # fmt: skip
        values |= others_of(known[number], rest, side)
        yield EntryConflict(layer, table, int(number), values=values, gone=gone, side=side)
