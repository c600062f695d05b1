"""What a placement rule may ask of a room: what lies in a cell, and what stands near."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import CellList, Positions
from topion.model.prefab import Prefab, Thing, turned_offsets
from topion.model.project import Project
from topion.model.room import Room


@dataclass(frozen=True, eq=False)
class Standing:
    """Things that stand in a room, as arrays; row i is thing `keys[i]`."""

    keys: tuple[tuple[str, int], ...]  # layer id, thing number
    things: tuple[Thing, ...]
    positions: Positions  # (n, 2)
    prefabs: NDArray[np.object_]  # (n,) names
    classes: NDArray[np.object_]  # (n,) class names

    @classmethod
    def of(cls, project: Project, pairs: Iterable[tuple[tuple[str, int], Thing]]) -> Standing:
        known = [(key, thing) for key, thing in pairs if thing.prefab in project.prefabs]
        things = tuple(thing for _, thing in known)
        return cls(
            tuple(key for key, _ in known),
            things,
            np.array([(t.y, t.x) for t in things], np.float64).reshape(-1, 2),
            np.array([t.prefab for t in things], object),
            np.array([project.prefabs[t.prefab].class_name for t in things], object),
        )

    def without(self, keys: set[tuple[str, int]]) -> Standing:
        if not keys:
            return self
        keep = np.array([key not in keys for key in self.keys], bool)
        return Standing(
            tuple(key for key in self.keys if key not in keys),
            tuple(t for key, t in zip(self.keys, self.things, strict=True) if key not in keys),
            self.positions[keep],
            self.prefabs[keep],
            self.classes[keep],
        )


@dataclass(frozen=True, eq=False)
class Ground:
    """A room as placement rules see it; `left_out` are things that do not count."""

    project: Project
    room: Room
    left_out: frozenset[tuple[str, int]] = frozenset()

    @cached_property
    def standing(self) -> Standing:
        layers = self.room.bottom_up("things")
        key = ("standing", self.room.info.name)
        stamp = (
            self.project.library_revision,
            tuple((layer_id, id(layer), layer.revision) for layer_id, layer in layers),
        )
        cached = self.project.derived.get(key)
        if cached is None or cached[0] != stamp:
            pairs = (((i, n), t) for i, layer in layers for n, t in layer.things.items())
            cached = (stamp, Standing.of(self.project, pairs))
            self.project.derived[key] = cached
        standing: Standing = cached[1]
        return standing.without(set(self.left_out))

    def top_materials(self, cells: CellList) -> NDArray[np.uint16]:
        """(n,) the uppermost material in each of (n, 2) cells; 0 outside or where empty."""
        found = np.zeros(len(cells), np.uint16)
        inside = self.room.box.holds(cells)
        ys, xs = cells[inside].T
        seen = np.zeros(len(ys), np.uint16)
        for _, layer in self.room.bottom_up("tiles"):
            here = layer.planes["material"][ys, xs]
            seen = np.where(here > 0, here, seen)
        found[inside] = seen
        return found

    @cached_property
    def kept_cells(self) -> dict[tuple[int, int], int]:
        """Cells kept by things that want theirs alone, with the row in `standing`."""
        kept = {}
        for row, thing in enumerate(self.standing.things):
            prefab = self.project.prefabs[thing.prefab]
            if any(rule.kind == "keeps its cells" for rule in prefab.rules):
                kept.update(dict.fromkeys(body_cells(prefab, thing), row))
        return kept

    @cached_property
    def taken_cells(self) -> dict[tuple[int, int], int]:
        """Cells in which anything stands, with the row in `standing` of one that does."""
        taken = {}
        for row, thing in enumerate(self.standing.things):
            prefab = self.project.prefabs[thing.prefab]
            taken.update(dict.fromkeys(body_cells(prefab, thing), row))
        return taken


@dataclass(frozen=True, eq=False)
class Spots:
    """Places asked about at once: one prefab, many positions."""

    prefab: Prefab
    positions: Positions  # (n, 2)
    turn: float = 0.0
    mirrored: bool = False

    @cached_property
    def cells(self) -> CellList:
        """(n, 2) the cell of each anchor."""
        return np.floor(self.positions + 0.5).astype(np.intp)

    @cached_property
    def bodies(self) -> CellList:
        """(n, k, 2) the cells each would stand on, by its anchor's cell."""
        return self.cells[:, None, :] + turned_offsets(self.prefab, self.turn, self.mirrored)


def body_cells(prefab: Prefab, thing: Thing) -> list[tuple[int, int]]:
    """Every cell that the thing's body meets, also in part when it stands between cells."""
    offsets = turned_offsets(prefab, thing.turn, thing.mirrored)
    corner = np.array([thing.y, thing.x]) + offsets
    lo = np.floor(corner + 1e-6).astype(int)
    hi = np.ceil(corner - 1e-6).astype(int)
    cells = {
        (int(y), int(x))
        for a, b in zip(lo, hi, strict=True)
        for y in range(a[0], b[0] + 1)
        for x in range(a[1], b[1] + 1)
    }
    return sorted(cells)
