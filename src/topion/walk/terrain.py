"""A flat room as the figure meets it: walls, ledges, slopes, ladders, water, cell by cell."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import TypeAlias

import numpy as np

from topion.model.project import Project
from topion.model.room import Room
from topion.model.tileset import Slot, TileRef
from topion.weaving.settle import shown_tiles

SOLID, LEDGE, CLIMB, WATER = 1, 2, 4, 8
Profile: TypeAlias = tuple[int, ...]  # heights in units at places evenly from left to right


@dataclass(frozen=True)
class Terrain:
    """rows, columns : of the room.  cell : units of a cell.  flags : a byte a cell, row by row.

    floors : of cells whose top is not level, heights above their foot.  ceilings : the same from
    above.  Such cells are not SOLID.
    """

    rows: int
    columns: int
    cell: int
    flags: bytes
    floors: dict[int, Profile] = field(default_factory=dict)
    ceilings: dict[int, Profile] = field(default_factory=dict)

    def flag(self, row: int, column: int) -> int:
        """Of a cell; beyond the sides of the room is a wall, above and below is nothing."""
        if not 0 <= column < self.columns:
            return SOLID
        return self.flags[row * self.columns + column] if 0 <= row < self.rows else 0

    def at(self, x: int, y: int) -> int:
        """Of the cell of a point, in units."""
        return self.flag(y // self.cell, x // self.cell)

    @cached_property
    def over(self) -> Terrain:
        """The same upside down, for gravity that pulls up."""
        flags = np.frombuffer(self.flags, np.uint8).reshape(self.rows, self.columns)[::-1]
        return replace(
            self, flags=flags.tobytes(), floors=self._turned(self.ceilings),
            ceilings=self._turned(self.floors),
        )  # fmt: skip

    def _turned(self, profiles: dict[int, Profile]) -> dict[int, Profile]:
        last = self.rows - 1
        return {(last - at // self.columns) * self.columns + at % self.columns: profile
                for at, profile in profiles.items()}  # fmt: skip


def highest(profile: Profile, left: int, right: int, cell: int) -> int:
    """The highest point of a profile from `left` to `right`, in units from its cell's left edge."""
    left, right = max(left, 0), min(right, cell)
    last = len(profile) - 1
    found = max(_height(profile, left, cell), _height(profile, right, cell))
    for number in range(left * last // cell + 1, right * last // cell + 1):
        found = max(found, profile[number])
    return found


def _height(profile: Profile, at: int, cell: int) -> int:
    last = len(profile) - 1
    scaled = at * last
    number = min(scaled // cell, last - 1)
    rest = scaled - number * cell
    return profile[number] + (profile[number + 1] - profile[number]) * rest // cell


def side_terrain(project: Project, room: Room, cell: int) -> Terrain:
    """Of a room seen from the side: what is solid are walls, what only carries are ledges."""
    rows, columns = room.info.plan
    flags = np.zeros(rows * columns, np.uint8)
    floors: dict[int, Profile] = {}
    ceilings: dict[int, Profile] = {}
    told = _told(project)
    for _, layer in room.cell_layers():
        if not layer.info.shown:
            continue
        tiles = shown_tiles(project, layer).reshape(-1)
        for number in np.unique(tiles[tiles > 0]).tolist():
            ref = project.tiles[number - 1]
            at = np.flatnonzero(tiles == number)
            flag, floor, ceiling = _of_slot(project, ref, told, cell)
            flags[at] |= flag
            for profiles, own in ((floors, floor), (ceilings, ceiling)):
                if own:
                    profiles.update(dict.fromkeys(at.tolist(), own))
    for sloped in [*floors, *ceilings]:  # a wall in another layer is a wall
        if flags[sloped] & SOLID:
            floors.pop(sloped, None)
            ceilings.pop(sloped, None)
    return Terrain(rows, columns, cell, flags.tobytes(), floors, ceilings)


def top_terrain(project: Project, room: Room, cell: int) -> Terrain:
    """Of a room seen from above: walls, and what cannot be walked on where it lies uppermost."""
    rows, columns = room.info.plan
    flags = np.zeros((rows, columns), np.uint8)
    walked = {name for name, tileset in project.tilesets.items()
              if any(slot.walkable for slot in tileset.slots.values())}  # fmt: skip
    for _, layer in room.cell_layers():
        if not layer.info.shown:
            continue
        tiles = shown_tiles(project, layer)
        for number in np.unique(tiles[tiles > 0]).tolist():
            ref = project.tiles[number - 1]
            slot = _slot(project, ref)
            here = tiles == number
            wall = slot.solid or (ref.tileset in walked and not slot.walkable)
            kept = flags[here] & (SOLID if slot.solid else 0)
            flags[here] = kept | (SOLID if wall else 0) | (WATER if "water" in slot.tags else 0)
            if slot.solid:
                flags[here] |= SOLID
    return Terrain(rows, columns, cell, flags.tobytes())


def _slot(project: Project, ref: TileRef) -> Slot:
    return project.tileset(ref.tileset).slot(ref.slot)


def _told(project: Project) -> set[str]:
    """Tile sets that say which of their slots are solid or carry; of others all are walls."""
    return {
        name
        for name, tileset in project.tilesets.items()
        if any(s.solid or s.carries or s.heights or s.climbable or "water" in s.tags
               for s in tileset.slots.values())
    }  # fmt: skip


def _of_slot(
    project: Project, ref: TileRef, told: set[str], cell: int
) -> tuple[int, Profile, Profile]:
    """(flags, profile of its top, profile of its underside)."""
    slot = _slot(project, ref)
    if ref.tileset not in told:
        return SOLID, (), ()
    flag = (CLIMB if slot.climbable else 0) | (WATER if "water" in slot.tags else 0)
    heights = slot.heights
    if not heights and slot.solid and slot.top < 1:
        heights = (slot.top, slot.top)
    upright = ref.turn % 2 == 0
    if heights and upright and not slot.opening:
        profile = tuple(round(height * cell) for height in heights)
        turned = ref.turn % 4 == 2
        if ref.mirrored != turned:
            profile = profile[::-1]
        return (flag, (), profile) if turned else (flag, profile, ())
    if slot.solid and not slot.opening:
        return flag | SOLID, (), ()
    return flag | (LEDGE if slot.carries else 0), (), ()
