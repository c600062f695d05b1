"""Tile sheets: proposing the cut, bringing a sheet in, noticing empty and equal slots."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadFile, TopionError
from topion.grid.arrays import Rgba
from topion.grid.hashing import mixed
from topion.model.picture import Picture
from topion.model.tileset import Cut, TileSet, cut_pixels
from topion.pictures.png import read_png_file

_SIDES = (8, 10, 12, 14, 16, 18, 20, 21, 24, 28, 30, 32, 36, 40, 48, 56, 60, 64, 80, 96, 128, 256)
_MOST_GUTTER = 8
_LOOKED_AT_PX = 256  # of each line, where tiles meet without a gutter
_COARSE = 16  # every so many px of each line, to rule gutters out at once


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


def tileset_from(sheet: Picture, name: str, cut: Cut | None, file: str) -> TileSet:
    chosen = cut or propose_cut(sheet.rgba)
    if chosen is None:
        raise BadFile(file, "shows no regular tiles; say how large they are")
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


# --- proposing a cut ----------------------------------------------------------------------


def propose_cut(rgba: Rgba) -> Cut | None:
    """The likeliest cut of a sheet, or None if nothing repeats.

    Sheets with gutters show them: lines of nothing but the background, at even distances.
    Without gutters, neighbouring lines differ most where tiles meet.
    """
    return _by_gutters(rgba) or _by_seams(rgba)


def _by_gutters(rgba: Rgba) -> Cut | None:
    background = rgba[0, 0] if rgba[0, 0, 3] else np.zeros(4, np.uint8)
    if not _may_have_gutters(rgba, background):
        return None
    clear = (rgba[..., 3] == 0) | (rgba == background).all(axis=2)
    blank = (clear.all(axis=1), clear.all(axis=0))
    if blank[0].all() or not (blank[0].any() or blank[1].any()):
        return None
    best: tuple[float, Cut] | None = None
    for spacing in range(1, _MOST_GUTTER + 1):
        for margin in range(_MOST_GUTTER + 1):
            sides = [_best_side(lines, margin, spacing) for lines in blank]
            if sides[0] and sides[1] and max(sides[0][2], sides[1][2]) >= 2:
                score = sides[0][0] + sides[1][0]
                if best is None or score > best[0] + 1e-9:
                    best = (score, Cut((sides[0][1], sides[1][1]), margin, spacing))
    return best[1] if best else None


def _may_have_gutters(rgba: Rgba, background: NDArray[np.uint8]) -> bool:
    """Whether any line looks blank when only some of its pixels are looked at."""
    for part, axis in ((rgba[:, ::_COARSE], 1), (rgba[::_COARSE], 0)):
        clear = (part[..., 3] == 0) | (part == background).all(axis=2)
        if clear.all(axis=axis).any():
            return True
    return False


def _best_side(
    blank: NDArray[np.bool_], margin: int, spacing: int
) -> tuple[float, int, int] | None:
    """(score, side, count) of the tiles that explain the blank lines of one axis."""
    best = None
    for side in _SIDES:
        count = (len(blank) - margin + spacing) // (side + spacing)
        if count < 1 or (count < 2 and len(blank) > side + 2 * _MOST_GUTTER):
            continue
        where = (np.arange(len(blank)) - margin) % (side + spacing)
        gutter = (where >= side) | (np.arange(len(blank)) < margin)
        gutter |= np.arange(len(blank)) >= margin + count * (side + spacing)
        if not blank[gutter].all():
            continue
        inside = ~gutter
        score = float((~blank[inside]).mean() - blank[inside].mean() * 0.5)
        score += float(gutter.sum()) / len(blank)
        if best is None or score > best[0] + 1e-9:
            best = (score, side, count)
    return best


def _by_seams(rgba: Rgba) -> Cut | None:
    sides = []
    for axis in (0, 1):
        lines = rgba if axis == 0 else rgba.transpose(1, 0, 2)
        step = max(1, lines.shape[1] // _LOOKED_AT_PX)
        wide = lines[:, ::step].astype(np.int16)
        change = np.abs(np.diff(wide, axis=0)).mean(axis=(1, 2))
        side = _seam_side(change, lines.shape[0])
        if side is None:
            return None
        sides.append(side)
    return Cut((sides[0], sides[1]))


def _seam_side(change: NDArray[np.float64], length: int) -> int | None:
    """The side at whose multiples the lines change most, among those that divide the length."""
    best: tuple[float, int] | None = None
    for side in _SIDES:
        if length % side or length < side:
            continue
        if length == side:
            best = best or (0.0, side)
            continue
        at = np.arange(side, length, side) - 1
        rest = np.delete(change, at)
        score = float(change[at].mean() / (rest.mean() + 1e-3)) if len(rest) else 0.0
        if best is None or score > best[0] * 1.02:  # a larger tile must be clearly better
            best = (score, side)
    return best[1] if best else None
