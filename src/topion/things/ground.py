"""What a placement rule may ask of a room: what lies in a cell, and what stands near."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import CellList, Positions
from topion.grid.boxes import Box
from topion.grid.nearest import Nearest
from topion.model.derived import Kept
from topion.model.prefab import (
    WIDEST_FOOTPRINT,
    Prefab,
    Stance,
    Thing,
    standing_cells,
    turned_offsets,
)
from topion.model.project import Project
from topion.model.room import Room
from topion.things.floor import Floor, floor_of

WIDEST_BODY = WIDEST_FOOTPRINT + 1  # how far, in cells, a body may reach from its cell


@dataclass(frozen=True, eq=False)
class Standing:
    """Things that stand in a room, as arrays; row i is thing `keys[i]`."""

    keys: tuple[tuple[str, int], ...]  # layer id, thing number
    things: tuple[Thing, ...]
    positions: Positions  # (n, axes)
    prefabs: NDArray[np.object_]  # (n,) names
    classes: NDArray[np.object_]  # (n,) class names
    _near: dict[str, tuple[NDArray[np.intp], Nearest | None]] = field(default_factory=dict)

    def near(self, what: str) -> tuple[NDArray[np.intp], Nearest | None]:
        """Rows of the things of a prefab or class, or of `anything`, and their
        positions for asking which is nearest (None for no things); made once."""
        found = self._near.get(what)
        if found is None:
            if what == "anything":
                rows = np.arange(len(self.things))
            else:
                rows = np.flatnonzero((self.prefabs == what) | (self.classes == what))
            found = (rows, Nearest(self.positions[rows]) if len(rows) else None)
            self._near[what] = found
        return found

    def own_among(
        self, rows: NDArray[np.intp], own: NDArray[np.intp] | None
    ) -> NDArray[np.intp] | None:
        """(n,) where the askers, by row, are among some `rows`; -1 for those that are not."""
        if own is None:
            return None
        at = np.searchsorted(rows, own).clip(0, len(rows) - 1)
        return np.where(rows[at] == own, at, -1)

    @classmethod
    def of(
        cls, project: Project, pairs: Iterable[tuple[tuple[str, int], Thing]], axes: int
    ) -> Standing:
        prefabs = project.prefabs
        classes = {name: prefab.class_name for name, prefab in prefabs.items()}
        known = [(key, thing) for key, thing in pairs if thing.prefab in classes]
        things = tuple(thing for _, thing in known)
        return cls(
            tuple(key for key, _ in known),
            things,
            np.array([(t.z, t.y, t.x) for t in things], np.float64).reshape(-1, 3)[:, -axes:],
            np.array([t.prefab for t in things], object),
            np.array([classes[t.prefab] for t in things], object),
        )


@dataclass(frozen=True, eq=False)
class Ground:
    """A room as placement rules see it."""

    project: Project
    room: Room

    @property
    def standing(self) -> Standing:
        return self._whole.standing

    @property
    def kept_cells(self) -> Taken:
        """Cells kept by things that want theirs alone."""
        return self._whole.kept_cells

    @property
    def taken_cells(self) -> Taken:
        """Cells in which anything stands."""
        return self._whole.taken_cells

    @cached_property
    def _whole(self) -> _Whole:
        """Everything that stands in the room, kept until that changes."""
        layers = self.room.bottom_up("things")
        stamp = (
            self.project.stamp("prefabs", "classes"),
            tuple((i, la.revision) for i, la in layers),
        )

        def make() -> _Whole:
            pairs = (((i, n), t) for i, layer in layers for n, t in layer.things.items())
            axes = self.room.info.axes
            return _Whole(self.project, Standing.of(self.project, pairs, axes))

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
        keys = ((("", -1 - n), thing) for n, thing in enumerate(things))
        return self._with([*zip(self.standing.keys, self.standing.things, strict=True), *keys])

    def with_moved(
        self, moved: Mapping[Any, Thing], without: tuple[str, int] | None = None
    ) -> Ground:
        """The same with some of its things otherwise, by layer id and number, or without one."""
        known = zip(self.standing.keys, self.standing.things, strict=True)
        return self._with([(k, moved.get(k, thing)) for k, thing in known if k != without])

    def _with(self, pairs: Iterable[tuple[tuple[str, int], Thing]]) -> Ground:
        made = Ground(self.project, self.room)
        standing = Standing.of(self.project, pairs, self.room.info.axes)
        made.__dict__["_whole"] = _Whole(self.project, standing)
        return made

    @cached_property
    def floor(self) -> Floor:
        """What carries things here."""
        return floor_of(self.project, self.room)


@dataclass(frozen=True, eq=False)
class Taken:
    """Cells and who stands in them.  keys : (n,) rising; rows : (n,) in `standing`."""

    keys: NDArray[np.int64]
    rows: NDArray[np.intp]

    def who(self, cells: CellList, own: NDArray[np.intp] | None = None) -> NDArray[np.intp]:
        """(n, k) the row in `standing` of what stands in each of (n, k, axes) cells, or -1.

        own : (n,) rows of those who ask; they do not count.
        """
        if not len(self.keys):
            return np.full(cells.shape[:-1], -1, np.intp)
        keys = cell_keys(cells)
        start = np.searchsorted(self.keys, keys)
        found = np.full(keys.shape, -1, np.intp)
        for step in (1, 0):  # where several stand in a cell, the second may be another
            at = (start + step).clip(0, len(self.keys) - 1)
            hit = self.keys[at] == keys
            if own is not None:
                hit &= self.rows[at] != own[:, None]
            found[hit] = self.rows[at][hit]
        return found


@dataclass(eq=False)
class _Whole:
    """What is derived from the standing things of one room."""

    project: Project
    standing: Standing

    @cached_property
    def kept_cells(self) -> Taken:
        return taken_by(self.project, self.standing, only_keepers=True)

    @cached_property
    def taken_cells(self) -> Taken:
        return taken_by(self.project, self.standing, only_keepers=False)


_STANDING: Kept[_Whole] = Kept()
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


def cell_keys(cells: NDArray[Any]) -> NDArray[np.int64]:
    """One number for each of (…, axes) cells."""
    wide = cells.astype(np.int64)
    keys = np.zeros(wide.shape[:-1], np.int64)
    for axis in range(wide.shape[-1]):
        keys = (keys << 21) + wide[..., axis]
    return keys


def keeps_cells(project: Project, prefab: Prefab) -> bool:
    """Whether a rule of the prefab, or of its class, keeps the cells of its body."""
    own = project.shelf("classes").get(prefab.class_name)
    return any(
        rule.keeps and rule.on for rule in (*prefab.rules, *(own.rules if own is not None else ()))
    )


def taken_by(project: Project, standing: Standing, *, only_keepers: bool) -> Taken:
    """The cells that bodies meet, of all things or only of those that keep theirs."""
    groups: dict[Stance, list[int]] = {}
    for row, thing in enumerate(standing.things):
        groups.setdefault(thing.stance, []).append(row)
    keys, rows = [np.empty(0, np.int64)], [np.empty(0, np.intp)]
    for (name, turn, mirrored, tip), members in groups.items():
        prefab = project.prefabs[name]
        if only_keepers and not keeps_cells(project, prefab):
            continue
        positions = standing.positions[members]
        offsets = turned_offsets(prefab, turn, mirrored, positions.shape[1], tip)
        lo, hi = body_reach(positions, offsets)
        for y, x in ((lo, lo), (lo, hi), (hi, lo), (hi, hi)):  # the cells it meets in part
            met = np.concatenate([lo[..., :-2], y[..., -2:-1], x[..., -1:]], axis=-1)
            keys.append(cell_keys(met).reshape(-1))
            rows.append(np.repeat(np.array(members, np.intp), len(offsets)))
    every_key, every_row = np.concatenate(keys), np.concatenate(rows)
    order = np.lexsort((every_row, every_key))
    every_key, every_row = every_key[order], every_row[order]
    first = np.ones(len(order), bool)
    first[1:] = (every_key[1:] != every_key[:-1]) | (every_row[1:] != every_row[:-1])
    return Taken(every_key[first], every_row[first])


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

    @cached_property
    def feet(self) -> CellList:
        """(n, k, axes) the lowest cells of each body: its footprint."""
        return self.bodies[:, : len(self.prefab.offsets)]


def body_reach(
    positions: Positions, offsets: CellList
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(n, k, axes) the first and the last cell that each part of bodies at (n, axes) meets."""
    middle = positions.copy()
    middle[:, :-2] = standing_cells(positions)[:, :-2]
    parts = middle[:, None] + offsets
    return np.floor(parts + 1e-6), np.ceil(parts - 1e-6)


def body_cells(prefab: Prefab, thing: Thing, axes: int = 2) -> list[tuple[int, ...]]:
    """Every cell that the thing's body meets, also in part when it stands between cells."""
    _, turn, mirrored, tip = thing.stance
    offsets = turned_offsets(prefab, turn, mirrored, axes, tip)
    lo, hi = body_reach(np.array([thing.at[-axes:]]), offsets)
    cells = {
        tuple(cell)
        for a, b in zip(lo[0].astype(int), hi[0].astype(int), strict=True)
        for cell in Box(tuple(a.tolist()), tuple((b + 1).tolist())).cells().tolist()
    }
    return sorted(cells)
