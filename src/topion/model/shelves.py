"""The shelves of the library: what lies on each is told once, here or by an extension.

Folder, journal, bundle and its schema, comparing, renaming, *used by* and copying into another
project follow from these descriptions.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Annotated, Any, TypeAlias

from topion.errors import UnknownName
from topion.model.brush import Brush
from topion.model.conflict import ItemConflict
from topion.model.figure import Figure
from topion.model.judged import Accepted, Unasked
from topion.model.legend import Legend
from topion.model.palette import Tint
from topion.model.picture import Picture
from topion.model.placement import Placement
from topion.model.prefab import Prefab, PrefabClass
from topion.model.recording import Recording
from topion.model.refs import Ref, field_types
from topion.model.solid import Block
from topion.model.theme_sheet import ThemeSheet
from topion.model.tileset import TileRef, TileSet
from topion.model.typed import Name, typed


@typed
@dataclass(frozen=True)
class Bay:
    """One group of cards on the rack."""

    name: Name
    brushes: tuple[Annotated[str, Ref("brushes")], ...] = ()


@typed
@dataclass(frozen=True)
class Former:
    """A name that something had before: whoever still speaks of it by that means it.

    of : the shelf, or what else the name is of, as a `Ref` says it.  old, new : names.
    """

    of: str
    old: str
    new: str


@dataclass(frozen=True)
class Foreign:
    """A shelf that nobody here knows: an extension is missing.  It is kept as it was read.

    names : of its items.  files : contents by path in the folder of the project.
    """

    names: tuple[str, ...]
    files: dict[str, bytes] = field(default_factory=dict, hash=False)


MOST_FORMER = 1000  # names that are remembered


@dataclass(frozen=True)
class Shelf:
    """One kind of items of the library.

    name : of the shelf; also its folder in a project and its key in a bundle.
    word : what one item is called in a sentence.
    item : the type of an item, with a `name`; its fields that are Pictures become PNG files.
    numbers : the table of the project whose places stand for its items in cells, if any.
    """

    name: str
    word: str
    item: type
    numbers: str = ""

    @property
    def pictures(self) -> tuple[str, ...]:
        """The fields of an item that are pictures."""
        types = field_types(self.item) if hasattr(self.item, "__dataclass_fields__") else {}
        return tuple(name for name, wanted in types.items() if wanted is Picture)


@dataclass(frozen=True)
class Table:
    """A list of the project in an order that counts.  kind : the type of all of it."""

    name: str
    kind: Any


Item: TypeAlias = Any  # of a shelf: a dataclass that never changes, with a name
SHELVES: dict[str, Shelf] = {}
TABLES: dict[str, Table] = {
    table.name: table
    for table in (
        Table("name", str),
        Table("materials", tuple[str, ...]),
        Table("bays", tuple[Bay, ...]),
        Table("tiles", tuple[TileRef, ...]),
        Table("block_names", tuple[str, ...]),
        Table("palette", tuple[Tint, ...]),
        Table("former", tuple[Former, ...]),
    )
}


def add_shelf(shelf: Shelf) -> None:
    """Let projects have another shelf.  Raises ValueError for a name that is taken."""
    if shelf.name in SHELVES or shelf.name in TABLES or shelf.name == "rooms":
        raise ValueError(f"shelf {shelf.name!r} is there already")
    SHELVES[shelf.name] = shelf


def shelf_named(name: str) -> Shelf:
    try:
        return SHELVES[name]
    except KeyError:
        raise UnknownName("shelf", name, SHELVES) from None


def shelves() -> Iterator[Shelf]:
    return iter(SHELVES.values())


for _shelf in (
    Shelf("tilesets", "tile set", TileSet),
    Shelf("themes", "sheet of a theme", ThemeSheet),
    Shelf("classes", "class of prefabs", PrefabClass),
    Shelf("prefabs", "prefab", Prefab),
    Shelf("blocks", "block", Block, numbers="block_names"),
    Shelf("brushes", "brush", Brush),
    Shelf("figures", "figure", Figure),
    Shelf("recordings", "recording", Recording),
    Shelf("accepted", "accepted finding", Accepted),
    Shelf("unasked", "check that is switched off", Unasked),
    Shelf("placements", "place on the plan", Placement),
    Shelf("legends", "legend", Legend),
    Shelf("conflicts", "conflict", ItemConflict),
):
    add_shelf(_shelf)
