"""Meshes as a graphics card wants them: four vertices a rectangle, sorted by side."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.grid.meshing import SPANS, Quads
from topion.grid.orient import NORMALS
from topion.model.solid import VoxelModel
from topion.render.faces import FaceBook, model_quads, picture_axes
from topion.render.lighting import PLAIN_LIT

VERTEX = np.dtype(
    [("at", "<u2", 3), ("layer", "<u2"), ("rgb", "u1", 3), ("open", "u1"),
     ("face", "u1"), ("quarter", "u1"), ("spare", "<u2")]
)  # fmt: skip
_OPEN = np.rint(PLAIN_LIT.openness * 255).astype(np.uint8)
_BEYOND = (NORMALS.sum(axis=1) > 0).astype(np.uint16)
_PLANE_AXIS = np.array([0, 0, 1, 2, 1, 2])
_SPANS = np.array(SPANS)


@dataclass(frozen=True, eq=False)
class Vertices:
    """data : (n · 4,) VERTEX, positions as (x, y, z).  ends : (7,) where the rectangles of each
    side start and end, in the order of `grid.orient.FACES`."""

    data: NDArray[np.void]
    ends: NDArray[np.intp]

    @property
    def quads(self) -> int:
        return int(self.ends[-1])


def vertices(
    quads: Quads,
    rgb: NDArray[np.uint8],
    layers: NDArray[np.uint16] | None = None,
    quarters: NDArray[np.uint8] | None = None,
) -> Vertices:
    """Rectangles as vertices; rgb, layers, quarters : by look."""
    count = len(quads)
    faces = quads.faces.astype(np.intp)  # a mesh comes sorted by side
    rows = np.arange(count)
    low = quads.cells.astype(np.uint16)
    low[rows, _PLANE_AXIS[faces]] += _BEYOND[faces]
    corners = np.repeat(low[:, None], 4, axis=1)  # (n, 4, 3): low v low u, low high, …
    v_axis, u_axis = _SPANS[faces].T
    sizes = quads.sizes.astype(np.uint16)
    for corner in (1, 3):
        corners[rows, corner, u_axis] += sizes[:, 1]
    for corner in (2, 3):
        corners[rows, corner, v_axis] += sizes[:, 0]
    opened = quads.opened_corners()
    data = np.zeros((count, 4), VERTEX)
    data["at"] = corners[:, :, ::-1]
    data["open"] = _OPEN[opened]
    data["rgb"] = rgb[quads.looks][:, None]
    if layers is not None and quarters is not None:
        data["layer"] = layers[quads.looks][:, None]
        data["quarter"] = quarters[quads.looks][:, None]
    data["face"] = quads.faces[:, None]
    # split along the diagonal whose ends are more alike, or shadows in corners look torn
    wide = opened.astype(np.int16)
    flip = wide[:, 0] + wide[:, 3] > wide[:, 1] + wide[:, 2]
    data[flip] = data[flip][:, [1, 3, 0, 2]]
    ends = np.concatenate([[0], np.cumsum(np.bincount(faces, minlength=6))])
    return Vertices(data.reshape(-1), ends)


def book_vertices(quads: Quads, book: FaceBook) -> Vertices:
    return vertices(quads, book.rgb, book.layers, book.quarters)


def model_vertices(model: VoxelModel) -> Vertices:
    """The mesh of a model, in voxels."""
    return vertices(model_quads(model), model.rgb)


def quad_indices(count: int) -> NDArray[np.uint32]:
    """(count · 6,) two triangles for every four vertices."""
    first = np.arange(count, dtype=np.uint32)[:, None] * np.uint32(4)
    return (first + np.array([0, 1, 2, 2, 1, 3], np.uint32)).reshape(-1)


def picture_frames() -> NDArray[np.float32]:
    """(24, 2, 3) for side · 4 + quarter: the steps, along (x, y, z), right and down in a
    picture."""
    faces = np.repeat(np.arange(6), 4)
    right, up = picture_axes(faces, np.tile(np.arange(4, dtype=np.uint8), 6))
    frames = np.stack([right, -up], axis=1)[:, :, ::-1]
    return np.ascontiguousarray(frames, np.float32)
