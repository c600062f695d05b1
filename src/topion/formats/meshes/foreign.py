"""STL and glTF, whose numbers trimesh reads; what it gives is checked before it is used."""

from __future__ import annotations

import io
import logging
import struct
import warnings
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadFile
from topion.formats.meshes.gltf import prepared
from topion.formats.meshes.mesh import (
    MOST_TRIANGLES,
    STONE,
    Beside,
    check_points,
    linear,
    sampled,
    srgb,
)

MOST_BODIES = 20_000


def read_foreign(
    path: Path, suffix: str, data: bytes
) -> tuple[NDArray[np.float64], NDArray[np.uint8]]:
    """The (n, 3, 3) corners of all triangles, as the file has them, and their colours.  Raises
    BadFile."""
    if suffix == ".stl":
        _check_stl(path.name, data)
    else:
        data = prepared(path.name, suffix, data)
    corners, colours, count = [np.empty((0, 3, 3))], [np.empty((0, 3), np.uint8)], 0
    for part, matrix in _bodies(path, suffix, data):
        count += len(part.faces)
        if count > MOST_TRIANGLES:
            raise BadFile(path.name, f"has more than {MOST_TRIANGLES:,} triangles")
        corners.append(_corners(path.name, part, matrix))
        colours.append(_colours(part, suffix != ".stl"))
    return np.concatenate(corners), np.concatenate(colours)


def _check_stl(file: str, data: bytes) -> None:
    """Declared sizes must fit the bytes that are there, before memory is taken for them."""
    if len(data) >= 84 and data.lstrip()[:5].lower() != b"solid":
        count = struct.unpack("<I", data[80:84])[0]
        if 84 + 50 * count > len(data):
            raise BadFile(file, f"declares {count:,} triangles, but is too short for them")


def _bodies(path: Path, suffix: str, data: bytes) -> list[tuple[Any, NDArray[np.float64]]]:
    """The meshes of the file, and the (4, 4) matrix that puts each where it stands."""
    import trimesh

    kind = suffix[1:]
    beside: Any = Beside(path)
    logging.getLogger("trimesh").setLevel(logging.CRITICAL)  # we say what is wrong, once
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
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
    except Exception:  # a reader of foreign files may raise anything, in words of its own
        raise BadFile(path.name, f"is not a sound {kind.upper()} file") from None
    return [(body, matrix) for body, matrix in bodies if isinstance(body, trimesh.Trimesh)]


def _corners(file: str, part: Any, matrix: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n, 3, 3) of one body.  Raises BadFile for what cannot be corners."""
    points, faces = np.asarray(part.vertices), np.asarray(part.faces)
    if points.ndim != 2 or points.shape[1] != 3 or points.dtype.kind not in "fiu":
        raise BadFile(file, "holds corners that are not three numbers each")
    if faces.ndim != 2 or faces.shape[1] != 3 or faces.dtype.kind not in "iu":
        raise BadFile(file, "holds faces that are no triangles")
    if faces.size and not 0 <= int(faces.min()) <= int(faces.max()) < len(points):
        number = int(faces.max()) if int(faces.max()) >= len(points) else int(faces.min())
        raise BadFile(file, f"names corner {number}, but has {len(points)} of them, from 0")
    check_points(points.astype(np.float64), file)
    check_points(matrix, file)
    return np.asarray((points.astype(np.float64) @ matrix[:3, :3].T + matrix[:3, 3])[faces])


def _colours(body: Any, lit: bool) -> NDArray[np.uint8]:
    """(n, 3) a colour for each triangle; stone grey where the file has none.

    lit : whether colours of corners are linear light, as in glTF.
    """
    grey = np.tile(np.array(STONE, np.uint8), (len(body.faces), 1))
    try:
        visual = body.visual
        if visual.kind is None:
            return grey
        if visual.kind == "texture":
            return _of_material(body, visual)
        if lit and visual.kind == "vertex":
            return _of_corners(body, np.asarray(visual.vertex_colors))
        colours = np.asarray(visual.face_colors)[:, :3].astype(np.uint8)
    except Exception:  # colours are not worth refusing a mesh for
        return grey
    return colours if colours.shape == grey.shape else grey


def _of_material(body: Any, visual: Any) -> NDArray[np.uint8]:
    """(n, 3) from the colours of vertices, or the picture, times the material's own."""
    material = visual.material
    factor = getattr(material, "baseColorFactor", None)
    plain = np.array((255, 255, 255) if factor is None else factor, np.uint8)[:3]
    painted = visual.vertex_attributes.get("color") if visual.vertex_attributes else None
    picture = getattr(material, "image", None) or getattr(material, "baseColorTexture", None)
    if painted is not None and len(painted) == len(body.vertices):
        rgb = _of_corners(body, np.asarray(painted))
    elif picture is not None and visual.uv is not None and len(visual.uv) == len(body.vertices):
        rgb = sampled(picture, np.asarray(visual.uv)[body.faces].mean(axis=1))
    else:
        return np.tile(plain, (len(body.faces), 1))
    return rgb if (plain == 255).all() else srgb(linear(rgb) * linear(plain))


def _of_corners(body: Any, colours: NDArray[Any]) -> NDArray[np.uint8]:
    """(n, 3): the mean of the linear colours of the corners of each triangle."""
    most = float(np.iinfo(colours.dtype).max) if colours.dtype.kind == "u" else 1.0
    corners = colours[:, :3].astype(np.float64)[body.faces] / most
    return srgb(corners.mean(axis=1))
