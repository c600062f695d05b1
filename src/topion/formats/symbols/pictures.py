"""Pictures as grids of symbols: each cell has the colour that most of its pixels have."""

from __future__ import annotations

from math import gcd

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadFile
from topion.formats.symbols.grid import check_size
from topion.grid.arrays import Rgba
from topion.grid.symbols import SymbolGrid
from topion.model.legend import CLEAR, MOST_SYMBOLS, USUAL, Reading
from topion.pictures.png import read_png

_CLEAR = np.uint32(1 << 24)  # above all colours
_SEEN = 128  # alpha from which a pixel counts
_BINS = 5  # bits of a channel, in which very many colours are joined first
_FEWEST_PX = 2  # that can be the side of a cell which is found by itself


def read_picture_grid(data: bytes, file: str, reading: Reading = USUAL) -> SymbolGrid:
    """A PNG picture as one room.  Raises BadFile for what is none, and for more colours than can
    be told apart."""
    packed = _packed(read_png(data, file).rgba)
    side = reading.cell_px or cell_side(packed)
    cells = _sampled(packed, side)
    check_size(file, (cells.shape[0], cells.shape[1]))
    colours, places, counts = np.unique(cells, return_inverse=True, return_counts=True)
    if reading.near and len(colours) > 1:
        colours, places = _joined(colours, places.reshape(-1), counts, reading.near)
    if len(colours) > MOST_SYMBOLS:
        raise BadFile(file, f"holds {len(colours):,} colours, more than {MOST_SYMBOLS}; near ones "
                            "can be joined")  # fmt: skip
    symbols = tuple(CLEAR if c == _CLEAR else f"#{c:06x}" for c in colours.tolist())
    shown = places.reshape(cells.shape).astype(np.uint16)
    return SymbolGrid(file, "", shown, symbols)


def _packed(rgba: Rgba) -> NDArray[np.uint32]:
    """(h, w) colours as 0xRRGGBB, and _CLEAR where nothing is seen."""
    wide = rgba.astype(np.uint32)
    packed = (wide[..., 0] << 16 | wide[..., 1] << 8 | wide[..., 2]).astype(np.uint32)
    packed[rgba[..., 3] < _SEEN] = _CLEAR
    return packed


def cell_side(packed: NDArray[np.uint32]) -> int:
    """The largest side in px of squares of one colour that a picture is made of; 1 where there are
    none."""
    found = gcd(*packed.shape)
    for axis in (0, 1):
        if found < _FEWEST_PX:
            return 1
        differ = np.diff(packed, axis=axis) != 0
        places = np.flatnonzero(differ.any(axis=1 - axis)) + 1
        found = gcd(found, *places.tolist())
    whole = found == min(packed.shape)  # all of one colour tells nothing
    return 1 if found < _FEWEST_PX or whole else found


def _sampled(packed: NDArray[np.uint32], side: int) -> NDArray[np.uint32]:
    """One colour for each square of px: that of over half of it, where one has so much."""
    if side == 1:
        return packed
    height, width = (length // side for length in packed.shape)
    squares = packed[: height * side, : width * side].reshape(height, side, width, side)
    flat = squares.transpose(0, 2, 1, 3).reshape(height, width, side * side)
    middle = side * side // 2
    found: NDArray[np.uint32] = np.partition(flat, middle, axis=2)[..., middle]
    return found


def _joined(
    colours: NDArray[np.uint32], places: NDArray[np.intp], counts: NDArray[np.intp], near: int
) -> tuple[NDArray[np.uint32], NDArray[np.intp]]:
    """Each colour goes to the most frequent one that is near it; clear stays clear."""
    if len(colours) > MOST_SYMBOLS:
        colours, places, counts = _binned(colours, places, counts)
    order = np.argsort(-counts, kind="stable")
    rgb = np.stack([colours >> shift & 255 for shift in (16, 8, 0)], axis=1).astype(np.int32)
    clear = colours == _CLEAR
    leader = np.full(len(colours), -1, np.intp)
    for place in order.tolist():
        if leader[place] >= 0:
            continue
        far = ((rgb - rgb[place]) ** 2).sum(axis=1)
        mine = (leader < 0) & (far <= near * near) & ~clear if not clear[place] else clear
        leader[mine] = place
    kept, places_of = np.unique(leader, return_inverse=True)
    return colours[kept], places_of[places]


def _binned(
    colours: NDArray[np.uint32], places: NDArray[np.intp], counts: NDArray[np.intp]
) -> tuple[NDArray[np.uint32], NDArray[np.intp], NDArray[np.intp]]:
    """Colours that share the upper bits of each channel as one: that of the most frequent."""
    drop = 8 - _BINS
    mask = sum((255 >> drop << drop) << shift for shift in (16, 8, 0))
    bins = np.where(colours == _CLEAR, _CLEAR, colours & np.uint32(mask))
    order = np.argsort(counts, kind="stable")
    _, bin_of = np.unique(bins, return_inverse=True)
    best = np.zeros(int(bin_of.max()) + 1, np.intp)
    best[bin_of[order]] = order  # the last, most frequent one stays
    total = np.bincount(bin_of, weights=counts).astype(np.intp)
    return colours[best], bin_of[places], total
