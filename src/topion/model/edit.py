"""Edits as data: labelled, invertible, serialisable, with the boxes they touch.

Three kinds of record say all that can change in a project: cells of a layer, things of a
layer, and items (anything else, addressed by where it stands).  Records write themselves
into a project; nothing else does.
"""

from __future__ import annotations

import zlib
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Any, NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from topion.grid.boxes import Box
from topion.model.prefab import Thing
from topion.model.project import Address, Project


class Dirty(NamedTuple):
    """A part of the project that changed: a box of a layer, a whole room, or the library.

    shelf, name : of an item outside the rooms, such as "brushes", "Mud".
    """

    room: str = ""
    layer: str = ""
    box: Box | None = None
    shelf: str = ""
    name: str = ""


class Record(Protocol):
    def write(self, project: Project) -> None:
        """Make the change; the project must stand as it did when the record was planned."""

    def inverted(self) -> Record: ...

    def dirty(self) -> Dirty: ...


@dataclass(frozen=True, eq=False)
class CellsRecord:
    """New values of some cells of one layer.

    cells : (n,) intp, indices into the flat arrays of the layer, rising.
    before, after : by plane, (n,) values; only planes that change.
    """

    room: str
    layer: str
    shape: tuple[int, ...]
    cells: NDArray[np.intp]
    before: dict[str, np.ndarray]
    after: dict[str, np.ndarray]

    def write(self, project: Project) -> None:
        layer = project.rooms[self.room].layers[self.layer]
        for plane, values in self.after.items():
            layer.planes[plane].reshape(-1)[self.cells] = values
        layer.revision += 1

    def inverted(self) -> CellsRecord:
        return replace(self, before=self.after, after=self.before)

    def box(self) -> Box:
        if not len(self.cells):
            return Box((0,) * len(self.shape), (0,) * len(self.shape))
        lo, hi, rest = [], [], self.cells
        for pitch in np.cumprod(self.shape[:0:-1])[::-1].tolist():
            axis, rest = np.divmod(rest, pitch)
            lo.append(int(axis.min()))
            hi.append(int(axis.max()) + 1)
        return Box((*lo, int(rest.min())), (*hi, int(rest.max()) + 1))

    def dirty(self) -> Dirty:
        return Dirty(self.room, self.layer, self.box())

    def sealed(self) -> SealedCells:
        """The same record, packed small; what a history keeps."""
        steps = np.diff(self.cells, prepend=0).astype(np.uint32)
        parts = [steps.tobytes()]
        planes = []
        for plane, before in self.before.items():
            planes.append((plane, before.dtype.str))
            parts += [before.tobytes(), self.after[plane].astype(before.dtype).tobytes()]
        packed = zlib.compress(b"".join(parts), 1)
        return SealedCells(
            self.room, self.layer, self.shape, self.box(), len(steps), tuple(planes), packed
        )


@dataclass(frozen=True)
class SealedCells:
    """A CellsRecord as bytes: steps between cells, then each plane before and after (zlib)."""

    room: str
    layer: str
    shape: tuple[int, ...]
    touched: Box
    count: int
    planes: tuple[tuple[str, str], ...]  # name, dtype
    packed: bytes = field(repr=False)
    backwards: bool = False

    def opened(self) -> CellsRecord:
        data = zlib.decompress(self.packed)
        count = self.count
        cells = np.cumsum(np.frombuffer(data, np.uint32, count), dtype=np.intp)
        before, after, at = {}, {}, 4 * count
        for plane, dtype in self.planes:
            size = np.dtype(dtype).itemsize * count
            before[plane] = np.frombuffer(data, dtype, count, at)
            after[plane] = np.frombuffer(data, dtype, count, at + size)
            at += 2 * size
        if self.backwards:
            before, after = after, before
        return CellsRecord(self.room, self.layer, self.shape, cells, before, after)

    def write(self, project: Project) -> None:
        self.opened().write(project)

    def inverted(self) -> SealedCells:
        return replace(self, backwards=not self.backwards)

    def dirty(self) -> Dirty:
        return Dirty(self.room, self.layer, self.touched)


