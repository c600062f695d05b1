"""What stands in a room as arrays, followed from change to change."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from itertools import compress
from operator import is_not
from typing import Any, TypeAlias

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import CellList, Positions
from topion.grid.nearest import Nearest
from topion.model.prefab import Prefab, Stance, Thing, standing_cells, turned_offsets
from topion.model.project import Project

Key: TypeAlias = tuple[str, int]  # layer id, thing number
Rows: TypeAlias = NDArray[np.intp]
_MOST_FOLLOWED = 0.25  # of all things; where more change, all is counted anew


@dataclass(frozen=True, eq=False)
class Standing:
    """Things that stand in a room, as arrays; row i is thing `keys[i]`."""

    keys: tuple[Key, ...]
    things: tuple[Thing, ...]
    positions: Positions  # (n, axes)
    prefabs: NDArray[np.object_]  # (n,) names
    classes: NDArray[np.object_]  # (n,) class names
    _near: dict[str, tuple[Rows, Nearest | None]] = field(default_factory=dict)

    def near(self, what: str) -> tuple[Rows, Nearest | None]:
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

    def own_among(self, rows: Rows, own: Rows | None) -> Rows | None:
        """(n,) where the askers, by row, are among some `rows`; -1 for those that are not."""
        if own is None:
            return None
        at = np.searchsorted(rows, own).clip(0, len(rows) - 1)
        return np.where(rows[at] == own, at, -1)

    @classmethod
    def of(cls, project: Project, pairs: Iterable[tuple[Key, Thing]], axes: int) -> Standing:
        """Those of known prefabs, in the order given."""
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

    def kept(self, kept: NDArray[np.bool_]) -> Standing:
        """Some of them, in the same order."""
        chosen = kept.tolist()
        return Standing(
            tuple(compress(self.keys, chosen)), tuple(compress(self.things, chosen)),
            self.positions[kept], self.prefabs[kept], self.classes[kept],
        )  # fmt: skip

    def with_more(self, more: Standing) -> Standing:
        """And others behind them."""
        return Standing(
            self.keys + more.keys, self.things + more.things,
            np.concatenate([self.positions, more.positions]),
            np.concatenate([self.prefabs, more.prefabs]),
            np.concatenate([self.classes, more.classes]),
        )  # fmt: skip

    def ordered(self, order: Rows) -> Standing:
        """The same in another order."""
        places = order.tolist()
        return Standing(
            tuple(self.keys[n] for n in places), tuple(self.things[n] for n in places),
            self.positions[order], self.prefabs[order], self.classes[order],
        )  # fmt: skip


@dataclass(frozen=True, eq=False)
class Taken:
    """Cells and who stands in them.  keys : (n,) rising; rows : (n,) in `standing`."""

    keys: NDArray[np.int64]
    rows: Rows

    def who(self, cells: CellList, own: Rows | None = None) -> Rows:
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

    @classmethod
    def sorted(cls, keys: NDArray[np.int64], rows: Rows) -> Taken:
        """Of pairs in any order, each once."""
        order = np.lexsort((rows, keys))
        keys, rows = keys[order], rows[order]
        first = np.ones(len(order), bool)
        first[1:] = (keys[1:] != keys[:-1]) | (rows[1:] != rows[:-1])
        return cls(keys[first], rows[first])

    def followed(self, new_rows: Rows, more: Taken) -> Taken:
        """With rows renamed, those of -1 gone, and more cells."""
        rows = new_rows[self.rows]
        kept = rows >= 0
        keys, rows = self.keys[kept], rows[kept]
        at = np.searchsorted(keys, more.keys)
        if len(keys):
            beside = keys[np.minimum(at, len(keys) - 1)] == more.keys
            if beside.any():  # in a cell with others, the order of rows counts
                return Taken.sorted(np.concatenate([keys, more.keys]),
                                    np.concatenate([rows, more.rows]))  # fmt: skip
        return Taken(np.insert(keys, at, more.keys), np.insert(rows, at, more.rows))


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


def taken_by(
    project: Project, standing: Standing, *, only_keepers: bool, rows: Iterable[int] | None = None
) -> Taken:
    """The cells that bodies meet, of all things or only of those that keep theirs.

    rows : only of these.
    """
    groups: dict[Stance, list[int]] = {}
    for row in range(len(standing.things)) if rows is None else rows:
        groups.setdefault(standing.things[row].stance, []).append(row)
    keys, own = [np.empty(0, np.int64)], [np.empty(0, np.intp)]
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
            own.append(np.repeat(np.array(members, np.intp), len(offsets)))
    return Taken.sorted(np.concatenate(keys), np.concatenate(own))


def body_reach(
    positions: Positions, offsets: CellList
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(n, k, axes) the first and the last cell that each part of bodies at (n, axes) meets."""
    middle = positions.copy()
    middle[:, :-2] = standing_cells(positions)[:, :-2]
    parts = middle[:, None] + offsets
    return np.floor(parts + 1e-6), np.ceil(parts - 1e-6)


