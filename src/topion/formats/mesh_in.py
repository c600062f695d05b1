"""Meshes from outside (OBJ, PLY, STL, glTF) as voxel models.

Reading is left to trimesh; what is read is checked before it is used, and nothing outside the
folder of the file is opened.
"""

from __future__ import annotations

import json
import re
import struct
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from topion.errors import BadFile, BadValue, Stopped
from topion.grid.voxelise import inside_voxels, surface_voxels
from topion.model.solid import LONGEST_MODEL, VoxelModel
from topion.pictures.png import read_bytes

SUFFIXES = (".obj", ".ply", ".stl", ".gltf", ".glb")
MOST_BYTES = 1 << 28
MOST_TRIANGLES = 4_000_000
MOST_COLOURS = 48
Up = Literal["y", "z"]
Step = Callable[[str], object]


@dataclass(frozen=True, eq=False)
class Mesh:
    """triangles : (n, 3, 3) corners as (z, y, x) with z up, y south.  rgb : (n, 3) uint8.
    closed : whether it has an inside."""

    triangles: NDArray[np.float64]
    rgb: NDArray[np.uint8]
    closed: bool


def read_mesh(path: Path, up: Up | None = None, step: Step = lambda _: None) -> Mesh:
    """Read a mesh; `up` says which axis of the file points up (by default what is usual for
    its kind).  Raises BadFile for a file that is broken, too large or holds no triangles."""
    suffix = path.suffix.lower()
    if suffix not in SUFFIXES:
        raise BadFile(path.name, f"is no mesh that can be read: {', '.join(SUFFIXES)}")
    data = read_bytes(path, MOST_BYTES)
    _check_counts(path, suffix, data)
    step("reading")
    found = _loaded(path, suffix, data)
    if len(found.faces) > MOST_TRIANGLES:
        raise BadFile(path.name, f"has {len(found.faces):,} triangles, over {MOST_TRIANGLES:,}")
    corners = np.asarray(found.triangles, np.float64)
    if not len(corners):
        raise BadFile(path.name, "holds no triangles")
    along_y = (up or ("z" if suffix in (".ply", ".stl") else "y")) == "y"
    # (x, y, z) of the file to (z, y, x) of rooms: up, south, east
    turned = corners[..., [1, 2, 0]] if along_y else corners[..., [2, 1, 0]] * (1, -1, 1)
    return Mesh(turned, _colours(found), bool(found.is_watertight))


def _loaded(path: Path, suffix: str, data: bytes) -> Any:
    import io

    import trimesh

    kind = suffix[1:]
    beside: Any = _Beside(path)
    try:
        found = trimesh.load(
            io.BytesIO(data), file_type=kind, resolver=beside, force="mesh", process=False
        )
        if not isinstance(found, trimesh.Trimesh):
            raise BadFile(path.name, "holds no triangles")
        if not np.isfinite(found.vertices).all() or np.abs(found.vertices).max(initial=0) > 1e12:
            raise BadFile(path.name, "holds corners that are no finite numbers")
        found.merge_vertices(merge_tex=True, merge_norm=True)
    except BadFile:
        raise
    except MemoryError:
        raise BadFile(path.name, "needs more memory than there is") from None
    except Exception as problem:  # a reader of foreign files may raise anything
        reason = str(problem).strip().split("\n")[0][:120] or type(problem).__name__
        raise BadFile(path.name, f"is not a sound {kind.upper()} file: {reason}") from None
    return found


class _Beside:
    """Gives the reader files that lie beside the mesh, and no others."""

    def __init__(self, path: Path) -> None:
        self._folder, self._name = path.resolve().parent, path.name

    def get(self, name: Any) -> bytes:
        text = name.decode() if isinstance(name, bytes) else str(name)
        target = (self._folder / text).resolve()
        if target.parent != self._folder or not target.is_file():
            raise BadFile(self._name, f"refers to {text}, which is not beside it")
        return read_bytes(target, MOST_BYTES)

    __getitem__ = get

    def namespaced(self, _: str) -> _Beside:
        return self

    def keys(self) -> list[str]:
        return [path.name for path in self._folder.iterdir() if path.is_file()]


