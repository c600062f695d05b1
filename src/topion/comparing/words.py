"""Changes in words, as `topion diff` prints them."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator

from topion.comparing.change import Change
from topion.grid.told import cell_told, several
from topion.model.plain import Json
from topion.model.shelves import SHELVES

_PLANES = {"material": "", "pinned": " by hand", "inlay": " of inlay", "density": " of density",
           "size": " of size", "fore": " of foreground", "back": " of background",
           "bright": " of bright forms", "inside": " inside"}  # fmt: skip
_ENTRIES = {"things": "thing", "pieces": "piece", "curves": "curve", "held": "held thing",
            "bans": "ban"}  # fmt: skip
_LISTS = {"materials": "material", "tiles": "tile", "bays": "bay", "rooms": "room",
          "block_names": "block", "palette": "colour", "former": "former name"}  # fmt: skip
_WORDS = {"added": "new", "removed": "gone", "changed": "changed"}
_LONG = 60  # letters of one value


def text_lines(found: Iterable[Change]) -> Iterator[str]:
    """A line for each change, those of rooms below their room."""
    room = ""
    for one in found:
        if one.room and one.room != room:
            room = one.room
            if one.kind != "room":
                yield f"room {room}"
        if one.kind == "room":
            yield _room(one)
        else:
            yield ("  " if one.room else "") + sentence(one)


def _room(one: Change) -> str:
    if one.what == "changed":
        return f"room {one.room}: {_values(one)}"
    return f"room {one.room}: {_WORDS[one.what]}"


def sentence(one: Change) -> str:
    """One change in a line; of a room, without its name."""
    if one.kind == "cells":
        return f"{one.layer}: {_cells(one)}"
    if one.kind == "entries":
        return f"{one.layer}: {_entries(one)}"
    if one.kind == "layer":
        if not one.layer:
            return "layers in another order"
        return f"layer {one.layer}: {_values(one) or _WORDS[one.what]}"
    if one.kind == "room":
        return _values(one) or _WORDS[one.what]
    return _item(one)


def _item(one: Change) -> str:
    shelf = SHELVES.get(one.shelf)
    word = shelf.word if shelf is not None else _LISTS.get(one.shelf, one.shelf)
    if one.kind == "project" and not one.name:
        return f"project: {_values(one)}" if one.values else f"{word}s in another order"
    values = _values(one) if one.what == "changed" else ""
    return f"{word} {one.name}: {values or _WORDS[one.what]}"


def _cells(one: Change) -> str:
    many = several(one.count, "cell")
    last = cell_told([v - 1 for v in one.hi])
    first = cell_told(one.lo)
    where = first if first == last else f"{first} to {last}"
    turned = [f"{old} → {new} {count}" for old, new, count in one.turned[:3]]
    told = sum(count for *_, count in one.turned[:3])
    if turned and told < one.count:
        turned.append(f"others {one.count - told}")
    what = _PLANES.get(one.part, f" of {one.part}")
    return f"{many}{what} at {where}" + (f": {', '.join(turned)}" if turned else "")


def _entries(one: Change) -> str:
    word = _ENTRIES.get(one.part, one.part)
    parts = []
    for what, name, count in one.turned:
        own = one.numbers.get(what, ())
        many = f"{count} × " if count > 1 else ""
        few = f" {own[0]}" if len(own) == 1 else ""
        parts.append(f"{many}{name or word}{few} {_WORDS[what]}")
    more = [f"{len(parts) - 4} more"] if len(parts) > 4 else []
    return ", ".join(parts[:4] + more)


def _values(one: Change) -> str:
    told = []
    for name, (old, new) in one.values.items():
        word = name.replace("_", " ")
        if isinstance(old, list) and isinstance(new, list) and _are_names([*old, *new]):
            told.append(f"{word} {_names(old, new)}")
        else:
            told.append(f"{word} {_brief(old)} → {_brief(new)}" if word else "changed")
    return ", ".join(told[:4]) + (f" and {len(told) - 4} more" if len(told) > 4 else "")


def _are_names(items: list[Json]) -> bool:
    return all(isinstance(item, str) for item in items)


def _names(old: list[Json], new: list[Json]) -> str:
    """What came to a list of names, and what went."""
    parts = [f"+ {name}" for name in new if name not in old]
    parts += [f"− {name}" for name in old if name not in new]
    return " ".join(parts) or "in another order"


def _brief(value: Json) -> str:
    if value is None:
        return "–"
    text = value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
    return text if len(text) <= _LONG else f"{text[: _LONG - 1]}…"
