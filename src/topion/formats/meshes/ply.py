"""PLY: corners and polygons, as text or bytes of either order.

Source: Turk, "The PLY Polygon File Format", 1994.
"""

from __future__ import annotations

import warnings
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadFile
from topion.formats.meshes.mesh import STONE, Polygons, mean_of_corners

_TYPES = {
    "char": "i1", "int8": "i1", "uchar": "u1", "uint8": "u1", "short": "i2", "int16": "i2",
    "ushort": "u2", "uint16": "u2", "int": "i4", "int32": "i4", "uint": "u4", "uint32": "u4",
    "float": "f4", "float32": "f4", "double": "f8", "float64": "f8",
}  # fmt: skip
_TEXT = ""
_ORDERS = {"ascii": _TEXT, "binary_little_endian": "<", "binary_big_endian": ">"}
_LISTS_OF_CORNERS = ("vertex_indices", "vertex_index")
_COLOURS = (("red", "green", "blue"), ("diffuse_red", "diffuse_green", "diffuse_blue"),
            ("r", "g", "b"))  # fmt: skip
_TOLD_EVERY = 1 << 16  # rows
Step = Callable[[str], object]
Columns = dict[str, NDArray[np.float64]]


@dataclass
class _Element:
    """A kind of row.  lists : the type of the count of a property that is a list, by name.
    real : the properties that are declared as floats."""

    name: str
    count: int
    types: dict[str, str] = field(default_factory=dict)
    lists: dict[str, str] = field(default_factory=dict)
    real: set[str] = field(default_factory=set)


@dataclass
class _Rows:
    """columns : (n,) of each plain property; those of colours from 0 to 255.
    corners, sizes : the lists of corners, end to end."""

    columns: Columns
    corners: NDArray[np.float64]
    sizes: NDArray[np.intp]


def read_ply(path: Path, data: bytes, step: Step) -> Polygons:
    """Raises BadFile for a head or rows that are not sound."""
    order, elements, start = _head(path.name, data)
    body = data[start:]
    if order == _TEXT:
        reader = _Reader(path.name, _as_bytes(path.name, body, elements), "=")
    else:
        reader = _Reader(path.name, body, order)
    found: dict[str, _Rows] = {}
    for element in elements:
        found[element.name] = reader.rows(element, step)
        if "vertex" in found and "face" in found:
            break
    if "vertex" not in found or "face" not in found:
        raise BadFile(path.name, "holds no triangles")
    return _polygons(path.name, found["vertex"], found["face"])


def _polygons(file: str, vertex: _Rows, face: _Rows) -> Polygons:
    missing = [axis for axis in "xyz" if axis not in vertex.columns]
    if missing:
        raise BadFile(file, f"holds corners without {' and '.join(missing)}")
    points = np.stack([vertex.columns[axis] for axis in "xyz"], axis=1)
    named = face.corners
    bad = named[~((named >= 0) & (named < len(points)) & (named == np.floor(named)))]
    if len(bad):
        raise BadFile(file, f"names corner {bad[0]:g}, but has {len(points)} of them, from 0")
    corners = named.astype(np.intp)
    keep = face.sizes > 0
    rgb = _rgb(face.columns)
    if rgb is None:
        own = _rgb(vertex.columns)
        rgb = np.tile(np.array(STONE, np.float64), (len(face.sizes), 1))
        if own is not None:
            rgb[keep] = mean_of_corners(own, corners, face.sizes[keep])
    return Polygons(points, corners, face.sizes[keep], np.rint(rgb[keep]).astype(np.uint8))


def _rgb(columns: Columns) -> NDArray[np.float64] | None:
    """(n, 3), 0 to 255, where rows have colours."""
    for names in _COLOURS:
        if all(name in columns for name in names):
            rgb = np.stack([columns[name] for name in names], axis=1)
            return np.asarray(np.nan_to_num(rgb).clip(0, 255))
    return None


def _head(file: str, data: bytes) -> tuple[str, list[_Element], int]:
    """The order of bytes, or _TEXT, the elements in turn, and where their rows begin."""
    end = data.find(b"end_header")
    if not data.startswith(b"ply") or end < 0:
        raise BadFile(file, "is not a sound PLY file: its head is broken")
    lines = data[:end].decode("latin-1").splitlines()
    order: str | None = None
    elements: list[_Element] = []
    for number, line in enumerate(lines, 1):
        words = line.split()
        try:
            if words[:1] == ["format"]:
                order = _ORDERS[words[1]]
            elif words[:1] == ["element"]:
                elements.append(_Element(words[1], int(words[2])))
            elif words[:2] == ["property", "list"]:
                elements[-1].lists[words[4]] = _TYPES[words[2]]
                elements[-1].types[words[4]] = _TYPES[words[3]]
            elif words[:1] == ["property"]:
                elements[-1].types[words[2]] = _TYPES[words[1]]
                if words[1] in ("float", "float32", "double", "float64"):
                    elements[-1].real.add(words[2])
        except (KeyError, IndexError, ValueError):
            reason = f"has a head that makes no sense: {line[:40]}"
            raise BadFile(file, reason, f"line {number}") from None
    if order is None:
        raise BadFile(file, "does not say in which format its numbers are")
    for element in elements:
        if not 0 <= element.count <= len(data):
            reason = f"declares {element.count:,} parts, but is too short for them"
            raise BadFile(file, reason)
    newline = data.find(b"\n", end)
    return order, elements, (newline + 1) if newline >= 0 else len(data)


