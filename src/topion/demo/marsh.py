"""The room Outer Marsh of Brinehollow: a wide tidal flat, shaped by smooth noise."""

from __future__ import annotations

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.grid.hashing import seed_of, unit
from topion.scripting import ProjectHandle

ROOM = "Outer Marsh"
SIZE = (80, 128)
GATE = (46, 127)  # where its boardwalk ends, at the edge to the yard
_LAYERS = (
    ("Sea", "tiles"),
    ("Ground", "tiles"),
    ("Cover", "tiles"),
    ("Boardwalk", "tiles"),
    ("Things", "things"),
)


def heights(name: str, lattice: int, size: tuple[int, int]) -> NDArray[np.float64]:
    """Smooth noise over the room, 0 to 1: hashes on a coarse lattice, cubic between."""
    coarse = tuple(side // lattice + 4 for side in size)
    ys, xs = np.indices(coarse)
    fine = scipy.ndimage.zoom(
        unit(seed_of(name), ys, xs), lattice, order=3, grid_mode=True, mode="reflect"
    )
    part = fine[lattice : lattice + size[0], lattice : lattice + size[1]]
    return np.asarray((part - part.min()) / (part.max() - part.min()))


def add_marsh(project: ProjectHandle, size: tuple[int, int] = SIZE) -> None:
    """Lay the room; its strokes are edits like any other."""
    room = project.add_room(ROOM, size, 16, _LAYERS)  # type: ignore[arg-type]
    whole = ((0, 0), (size[0] - 1, size[1] - 1))
    ground = 0.72 * heights("marsh", 22, size) + 0.28 * heights("marsh banks", 8, size)
    ys, xs = np.indices(size)
    creek = np.abs(ys - 62 - 9 * np.sin(xs / 19.0) - 4 * np.sin(xs / 7.0 + 1.3)) / 34.0
    ground = np.minimum(ground, 0.2 + creek)
    room.lay("Water", box=whole, layer="Sea")
    room.lay("Water", box=whole)
    room.lay("Mud", cells=_cells(ground > 0.34))
    room.lay("Deep water", cells=_cells(ground < 0.27))
    meadow = 0.6 * ground + 0.4 * heights("meadow", 11, size)
    room.lay("Salt grass", cells=_cells((ground > 0.40) & (meadow > 0.56)))
    reeds = (ground > 0.36) & (ground < 0.46) & (heights("reeds", 9, size) > 0.5)
    room.lay("Reed bed", cells=_cells(reeds), strength=0.9)
    for start, end in (((20, 12), (20, 62)), ((20, 62), (46, 62)), ((46, 62), GATE)):
        room.lay("Boardwalk", line=(start, end))
    room.lay("Lantern post", cells=[(19, x) for x in range(18, 60, 10)])
    room.lay("Lantern post", cells=[(45, x) for x in range(72, 124, 12)])


def _cells(mask: NDArray[np.bool_]) -> list[tuple[int, int]]:
    return [(int(y), int(x)) for y, x in np.argwhere(mask)]
