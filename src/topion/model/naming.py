"""What the numbers in cells stand for: names of materials, tiles, blocks and colours.

Two projects that grew apart give other numbers to the same names, so whatever carries cells from
one to the other, a merge or a file, carries the names along.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.grid.boxes import Box
from topion.model.conflict import CellsConflict, NameInCells, Side
from topion.model.layer import Layer
from topion.model.plane import Plane
from topion.model.project import Project
from topion.model.solid import TURN_BITS
from topion.model.tileset import TileRef

_NUMBERS = 1 << 16


@dataclass(frozen=True)
class Naming:
    """names : by number.  bits : the lowest ones of a number in cells, which say how the named
    block is turned."""

    names: Mapping[int, NameInCells]
    bits: int = 0

    def used(self, cells: np.ndarray) -> dict[int, NameInCells]:
        """The names of the numbers in cells, by number; numbers that have none are left out."""
        flat, there = cells.reshape(-1), np.zeros(_NUMBERS, bool)
        there[flat[:1]] = True
        there[flat[1:][flat[1:] != flat[:-1]]] = True  # where runs begin: there are far fewer
        numbers = np.unique(np.flatnonzero(there) >> self.bits).tolist()
        return {number: self.names[number] for number in numbers if number in self.names}

    def numbers(self) -> dict[NameInCells, int]:
        """The numbers by name."""
        return {name: number for number, name in reversed([*self.names.items()])}


def tile_name(ref: TileRef) -> NameInCells:
    """The name of a tile: its set and slot, and where it is turned or mirrored, how."""
    turned = f"{ref.turn}{' mirrored' if ref.mirrored else ''}"
    return (ref.tileset, ref.slot) if turned == "0" else (ref.tileset, ref.slot, turned)


def naming_of(project: Project, layer: Layer, plane: str) -> Naming | None:
    """What the numbers of a plane stand for; None where they are amounts."""
    if plane in ("material", "inlay"):
        return Naming({n: (name,) for n, name in enumerate(project.materials, 1)})
    if plane == "pinned" and layer.info.kind == "tiles":
        return Naming({n: tile_name(ref) for n, ref in enumerate(project.tiles, 1)})
    if plane == "pinned":
        return Naming({n: (name,) for n, name in enumerate(project.block_names, 1)}, TURN_BITS)
    if plane in ("fore", "back"):
        return Naming({tint.number: (tint.name,) for tint in project.palette})
    return None


def translation(
    old: Mapping[int, NameInCells], new: Mapping[NameInCells, int], bits: int = 0
) -> NDArray[np.uint16] | None:
    """(65536,) what each number becomes where names have other numbers; None where all stay.

    A name that is not known there keeps its number: it was called otherwise since.
    """
    moved = {n: new[name] for n, name in old.items() if new.get(name, n) != n}
    if not moved:
        return None
    table = np.arange(_NUMBERS, dtype=np.uint16)
    kept = (1 << bits) - 1
    every = np.arange(_NUMBERS)
    for number, now in moved.items():
        own = every >> bits == number
        table[own] = (now << bits) | (every[own] & kept)
    return table


def cells_conflict(
    layer_id: str,
    plane: str,
    at: tuple[int, ...],
    values: np.ndarray,
    mask: NDArray[np.bool_],
    naming: Naming | None,
    side: Side = "theirs",
) -> CellsConflict:
    """The conflict that keeps the values of the cells under a mask; at least one.

    values, mask : of a box whose first cell is `at`, counted as a CellsConflict counts.
    """
    tight = Box.of_cells(np.argwhere(mask))
    values, mask = values[tight.slices], mask[tight.slices]
    first = tuple(a + b for a, b in zip(at, tight.lo, strict=True))
    if naming is None:
        kept = np.where(mask, values.astype(np.uint16) + 1, 0).astype(np.uint16)
        return CellsConflict(layer_id, plane, first, Plane(kept), (), side)
    known = np.unique(values[mask])
    codes = np.searchsorted(known, values).clip(0, len(known) - 1) + 1
    names = tuple(_name_of(int(value), naming) for value in known)
    kept = np.where(mask, codes, 0).astype(np.uint16)
    return CellsConflict(layer_id, plane, first, Plane(kept), names, side)


def _name_of(value: int, naming: Naming) -> NameInCells:
    name = naming.names.get(value >> naming.bits, ())
    return (*name, str(value & ((1 << naming.bits) - 1))) if name and naming.bits else name


def values_kept(
    conflict: CellsConflict, naming: Naming | None
) -> tuple[NDArray[np.bool_], NDArray[np.uint16]]:
    """(mask, values) of what a conflict keeps, over its box, by the numbers of a project.

    Cells of names that the project does not have are left out of the mask.
    """
    codes = conflict.cells.cells
    mask = codes > 0
    if naming is None:
        return mask, np.where(mask, codes - 1, 0).astype(np.uint16)
    numbers, table, known = naming.numbers(), [0], [False]
    for name in conflict.names:
        turn = int(name[-1]) if naming.bits and name and name[-1].isdecimal() else 0
        bare = name[:-1] if naming.bits else name
        number = numbers.get(bare)
        known.append(not name or number is not None)
        table.append(((number or 0) << naming.bits) | turn)
    codes = np.where(codes < len(table), codes, 0)
    return mask & np.array(known)[codes], np.array(table, np.uint16)[codes]
