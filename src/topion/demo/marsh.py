"""The room Outer Marsh of Brinehollow: a wide tidal flat, shaped by smooth noise."""

from __future__ import annotations

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.grid.hashing import seed_of, unit
from topion.scripting import ProjectHandle

ROOM = "Outer Marsh"
SIZE = (288, 448)
_LAYERS = (
    ("Sea", "tiles"),
    ("Ground", "tiles"),
    ("Cover", "tiles"),
    ("Boardwalk", "tiles"),
    ("Things", "things"),
)


def heights(name: str, lattice: int) -> NDArray[np.float64]:
    """Smooth noise over the room, 0 to 1: hashes on a coarse lattice, cubic between."""
    coarse = tuple(side // lattice + 4 for side in SIZE)
    ys, xs = np.indices(coarse)
    fine = scipy.ndimage.zoom(
        unit(seed_of(name), ys, xs), lattice, order=3, grid_mode=True, mode="reflect"
    )
    part = fine[lattice : lattice + SIZE[0], lattice : lattice + SIZE[1]]
    return np.asarray((part - part.min()) / (part.max() - part.min()))


def add_marsh(project: ProjectHandle) -> None:
    """Lay the room; its strokes are edits like any other."""
    room = project.add_room(ROOM, SIZE, 16, _LAYERS)  # type: ignore[arg-type]
    whole = ((0, 0), (SIZE[0] - 1, SIZE[1] - 1))
    ground = 0.72 * heights("marsh", 40) + 0.28 * heights("marsh banks", 13)
    ys, xs = np.indices(SIZE)
    creek = np.abs(ys - 150 - 46 * np.sin(xs / 61.0) - 17 * np.sin(xs / 19.0 + 1.3)) / 60.0
    ground = np.minimum(ground, 0.2 + creek)
    room.lay("Water", box=whole, layer="Sea")
    room.lay("Water", box=whole)
    room.lay("Mud", cells=_cells(ground > 0.34))
    room.lay("Deep water", cells=_cells(ground < 0.27))
    meadow = 0.6 * ground + 0.4 * heights("meadow", 18)
    room.lay("Salt grass", cells=_cells((ground > 0.40) & (meadow > 0.56)))
    reeds = (ground > 0.36) & (ground < 0.46) & (heights("reeds", 16) > 0.5)
    room.lay("Reed bed", cells=_cells(reeds), strength=0.9)
    for start, end in (((60, 20), (60, 210)), ((60, 210), (232, 210)), ((232, 210), (232, 420))):
        room.lay("Boardwalk", line=(start, end))
    room.lay("Lantern post", cells=[(59, x) for x in range(26, 205, 14)])


def _cells(mask: NDArray[np.bool_]) -> list[tuple[int, int]]:
    return [(int(y), int(x)) for y, x in np.argwhere(mask)]
