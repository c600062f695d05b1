"""How far cells are from a material."""

from __future__ import annotations

import numpy as np
import scipy
from numpy.typing import NDArray

from topion.model.project import Project
from topion.model.room import Room


def cells_of(project: Project, room: Room, material: str) -> NDArray[np.bool_]:
    """(h, w) where any layer has the material, as the room's stored cells say."""
    found = np.zeros(room.info.size, bool)
    if material in project.materials:
        number = project.material_id(material)
        for _, layer in room.cell_layers():
            found |= layer.plane("material") == number
    return found


def distance_to(mask: NDArray[np.bool_]) -> NDArray[np.float64]:
    """(h, w) cells from each cell to the nearest one of the mask; endless where there is none."""
    if not mask.any():
        return np.full(mask.shape, np.inf)
    found: NDArray[np.float64] = scipy.ndimage.distance_transform_edt(~mask)
    return found
