"""One thing in which two versions of a project differ."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from topion.model.plain import JsonRecord, to_plain

What = Literal["added", "removed", "changed"]
Kind = Literal["project", "item", "room", "layer", "cells", "entries"]


@dataclass(frozen=True)
class Change:
    """kind : what it is about.  what : whether it came, went or became another.

    shelf, name : of an item; of a list of the project, its name and no item.  room, layer : by
    name.  part : of cells, the plane; of entries, the table.
    count : of cells or entries.  lo, hi : the box round cells, in cells, half-open, from where the
    room's first cell was when it was made.
    values : before and after, by name, of what has names: settings, materials.
    turned : of cells, (before, after, how many), the most first.
    numbers : of entries: those added, removed and changed.
    """

    kind: Kind
    what: What = "changed"
    shelf: str = ""
    name: str = ""
    room: str = ""
    layer: str = ""
    part: str = ""
    count: int = 0
    lo: tuple[int, ...] = ()
    hi: tuple[int, ...] = ()
    values: Mapping[str, tuple[Any, Any]] = field(default_factory=dict)
    turned: tuple[tuple[str, str, int], ...] = ()
    numbers: Mapping[str, tuple[int, ...]] = field(default_factory=dict)

    def plain(self) -> JsonRecord:
        """As JSON, without what is empty."""
        found: JsonRecord = to_plain(self)
        return {key: value for key, value in found.items() if value not in ("", 0, [], {})}
