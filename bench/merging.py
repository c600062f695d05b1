"""Putting three versions of a large room together, beside reading them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from bench.ratio import Ratio, compared
from topion.formats.plane_files import PlaneHead, plane_bytes, read_plane
from topion.grid.hashing import unit
from topion.merging.planes import merged_plane

_SIDE = 1024
_FILE = "rooms/Bench/ground.material.rows"
_NAMES = {n: (f"Material {n}",) for n in range(1, 7)}


def _room(seed: int) -> np.ndarray:
    """Patches of six materials, as rooms have them."""
    coarse = (unit(seed, *np.indices((_SIDE // 8, _SIDE // 8))) * 6).astype(np.uint16) + 1
    return coarse.repeat(8, axis=0).repeat(8, axis=1)


def _painted(cells: np.ndarray, seed: int, rows: slice, dabs: int = 400) -> np.ndarray:
    """Strokes of dabs in some of the rows."""
    made = cells.copy()
    spots = unit(seed, np.arange(dabs)[:, None], np.arange(2)[None])
    top, tall = rows.start, rows.stop - rows.start
    for y, x in spots.tolist():
        at, left = top + int(y * (tall - 5)), int(x * (_SIDE - 5))
        made[at : at + 5, left : left + 5] = 1 + seed % 6
    return made


def _file(cells: np.ndarray) -> bytes:
    return plane_bytes(PlaneHead(cells.shape, (), _NAMES), cells)


def ratios() -> Iterator[Ratio]:
    base = _room(1)
    half = _SIDE // 2
    apart = _painted(base, 2, slice(0, half)), _painted(base, 3, slice(half, _SIDE))
    whole = slice(0, _SIDE)
    across = _painted(base, 4, whole, 80), _painted(base, 5, whole, 80)

    def read(files: list[bytes]) -> None:
        for data in files:
            read_plane(data, _FILE, (_SIDE, _SIDE))

    for words, pair in (("apart", apart), ("across", across)):
        files = [_file(cells) for cells in (base, *pair)]
        yield compared(
            f"merge two copies of a {_SIDE}² room painted {words} / read the three",
            lambda files=files: merged_plane(_FILE, *files),
            lambda files=files: read(files),
            0.5,
        )
