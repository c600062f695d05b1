"""Planes of cells put together, cell by cell: three versions of a file of rows into one.

Rows that are the same in two of the three are taken as they stand, letter by letter; only those
that both sides changed are read.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.errors import BadFile
from topion.formats.plane_files import (
    PlaneHead,
    conflict_lines,
    head_of,
    plain_shape,
    read_plane,
    split_rows,
)
from topion.grid.boxes import Box
from topion.grid.runs import BadRows, rows_to_text, text_to_rows
from topion.merging.boxes import merged_box
from topion.merging.files import MergedFile, kept_conflicts
from topion.merging.values import Three
from topion.model.conflict import CellsConflict, NameInCells
from topion.model.naming import Naming, cells_conflict, translation
from topion.model.plain import Json, to_plain

_NAMED = ("material", "inlay", "pinned", "fore", "back")
_MOST_CONFLICTS = 64  # of one plane; more of them are one
Names = Mapping[int, NameInCells]


def merged_plane(file: str, base: bytes | None, ours: bytes, theirs: bytes) -> MergedFile:
    """Three versions of a file of rows put together.

    file : its path, of which the last part is ID.PLANE.rows.  base : None where there was none.
    Raises BadFile for one that is not sound.
    """
    mine, yours = _Version.of(ours, file), _Version.of(theirs, file)
    first = _Version.of(base, file) if base is not None else mine.emptied(yours)
    return _Merge(file, first, mine, yours).merged()


@dataclass(frozen=True)
class _Version:
    """rows : the text behind the head.  headed : whether there is a head."""

    head: PlaneHead
    rows: bytes
    conflicts: tuple[Json, ...]
    headed: bool

    @classmethod
    def of(cls, data: bytes, file: str) -> _Version:
        rows, conflicts = split_rows(data, file)
        head = head_of(rows, file)
        if head is None:
            return cls(PlaneHead(plain_shape(rows)), rows, conflicts, False)
        return cls(head, rows[rows.find(b"\n") + 1 :], conflicts, True)

    def emptied(self, other: _Version) -> _Version:
        """A version from before both, in which all cells are open."""
        box = self.head.box
        if len(box.lo) == len(other.head.box.lo):
            box = box.union(other.head.box)
        wide = box.shape[-1]
        line = b"0\n" if wide == 1 else b"%d*0\n" % wide
        head = PlaneHead(box.shape, box.lo, {}, self.head.turned)
        return _Version(head, line * (int(np.prod(box.shape[:-1]))), (), True)

    def cells(self, file: str) -> NDArray[np.uint16]:
        """In the shape of the head."""
        data = (self.head.line() if self.headed else b"") + self.rows
        return read_plane(data, file, self.head.size).cells


@dataclass
class _Merge:
    path: str
    base: _Version
    ours: _Version
    theirs: _Version

    def __post_init__(self) -> None:
        self.layer, self.plane, _ = self.path.rpartition("/")[2].rsplit(".", 2)
        base, ours, theirs = self.base.head, self.ours.head, self.theirs.head
        self.box = merged_box(base.box, ours.box, theirs.box)
        bits = max(ours.turned, theirs.turned)
        self.names, tables = merged_names(base.names, ours.names, theirs.names, bits)
        self.tables = dict(zip(("base", "ours", "theirs"), tables, strict=True))
        self.naming = Naming(self.names, bits) if self.plane in _NAMED else None

    def file_of(self, rows: bytes, conflicts: list[CellsConflict]) -> MergedFile:
        start = self.box.lo if any(self.box.lo) else ()
        head = PlaneHead(self.box.shape, start, self.names, self.naming.bits if self.naming else 0)
        fresh = tuple(to_plain(conflict) for conflict in conflicts)
        sides = Three(self.base, self.ours, self.theirs)
        kept = kept_conflicts(sides.each(lambda version: list(version.conflicts)))
        every = [*kept, *fresh]
        lead = head.line() if self.ours.headed or self.theirs.headed else b""
        return MergedFile(lead + rows + conflict_lines(every), fresh)

    def merged(self) -> MergedFile:
        same_box = all(v.head.box == self.box for v in (self.base, self.ours, self.theirs))
        if same_box and all(table is None for table in self.tables.values()):
            return self._by_rows()
        return self._by_cells()

    def _by_rows(self) -> MergedFile:
        sides = [v.rows.split(b"\n") for v in (self.base, self.ours, self.theirs)]
        if len({len(side) for side in sides}) > 1:
            return self._by_cells()  # which says what is wrong with it
        made = list(sides[1])
        hard = []
        for at, (base, ours, theirs) in enumerate(zip(*sides, strict=True)):
            if ours == base:
                made[at] = theirs
            elif theirs not in (base, ours):
                hard.append(at)
        if not hard:
            return self.file_of(b"\n".join(made), [])
        base, ours, theirs = (self._rows_at(side, hard) for side in sides)
        merged, both = _put_together(base, ours, theirs)
        lines = b"".join(rows_to_text(merged)).split(b"\n")
        for at, line in zip(hard, lines, strict=False):
            made[at] = line
        values = np.zeros((len(made) - 1, theirs.shape[1]), np.uint16)
        mask = np.zeros(values.shape, bool)
        values[hard], mask[hard] = theirs, both
        shape = self.box.shape
        conflicts = self._conflicts(values.reshape(shape), mask.reshape(shape), self.box)
        return self.file_of(b"\n".join(made), conflicts)

    def _rows_at(self, lines: list[bytes], which: list[int]) -> NDArray[np.uint16]:
        text = b"".join(lines[at] + b"\n" for at in which)
        try:
            return text_to_rows(text, (len(which), self.box.shape[-1]))
        except BadRows as problem:
            line = which[min(problem.line, len(which)) - 1] + 1 + self.ours.headed
            raise BadFile(self.path, problem.reason, f"line {line}") from None

    def _by_cells(self) -> MergedFile:
        """Versions of other sizes, or with other numbers for the same names."""
        heads = (self.base.head, self.ours.head, self.theirs.head)
        whole = heads[0].box.union(heads[1].box).union(heads[2].box).union(self.box)
        base = self._placed("base", self.base, whole, None)
        ours = self._placed("ours", self.ours, whole, base)
        theirs = self._placed("theirs", self.theirs, whole, base)
        merged, both = _put_together(base, ours, theirs)
        inside = np.zeros(whole.shape, bool)
        inside[self.box.slices_from(whole.lo)] = True
        lost = ~inside & (theirs != base) & (theirs > 0)
        conflicts = self._conflicts(theirs, (both & inside) | lost, whole)
        made = merged[self.box.slices_from(whole.lo)]
        rows = b"".join(rows_to_text(np.ascontiguousarray(made).reshape(-1, made.shape[-1])))
        return self.file_of(rows, conflicts)

    def _placed(
        self, side: str, version: _Version, whole: Box, beyond: NDArray[np.uint16] | None
    ) -> NDArray[np.uint16]:
        """Its cells over a larger box, by the numbers of the merged file; beyond it as given."""
        cells, table = version.cells(self.path), self.tables[side]
        made = np.zeros(whole.shape, np.uint16) if beyond is None else beyond.copy()
        made[version.head.box.slices_from(whole.lo)] = cells if table is None else table[cells]
        return made

    def _conflicts(
        self, theirs: NDArray[np.uint16], mask: NDArray[np.bool_], box: Box
    ) -> list[CellsConflict]:
        return [
            cells_conflict(self.layer, self.plane, at, theirs[part], own, self.naming)
            for at, part, own in _islands(mask, box)
        ]


def _put_together(
    base: np.ndarray, ours: np.ndarray, theirs: np.ndarray
) -> tuple[NDArray[np.uint16], NDArray[np.bool_]]:
    """(merged, where both changed otherwise) of arrays of one shape."""
    changed = theirs != base
    free = ours == base
    return np.where(changed & free, theirs, ours), changed & ~free & (ours != theirs)


def _islands(
    mask: NDArray[np.bool_], box: Box
) -> Iterator[tuple[tuple[int, ...], tuple[slice, ...], NDArray[np.bool_]]]:
    """(first cell, slices, mask within these) of each part of a mask that hangs together."""
    if not mask.any():
        return
    tight = Box.of_cells(np.argwhere(mask))
    own = mask[tight.slices]
    near = scipy.ndimage.generate_binary_structure(mask.ndim, mask.ndim)
    labels, count = scipy.ndimage.label(own, near)
    if count > _MOST_CONFLICTS:
        labels, count = own.astype(np.int32), 1
    for number, part in enumerate(scipy.ndimage.find_objects(labels), 1):
        lo = tuple(b + t + s.start for b, t, s in zip(box.lo, tight.lo, part, strict=True))
        there = tuple(slice(t + s.start, t + s.stop) for t, s in zip(tight.lo, part, strict=True))
        yield lo, there, labels[part] == number


def merged_names(
    base: Names, ours: Names, theirs: Names, bits: int = 0
) -> tuple[dict[int, NameInCells], list[NDArray[np.uint16] | None]]:
    """(names by number, what the numbers of each of the three become in it).

    Numbers of ours stay.  A number of the base that has another name on one side, while neither
    name is on the other, was called otherwise there.
    """
    base, ours, theirs = _renamed_alike(base, ours, theirs)
    made = dict(ours)
    taken = {*ours.values()}
    for side in (theirs, base):
        for number, name in side.items():
            if name not in taken:
                taken.add(name)
                free = number if number not in made else max(made) + 1
                made[free] = name
    numbers = Naming(made).numbers()
    return made, [translation(side, numbers, bits) for side in (base, ours, theirs)]


def _renamed_alike(base: Names, ours: Names, theirs: Names) -> tuple[Names, Names, Names]:
    sides = [dict(base), dict(ours), dict(theirs)]
    for this in (1, 2):
        known = {*sides[this].values()}
        before = {*base.values()}
        now = {
            old: sides[this][number]
            for number, old in base.items()
            if number in sides[this] and old not in known and sides[this][number] not in before
        }
        for side in (0, 3 - this) if now else ():
            sides[side] = {n: now.get(name, name) for n, name in sides[side].items()}
    return sides[0], sides[1], sides[2]
