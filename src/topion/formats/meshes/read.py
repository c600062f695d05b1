"""Mesh files to triangles: by kind, checked, turned so that z is up and y is south."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadFile
from topion.formats.meshes.foreign import read_foreign
from topion.formats.meshes.mesh import MOST_BYTES, Mesh
from topion.formats.meshes.obj import read_obj
from topion.formats.meshes.ply import read_ply
from topion.pictures.png import read_bytes

SUFFIXES = (".obj", ".ply", ".stl", ".gltf", ".glb")
_MOST_OPEN = 0.03  # of all edges: a mesh with a few holes still has an inside
Up = Literal["y", "z"]
Step = Callable[[str], object]


def read_mesh(path: Path, up: Up | None = None, step: Step = lambda _: None) -> Mesh:
    """Read a mesh; `up` says which axis of the file points up (by default what is usual for
    its kind).  Raises BadFile for a file that is broken, too large or holds no triangles."""
    suffix = path.suffix.lower()
    if suffix not in SUFFIXES:
        raise BadFile(path.name, f"is no mesh that can be read: {', '.join(SUFFIXES)}")
    data = read_bytes(path, MOST_BYTES)
    step("reading")
    corners, rgb = _read(path, suffix, data, step)
    if not len(corners):
        raise BadFile(path.name, "holds no triangles")
    along_y = (up or ("z" if suffix in (".ply", ".stl") else "y")) == "y"
    # (x, y, z) of the file to (z, y, x) of rooms: up, south, east
    turned = corners[..., [1, 2, 0]] if along_y else corners[..., [2, 1, 0]] * (1, -1, 1)
    step("joining")
    return Mesh(turned, rgb, *_closed(corners))


def _read(
    path: Path, suffix: str, data: bytes, step: Step
) -> tuple[NDArray[np.float64], NDArray[np.uint8]]:
    """The (n, 3, 3) corners of all triangles, as the file has them, and their colours."""
    if suffix == ".obj":
        return read_obj(path, data, step).triangles(path.name)
    if suffix == ".ply":
        return read_ply(path, data, step).triangles(path.name)
    return read_foreign(path, suffix, data)


def _closed(corners: NDArray[np.float64]) -> tuple[bool, bool]:
    """Whether nearly every edge is shared by an even number of triangles, once corners that
    coincide are joined; and whether each is, and is run through as often one way as the other."""
    points = corners.reshape(-1, 3)
    extent = float(np.ptp(points, axis=0).max())
    rough = np.rint((points - points.min(axis=0)) * (1e7 / max(extent, 1e-12))).astype(np.int64)
    _, number = np.unique(rough, axis=0, return_inverse=True)
    faces = number.reshape(-1, 3)
    faces = faces[(faces != np.roll(faces, 1, axis=1)).all(axis=1)]
    if not len(faces):
        return False, False
    edges = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    forward = edges[:, 0] < edges[:, 1]
    lo, hi = np.minimum(*edges.T), np.maximum(*edges.T)
    _, which = np.unique(lo * (int(number.max()) + 1) + hi, return_inverse=True)
    odd = float((np.bincount(which) % 2).mean())
    return odd <= _MOST_OPEN, odd == 0 and not np.bincount(which, np.where(forward, 1, -1)).any()
