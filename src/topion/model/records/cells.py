"""Cells of one layer: the new and the old values of its planes."""

from __future__ import annotations

import base64
import binascii
import math
import zlib
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from topion.grid.boxes import Box
from topion.model.edit import Dirty, DoesNotFit, EntryChange
from topion.model.layer import KINDS_OF_LAYERS, Layer
from topion.model.plain import BadPlain, JsonRecord, from_plain, to_plain
from topion.model.project import Project
from topion.model.room import MOST_CELLS
from topion.model.sound import strays

_DTYPES = {plane: np.dtype(kind) for k in KINDS_OF_LAYERS.values()
           for plane, kind in k.planes.items()}  # fmt: skip


@dataclass(frozen=True)
class CellsRecord:
    """New values of some cells of one layer, loose or sealed.

    shape : of the planes.  count : of cells.  touched : the box round them.
    planes : those that change, in order.
    packed : steps between flat cells (uint32), then each plane before and after (zlib); empty
    while the record is loose.  backwards : before and after change places.
    """

    kind: ClassVar[str] = "cells"
    ordered: ClassVar[bool] = False
    room: str
    layer: str
    shape: tuple[int, ...]
    touched: Box
    count: int
    planes: tuple[str, ...]
    packed: bytes = field(default=b"", repr=False)
    backwards: bool = False
    loose: _Loose | None = field(default=None, repr=False, compare=False)

    @property
    def target(self) -> tuple[str, ...]:
        return ("cells", self.room, self.layer)

    @property
    def cells_written(self) -> int:
        return self.count

    @property
    def cells(self) -> NDArray[np.intp]:
        """(n,) indices into the flat planes of the layer, rising."""
        return self._read().cells

    @property
    def before(self) -> dict[str, np.ndarray]:
        """By plane, (n,) old values."""
        loose = self._read()
        return loose.after if self.backwards else loose.before

    @property
    def after(self) -> dict[str, np.ndarray]:
        """By plane, (n,) new values."""
        loose = self._read()
        return loose.before if self.backwards else loose.after

    def _read(self) -> _Loose:
        # what is sealed stays so: a history would else grow with every jump
        return self.loose if self.loose is not None else _unpacked(self)

    def write(self, project: Project) -> None:
        layer = project.rooms[self.room].layers[self.layer]
        loose = self._read()
        after = loose.before if self.backwards else loose.after
        layer.write_cells(loose.cells, after, self.touched)

    def check(self, project: Project) -> None:
        layer = project.room(self.room).layer(self.layer)
        name = layer.info.name
        if not self._suits(layer):
            raise DoesNotFit(f"layer {name} of {self.room} is of another kind or size by now")
        loose = self._read()
        cells, end = loose.cells, math.prod(self.shape)
        if not len(cells) or cells[0] < 0 or cells[-1] >= end or (np.diff(cells) <= 0).any():
            raise DoesNotFit(f"cells of layer {name} are named that are not there")
        if _box_of(cells, self.shape) != self.touched:
            raise DoesNotFit(f"cells of layer {name} lie beside their box")
        for plane, values in self.before.items():
            if not np.array_equal(layer.plane(plane).reshape(-1)[cells], values):
                raise DoesNotFit(f"cells of layer {name} of {self.room} are not as they were")
        for plane, values in self.after.items():
            if strays(project, layer, plane, values).any():
                raise DoesNotFit(f"layer {name} would hold numbers that are not known")

    def _suits(self, layer: Layer) -> bool:
        return all(
            layer.has(plane) and layer.shape(plane) == self.shape for plane in self.planes
        ) and bool(self.planes)

    def onto(self, project: Project) -> CellsRecord | None:
        if self.room not in project.rooms:
            return None
        layer = project.rooms[self.room].layers.get(self.layer)
        if layer is None or not self._suits(layer):
            return None
        loose, after = self._read(), self.after
        before = {p: layer.plane(p).reshape(-1)[loose.cells] for p in self.planes}
        found = cells_changed(self.room, self.layer, self.shape, loose.cells, before, after)
        return found[0] if found else None

    def inverted(self) -> CellsRecord:
        return replace(self, backwards=not self.backwards)

    def dirty(self) -> Dirty:
        return Dirty(self.room, self.layer, self.touched, cells=True)

    def entries(self) -> tuple[EntryChange, ...]:
        return ()

    def sealed(self) -> CellsRecord:
        if self.loose is None:
            return self
        loose = self.loose
        parts = [np.diff(loose.cells, prepend=0).astype(np.uint32).tobytes()]
        for plane in self.planes:
            parts += [loose.before[plane].tobytes(), loose.after[plane].tobytes()]
        return replace(self, packed=zlib.compress(b"".join(parts), 1), loose=None)

    def unpacked(self) -> CellsRecord:
        return self if self.loose is not None else replace(self, loose=_unpacked(self))

    def folded(self, later: CellsRecord) -> tuple[CellsRecord, ...]:
        if set(self.planes) != set(later.planes):
            return self, later  # of a plane that one leaves alone, the values are not known
        first, last = (_Loose(part.cells, part.before, part.after) for part in (self, later))
        cells = np.union1d(first.cells, last.cells)
        before = {p: last.over(first, cells, p, old=True) for p in self.planes}
        after = {p: last.over(first, cells, p, old=False) for p in self.planes}
        return cells_changed(self.room, self.layer, self.shape, cells, before, after)

    def plain(self) -> JsonRecord:
        sealed = self.sealed()
        return {
            "record": self.kind,
            "room": self.room,
            "layer": self.layer,
            "shape": list(self.shape),
            "touched": to_plain(self.touched),
            "count": self.count,
            "planes": list(self.planes),
            "packed": base64.b64encode(sealed.packed).decode(),
            "backwards": self.backwards,
        }

    @classmethod
    def from_plain(cls, plain: JsonRecord) -> CellsRecord:
        try:
            packed = base64.b64decode(plain["packed"], validate=True)
        except binascii.Error:
            raise BadPlain(("packed",), "is not base64 text") from None
        planes = from_plain(tuple[str, ...], plain["planes"], ("planes",))
        for plane in planes:
            if plane not in _DTYPES:
                raise BadPlain(("planes",), f"{plane!r} is not stored in any layer")
        if len(set(planes)) < len(planes):
            raise BadPlain(("planes",), "names one twice")
        shape = from_plain(tuple[int, ...], plain["shape"], ("shape",))
        if not 1 <= len(shape) <= 3 or min(shape) < 1 or math.prod(shape) > MOST_CELLS:
            raise BadPlain(("shape",), f"{shape} is not the shape of a layer")
        count = from_plain(int, plain["count"], ("count",))
        if not 1 <= count <= math.prod(shape):
            raise BadPlain(("count",), f"{count} is no number of cells in {shape}")
        return cls(
            from_plain(str, plain["room"], ("room",)),
            from_plain(str, plain["layer"], ("layer",)),
            shape,
            from_plain(Box, plain["touched"], ("touched",)),
            count,
            planes,
            packed,
            from_plain(bool, plain.get("backwards", False), ("backwards",)),
        )


