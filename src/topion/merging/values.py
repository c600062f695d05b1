"""Three versions of JSON values put together: what only one side changed is taken, and of what both
changed otherwise one version stands and the other is named.

Three-way merging of rows follows S. Khanna, K. Kunal and B. Pierce, "A Formal Investigation of
Diff3" (2007).
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Any, Generic, NamedTuple, TypeVar

from topion.model.conflict import Side
from topion.model.plain import Json, JsonRecord

MISSING: Any = object()  # where a side has nothing
Path = tuple[str, ...]
T = TypeVar("T")
S = TypeVar("S")
_ROW = re.compile(r"[\d* .#]*")
_KEYS = ("id", "number", "name")  # by which records of a list are known


class Three(NamedTuple, Generic[T]):
    """The three versions of something."""

    base: T
    ours: T
    theirs: T

    def each(self, change: Callable[[T], S]) -> Three[S]:
        """What comes of each of them."""
        return Three(change(self.base), change(self.ours), change(self.theirs))


@dataclass(frozen=True)
class Both:
    """What both sides changed.  value : the version that does not stand; MISSING where that side
    took it away.  side : whose it is."""

    path: Path
    value: Json
    side: Side = "theirs"


def merged_values(sides: Three[Json], path: Path = ()) -> tuple[Json, list[Both]]:
    """The values put together, and what both changed otherwise.  MISSING stands for nothing."""
    base, ours, theirs = sides
    if _same(ours, theirs) or _same(theirs, base):
        return ours, []
    if _same(ours, base):
        return theirs, []
    if ours is MISSING:
        return theirs, [Both(path, MISSING, "ours")]
    if theirs is MISSING:
        return ours, [Both(path, MISSING)]
    if isinstance(ours, dict) and isinstance(theirs, dict) and _alike(ours, theirs):
        known = base if isinstance(base, dict) and _alike(base, ours) else {}
        return _merged_records(Three(known, ours, theirs), path)
    if isinstance(ours, list) and isinstance(theirs, list):
        row = base if isinstance(base, list) else []
        found = merged_list(Three(row, ours, theirs), path)
        if found is not None:
            return found
    return ours, [Both(path, theirs)]


def _same(a: Json, b: Json) -> bool:
    return a is b or (a is not MISSING and b is not MISSING and type(a) is type(b) and a == b)


def _alike(a: JsonRecord, b: JsonRecord) -> bool:
    """Whether two records may be put together: those of other kinds are other things."""
    return bool(a.get("kind") == b.get("kind"))


Merge = Callable[[Three[Json], Path], tuple[Json, list[Both]]]


def _merged_records(sides: Three[JsonRecord], path: Path) -> tuple[JsonRecord, list[Both]]:
    made: JsonRecord = {}
    both: list[Both] = []
    for key in merged_order(sides.each(list), every=True):
        parts = Three(*(side.get(key, MISSING) for side in sides))
        value, found = merged_values(parts, (*path, key))
        both += found
        if value is not MISSING:
            made[key] = value
    return made, both


def merged_list(sides: Three[list[Json]], path: Path = ()) -> tuple[list[Json], list[Both]] | None:
    """Two lists that grew out of one; None where they can only be taken as a whole."""
    every = [item for side in sides for item in side]
    if not any(isinstance(item, dict | str | list) for item in every):
        return None  # numbers belong together, such as those of a place
    if all(isinstance(item, str) for item in every):
        if len({*map(len, sides)}) == 1 and all(_ROW.fullmatch(item) for item in every):
            return _merged_each(sides)
        if all(len({*side}) == len(side) for side in sides):
            return merged_order(sides), []
    key = next((key for key in _KEYS if all(_is_keyed(key, side) for side in sides)), None)
    if key is not None:
        return merged_keyed(sides, key, path)
    return _merged_rows(sides)


def _merged_each(sides: Three[list[Json]]) -> tuple[list[Json], list[Both]] | None:
    made = []
    for parts in zip(*sides, strict=True):
        value, both = merged_values(Three(*parts))
        if both:
            return None
        made.append(value)
    return made, []


def _is_keyed(key: str, side: list[Json]) -> bool:
    keys = [item.get(key) for item in side if isinstance(item, dict)]
    known = len(keys) == len(side) and all(isinstance(k, str | int) for k in keys)
    return known and len({*keys}) == len(keys)


def merged_keyed(
    sides: Three[list[Json]], key: str, path: Path = (), merge: Merge = merged_values
) -> tuple[list[Json], list[Both]]:
    """Lists of records that are known by one of their values."""
    known = sides.each(lambda side: {item[key]: item for item in side})
    made: list[Json] = []
    both: list[Both] = []
    for name in merged_order(known.each(list), every=True):
        parts = Three(*(side.get(name, MISSING) for side in known))
        value, found = merge(parts, (*path, str(name)))
        both += found
        if value is not MISSING:
            made.append(value)
    return made, both


def merged_order(sides: Three[list[Any]], *, every: bool = False) -> list[Any]:
    """The order of names in two lists that grew out of one: of the side that changed it, ours
    before theirs; what the other one added stands behind what it stands behind there.

    every : also those that one side took away.
    """
    base, ours, theirs = sides
    known = {*base}
    kept = [name for name in ours if name in known and name in {*theirs}]
    others = [name for name in theirs if name in {*kept}]
    moved = kept == [name for name in base if name in {*kept}] and others != kept
    first, second = (theirs, ours) if moved else (ours, theirs)
    stays = known & {*ours} & {*theirs} if not every else known
    made = [name for name in first if name in stays or name not in known]
    for row in (second, base) if every else (second,):
        made = _with_added(made, [n for n in row if n in stays or n not in known])
    return made


def _with_added(made: list[Any], row: list[Any]) -> list[Any]:
    there, known = {*made}, {*row}
    place: dict[Any, list[Any]] = {}
    before: Any = MISSING
    for name in row:
        if name in there:
            before = name
        else:
            place.setdefault(before, []).append(name)
    found: list[Any] = []
    last = place.pop(before, [])  # what was put at the end stands at the end
    waiting = place.get(MISSING, [])
    for name in made:
        if name in known:
            found += waiting
            waiting = place.get(name, [])
        found.append(name)
    return found + waiting + last


def _merged_rows(sides: Three[list[Json]]) -> tuple[list[Json], list[Both]] | None:
    """Lists item by item, as text is merged line by line; None where both changed the same."""
    texts = sides.each(lambda side: [json.dumps(item, sort_keys=True) for item in side])
    made: list[Json] = []
    for spans in _chunks(texts):
        old, mine, yours = (text[slice(*s)] for text, s in zip(texts, spans, strict=True))
        _, ours, theirs = (side[slice(*s)] for side, s in zip(sides, spans, strict=True))
        if mine in (old, yours):
            made += theirs
        elif yours == old:
            made += ours
        elif not old:
            made += ours + theirs
        else:
            return None
    return made, []


Span = tuple[int, int]


def _chunks(sides: Three[list[str]]) -> Iterator[tuple[Span, Span, Span]]:
    """Parts of the three that belong together: in turn parts that differ and parts that do not."""
    base, ours, theirs = sides
    mine, yours = _matched(base, ours), _matched(base, theirs)
    at = (0, 0, 0)
    for b in range(len(base)):
        if b in mine and b in yours:
            here = (b, mine[b], yours[b])
            if here != at:
                yield (at[0], here[0]), (at[1], here[1]), (at[2], here[2])
            at = (here[0] + 1, here[1] + 1, here[2] + 1)
            yield (here[0], at[0]), (here[1], at[1]), (here[2], at[2])
    ends = (len(base), len(ours), len(theirs))
    if at != ends:
        yield (at[0], ends[0]), (at[1], ends[1]), (at[2], ends[2])


def _matched(base: list[str], side: list[str]) -> dict[int, int]:
    """Where items of the base are in a side."""
    found = SequenceMatcher(None, base, side, autojunk=False).get_matching_blocks()
    return {block.a + k: block.b + k for block in found for k in range(block.size)}


def others_of(merged: JsonRecord, both: Iterable[Both], side: Side) -> JsonRecord:
    """Of a record, the values that do not stand: by name, whole, as that side has them."""
    own = [one for one in both if one.side == side]
    other: Json = merged
    for one in own:
        other = with_value(other, one.path, one.value)
    return {name: other.get(name) for name in dict.fromkeys(one.path[0] for one in own)}


def with_value(plain: Json, path: Path, value: Json) -> Json:
    """The same JSON values with another one at a path; MISSING takes it away."""
    if not path:
        return value
    step, rest = path[0], path[1:]
    if isinstance(plain, list):
        return _in_list(plain, step, rest, value)
    known = plain if isinstance(plain, dict) else {}
    inner = with_value(known.get(step, MISSING), rest, value)
    without = {key: item for key, item in known.items() if key != step or inner is not MISSING}
    return without if inner is MISSING else {**without, step: inner}


def _in_list(plain: list[Json], step: str, rest: Path, value: Json) -> list[Json]:
    """A list of records that are known by one of their values."""
    made, found = [], False
    for item in plain:
        known = isinstance(item, dict) and step in (str(item[k]) for k in _KEYS if k in item)
        if known and not found:
            found = True
            inner = with_value(item, rest, value)
            made += [] if inner is MISSING else [inner]
        else:
            made.append(item)
    return made if found or value is MISSING or rest else [*made, value]
