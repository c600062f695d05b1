"""What carries things in a room seen from above, from the side, or built of blocks.

All answer the same questions, so that rules, brushes and fields ask them of any room.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar, Protocol

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import CellList, CellMask, Positions, TileIds
from topion.model.derived import Kept
from topion.model.prefab import standing_cells
from topion.model.project import Project
from topion.model.room import Room, View
from topion.model.solid import TURN_BITS
from topion.model.traits import Traits
from topion.weaving.settle import shown_materials, shown_tiles

Step = tuple[int, ...]  # from a cell to one beside it
ENOUGH_ROOM = 1 << 15  # open cells above, where nothing can be above


class Floor(Protocol):
    """Cells and positions are (n, axes); a cell is the one a thing stands in."""

    def under(self, cells: CellList) -> NDArray[np.uint16]:
        """(n,) the material that would carry a thing in each cell; 0 for none."""

    def lying(self, cells: CellList) -> NDArray[np.uint16]:
        """(n,) the uppermost material in each cell itself; 0 for none."""

    def tagged(self, cells: CellList, tags: Sequence[str]) -> CellMask:
        """(n,) whether what would carry a thing in each cell bears one of the tags."""

    def walls(self, cells: CellList) -> CellMask:
        """(n,) whether what lies in the cell bars way and sight."""

    def filled(self, cells: CellList) -> NDArray[np.uint16]:
        """(n,) the material that leaves no room for a thing in the cell; 0 for none."""

    def carried(self, cells: CellList) -> CellMask:
        """(n,) whether anything carries a thing in the cell."""

    def held(self, cells: CellList, down: Step) -> CellMask:
        """(n,) whether what lies a step `down` from each cell can hold a thing by its foot."""

    def headroom(self, cells: CellList) -> NDArray[np.intp]:
        """(n,) open cells from each cell upwards, itself included."""

    def seated(self, positions: Positions, down: Step | None = None) -> Positions:
        """The same places, moved onto what carries there; with `down`, that way."""

    def seats(self, plan: Positions) -> tuple[Positions, NDArray[np.intp] | None]:
        """Every place at (n, 2) points of a field where a thing can stand: (m, axes), and
        (m,) the point each belongs to; None where they are the points themselves."""


@dataclass(frozen=True, eq=False)
class PaintedFloor:
    """Seen from above: whatever lies uppermost in a cell carries what stands there."""

    project: Project
    room: Room

    def under(self, cells: CellList) -> NDArray[np.uint16]:
        found = np.zeros(len(cells), np.uint16)
        inside = self.room.box.holds(cells)
        ys, xs = cells[inside].T
        seen = np.zeros(len(ys), np.uint16)
        for _, layer in self.room.cell_layers():
            here = shown_materials(self.project, layer)[ys, xs]
            seen = np.where(here > 0, here, seen)
        found[inside] = seen
        return found

    def lying(self, cells: CellList) -> NDArray[np.uint16]:
        return self.under(cells)

    def tagged(self, cells: CellList, tags: Sequence[str]) -> CellMask:
        wanted = tagged_tiles(self.project, self.room, tags)
        seen, found = self._tiles(cells), np.zeros(len(cells), bool)
        for tiles in seen:  # the uppermost tells
            found = np.where(tiles > 0, wanted[tiles], found)
        return found

    def walls(self, cells: CellList) -> CellMask:
        wall = tile_facts(self.project, self.room).wall
        found = [wall[tiles] for tiles in self._tiles(cells)]
        return np.any(found, axis=0) if found else np.zeros(len(cells), bool)

    def _tiles(self, cells: CellList) -> list[TileIds]:
        """(n,) of each layer the tiles in the cells, 0 beyond the room; bottom to top."""
        inside = self.room.box.holds(cells)
        at, rows = tuple(cells[inside].T), []
        for _, layer in self.room.cell_layers():
            row = np.zeros(len(cells), np.uint16)
            row[inside] = shown_tiles(self.project, layer)[at]
            rows.append(row)
        return rows

    def filled(self, cells: CellList) -> NDArray[np.uint16]:
        return np.zeros(len(cells), np.uint16)

    def carried(self, cells: CellList) -> CellMask:
        return np.ones(len(cells), bool)

    def held(self, cells: CellList, down: Step) -> CellMask:
        return np.ones(len(cells), bool)

    def headroom(self, cells: CellList) -> NDArray[np.intp]:
        return np.full(len(cells), ENOUGH_ROOM)

    def seated(self, positions: Positions, down: Step | None = None) -> Positions:
        return positions

    def seats(self, plan: Positions) -> tuple[Positions, NDArray[np.intp] | None]:
        return plan, None


@dataclass(frozen=True, eq=False)
class _Surfaces:
    """Things stand on the tops of what carries, or on the foot of the room.

    up : the step along the first axis of cells that leads upwards.
    """

    up: ClassVar[int]
    project: Project
    room: Room

    @cached_property
    def _facts(self) -> TileFacts:
        return tile_facts(self.project, self.room)

    @cached_property
    def _layers(self) -> list[tuple[TileIds, NDArray[np.uint16]]]:
        """Tiles and materials of each layer that counts, bottom to top."""
        layers = [layer for _, layer in self.room.cell_layers()]
        return [
            (shown_tiles(self.project, la), shown_materials(self.project, la))
            for la in layers[self._from :]
        ]

    _from: ClassVar[int] = 0

    def _below(self, cells: CellList) -> CellList:
        below = cells.copy()
        below[:, 0] -= self.up
        return below

    def _material(self, cells: CellList, wanted: CellMask) -> NDArray[np.uint16]:
        """(n,) the uppermost material in each cell whose tile is `wanted` (by tile), or 0."""
        found = np.zeros(len(cells), np.uint16)
        inside = np.flatnonzero(self.room.box.holds(cells))
        at = tuple(cells[inside].T)
        for tiles, materials in self._layers:
            here = wanted[tiles[at]]
            found[inside[here]] = materials[at][here]
        return found

    def _any(self, cells: CellList, wanted: CellMask) -> CellMask:
        """(n,) whether the tile of any layer in the cell is `wanted` (by tile)."""
        found = np.zeros(len(cells), bool)
        inside = np.flatnonzero(self.room.box.holds(cells))
        at = tuple(cells[inside].T)
        for tiles, _ in self._layers:
            found[inside] |= wanted[tiles[at]]
        return found

    def under(self, cells: CellList) -> NDArray[np.uint16]:
        return self._material(self._below(cells), self._facts.laid)

    def lying(self, cells: CellList) -> NDArray[np.uint16]:
        return self._material(cells, self._facts.laid)

    def tagged(self, cells: CellList, tags: Sequence[str]) -> CellMask:
        return self._any(self._below(cells), tagged_tiles(self.project, self.room, tags))

    def walls(self, cells: CellList) -> CellMask:
        return self._any(cells, self._facts.wall)

    def filled(self, cells: CellList) -> NDArray[np.uint16]:
        return self._material(cells, self._facts.solid)

    def carried(self, cells: CellList) -> CellMask:
        foot = self._level(cells[:, 0]) == 0
        return np.asarray(self._any(self._below(cells), self._facts.carries) | foot)

    def held(self, cells: CellList, down: Step) -> CellMask:
        return self._any(cells + np.array(down, np.intp), self._facts.carries)

    def _level(self, at: NDArray[np.intp]) -> NDArray[np.intp]:
        """Levels from the foot of the room, of places along the first axis, and back again."""
        return at if self.up > 0 else self.room.info.size[0] - 1 - at

    def _columns(self, columns: CellList, wanted: CellMask) -> CellMask:
        """(d, n) which levels, from the foot up, hold a `wanted` tile; none outside the room.

        columns : (n, axes - 1).
        """
        depth, *rest = self.room.info.size
        out = np.zeros((depth, len(columns)), bool)
        inside = np.flatnonzero(
            ((columns >= 0) & (columns < np.array(rest))).all(axis=1) if len(columns) else []
        )
        at = tuple(columns[inside].T)
        for tiles, _ in self._layers:
            out[:, inside] |= wanted[tiles[(slice(None), *at)]][:: self.up]
        return out

    def headroom(self, cells: CellList) -> NDArray[np.intp]:
        columns = self._columns(cells[:, 1:], self._facts.solid)
        level = self._level(cells[:, 0])
        above = columns & (np.arange(columns.shape[0])[:, None] >= level)
        first = np.where(above.any(axis=0), above.argmax(axis=0), ENOUGH_ROOM)
        return np.asarray(first - level, np.intp)

    def seated(self, positions: Positions, down: Step | None = None) -> Positions:
        """Down to the first surface below, or up out of what fills the place."""
        if down is not None and down[0] != -self.up:
            return self._seated_towards(positions, down)
        cells = standing_cells(positions)
        columns = self._columns(cells[:, 1:], self._facts.solid)
        stops = columns | self._columns(cells[:, 1:], self._facts.carries)  # also thin floors
        seat = np.zeros(len(cells), np.intp)
        for number, level in enumerate(self._level(cells[:, 0]).tolist()):
            column, stop = columns[:, number], stops[:, number]
            at = min(max(level, 0), len(column))
            while at < len(column) and column[at]:
                at += 1
            while at > 0 and not stop[at - 1]:
                at -= 1
            seat[number] = at
        out = positions.copy()
        out[:, 0] = self._heights(np.column_stack([self._level(seat), cells[:, 1:]]))
        return out

    def _seated_towards(self, positions: Positions, down: Step) -> Positions:
        """On to the first surface that way; those that meet none stay."""
        out = positions.copy()
        step, size = np.array(down, np.intp), np.array(self.room.info.size)
        for row, cell in enumerate(standing_cells(positions)):
            far = int(size[np.flatnonzero(step)[0]])
            line = cell + np.arange(-far, far + 1)[:, None] * step
            solid = self._any(line, self._facts.solid)
            inside = self.room.box.holds(line)
            at = far
            while at > 0 and solid[at] and inside[at - 1]:  # out of what fills the place
                at -= 1
            ahead = np.flatnonzero(solid[at + 1 :])
            if len(ahead) and not solid[at]:
                found = line[at + ahead[0]]
                out[row, :] = np.where(step != 0, found, positions[row])
        return out

    def _heights(self, cells: CellList) -> NDArray[np.float64]:
        """Where things are seated along the first axis, in these cells."""
        return cells[:, 0].astype(np.float64)

    def _standing(self, columns: CellList) -> tuple[NDArray[np.intp], CellList]:
        """(m,) rows of `columns`, and (m, axes) every cell in them that can be stood in."""
        solid = self._columns(columns, self._facts.solid)
        carrying = self._columns(columns, self._facts.carries)
        # the topmost level has no room above; the lowest may be stood on where it is open
        stands = carrying[:-1] & ~solid[1:]
        rows, levels = np.nonzero(np.vstack([~solid[:1], stands]).T)
        return rows, np.column_stack([self._level(levels), columns[rows]])


@dataclass(frozen=True, eq=False)
class BlockFloor(_Surfaces):
    """A voxel room: its uppermost layer of blocks."""

    up: ClassVar[int] = 1
    _from: ClassVar[int] = -1

    def _heights(self, cells: CellList) -> NDArray[np.float64]:
        below = self._below(cells)
        tiles = np.zeros(len(cells), np.uint16)
        inside = np.flatnonzero(self.room.box.holds(below))
        for layer, _ in self._layers:
            tiles[inside] = layer[tuple(below[inside].T)]
        return np.where(tiles > 0, cells[:, 0] - 1 + self._facts.top[tiles], cells[:, 0])

    def seats(self, plan: Positions) -> tuple[Positions, NDArray[np.intp] | None]:
        rows, cells = self._standing(np.floor(plan + 0.5).astype(np.intp))
        return np.column_stack([self._heights(cells), plan[rows]]), rows


@dataclass(frozen=True, eq=False)
class SideFloor(_Surfaces):
    """Seen from the side: what is solid in any layer fills its cell and carries."""

    up: ClassVar[int] = -1

    def seats(self, plan: Positions) -> tuple[Positions, NDArray[np.intp] | None]:
        """The points in cells that can be stood in, moved onto what carries there."""
        cells = np.floor(plan + 0.5).astype(np.intp)
        open_here = self.filled(cells) == 0
        rows = np.flatnonzero(open_here & self.carried(cells) & self.room.box.holds(cells))
        return np.column_stack([cells[rows, 0].astype(np.float64), plan[rows, 1]]), rows


@dataclass(frozen=True, eq=False)
class TileFacts:
    """By number in cells: whether a tile lies there at all, fills its cell, carries things, can
    be walked on, and how high its top is.  wall : it was told to fill its cell, or is a block that
    does."""

    laid: CellMask
    solid: CellMask
    wall: CellMask
    carries: CellMask
    walkable: CellMask
    top: NDArray[np.float64]


_FACTS: dict[str, Kept[TileFacts]] = {"tiles": Kept(), "blocks": Kept()}


def tile_facts(project: Project, room: Room) -> TileFacts:
    """How the tiles or blocks of a room act; made once for a library."""
    kind = room.info.cells_kind
    stamp = project.stamp("tilesets", "tiles", "blocks", "block_names")
    make = {"tiles": _of_slots, "blocks": _of_blocks}[kind]
    return _FACTS[kind].of(project, stamp, lambda: make(project))


def _facts(traits: list[Traits], each: int, told: list[bool] | None = None) -> TileFacts:
    """Facts by number, where so many numbers in a row stand for the same traits.

    told : which were told to fill their cells, if not all that do.
    """

    def table(values: list[float], first: float = 0) -> NDArray[np.float64]:
        return np.repeat(np.array([first, *values], np.float64), each)

    solid = table([t.solid for t in traits]) > 0
    carries = table([t.carries for t in traits]) > 0
    walkable = table([t.walkable for t in traits]) > 0
    laid = table([1.0] * len(traits)) > 0
    wall = solid if told is None else table([float(t) for t in told]) > 0
    return TileFacts(laid, solid, wall, carries, walkable, table([t.top for t in traits]))


def _of_blocks(project: Project) -> TileFacts:
    return _facts([project.blocks[name] for name in project.block_names], 1 << TURN_BITS)


def _of_slots(project: Project) -> TileFacts:
    """Of a tile set in which nothing is marked, all tiles are solid ground; in others what is
    solid carries too."""
    plain = Traits(solid=True, carries=True, walkable=True)
    marked = {
        name
        for name, tileset in project.tilesets.items()
        if any(slot.solid or slot.carries for slot in tileset.slots.values())
    }
    traits, told = [], []
    for ref in project.tiles:
        slot: Traits = project.tileset(ref.tileset).slot(ref.slot)
        told.append(slot.solid)
        if ref.tileset not in marked:
            slot = plain
        traits.append(Traits(solid=slot.solid, carries=slot.carries or slot.solid,
                             walkable=slot.walkable, top=slot.top))  # fmt: skip
    return _facts(traits, 1, told)


def tagged_tiles(project: Project, room: Room, tags: Sequence[str]) -> CellMask:
    """By number in cells, which tiles or blocks bear one of the tags."""
    if room.info.cells_kind == "blocks":
        marked = [bool({*tags} & {*project.blocks[name].tags}) for name in project.block_names]
        return np.repeat(np.array([False, *marked]), 1 << TURN_BITS)
    slots = (project.tileset(ref.tileset).slot(ref.slot) for ref in project.tiles)
    return np.array([False, *(bool({*tags} & {*slot.tags}) for slot in slots)])


FLOORS: dict[View, Callable[[Project, Room], Floor]] = {
    "top": PaintedFloor,
    "side": SideFloor,
    "voxel": BlockFloor,
}


def floor_of(project: Project, room: Room) -> Floor:
    return FLOORS[room.info.view](project, room)