# --- rows ---------------------------------------------------------------------------------


def _as_bytes(file: str, body: bytes, elements: list[_Element]) -> memoryview:
    """Numbers written as text as rows of doubles; the elements are changed to say so."""
    with warnings.catch_warnings():
        warnings.simplefilter("error", DeprecationWarning)  # it stops at what is no number
        try:
            numbers = np.fromstring(body.decode("latin-1"), sep=" ")
        except (DeprecationWarning, ValueError):
            raise BadFile(file, "holds words where numbers should be") from None
    for element in elements:
        element.types = dict.fromkeys(element.types, "f8")
        element.lists = dict.fromkeys(element.lists, "f8")
    return numbers.data.cast("B")


class _Reader:
    """Reads the rows of one element after the other."""

    def __init__(self, file: str, body: bytes | memoryview, order: str) -> None:
        self._file, self._body, self._order = file, body, order
        self._at = 0

    def rows(self, element: _Element, step: Step) -> _Rows:
        block = self._even_block(element)
        if block is None:
            rows = self._walked(element, step)
        else:
            self._at += block.nbytes
            rows = self._taken(element, block)
        for name in element.real & {name for names in _COLOURS for name in names}:
            rows.columns[name] = rows.columns[name] * 255.0
        return rows

    def _taken(self, element: _Element, block: NDArray[np.void]) -> _Rows:
        plain = [name for name in element.types if name not in element.lists]
        columns = {name: block[name].astype(np.float64) for name in plain}
        lists = next((block[name] for name in _LISTS_OF_CORNERS if name in element.lists), None)
        if lists is None:
            return _Rows(columns, np.empty(0), np.empty(0, np.intp))
        sizes = np.full(element.count, lists.shape[1], np.intp)
        return _Rows(columns, lists.reshape(-1).astype(np.float64), sizes)

    def _values(self, count: int, kind: str) -> NDArray[np.float64]:
        dtype = np.dtype(self._order + kind)
        if count < 0 or self._at + count * dtype.itemsize > len(self._body):
            raise EOFError
        values = np.frombuffer(self._body, dtype, count, self._at)
        self._at += values.nbytes
        return values

    def _walked(self, element: _Element, step: Step) -> _Rows:
        """Rows one by one, where lists differ in length."""
        plain: dict[str, list[float]] = {
            name: [] for name in element.types if name not in element.lists
        }
        parts: list[NDArray[np.float64]] = []
        try:
            for row in range(element.count):
                if row % _TOLD_EVERY == 0:
                    step("reading")
                mine: NDArray[np.float64] = np.empty(0)
                for name, kind in element.types.items():
                    if name in element.lists:
                        size = int(self._values(1, element.lists[name])[0])
                        values = self._values(size, kind)
                        mine = values if name in _LISTS_OF_CORNERS else mine
                    else:
                        plain[name].append(float(self._values(1, kind)[0]))
                parts.append(mine)
        except (EOFError, ValueError, OverflowError):
            reason = f"ends before all its {element.count:,} {element.name} rows"
            raise BadFile(self._file, reason) from None
        sizes = np.array([len(part) for part in parts], np.intp)
        corners = np.concatenate([np.empty(0), *parts]).astype(np.float64)
        return _Rows({name: np.array(values) for name, values in plain.items()}, corners, sizes)

    def _even_block(self, element: _Element) -> NDArray[np.void] | None:
        """All rows at once, where each list is as long in every row as in the first; else None."""
        body, at, order = self._body, self._at, self._order
        fields: list[tuple[str, str] | tuple[str, str, tuple[int]]] = []
        place = at
        for name, kind in element.types.items():
            if name in element.lists:
                count = np.dtype(order + element.lists[name])
                if not element.count or place + count.itemsize > len(body):
                    return None
                first = np.frombuffer(body, count, 1, place)[0]
                if not 0 <= first <= len(body):
                    return None
                size = int(first)
                fields += [(f"count of {name}", count.str), (name, order + kind, (size,))]
                place += count.itemsize + size * np.dtype(kind).itemsize
            else:
                fields.append((name, order + kind))
                place += np.dtype(kind).itemsize
        dtype = np.dtype(fields)
        if not dtype.itemsize or at + element.count * dtype.itemsize > len(body):
            return None
        block = np.frombuffer(body, dtype, element.count, at)
        for name in element.lists:
            if (block[f"count of {name}"] != block[name].shape[1]).any():
                return None
        return block
