"""The picture of a prefab, drawn from its voxels in one of the fixed views."""

from __future__ import annotations

from typing import Literal

import numpy as np

from topion.grid.arrays import Rgba
from topion.model.solid import VoxelModel
from topion.render.portraits import model_portrait

ModelView = Literal["south", "east", "top", "corner"]
_SHADES = {"south": 1.0, "east": 0.92, "top": 1.06}


def model_picture(model: VoxelModel, view: ModelView) -> tuple[Rgba, tuple[int, int]]:
    """(h, w, 4) a pixel a voxel, and the (y, x) px of its foot; from a corner as large as its
    longest side.  One clear pixel for an empty model."""
    if not model.extent.size:
        return np.zeros((1, 1, 4), np.uint8), (1, 0)
    if view == "corner":
        rgba = model_portrait(model, 2 * max(model.extent.shape))
    else:
        rgba = _seen_straight(model, view)
    rows, columns = (np.flatnonzero(rgba[..., 3].any(axis=axis)) for axis in (1, 0))
    cut = rgba[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
    foot = (cut.shape[0], cut.shape[1] // 2)
    if view == "top":
        foot = (cut.shape[0] // 2 + model.per_cell // 2, cut.shape[1] // 2)
    return np.ascontiguousarray(cut), foot


def _seen_straight(model: VoxelModel, view: ModelView) -> Rgba:
    """The nearest voxel along each line of sight."""
    cells = {"south": model.cells.transpose(1, 0, 2)[::-1, ::-1],
             "east": model.cells.transpose(2, 0, 1)[::-1, ::-1, ::-1],
             "top": model.cells[::-1]}[view]  # fmt: skip
    first = np.take_along_axis(cells, (cells > 0).argmax(axis=0)[None], axis=0)[0]
    rgba = np.zeros((*first.shape, 4), np.uint8)
    rgba[..., :3] = np.minimum(255, model.rgb[first] * _SHADES[view]).astype(np.uint8)
    rgba[..., 3] = np.where(first > 0, 255, 0)
    return rgba
