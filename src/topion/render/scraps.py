"""A large scrap as a small picture: a pixel for some cells, in the colours of their materials."""

from __future__ import annotations

import numpy as np

from topion.grid.arrays import Rgba
from topion.model.project import Project
from topion.model.scrap import Scrap

_MOST_PX = 256
_UNKNOWN = (128, 128, 128)


def scrap_picture(project: Project, scrap: Scrap) -> Rgba:
    """(h, w, 4) of a scrap seen from above, clear where nothing lies; at most 256 px a side."""
    step = max(1, -(-max(scrap.size[-2:]) // _MOST_PX))
    colours = _colours(project, scrap)
    out = np.zeros((*(-(-side // step) for side in scrap.size[-2:]), 4), np.uint8)
    for layer in scrap.layers:
        plane = layer.planes.get("material")
        if plane is None:
            continue
        cells = plane.cells[..., ::step, ::step]
        if cells.ndim == 3:
            cells = _topmost(cells)
        seen = cells > 0
        out[seen] = colours[cells[seen]]
    return out


def _topmost(cells: np.ndarray) -> np.ndarray:
    """(h, w) of (d, h, w): the highest that is not open."""
    from_above = cells[::-1]
    first = (from_above > 0).argmax(axis=0)
    return np.asarray(np.take_along_axis(from_above, first[None], axis=0)[0])


def _colours(project: Project, scrap: Scrap) -> np.ndarray:
    """(materials + 1, 4) by number in the scrap."""
    of = {b.material: b.colour for b in project.brushes.values() if b.material}
    rows: list[tuple[int, ...]] = [(0, 0, 0, 0)]
    for name in scrap.materials:
        rgb = tuple(bytes.fromhex(of[name][1:])) if name in of else _UNKNOWN
        rows.append((*rgb, 255))
    return np.array(rows, np.uint8)
