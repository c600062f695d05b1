"""Which cells of a room differ in two versions of it, and which entries."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.grid.boxes import Box
from topion.model.layer import Entry, Layer
from topion.model.naming import Naming, naming_of, translation
from topion.model.project import Project
from topion.model.room import Room


@dataclass(frozen=True)
class EntryChanged:
    """One entry of a numbered table; None where a version does not have it."""

    layer: str
    table: str
    number: int
    before: Entry | None
    after: Entry | None


@dataclass(frozen=True, eq=False)
class RoomChanged:
    """box : all cells of both versions, counted from the first cell of the later one.
    cells : over it, where what is stored differs.  entries : those that differ.
    """

    box: Box
    cells: NDArray[np.bool_]
    entries: tuple[EntryChanged, ...] = ()

    @property
    def is_nothing(self) -> bool:
        """Whether the two are alike."""
        return not self.entries and not self.cells.any()

    @property
    def plan_box(self) -> Box:
        """Its box seen from above; the same of a flat room."""
        return Box(self.box.lo[-2:], self.box.hi[-2:])

    @cached_property
    def marked(self) -> NDArray[np.bool_]:
        """(h, w) over the box seen from above, where anything differs, things and pieces too."""
        found = np.array(self.cells if self.cells.ndim == 2 else self.cells.any(axis=0))
        known = (one for entry in self.entries for one in (entry.before, entry.after))
        for one in known:
            if one is not None:
                own = Box(one.touched.lo[-2:], one.touched.hi[-2:]).clipped(self.plan_box)
                found[own.slices_from(self.plan_box.lo)] = True
        return found


def islands(mask: NDArray[np.bool_], box: Box, most: int = 64) -> list[Box]:
    """A box round each part of a mask that hangs together; one round all where there are more."""
    labels, count = scipy.ndimage.label(mask)
    parts = scipy.ndimage.find_objects(labels) if count <= most else [
        tuple(slice(a, b) for a, b in zip(whole.lo, whole.hi, strict=True))
        for whole in (Box.of_cells(np.argwhere(mask)),)
    ]  # fmt: skip
    return [Box(tuple(lo + s.start for lo, s in zip(box.lo, part, strict=True)),
                tuple(lo + s.stop for lo, s in zip(box.lo, part, strict=True)))
            for part in parts]  # fmt: skip


def room_changed(before: tuple[Project, Room], after: tuple[Project, Room]) -> RoomChanged:
    """Two versions of a room, each with its project.  Layers are known by their ids."""
    (old_project, old), (project, room) = before, after
    shift = _shift(old, room)
    box = room.box.union(old.box.shifted(shift))
    cells = np.zeros(box.shape, bool)
    entries: list[EntryChanged] = []
    for layer_id in dict.fromkeys((*old.layers, *room.layers)):
        one, other = old.layers.get(layer_id), room.layers.get(layer_id)
        kinds = [layer.info.kind for layer in (one, other) if layer is not None]
        if len({*kinds}) > 1:
            one = None
        for plane in (one or other).info.traits.planes:  # type: ignore[union-attr]
            mask = _plane_changed((old_project, one), (project, other), plane, box, shift)
            cells |= mask  # a plane of columns counts on every level
        entries += _entries(layer_id, one, other, shift)
    return RoomChanged(box, cells, tuple(entries))


def _shift(old: Room, new: Room) -> tuple[int, ...]:
    """Where the first cell of the earlier version lies in the later one."""
    none = (0,) * new.info.axes
    pairs = zip(old.info.origin or none, new.info.origin or none, strict=True)
    return tuple(a - b for a, b in pairs)


def _plane_changed(
    before: tuple[Project, Layer | None],
    after: tuple[Project, Layer | None],
    plane: str,
    box: Box,
    shift: tuple[int, ...],
) -> NDArray[np.bool_]:
    (old_project, old), (project, layer) = before, after
    known = layer or old
    assert known is not None
    naming = naming_of(project, known, plane)
    to = _to(old_project, old, plane, naming)
    axes = len(known.shape(plane))
    own = Box(box.lo[-axes:], box.hi[-axes:])
    sides = []
    for side, by, table in ((old, shift, to), (layer, (0,) * len(shift), None)):
        made = np.zeros(own.shape, np.uint16)
        if side is not None and plane in side.planes:
            cells = side.planes[plane]
            place = Box.of_shape(cells.shape).shifted(by[-axes:])
            made[place.slices_from(own.lo)] = cells if table is None else table[cells]
        sides.append(made)
    return np.asarray(sides[0] != sides[1])


def _to(
    project: Project, layer: Layer | None, plane: str, naming: Naming | None
) -> NDArray[np.uint16] | None:
    """What numbers of the earlier version are in the later one."""
    if layer is None or naming is None:
        return None
    own = naming_of(project, layer, plane)
    return None if own is None else translation(own.names, naming.numbers(), naming.bits)


def _entries(
    layer_id: str, old: Layer | None, new: Layer | None, shift: tuple[int, ...]
) -> Iterator[EntryChanged]:
    tables = {table: None for layer in (old, new) if layer is not None
              for table in layer.info.traits.tables}  # fmt: skip
    for table in tables:
        one = old.table(table) if old is not None else {}
        other = new.table(table) if new is not None else {}
        if any(shift):
            one = {number: entry.shifted(shift) for number, entry in one.items()}
        for number in sorted({*one, *other}):
            before, after = one.get(number), other.get(number)
            if before != after:
                yield EntryChanged(layer_id, table, number, before, after)
