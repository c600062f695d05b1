"""What both sides of a merge changed differently: one version stands, the other one is kept here
until somebody settles it.

Conflicts of a room lie in the room, those of the library on a shelf of their own.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar, Literal, Protocol

import numpy as np

from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.grid.told import several
from topion.model.plain import JsonRecord, Unread, check_plain, keep_unknown
from topion.model.plane import Plane
from topion.model.typed import Name, register_kinds, typed

Side = Literal["ours", "theirs"]
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
        many = several(self.count, "cell")
        return f"{_PLANES.get(self.plane, self.plane)} of {many}"


_PLANES = {"material": "the material", "pinned": "the tile laid by hand", "inlay": "the inlay",
           "density": "the density", "size": "the size", "fore": "the foreground colour",
           "back": "the background colour", "bright": "which colours are bright",
           "inside": "what lies inside"}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class _OfValues:
    """What has values by name.

    values : of the version that does not stand, those that both changed, by name, as JSON; None
    where it has none.  gone : that version has nothing at all there.  side : whose it is.
    """

    values: dict[str, Any] = field(default_factory=dict, hash=False)
    gone: bool = False
    side: Side = "theirs"

    def __post_init__(self) -> None:
        check_plain(self.values)


@dataclass(frozen=True)
class EntryConflict(_OfValues):
    """One entry of a numbered table of a layer."""

    kind: ClassVar[str] = "entry"
    layer: str
    table: str
    number: int

    def told(self) -> str:
        whole = f"{_ENTRIES.get(self.table, self.table)} {self.number}"
        return whole if self.gone else f"{told_names(self.values)} of {whole}"


_ENTRIES = {"things": "thing", "pieces": "piece", "curves": "curve", "held": "held thing",
            "bans": "banned place"}  # fmt: skip


@dataclass(frozen=True)
class SettingConflict(_OfValues):
    """Settings of the room, or of one of its layers."""

    kind: ClassVar[str] = "setting"
    layer: str

    def told(self) -> str:
        whole = "the layer" if self.layer else "the room"
        return whole if self.gone else f"{told_names(self.values)} of {whole}"


register_kinds(Conflict, CellsConflict, EntryConflict, SettingConflict)


@typed
@dataclass(frozen=True)
class ItemConflict(_OfValues):
    """An item of the library, or a table of the project.

    name : of the conflict.  shelf, item : what it is about; of a table, no item, and its values are
    all of it under its own name.
    """

    name: Name
    shelf: str
    item: str = ""

    def told(self) -> str:
        """What both changed, in a few words."""
        return "all of it" if self.gone else told_names(self.values)


def told_names(values: Mapping[str, object]) -> str:
    """Names of values in a sentence."""
    names = [name.replace("_", " ") for name in values]
    if len(names) > 1 and {*names} <= {"y", "x", "z", "along"}:
        return "the place"
    few = names if len(names) <= 3 else [*names[:2], f"{len(names) - 2} more"]
    return " and ".join(", ".join(few).rsplit(", ", 1)) or "nothing"
