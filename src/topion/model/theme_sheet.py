"""The sheet of a theme: other pictures for the slots of a tile set."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Annotated, Literal

from topion.model.picture import Picture
from topion.model.plane import Plane
from topion.model.refs import Ref
from topion.model.tileset import Cut, Slot, TileSet
from topion.model.typed import Name, typed


@typed
@dataclass(frozen=True)
class ThemeSheet:
    """What one tile set looks like in one theme.

    by : slots are found at the same place of the sheet, or by their names in `slots`.  cut : of
    its sheet.  two_tone, mask : as of a tile set.
    """

    name: Name
    theme: Name
    tileset: Annotated[str, Ref("tilesets")]
    sheet: Picture
    cut: Cut
    by: Literal["place", "name"] = "place"
    slots: dict[str, Slot] = field(default_factory=dict)
    two_tone: bool = False
    mask: Plane | None = None

    def __post_init__(self) -> None:
        self.as_tileset  # noqa: B018  (raises BadValue for a cut or slots that do not fit)

    @cached_property
    def as_tileset(self) -> TileSet:
        """Its sheet as a tile set of its own."""
        return TileSet(self.name, self.sheet, self.cut, self.slots, self.two_tone, self.mask)

    def slot_for(self, tileset: TileSet, name: str) -> Slot | None:
        """Where it shows a slot of the tile set; None for one that it does not have."""
        own = self.as_tileset
        if self.by == "name":
            return self.slots.get(name)
        wanted = tileset.slot(name)
        rows, columns = own.grid_shape
        places = (wanted.at, *wanted.frames)
        there = all(y < rows and x < columns and own.filled[y, x] for y, x in places)
        return wanted if there else None

    def missing(self, tileset: TileSet) -> list[str]:
        """The slots that it does not have, and that look as in the first theme."""
        return [name for name in tileset.filled_slots() if self.slot_for(tileset, name) is None]


def sheet_name(tileset: str, theme: str) -> str:
    """What the sheet of a theme for a tile set is called in the library."""
    return f"{tileset} · {theme}"