@dataclass(frozen=True)
class ThingsRecord:
    """Things of one layer before and after, by id; an id that is missing is not there."""

    room: str
    layer: str
    before: dict[int, Thing]
    after: dict[int, Thing]

    def write(self, project: Project) -> None:
        layer = project.rooms[self.room].layers[self.layer]
        for number in self.before:
            layer.things.pop(number, None)
        layer.things.update(self.after)
        layer.things = dict(sorted(layer.things.items()))
        layer.revision += 1

    def inverted(self) -> ThingsRecord:
        return replace(self, before=self.after, after=self.before)

    def dirty(self) -> Dirty:
        things = [*self.before.values(), *self.after.values()]
        cells = np.array([thing.cell for thing in things], np.intp).reshape(-1, 2)
        return Dirty(self.room, self.layer, Box.of_cells(cells))  # columns, in a voxel room


@dataclass(frozen=True)
class ItemRecord:
    """Any other part of a project, by its address; None stands for "not there"."""

    address: Address
    before: Any
    after: Any

    def write(self, project: Project) -> None:
        project.put_item(self.address, self.after)

    def inverted(self) -> ItemRecord:
        return replace(self, before=self.after, after=self.before)

    def dirty(self) -> Dirty:
        match self.address:
            case ("layers", room, layer):
                return Dirty(room, layer)
            case ("rooms" | "order", room):
                return Dirty(room)
        return Dirty(shelf=self.address[0], name=self.address[-1])


@dataclass(frozen=True)
class Edit:
    """One change as the designer sees it: a label and its records, written in order.

    colour : `#rrggbb` for the strokes ribbon.  refused : places a stroke left out, with reasons.
    """

    label: str
    records: tuple[Record, ...] = ()
    colour: str = "#6b7479"
    refused: tuple[str, ...] = ()

    def __bool__(self) -> bool:
        return bool(self.records)

    def inverted(self) -> Edit:
        return replace(self, records=tuple(r.inverted() for r in reversed(self.records)))

    def sealed(self) -> Edit:
        """With its cells packed; what a history keeps."""
        packed = tuple(r.sealed() if isinstance(r, CellsRecord) else r for r in self.records)
        return replace(self, records=packed)

    def dirty(self) -> tuple[Dirty, ...]:
        return tuple(record.dirty() for record in self.records)


def joined(label: str, edits: Iterable[Edit], colour: str = "") -> Edit:
    """One Edit that makes the changes of several, planned one upon the other."""
    parts = list(edits)
    records = tuple(record for edit in parts for record in edit.records)
    refused = tuple(reason for edit in parts for reason in edit.refused)
    return Edit(label, records, colour or (parts[0].colour if parts else Edit.colour), refused)


def cells_changed(
    room: str,
    layer: str,
    shape: tuple[int, ...],
    cells: NDArray[np.intp],
    before: dict[str, np.ndarray],
    after: dict[str, np.ndarray],
) -> tuple[CellsRecord, ...]:
    """A record of the cells that really change, or none.

    cells : (n,) flat indices, each once.  before, after : (n,) values by plane.
    """
    differs = np.zeros(len(cells), bool)
    for plane, values in before.items():
        differs |= values != after[plane]
    keep = np.flatnonzero(differs)
    if not len(keep):
        return ()
    if not (cells[1:] > cells[:-1]).all():
        keep = keep[np.argsort(cells[keep], kind="stable")]
    planes = [p for p in before if not np.array_equal(before[p][keep], after[p][keep])]
    return (
        CellsRecord(
            room,
            layer,
            shape,
            cells[keep],
            {plane: before[plane][keep] for plane in planes},
            {plane: after[plane][keep].astype(before[plane].dtype) for plane in planes},
        ),
    )
