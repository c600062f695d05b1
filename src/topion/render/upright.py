"""A picture as a voxel model: upright, as thick as an eighth of a cell."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Rgba
from topion.model.solid import LONGEST_MODEL, MOST_COLOURS, VoxelModel

_CLAY = ("#a5533b", "#e8d9b0", "#3b4a57")
_THICK = 8  # a part of a cell
_MOST_PER_CELL = 64


def upright_model(rgba: Rgba, cell_px: int) -> VoxelModel:
    """A voxel for each px of a picture, or for every few of a large one, in the middle of a cell;
    half a cell of clay where nothing of it is seen.

    rgba : (h, w, 4).  cell_px : px to a cell.
    """
    step = max(1, -(-max(rgba.shape[:2]) // LONGEST_MODEL), -(-cell_px // _MOST_PER_CELL))
    seen = rgba[::step, ::step]
    filled = seen[..., 3] >= 128
    if not filled.any():
        cells = np.zeros((16, 16, 16), np.uint8)
        cells[:8, 4:12, 4:12] = 1
        return VoxelModel(cells, _CLAY)
    numbers, palette = _coloured(seen[..., :3][filled])
    face = np.zeros(seen.shape[:2], np.uint8)
    face[filled] = numbers
    per_cell = max(1, cell_px // step)
    thick = max(1, per_cell // _THICK)
    before = (per_cell - thick) // 2
    high, wide = seen.shape[:2]
    cells = np.zeros((high, per_cell, wide), np.uint8)
    cells[:, before : before + thick] = np.flipud(face)[:, None]
    return VoxelModel(cells, palette, per_cell)


def _coloured(rgb: NDArray[np.uint8]) -> tuple[NDArray[np.uint8], tuple[str, ...]]:
    """(n,) a number from 1 for each of (n, 3) colours, near ones alike if they are too many."""
    for shift in range(8):
        known, numbers = np.unique(rgb >> shift, axis=0, return_inverse=True)
        if len(known) <= MOST_COLOURS:
            break
    middle = (1 << shift) // 2
    words = (tuple((v << shift) + middle for v in row) for row in known.tolist())
    palette = tuple(f"#{bytes(word).hex()}" for word in words)
    return (numbers.reshape(-1) + 1).astype(np.uint8), palette
