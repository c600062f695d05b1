"""How the light of a voxel room falls: the same numbers for the window and for pictures."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.model.light import PLAIN, Light
from topion.render.eye import Eye

SKY = 0.05  # more light from above, and as much less from below
_OPENNESS = np.array([0.60, 0.75, 0.89, 1.0])  # light in corners, by how open they are


@dataclass(frozen=True, eq=False)
class Lit:
    """sun : (z, y, x), a unit vector towards it.  direct, ambient : (3,) red, green and blue.

    openness : (4,) light in corners, by how open they are.  haze : 0 to 1, and its (3,) colour.
    """

    sun: NDArray[np.float64]
    direct: NDArray[np.float64]
    ambient: NDArray[np.float64]
    openness: NDArray[np.float64]
    haze: float
    haze_rgb: NDArray[np.float64]

    def on(self, normals: NDArray[np.float64]) -> NDArray[np.float64]:
        """(n, 3) by what the colours of faces with (n, 3) unit normals are multiplied."""
        met = np.clip(normals @ self.sun, 0, 1)[:, None] * self.direct
        return np.asarray(self.ambient + met + SKY * normals[:, :1])


def rgb_of(colour: str) -> NDArray[np.float64]:
    """(3,) a `#rrggbb` colour, 0 to 1."""
    return np.array(tuple(bytes.fromhex(colour[1:])), np.float64) / 255


def lit(light: Light) -> Lit:
    """A light as numbers to draw with."""
    bearing, height = math.radians(light.bearing), math.radians(light.height)
    level = math.cos(height)
    sun = np.array([math.sin(height), -math.cos(bearing) * level, math.sin(bearing) * level])
    openness = 1 - (1 - _OPENNESS) * light.corners
    return Lit(
        sun,
        rgb_of(light.sun) * light.direct,
        rgb_of(light.shade) * light.ambient,
        openness,
        light.haze,
        rgb_of(light.below),
    )


def depths(eye: Eye, size: tuple[int, ...]) -> tuple[float, float]:
    """How far from the eye, along its view and in cells, the nearest corner of a room lies, and
    the farthest."""
    corners = np.stack(np.meshgrid(*((0.0, float(n)) for n in size), indexing="ij"), axis=-1)
    far = (corners.reshape(-1, 3) - eye.place) @ eye.forward
    return float(max(far.min(), 0.0)), float(max(far.max(), 1e-3))


def hazed(lit_: Lit, depth: NDArray[np.float32], reach: tuple[float, float]) -> NDArray[np.float32]:
    """(n,) how much of what lies so deep is lost in haze."""
    share = (depth - np.float32(reach[0])) / np.float32(max(reach[1] - reach[0], 1e-6))
    return np.asarray(share.clip(0, 1) * np.float32(lit_.haze))


PLAIN_LIT = lit(PLAIN)
