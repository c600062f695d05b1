"""Meshes as voxel models: filled where they are closed, a skin where they are not."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray
from PIL import Image

from topion.errors import BadFile, BadValue, Stopped
from topion.formats.meshes.mesh import Mesh
from topion.formats.meshes.read import Step, Up, read_mesh
from topion.grid.arrays import CellMask
from topion.grid.skin import FINE, thin_voxels
from topion.grid.voxelise import (
    Triangles,
    full_voxels,
    surface_samples,
    surface_voxels,
    voted_voxels,
)
from topion.model.solid import LONGEST_MODEL, VoxelModel

MOST_COLOURS = 48
Size = tuple[int, int, int]


def model_from_file(
    path: Path, size: int, per_cell: int = 16, up: Up | None = None, step: Step = lambda _: None
) -> VoxelModel:
    """The voxels of a mesh file; raises BadFile, BadValue, or what `step` raises."""
    mesh = read_mesh(path, up, step)
    try:
        return voxel_model(mesh, size, per_cell, step)
    except Stopped:
        raise
    except MemoryError:
        raise BadFile(path.name, "needs more memory than there is at this size") from None


def voxel_model(
    mesh: Mesh, size: int, per_cell: int = 16, step: Step = lambda _: None
) -> VoxelModel:
    """A mesh as voxels, `size` along its longest side.

    A closed mesh fills the voxels whose middles lie inside, and those that stand for what is too
    thin to hold one; an open one fills the voxels it crosses.
    step : called with a few words, often; what it raises stops the work.
    """
    if not 1 <= size <= LONGEST_MODEL:
        raise BadValue("the size", size, f"1 to {LONGEST_MODEL} voxels")
    triangles, box = _fitted(mesh.triangles, size)
    rgb, owner = _palette(mesh.rgb)
    out = np.zeros(box, np.uint8)
    if mesh.closed:
        fill = full_voxels if mesh.oriented else voted_voxels
        solid = fill(triangles, box, _told(step, "inside"))
        fine = _coat_in_place(out, solid, triangles, owner, _told(step, "surface"))
        step("thin parts")
        solid[tuple(thin_voxels(solid, fine).T)] = True
        out = np.where(solid, _spread(out), 0).astype(np.uint8)
    else:
        cells, which = surface_voxels(triangles, box, _told(step, "surface"))
        out[tuple(cells.T)] = owner[which] + 1
    palette = tuple("#{:02x}{:02x}{:02x}".format(*row) for row in rgb.tolist())
    return VoxelModel(out, palette, per_cell)


def _coat_in_place(
    coat: NDArray[np.uint8],
    solid: CellMask,
    triangles: Triangles,
    owner: NDArray[np.uint8],
    step: Callable[[float], object],
) -> NDArray[np.intp]:
    """Colour the voxels that a surface meets; and (n, 3) its cells, `FINE` times as fine, in
    voxels that are not solid."""
    size = tuple(side * FINE for side in coat.shape)
    keys = [np.empty(0, np.intp)]
    for points, which in surface_samples(triangles, 0.8 / FINE, step):
        fine = np.floor(points * FINE).astype(np.intp).clip(0, np.array(size) - 1)
        cells = tuple((fine // FINE).T)
        coat[cells] = owner[which] + 1
        bare = fine[~solid[cells]]
        keys.append(np.unique(np.ravel_multi_index(tuple(bare.T), size)))
    return np.stack(np.unravel_index(np.unique(np.concatenate(keys)), size), axis=1)


def _fitted(triangles: Triangles, size: int) -> tuple[Triangles, Size]:
    """Triangles scaled onto the middle of a box, `size` voxels along its longest side; the others
    are rounded, so that by half a voxel a mesh may be longer than its box."""
    lo, hi = triangles.min(axis=(0, 1)), triangles.max(axis=(0, 1))
    longest = float((hi - lo).max())
    if longest <= 0:
        raise BadValue("the extent of the mesh", longest, "more than nothing")
    extent = (hi - lo) * (size / longest)
    sides = [int(max(1, np.rint(side))) for side in extent]
    box = (sides[0], sides[1], sides[2])
    return (triangles - lo) * (size / longest) + (np.array(box) - extent) / 2, box


def _told(step: Step, words: str) -> Callable[[float], object]:
    return lambda share: step(f"{words} {share:.0%}")


def _spread(coat: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Colours of the surface spread to the voxels beside it, which may be the outermost that are
    filled; the rest, which nobody sees, in the commonest."""
    cross = scipy.ndimage.generate_binary_structure(3, 1)
    near = scipy.ndimage.maximum_filter(coat, footprint=cross, mode="constant")
    coat = np.where(coat > 0, coat, near)
    coat = np.where(coat > 0, coat, scipy.ndimage.maximum_filter(coat, size=3, mode="constant"))
    commonest = int(np.bincount(coat[coat > 0]).argmax())
    return np.where(coat > 0, coat, commonest).astype(np.uint8)


def _palette(rgb: NDArray[np.uint8]) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """At most MOST_COLOURS colours, and which of them each row is."""
    distinct, which = np.unique(rgb, axis=0, return_inverse=True)
    if len(distinct) <= MOST_COLOURS:
        return distinct, which.reshape(-1).astype(np.uint8)
    image = Image.fromarray(distinct[None]).quantize(MOST_COLOURS, dither=Image.Dither.NONE)
    colours = np.array(image.getpalette(), np.uint8).reshape(-1, 3)
    index = np.asarray(image)[0]
    used, again = np.unique(index, return_inverse=True)
    return colours[used], again[which.reshape(-1)].astype(np.uint8)
