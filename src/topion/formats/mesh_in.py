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
MOST_BODIES = 20_000
MOST_COLOURS = 48
_FARTHEST = 1e12
Up = Literal["y", "z"]
Step = Callable[[str], object]


@dataclass(frozen=True, eq=False)
class Mesh:
    """triangles : (n, 3, 3) corners as (z, y, x) with z up, y south.  rgb : (n, 3) uint8.
    closed : whether it has an inside.  oriented : whether all its triangles agree on which side
    that is."""

    triangles: NDArray[np.float64]
    rgb: NDArray[np.uint8]
    closed: bool
    oriented: bool = True


def read_mesh(path: Path, up: Up | None = None, step: Step = lambda _: None) -> Mesh:
    """Read a mesh; `up` says which axis of the file points up (by default what is usual for
    its kind).  Raises BadFile for a file that is broken, too large or holds no triangles."""
    suffix = path.suffix.lower()
    if suffix not in SUFFIXES:
        raise BadFile(path.name, f"is no mesh that can be read: {', '.join(SUFFIXES)}")
    data = read_bytes(path, MOST_BYTES)
    _check_counts(path, suffix, data)
    step("reading")
    corners, rgb = _read(path, suffix, data)
    along_y = (up or ("z" if suffix in (".ply", ".stl") else "y")) == "y"
    # (x, y, z) of the file to (z, y, x) of rooms: up, south, east
    turned = corners[..., [1, 2, 0]] if along_y else corners[..., [2, 1, 0]] * (1, -1, 1)
    step("joining")
    return Mesh(turned, rgb, *_closed(corners))


def _read(path: Path, suffix: str, data: bytes) -> tuple[NDArray[np.float64], NDArray[np.uint8]]:
    """The (n, 3, 3) corners of all triangles, as the file has them, and their colours."""
    parts, count = [], 0
    for part, matrix in _bodies(path, suffix, data):
        count += len(part.faces)
        if count > MOST_TRIANGLES:
            raise BadFile(path.name, f"has more than {MOST_TRIANGLES:,} triangles")
        parts.append((_corners(path, part, matrix), _colours(part)))
    if not count:
        raise BadFile(path.name, "holds no triangles")
    corners, colours = zip(*parts, strict=True)
    return np.concatenate(corners), np.concatenate(colours)