@dataclass(eq=False)
class Whole:
    """What is derived from the standing things of one room.

    tables : the things by layer id and number that it was made of, layers from bottom to top.
    """

    project: Project
    standing: Standing
    tables: dict[str, dict[int, Thing]] = field(default_factory=dict)
    prefabs: object = None  # the stamp of the library that it was made with

    @cached_property
    def kept_cells(self) -> Taken:
        """Cells kept by things that want theirs alone."""
        return taken_by(self.project, self.standing, only_keepers=True)

    @cached_property
    def taken_cells(self) -> Taken:
        """Cells in which anything stands."""
        return taken_by(self.project, self.standing, only_keepers=False)

    @classmethod
    def of_tables(
        cls, project: Project, tables: Mapping[str, Mapping[int, Thing]], axes: int,
        before: Whole | None = None,
    ) -> Whole:  # fmt: skip
        """Of the things of a room.  before : of the same room, from which little may differ."""
        stamp = project.stamp("prefabs", "classes")
        own = {layer_id: dict(table) for layer_id, table in tables.items()}
        made = None
        if before is not None and before.prefabs == stamp and [*before.tables] == [*own]:
            made = before.followed(own, axes)
        if made is None:
            pairs = (((i, n), t) for i, table in own.items() for n, t in table.items())
            made = cls(project, Standing.of(project, pairs, axes))
        made.tables, made.prefabs = own, stamp
        return made

    def followed(self, tables: dict[str, dict[int, Thing]], axes: int) -> Whole | None:
        """The same where some things are otherwise; None where too many are."""
        gone: list[Key] = []
        new: list[tuple[Key, Thing]] = []
        for layer_id, table in tables.items():
            out, put = _differences(self.tables[layer_id], table)
            gone += [(layer_id, n) for n in out]
            new += [((layer_id, n), table[n]) for n in put]
        if len(gone) + len(new) > _MOST_FOLLOWED * max(1, len(self.standing.things)):
            return None
        return self.changed(set(gone), new, axes)

    def changed(self, gone: set[Key], new: list[tuple[Key, Thing]], axes: int) -> Whole:
        """Without some of the things, and with others."""
        standing = self.standing
        kept = np.ones(len(standing.things), bool)
        if gone:
            kept[[row for row, key in enumerate(standing.keys) if key in gone]] = False
        more = Standing.of(self.project, new, axes)
        joined = standing.kept(kept).with_more(more)
        order = _order_of(joined.keys, len(joined.keys) - len(more.keys), [*self.tables])
        at = np.empty(len(joined.keys), np.intp)
        at[order] = np.arange(len(order))
        renamed = np.full(len(kept), -1, np.intp)
        renamed[kept] = at[: int(kept.sum())]
        in_order = bool((order == np.arange(len(order))).all())
        made = Whole(self.project, joined if in_order else joined.ordered(order))
        fresh = at[len(joined.keys) - len(more.keys) :].tolist()
        for name, keepers in (("kept_cells", True), ("taken_cells", False)):
            known = self.__dict__.get(name)
            if known is not None:
                own = taken_by(self.project, made.standing, only_keepers=keepers, rows=fresh)
                made.__dict__[name] = known.followed(renamed, own)
        return made


def _differences(old: Mapping[int, Thing], new: Mapping[int, Thing]) -> tuple[list[int], list[int]]:
    """Numbers that went or became another, and those that came or became another."""
    lost, added = old.keys() - new.keys(), new.keys() - old.keys()
    left = [n for n in old if n not in lost] if lost else [*old]
    there = [new[n] for n in left] if lost or added else [*new.values()]
    before = [old[n] for n in left] if lost else [*old.values()]
    other = [*compress(left, map(is_not, before, there))]
    return [*sorted(lost), *other], [*other, *sorted(added)]


def _order_of(keys: tuple[Key, ...], before: int, layers: list[str]) -> Rows:
    """The order by layer and number of keys of which the first ones are in order."""
    if before == len(keys):
        return np.arange(len(keys))
    last = keys[before - 1] if before else None
    near = [key for key, _ in keys[before:]] + ([last[0]] if last is not None else [])
    place = {layer_id: n for n, layer_id in enumerate(dict.fromkeys((*layers, *near)))}
    new = sorted((place[key[0]], key[1], row) for row, key in enumerate(keys[before:], before))
    if last is None or (place[last[0]], last[1]) < new[0][:2]:
        return np.concatenate([np.arange(before), np.array([row for _, _, row in new], np.intp)])
    every = dict.fromkeys((*layers, *(key for key, _ in keys)))
    place = {layer_id: n for n, layer_id in enumerate(every)}
    order = np.lexsort(([key[1] for key in keys], [place[key[0]] for key in keys]))
    return np.asarray(order, np.intp)
