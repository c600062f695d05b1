"""What both sides of a merge changed differently: one version stands, the other one is kept here
until somebody settles it.

Conflicts of a room lie in the room, those of the library on a shelf of their own.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, ClassVar, Literal, Protocol

import numpy as np

from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.model.plain import Json, JsonRecord, Unread, check_plain, keep_unknown
from topion.model.plane import Plane
from topion.model.typed import Name, register_kinds, typed

Side = Literal["ours", "theirs"]
Path = tuple[str, ...]
NameInCells = tuple[
    str, ...
]  # of a material, a block or a colour; of a tile its set, slot and turn


class Conflict(Protocol):
    """One of a room.  layer : its id; empty for the room itself.  side : whose version is kept
    here; the other one stands."""

    @property
    def kind(self) -> str: ...
    @property
    def layer(self) -> str: ...
    @property
    def side(self) -> Side: ...

    def told(self) -> str:
        """What both changed, in a few words that may follow a name."""


@dataclass(frozen=True)
class UnknownConflict(Unread):
    """One of a kind that nobody here knows: kept, and written back as it was read."""

    kind: str
    unread: JsonRecord = field(hash=False)
    layer: ClassVar[str] = ""
    side: ClassVar[Side] = "theirs"

    def told(self) -> str:
        return f"something of the unknown kind “{self.kind}”"


keep_unknown(Conflict, UnknownConflict)


@dataclass(frozen=True)
class CellsConflict:
    """Cells of one plane of a layer.

    at : the first cell of a box, counted from where the room's first cell was when it was made.
    cells : of that box, places in `names` from 1; 0 where there is no conflict.  Of a plane that
    holds amounts, one more than those.
    names : of what the other version has there; an empty one is an open cell.
    """

    kind: ClassVar[str] = "cells"
    layer: str
    plane: str
    at: tuple[int, ...]
    cells: Plane
    names: tuple[NameInCells, ...] = ()
    side: Side = "theirs"

    def __post_init__(self) -> None:
        if len(self.at) != len(self.cells.shape):
            raise BadValue("the first cell of a conflict", self.at, "as many numbers as its box")

    @property
    def box(self) -> Box:
        """Round its cells, counted as `at` is."""
        return Box.of_shape(self.cells.shape).shifted(self.at)

    @property
    def count(self) -> int:
        """How many cells."""
        return int(np.count_nonzero(self.cells.cells))

    def told(self) -> str:
        many = "1 cell" if self.count == 1 else f"{self.count} cells"
        return f"{_PLANES.get(self.plane, self.plane)} of {many}"


_PLANES = {"material": "the material", "pinned": "the tile laid by hand", "inlay": "the inlay",
           "density": "the density", "size": "the size", "fore": "the foreground colour",
           "back": "the background colour", "bright": "which colours are bright",
           "inside": "what lies inside"}  # fmt: skip


@dataclass(frozen=True)
class EntryConflict:
    """One entry of a numbered table of a layer, or some of its values.

    path : which value of it; empty for the whole.  value : the version that does not stand, as
    JSON; None where that side took it away, or never had that value.
    """

    kind: ClassVar[str] = "entry"
    layer: str
    table: str
    number: int
    path: Path = ()
    value: Any = field(default=None, hash=False)
    side: Side = "theirs"

    def __post_init__(self) -> None:
        check_plain(self.value)

    def told(self) -> str:
        word = self.table.removesuffix("s")
        whole = f"{word} {self.number}"
        return f"{words_of_path(self.path)} of {whole}" if self.path else whole


@dataclass(frozen=True)
class SettingConflict:
    """A setting of the room, or of one of its layers.  path, value : as of an EntryConflict."""

    kind: ClassVar[str] = "setting"
    layer: str
    path: Path
    value: Any = field(default=None, hash=False)
    side: Side = "theirs"

    def __post_init__(self) -> None:
        check_plain(self.value)

    def told(self) -> str:
        return words_of_path(self.path) if self.path else "the whole layer"


register_kinds(Conflict, CellsConflict, EntryConflict, SettingConflict)


@typed
@dataclass(frozen=True)
class ItemConflict:
    """An item of the library, or a table of the project, or some of its values.

    name : of the conflict.  shelf, item : what it is about; of a table, no item.  path, value :
    as of an EntryConflict.
    """

    name: Name
    shelf: str
    item: str = ""
    path: Path = ()
    value: Any = field(default=None, hash=False)
    side: Side = "theirs"

    def __post_init__(self) -> None:
        check_plain(self.value)

    def told(self) -> str:
        """What both changed, in a few words."""
        return words_of_path(self.path) if self.path else "the whole of it"


def words_of_path(path: Path) -> str:
    """`("rules", "2", "marks")` as "marks of rules 2"."""
    parts: list[str] = []
    for step in path:
        if step.isdecimal() and parts:
            parts[-1] += f" {int(step) + 1}"
        else:
            parts.append(step.replace("_", " "))
    return " of ".join(reversed(parts)) or "the whole"


def value_at(plain: Json, path: Path) -> Json:
    """What stands at a path in JSON values; None where nothing does."""
    for step in path:
        if isinstance(plain, dict):
            plain = plain.get(step)
        elif isinstance(plain, list) and step.isdecimal() and int(step) < len(plain):
            plain = plain[int(step)]
        else:
            return None
    return plain


def with_value(plain: Json, path: Path, value: Json) -> Json:
    """The same JSON values with another one at a path; None takes a value of a record away."""
    if not path:
        return value
    step, rest = path[0], path[1:]
    if isinstance(plain, list) and step.isdecimal() and int(step) < len(plain):
        at = int(step)
        return [*plain[:at], with_value(plain[at], rest, value), *plain[at + 1 :]]
    known = plain if isinstance(plain, dict) else {}
    inner = with_value(known.get(step), rest, value)
    if inner is None:
        return {key: item for key, item in known.items() if key != step}
    return {**known, step: inner}