def _check_counts(path: Path, suffix: str, data: bytes) -> None:
    """Declared sizes must fit the bytes that are there, before memory is taken for them."""
    if suffix == ".ply":
        head = data[:65_536].split(b"end_header")[0]
        for count in re.findall(rb"element\s+\w+\s+(\d+)", head):
            if int(count) > len(data):
                raise BadFile(
                    path.name, f"declares {int(count):,} parts, but is too short for them"
                )
    elif suffix == ".stl" and len(data) >= 84 and data.lstrip()[:5].lower() != b"solid":
        count = struct.unpack("<I", data[80:84])[0]
        if 84 + 50 * count > len(data):
            raise BadFile(path.name, f"declares {count:,} triangles, but is too short for them")
    elif suffix in (".gltf", ".glb"):
        _check_accessors(path, suffix, data)


def _check_accessors(path: Path, suffix: str, data: bytes) -> None:
    text = data
    if suffix == ".glb":
        if len(data) < 20 or data[:4] != b"glTF":
            raise BadFile(path.name, "is not a sound GLB file: its head is broken")
        length = struct.unpack("<I", data[12:16])[0]
        text = data[20 : 20 + length]
    try:
        head = json.loads(text)
        counts = [int(accessor["count"]) for accessor in head.get("accessors", [])]
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as problem:
        raise BadFile(path.name, f"is not sound glTF: {str(problem)[:80]}") from None
    if sum(counts) > 12 * MOST_TRIANGLES or min(counts, default=0) < 0:
        raise BadFile(path.name, f"declares {sum(counts):,} numbers, which is too many")


def _colours(found: Any) -> NDArray[np.uint8]:
    """(n, 3) a colour for each triangle; stone grey where the file has none."""
    grey = np.full((len(found.faces), 3), 150, np.uint8)
    try:
        visual = found.visual
        if visual.kind is None:
            return grey
        if visual.kind == "texture":
            visual = visual.to_color()
        colours = np.asarray(visual.face_colors)[:, :3].astype(np.uint8)
    except Exception:  # colours are not worth refusing a mesh for
        return grey
    return colours if colours.shape == grey.shape else grey


def voxel_model(
    mesh: Mesh, size: int, per_cell: int = 16, step: Step = lambda _: None
) -> VoxelModel:
    """A mesh as voxels, `size` along its longest side, filled if it is closed.

    step : called with a few words, often; what it raises stops the work.
    """
    if not 1 <= size <= LONGEST_MODEL:
        raise BadValue("the size", size, f"1 to {LONGEST_MODEL} voxels")
    lo, hi = mesh.triangles.min(axis=(0, 1)), mesh.triangles.max(axis=(0, 1))
    longest = float((hi - lo).max())
    if longest <= 0:
        raise BadValue("the extent of the mesh", longest, "more than nothing")
    scaled = (mesh.triangles - lo) * (size / longest)
    extent = (hi - lo) * (size / longest)
    sides = [int(max(1, np.ceil(side - 1e-6))) for side in extent]
    box = (sides[0], sides[1], sides[2])
    scaled += (np.array(box) - extent) / 2

    def tell(words: str) -> Callable[[float], object]:
        return lambda share: step(f"{words} {share:.0%}")

    rgb, owner = _palette(mesh.rgb)
    cells, which, deep = surface_voxels(scaled, box, tell("surface"))
    out = np.zeros(box, np.uint8)
    if mesh.closed:
        touched = np.zeros(box, np.uint8)
        touched[tuple(cells.T)] = owner[which] + 1
        inside = inside_voxels(scaled, box, tell("inside"))
        out = np.where(inside, _coloured(touched), 0).astype(np.uint8)
        if deep.any():  # thin parts that hold no middle of a voxel
            cells, which = cells[deep], which[deep]
    out[tuple(cells.T)] = owner[which] + 1
    palette = tuple("#{:02x}{:02x}{:02x}".format(*row) for row in rgb.tolist())
    return VoxelModel(out, palette, per_cell)


def _coloured(touched: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Inner voxels in the commonest colour of the surface; nobody sees them."""
    commonest = int(np.bincount(touched[touched > 0]).argmax())
    return np.where(touched > 0, touched, commonest).astype(np.uint8)


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