def _corners(path: Path, part: Any, matrix: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n, 3, 3) of one body.  Raises BadFile for what cannot be corners."""
    points, faces = np.asarray(part.vertices), np.asarray(part.faces)
    if points.ndim != 2 or points.shape[1] != 3 or points.dtype.kind not in "fiu":
        raise BadFile(path.name, "holds corners that are not three numbers each")
    if faces.ndim != 2 or faces.shape[1] != 3 or faces.dtype.kind not in "iu":
        raise BadFile(path.name, "holds faces that are no triangles")
    if faces.size and not 0 <= int(faces.min()) <= int(faces.max()) < len(points):
        number = int(faces.max()) if int(faces.max()) >= len(points) else int(faces.min())
        raise BadFile(path.name, f"names corner {number}, but has {len(points)} of them")
    large = np.abs(points).max(initial=0) > _FARTHEST or np.abs(matrix).max() > _FARTHEST
    if not np.isfinite(points).all() or not np.isfinite(matrix).all() or large:
        raise BadFile(path.name, "holds corners that are no finite numbers")
    return np.asarray((points.astype(np.float64) @ matrix[:3, :3].T + matrix[:3, 3])[faces])


def _bodies(path: Path, suffix: str, data: bytes) -> list[tuple[Any, NDArray[np.float64]]]:
    """The meshes of the file, and the (4, 4) matrix that puts each where it stands."""
    import io

    import trimesh

    kind = suffix[1:]
    beside: Any = _Beside(path)
    if suffix == ".obj":  # text in whatever encoding; the numbers are ASCII in all of them
        data = data.decode("utf-8", errors="replace").encode()
    try:
        found = trimesh.load(io.BytesIO(data), file_type=kind, resolver=beside, process=False)
        if isinstance(found, trimesh.Scene):
            if len(found.graph.nodes_geometry) > MOST_BODIES:
                raise BadFile(path.name, f"holds more than {MOST_BODIES:,} bodies")
            placed = [found.graph[node] for node in found.graph.nodes_geometry]
            bodies = [(found.geometry[name], matrix) for matrix, name in placed]
        else:
            bodies = [(found, np.eye(4))]
    except BadFile:
        raise
    except MemoryError:
        raise BadFile(path.name, "needs more memory than there is") from None
    except Exception as problem:  # a reader of foreign files may raise anything
        reason = str(problem).strip().split("\n")[0][:120] or type(problem).__name__
        raise BadFile(path.name, f"is not a sound {kind.upper()} file: {reason}") from None
    return [(body, matrix) for body, matrix in bodies if isinstance(body, trimesh.Trimesh)]


def _closed(corners: NDArray[np.float64]) -> tuple[bool, bool]:
    """Whether every edge is shared by an even number of triangles, once corners that coincide
    are joined, and whether each is run through as often one way as the other."""
    points = corners.reshape(-1, 3)
    extent = float(np.ptp(points, axis=0).max())
    rough = np.rint((points - points.min(axis=0)) * (1e7 / max(extent, 1e-12))).astype(np.int64)
    _, number = np.unique(rough, axis=0, return_inverse=True)
    faces = number.reshape(-1, 3)
    faces = faces[(faces != np.roll(faces, 1, axis=1)).all(axis=1)]
    edges = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    forward = edges[:, 0] < edges[:, 1]
    lo, hi = np.minimum(*edges.T), np.maximum(*edges.T)
    _, which = np.unique(lo * (int(number.max()) + 1) + hi, return_inverse=True)
    even = not (np.bincount(which) % 2).any() and len(faces) > 0
    return even, even and not np.bincount(which, np.where(forward, 1, -1)).any()


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


def _colours(body: Any) -> NDArray[np.uint8]:
    """(n, 3) a colour for each triangle; stone grey where the file has none."""
    grey = np.full((len(body.faces), 3), 150, np.uint8)
    try:
        visual = body.visual
        if visual.kind is None:
            return grey
        if visual.kind == "texture":
            return _of_material(body, visual)
        colours = np.asarray(visual.face_colors)[:, :3].astype(np.uint8)
    except Exception:  # colours are not worth refusing a mesh for
        return grey
    return colours if colours.shape == grey.shape else grey


def _of_material(body: Any, visual: Any) -> NDArray[np.uint8]:
    """(n, 3) from the colours of vertices, else from the picture, else the material's own."""
    material = visual.material
    painted = visual.vertex_attributes.get("color") if visual.vertex_attributes else None
    if painted is not None and len(painted) == len(body.vertices):
        most = float(np.iinfo(painted.dtype).max) if painted.dtype.kind == "u" else 1.0
        corners = np.asarray(painted)[:, :3].astype(np.float64)[body.faces] / most
        return srgb(corners.mean(axis=1))
    picture = getattr(material, "image", None) or getattr(material, "baseColorTexture", None)
    if picture is not None and visual.uv is not None and len(visual.uv) == len(body.vertices):
        pixels = np.asarray(picture.convert("RGB"))
        middle = np.asarray(visual.uv)[body.faces].mean(axis=1) % 1.0
        y = ((1 - middle[:, 1]) * pixels.shape[0]).astype(int).clip(0, pixels.shape[0] - 1)
        x = (middle[:, 0] * pixels.shape[1]).astype(int).clip(0, pixels.shape[1] - 1)
        return np.asarray(pixels[y, x], np.uint8)
    return np.tile(np.asarray(material.main_color, np.uint8)[:3], (len(body.faces), 1))


def srgb(linear: NDArray[np.float64]) -> NDArray[np.uint8]:
    """Linear light, 0 to 1, as sRGB bytes (IEC 61966-2-1)."""
    value = np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)
    return np.rint(value.clip(0, 1) * 255).astype(np.uint8)


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
        inside = inside_voxels(scaled, box, tell("inside"), by_winding=mesh.oriented)
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
