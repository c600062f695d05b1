"""Density from noise: patches of a size, by a hash of seed and place."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np
from numpy.typing import NDArray

from topion.grid.hashing import seed_of, unit
from topion.model.form import Blank, Form
from topion.model.typed import Seed, between
from topion.things.densities.kind import FLIPPED, JOINED, Asked, DensityKind, Shares

_OCTAVES = 2


@dataclass(frozen=True)
class Noise(DensityKind):
    """Patches about `cells` wide: open below the threshold, full from `soft` above it on."""

    kind: ClassVar[str] = "noise"
    form: ClassVar[Form] = (
        JOINED, " ", FLIPPED, " noise ", Blank("cells", "number", 1, 256), " cells wide, above ",
        Blank("threshold", "number", 0, 1), ", over ", Blank("soft", "number", 0, 1),
        "; roll ", Blank("seed", "number", 0, 1e6, whole=True),
    )  # fmt: skip
    cells: Annotated[float, between(1, 1024, "cells")] = 12.0
    threshold: Annotated[float, between(0, 1)] = 0.4
    soft: Annotated[float, between(0, 1)] = 0.2
    seed: Seed = 1

    def shares(self, asked: Asked) -> Shares:
        at = (asked.cells + np.array(asked.first)).astype(np.float64)
        found, total = np.zeros(len(at)), 0.0
        for octave in range(_OCTAVES):
            weight = 0.5**octave
            found += weight * lattice(at / (self.cells * weight), seed_of(f"noise {octave}"),
                                      self.seed)  # fmt: skip
            total += weight
        found /= total
        return np.clip((found - self.threshold) / max(self.soft, 1e-6), 0.0, 1.0)

    def title(self) -> str:
        return "noise"


def lattice(at: NDArray[np.float64], salt: int, seed: int) -> Shares:
    """(n,) smooth noise at (n, 2) places: hashes at whole places, between them by a curve whose
    slope and bend vanish there (Perlin, Improving noise, 2002)."""
    low = np.floor(at)
    t = at - low
    t = t * t * t * (t * (t * 6 - 15) + 10)
    y, x = low.astype(np.int64).T
    corners = [unit(salt, y + dy, x + dx, np.full_like(y, seed)) for dy in (0, 1) for dx in (0, 1)]
    top = corners[0] + (corners[1] - corners[0]) * t[:, 1]
    foot = corners[2] + (corners[3] - corners[2]) * t[:, 1]
    return np.asarray(top + (foot - top) * t[:, 0])
