"""Volumes from files: NumPy arrays, stacks of PNG slices, and grey pictures as heights.

All come as (d, h, w) places in a list of colours, from 1, and 0 where nothing is.
"""

from __future__ import annotations

import re
import struct
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadFile
from topion.formats.meshes.read import Step
from topion.model.plane import LONGEST_SCRAP, MOST_SCRAP_CELLS
from topion.pictures.png import png_size, read_bytes, read_grey, read_png

MOST_KINDS = 64  # of cells that are told apart
_MAGIC = b"\x93NUMPY"
_LONGEST_HEADER = 4096  # bytes
_DTYPE = re.compile(r"[|<>=]?([bui])([1248])")
_HEADER = re.compile(r"\{'descr': '([^']{1,20})', 'fortran_order': (True|False), "
                     r"'shape': \(((?:\d{1,9},? ?)*)\),? ?\}")  # fmt: skip
_GREYS = ("#3f4a52", "#94744e", "#7f8a4a", "#b08a5c", "#9a978b", "#5f7f86", "#c0b59a", "#8a5a44")


@dataclass(frozen=True, eq=False)
class Volume:
    """cells : (d, h, w) uint8, places in `colours` from 1.  colours : `#rrggbb`."""

    cells: NDArray[np.uint8]
    colours: tuple[str, ...]


def volume_of_npy(path: Path) -> Volume:
    """A NumPy array of whole numbers or of yes and no, (d, h, w) from the lowest level up; each
    number but 0 is a kind of cell.  Pickles are not read.  Raises BadFile."""
    data = read_bytes(path)
    shape, dtype, turned, start = _npy_header(data, path.name)
    _check_size(path.name, shape)
    count = int(np.prod(shape))
    if len(data) - start != count * dtype.itemsize:
        wanted = count * dtype.itemsize
        raise BadFile(path.name, f"holds {len(data) - start} bytes of numbers, not {wanted}")
    flat = np.frombuffer(data, dtype, count, start)
    cells = flat.reshape(shape, order="F" if turned else "C")
    cells = cells.reshape((1,) * (3 - cells.ndim) + cells.shape)
    return _of_numbers(path.name, cells)


def _npy_header(data: bytes, name: str) -> tuple[tuple[int, ...], np.dtype[Any], bool, int]:
    """(shape, dtype, column order, where the numbers start), every part checked by itself."""
    if not data.startswith(_MAGIC) or len(data) < 12:
        raise BadFile(name, "is not a NumPy array")
    long = data[6] >= 2
    length, start = struct.unpack("<I" if long else "<H", data[8 : 12 if long else 10])[0], 0
    start = (12 if long else 10) + length
    if length > _LONGEST_HEADER or start > len(data):
        raise BadFile(name, "is no sound NumPy array: its header is too long")
    found = _HEADER.fullmatch(data[start - length : start].decode("latin-1").strip())
    if found is None:
        raise BadFile(name, "is no sound NumPy array: its header cannot be read")
    kind, turned = found[1], found[2] == "True"
    shape = tuple(int(part) for part in found[3].replace(",", " ").split())
    if not _DTYPE.fullmatch(kind) or kind[-2:] in ("b2", "b4", "b8"):
        raise BadFile(name, f"holds {kind:.40}, where whole numbers or yes and no are wanted")
    if len(shape) not in (2, 3) or min(shape) < 1:
        raise BadFile(name, f"has the shape {shape!r:.40}, where two or three sides are wanted")
    return shape, np.dtype(kind), turned, start


def _check_size(name: str, shape: Sequence[int]) -> None:
    if max(shape) > LONGEST_SCRAP or int(np.prod([int(n) for n in shape])) > MOST_SCRAP_CELLS:
        sides = " × ".join(map(str, shape))
        raise BadFile(name, f"has {sides} cells, more than {LONGEST_SCRAP} a side or "
                            f"{MOST_SCRAP_CELLS >> 20} million in all")  # fmt: skip


def _of_numbers(name: str, cells: NDArray[Any]) -> Volume:
    kinds = np.unique(cells)
    kinds = kinds[kinds != 0]
    if not len(kinds):
        raise BadFile(name, "is empty: all its cells are 0")
    if len(kinds) > MOST_KINDS:
        raise BadFile(name, f"holds {len(kinds)} kinds of cells, more than {MOST_KINDS}")
    places = np.searchsorted(kinds, cells) + 1
    known = np.where(cells != 0, places, 0).astype(np.uint8)
    return Volume(known, tuple(_GREYS[n % len(_GREYS)] for n in range(len(kinds))))


def volume_of_slices(paths: Sequence[Path], step: Step = lambda _: None) -> Volume:
    """PNG pictures of one size, from the lowest level up; each colour that is not clear is a kind
    of cell.  Raises BadFile."""
    if not paths:
        raise BadFile("the slices", "hold no PNG picture")
    height, width = png_size(read_bytes(paths[0]), paths[0].name)
    _check_size(paths[0].name, (len(paths), height, width))
    packed = np.zeros((len(paths), height, width), np.uint32)
    for level, path in enumerate(paths):
        step(path.name)
        rgba = read_png(read_bytes(path), path.name).rgba
        if rgba.shape[:2] != (height, width):
            size = f"{rgba.shape[1]} × {rgba.shape[0]}"
            raise BadFile(path.name, f"has {size} px, but the first slice {width} × {height}")
        rgb = rgba[..., 0].astype(np.uint32) << 16 | rgba[..., 1].astype(np.uint32) << 8
        packed[level] = np.where(rgba[..., 3] >= 128, (rgb | rgba[..., 2]) + 1, 0)
    kinds = np.unique(packed)
    kinds = kinds[kinds > 0]
    if not len(kinds):
        raise BadFile(paths[0].name, "and all other slices are clear")
    if len(kinds) > MOST_KINDS:
        raise BadFile(paths[0].name, f"and the others hold {len(kinds)} colours, more than "
                                     f"{MOST_KINDS}")  # fmt: skip
    cells = np.where(packed > 0, np.searchsorted(kinds, packed) + 1, 0).astype(np.uint8)
    return Volume(cells, tuple(f"#{int(k) - 1:06x}" for k in kinds))


def volume_of_heights(path: Path, levels: int) -> Volume:
    """A grey picture of 8 or 16 bits as the heights of columns: black is none, white `levels`.

    Raises BadFile."""
    data = read_bytes(path)
    _check_size(path.name, (levels, *png_size(data, path.name)))
    heights = np.rint(read_grey(data, path.name) * levels).astype(np.intp)
    cells = (np.arange(levels)[:, None, None] < heights[None]).astype(np.uint8)
    if not cells.any():
        raise BadFile(path.name, "is black: it has no heights")
    return Volume(cells, (_GREYS[1],))


def slices_in(folder: Path) -> list[Path]:
    """The PNG pictures of a folder, in the order of the numbers in their names."""

    def order(path: Path) -> tuple[object, ...]:
        return tuple(int(part) if part.isdigit() else 0 for part in re.split(r"(\d+)", path.stem)
                     if part), path.name  # fmt: skip

    return sorted((path for path in folder.iterdir() if path.suffix.lower() == ".png"), key=order)
