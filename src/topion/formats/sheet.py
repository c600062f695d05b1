"""Tile sheets: bringing a sheet in, noticing empty and equal slots."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadFile, TopionError
from topion.formats.sheet_cuts import drawn_on, proposals
from topion.formats.sheet_islands import islands_cut
from topion.grid.arrays import Rgba
from topion.grid.hashing import mixed
from topion.model.picture import Picture
from topion.model.tileset import Cut, TileSet, cut_pixels
from topion.pictures.png import read_png_file


@dataclass(frozen=True, eq=False)
class SlotCount:
    """What a cut yields.  first_like : (rows, columns) flat index of the first equal slot."""

    slots: int
    empty: int
    equal: int
    first_like: NDArray[np.intp]


def bring_in(path: Path, name: str, cut: Cut | None = None) -> TileSet:
    """A tile set from a PNG file; without a cut the proposed one.  Raises BadFile."""
    sheet = read_png_file(path)
    return tileset_from(sheet, name, cut, path.name)


def propose_cut(rgba: Rgba) -> Cut | None:
    """The likeliest cut of a sheet, or None if nothing repeats."""
    found = proposals(rgba, 1)
    return found[0].cut if found else None


def drawings_cut(rgba: Rgba, file: str) -> Cut:
    """A slot round each drawing that lies by itself.  Raises BadFile if there are none."""
    cut = islands_cut(drawn_on(rgba))
    if cut is None:
        raise BadFile(file, "shows no drawings that lie apart from each other")
    return cut


def tileset_from(sheet: Picture, name: str, cut: Cut | None, file: str) -> TileSet:
    chosen = cut or propose_cut(sheet.rgba)
    if chosen is None:
        raise BadFile(file, "shows no tiles that repeat; say how large they are")
    try:
        return TileSet(name, sheet, chosen)
    except TopionError:
        height, width = sheet.size_px
        reason = f"is {width} × {height} px, too small for one tile of {_said(chosen)}"
        raise BadFile(file, reason) from None


def _said(cut: Cut) -> str:
    return f"{cut.tile[1]} × {cut.tile[0]} px with margin {cut.margin}"


def count_slots(rgba: Rgba, cut: Cut) -> SlotCount:
    """Empty and equal slots; equal ones are compared pixel by pixel after a hash."""
    pixels = cut_pixels(rgba, cut)
    rows, columns = pixels.shape[:2]
    filled = pixels[..., 3].any(axis=(2, 3)).reshape(-1)
    flat = np.ascontiguousarray(pixels).reshape(rows * columns, -1)
    keys = _keys(flat)
    _, first, inverse = np.unique(keys, return_index=True, return_inverse=True)
    like = first[inverse]
    for index in np.flatnonzero(like != np.arange(len(like))):
        if not np.array_equal(flat[index], flat[like[index]]):
            like[index] = index  # two slots that only share a hash
    equal = int((filled & (like != np.arange(len(like)))).sum())
    return SlotCount(int(filled.sum()), int((~filled).sum()), equal, like.reshape(rows, columns))


def _keys(flat: NDArray[np.uint8]) -> NDArray[np.uint64]:
    """(n,) a 64-bit key of each row of bytes."""
    words = flat.view(np.uint32).astype(np.uint64)
    factors = mixed(np.arange(words.shape[1])) | np.uint64(1)
    with np.errstate(over="ignore"):
        return np.asarray((words * factors).sum(axis=1, dtype=np.uint64))
