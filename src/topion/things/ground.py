"""What a placement rule may ask of a room: what lies in a cell, and what stands near."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import CellList, Positions
from topion.grid.boxes import Box
from topion.model.derived import Kept
from topion.model.prefab import (
    WIDEST_FOOTPRINT,
    Prefab,
    Thing,
    standing_cells,
    turned_offsets,
)
from topion.model.project import Project
from topion.model.room import Room
from topion.things.floor import Floor, floor_of
from topion.things.standing import Key, Standing, Taken, Whole, body_reach

WIDEST_BODY = WIDEST_FOOTPRINT + 1  # how far, in cells, a body may reach from its cell


@dataclass(frozen=True, eq=False)
class Ground:
    """A room as placement rules see it."""

    project: Project
    room: Room

    @property
    def standing(self) -> Standing:
        return self.whole.standing

    @property
    def kept_cells(self) -> Taken:
        """Cells kept by things that want theirs alone."""
        return self.whole.kept_cells

    @property
    def taken_cells(self) -> Taken:
        """Cells in which anything stands."""
        return self.whole.taken_cells

    @cached_property
    def whole(self) -> Whole:
        """Everything that stands in the room, kept and followed from change to change."""
        layers = self.room.bottom_up("things")
        stamp = (
            self.project.stamp("prefabs", "classes"),
            tuple((i, la.revision) for i, la in layers),
        )

        def make() -> Whole:
            tables = {i: layer.things for i, layer in layers}
            before = _STANDING.latest(self.room)
            return Whole.of_tables(self.project, tables, self.room.info.axes, before)

        return _STANDING.of(self.room, stamp, make)

    def count(self, prefab: str, *, per: Literal["room", "world"] = "room") -> int:
        """How many of a prefab stand in the room, or in all rooms of the project."""
        here = int((self.standing.prefabs == prefab).sum())
        if per == "room":
            return here
        rooms, own = self.project.rooms, self.room.info.name
        return here + sum(counts_of(self.project, name)[prefab] for name in rooms if name != own)

    def with_things(self, things: Iterable[Thing]) -> Ground:
        """The same with more things in it, which are nobody's yet."""
        return self._with(set(), [(("", -1 - n), thing) for n, thing in enumerate(things)])

    def with_moved(
        self, moved: Mapping[Any, Thing], without: tuple[str, int] | None = None
    ) -> Ground:
        """The same with some of its things otherwise, by layer id and number, or without one."""
        known = set(self.standing.keys)
        gone = {tuple(key) for key in moved} & known
        new = [(key, moved[key]) for key in gone if key != without]
        return self._with(gone | ({without} if without is not None else set()), new)

    def _with(self, gone: set[Key], new: list[tuple[Key, Thing]]) -> Ground:
        made = Ground(self.project, self.room)
        made.__dict__["whole"] = self.whole.changed(gone, new, self.room.info.axes)
        return made

    @cached_property
    def floor(self) -> Floor:
        """What carries things here."""
        return floor_of(self.project, self.room)


_STANDING: Kept[Whole] = Kept(travels=True)
_COUNTS: Kept[dict[str, tuple[int, Counter[str]]]] = Kept()


def counts_of(project: Project, room_name: str) -> Counter[str]:
    """How many things of each prefab stand in a room; counted anew when that changes."""
    known = _COUNTS.of(project, None, dict)
    revision = project.rooms.revision(room_name)
    found = known.get(room_name)
    if found is None or found[0] != revision:
        room = project.rooms.passing(room_name)
        layers = (layer for _, layer in room.bottom_up("things"))
        counts = Counter(thing.prefab for layer in layers for thing in layer.things.values())
        found = known[room_name] = (revision, counts)
    return found[1]


@dataclass(frozen=True, eq=False)
class Spots:
    """Places asked about at once: one prefab, many positions.

    own : (n,) rows in the ground's `standing`, where it is asked of things that stand already.
    tip : the side that is up, see Thing.
    """

    prefab: Prefab
    positions: Positions  # (n, axes)
    turn: float = 0.0
    mirrored: bool = False
    own: NDArray[np.intp] | None = None
    tip: int = 0

    @property
    def axes(self) -> int:
        return self.positions.shape[1]

    @cached_property
    def cells(self) -> CellList:
        """(n, axes) the cell each would stand in."""
        return standing_cells(self.positions)

    @cached_property
    def bodies(self) -> CellList:
        """(n, k, axes) the cells each body would take, by its anchor's cell."""
        offsets = turned_offsets(self.prefab, self.turn, self.mirrored, self.axes, self.tip)
        return self.cells[:, None, :] + offsets

    def met(self) -> Iterator[CellList]:
        """Of each body: (m, axes) the cells it meets, also in part where it stands between
        cells."""
        offsets = turned_offsets(self.prefab, self.turn, self.mirrored, self.axes, self.tip)
        for position in self.positions:
            yield _cells_met(position, offsets)

    @cached_property
    def feet(self) -> CellList:
        """(n, k, axes) the lowest cells of each body: its footprint."""
        return self.bodies[:, : len(self.prefab.offsets)]


def body_cells(prefab: Prefab, thing: Thing, axes: int = 2) -> list[tuple[int, ...]]:
    """Every cell that the thing's body meets, also in part when it stands between cells."""
    _, turn, mirrored, tip = thing.stance
    offsets = turned_offsets(prefab, turn, mirrored, axes, tip)
    cells = _cells_met(np.array(thing.at[-axes:]), offsets)
    return sorted({tuple(cell) for cell in cells.tolist()})


def _cells_met(position: NDArray[np.float64], offsets: CellList) -> CellList:
    """(m, axes) the cells that a body at one position meets, some perhaps twice."""
    lo, hi = body_reach(position[None], offsets)
    boxes = zip(lo[0].astype(int).tolist(), hi[0].astype(int).tolist(), strict=True)
    found = [Box(tuple(a), tuple(v + 1 for v in b)).cells() for a, b in boxes]
    return np.concatenate(found) if found else np.zeros((0, len(position)), np.intp)
