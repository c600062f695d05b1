"""What readers of meshes give: polygons as the file has them, and triangles as rooms have them."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from topion.errors import BadFile
from topion.grid.polygons import triangulated
from topion.pictures.png import MOST_PX, read_bytes

MOST_BYTES = 1 << 28
MOST_TRIANGLES = 4_000_000
STONE = (150, 150, 150)  # what has no colour of its own
_FARTHEST = 1e12


@dataclass(frozen=True, eq=False)
class Mesh:
    """triangles : (n, 3, 3) corners as (z, y, x) with z up, y south.  rgb : (n, 3) uint8.
    closed : whether it has an inside, but for a few holes.  oriented : whether it is closed
    wholly and all its triangles agree on which side the inside is."""

    triangles: NDArray[np.float64]
    rgb: NDArray[np.uint8]
    closed: bool
    oriented: bool = True


@dataclass(frozen=True, eq=False)
class Polygons:
    """points : (p, 3) as (x, y, z) of the file.  corners : (sum of sizes,) rows of `points`,
    polygon after polygon.  sizes : (n,) corners of each.  rgb : (n, 3) uint8."""

    points: NDArray[np.float64]
    corners: NDArray[np.intp]
    sizes: NDArray[np.intp]
    rgb: NDArray[np.uint8]

    def triangles(self, file: str) -> tuple[NDArray[np.float64], NDArray[np.uint8]]:
        """(t, 3, 3) and (t, 3) colours.  Raises BadFile for too many, or corners nowhere."""
        check_points(self.points, file)
        if int((self.sizes - 2).clip(0).sum()) > MOST_TRIANGLES:
            raise BadFile(file, f"has more than {MOST_TRIANGLES:,} triangles")
        rows, owner = triangulated(self.points, self.corners, self.sizes)
        return self.points[rows], self.rgb[owner]


def check_points(points: NDArray[np.float64], file: str) -> None:
    if not np.isfinite(points).all() or np.abs(points).max(initial=0) > _FARTHEST:
        raise BadFile(file, "holds corners that are no finite numbers")


def srgb(linear: NDArray[np.float64]) -> NDArray[np.uint8]:
    """Linear light, 0 to 1, as sRGB bytes (IEC 61966-2-1)."""
    linear = linear.clip(0, 1)
    value = np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)
    return np.rint(value * 255).astype(np.uint8)


def linear(srgb: NDArray[np.uint8]) -> NDArray[np.float64]:
    """sRGB bytes as linear light, 0 to 1: `srgb` the other way."""
    value = srgb / 255.0
    return np.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4)


def mean_of_corners(
    values: NDArray[np.float64], corners: NDArray[np.intp], sizes: NDArray[np.intp]
) -> NDArray[np.float64]:
    """(n, k): for each polygon the mean of the (p, k) values of its corners."""
    if not len(sizes):
        return np.empty((0, values.shape[1]))
    starts = np.cumsum(sizes) - sizes
    return np.asarray(np.add.reduceat(values[corners], starts, axis=0) / sizes[:, None])


def sampled(picture: Image.Image, uv: NDArray[np.float64]) -> NDArray[np.uint8]:
    """(n, 3) colours of a picture at (n, 2) places, v upwards, the picture repeating."""
    if picture.width * picture.height > MOST_PX:
        raise BadFile("a picture of the mesh", f"has more than {MOST_PX >> 20} million px")
    pixels = np.asarray(picture.convert("RGB"))
    at = np.nan_to_num(uv, nan=0.0, posinf=0.0, neginf=0.0) % 1.0
    y = ((1 - at[:, 1]) * pixels.shape[0]).astype(int).clip(0, pixels.shape[0] - 1)
    x = (at[:, 0] * pixels.shape[1]).astype(int).clip(0, pixels.shape[1] - 1)
    return np.asarray(pixels[y, x], np.uint8)


class Beside:
    """Reads files that lie beside a mesh or in folders below it, and no others.

    Names are taken as other systems write them: with backslashes, with the path of the machine
    where the mesh was made, in other letters large and small.
    """

    def __init__(self, path: Path) -> None:
        self._folder, self._name = path.resolve().parent, path.name

    def get(self, name: object) -> bytes:
        """Raises BadFile if nothing of that name lies there."""
        text = name.decode("utf-8", "replace") if isinstance(name, bytes) else str(name)
        found = self._found(text.strip().replace("\\", "/"))
        if found is None:
            raise BadFile(self._name, f"refers to {text.strip()}, which is not beside it")
        return read_bytes(found, MOST_BYTES)

    def _found(self, text: str) -> Path | None:
        for tried in (text, text.rsplit("/", 1)[-1]):
            try:
                target = (self._folder / tried).resolve()
                if target.is_relative_to(self._folder) and target.is_file():
                    return target
                alike = [path for path in target.parent.iterdir()
                         if path.name.lower() == target.name.lower()]  # fmt: skip
            except (OSError, ValueError):
                continue
            if alike and target.parent.is_relative_to(self._folder) and alike[0].is_file():
                return alike[0]
            if ".." in tried.split("/"):  # out of the folder is out of bounds, not mistaken
                return None
        return None

    # what trimesh asks of a resolver
    __getitem__ = get

    def namespaced(self, _: str) -> Beside:
        return self

    def keys(self) -> list[str]:
        return [path.name for path in self._folder.iterdir() if path.is_file()]
