"""Voxel models of prefabs and blocks out of files."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from topion.errors import BadFile, BadValue
from topion.formats.meshes.read import SUFFIXES, Step
from topion.formats.meshes.voxels import model_from_file
from topion.formats.volumes import Volume, slices_in, volume_of_npy, volume_of_slices
from topion.model.solid import LONGEST_MODEL, VoxelModel

KINDS = (*SUFFIXES, ".npy")


def model_of_file(path: Path, size: int, per_cell: int, step: Step = lambda _: None) -> VoxelModel:
    """A model of a mesh, an `.npy` array, or a folder of PNG slices, a voxel a cell of those.

    size : voxels along the longest side of a mesh.  per_cell : voxels to a cell of a room.
    Raises BadFile, and BadValue for what is larger than a model or empty.
    """
    suffix = path.suffix.lower()
    if suffix in SUFFIXES:
        model = model_from_file(path, size, step=step)
        return VoxelModel(model.cells, model.palette, per_cell)
    if suffix == ".npy":
        return _model_of(volume_of_npy(path), path.name, per_cell)
    if path.is_dir():
        return _model_of(volume_of_slices(slices_in(path), step), path.name, per_cell)
    known = ", ".join(KINDS)
    raise BadFile(path.name, f"is nothing that becomes a model; known are {known} and folders of "
                             "PNG slices")  # fmt: skip


def _model_of(volume: Volume, name: str, per_cell: int) -> VoxelModel:
    """What is filled of it, with the colours that are used."""
    filled = np.argwhere(volume.cells)
    if not len(filled):
        raise BadValue(f"the voxels of {name}", "all open", "at least one that is filled")
    lo, hi = filled.min(axis=0), filled.max(axis=0) + 1
    if (hi - lo).max() > LONGEST_MODEL:
        size = " × ".join(map(str, (hi - lo).tolist()))
        raise BadValue(f"the size of {name}", size, f"at most {LONGEST_MODEL} voxels a side")
    part = volume.cells[tuple(slice(a, b) for a, b in zip(lo, hi, strict=True))]
    used = np.unique(part[part > 0])
    to = np.zeros(256, np.uint8)
    to[used] = np.arange(1, len(used) + 1)
    return VoxelModel(to[part], tuple(volume.colours[int(n) - 1] for n in used), per_cell)