@dataclass(frozen=True, eq=False)
class _Loose:
    """cells : (n,) rising.  before, after : by plane, (n,) values in the type of the plane."""

    cells: NDArray[np.intp]
    before: dict[str, np.ndarray]
    after: dict[str, np.ndarray]

    def over(self, first: _Loose, cells: NDArray[np.intp], plane: str, *, old: bool) -> np.ndarray:
        """(n,) values in `cells` before both, or after both, where this one comes second."""
        out = np.zeros(len(cells), _DTYPES[plane])
        for part in (self, first) if old else (first, self):
            values = part.before if old else part.after
            out[np.searchsorted(cells, part.cells)] = values[plane]
        return out


def _unpacked(record: CellsRecord) -> _Loose:
    count = record.count
    length = count * (4 + 2 * sum(_DTYPES[plane].itemsize for plane in record.planes))
    try:
        data = zlib.decompressobj().decompress(record.packed, length + 1)
    except zlib.error:
        data = b""
    if len(data) != length:
        raise DoesNotFit(f"the cells of a stroke in {record.room} are damaged")
    cells = np.cumsum(np.frombuffer(data, np.uint32, count), dtype=np.intp)
    before, after, at = {}, {}, 4 * count
    for plane in record.planes:
        dtype = _DTYPES[plane]
        size = dtype.itemsize * count
        before[plane] = np.frombuffer(data, dtype, count, at)
        after[plane] = np.frombuffer(data, dtype, count, at + size)
        at += 2 * size
    return _Loose(cells, before, after)


def cells_changed(
    room: str,
    layer: str,
    shape: tuple[int, ...],
    cells: NDArray[np.intp],
    before: Mapping[str, np.ndarray],
    after: Mapping[str, np.ndarray],
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
    loose = _Loose(
        cells[keep],
        {plane: before[plane][keep].astype(_DTYPES[plane], copy=False) for plane in planes},
        {plane: after[plane][keep].astype(_DTYPES[plane], copy=False) for plane in planes},
    )
    box = _box_of(loose.cells, shape)
    return (CellsRecord(room, layer, shape, box, len(keep), tuple(planes), loose=loose),)


def _box_of(flat: NDArray[np.intp], shape: tuple[int, ...]) -> Box:
    lo, hi, rest = [], [], flat
    for pitch in np.cumprod(shape[:0:-1])[::-1].tolist():
        axis, rest = np.divmod(rest, pitch)
        lo.append(int(axis.min()))
        hi.append(int(axis.max()) + 1)
    return Box((*lo, int(rest.min())), (*hi, int(rest.max()) + 1))
