"""Array types used all over the core; a type cannot check a shape, the docstrings state it."""

from __future__ import annotations

from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

MaterialIds: TypeAlias = NDArray[np.uint16]  # (h, w) or (d, h, w); 0 is empty
TileIds: TypeAlias = NDArray[np.uint16]  # same shape; index into the project's tile table
CellMask: TypeAlias = NDArray[np.bool_]  # same shape as the cells it selects
CellList: TypeAlias = NDArray[np.intp]  # (n, ndim), axes in array order
Positions: TypeAlias = NDArray[np.float64]  # (n, ndim), in cells; 3.0 is the centre of cell 3
Rgba: TypeAlias = NDArray[np.uint8]  # (h, w, 4), straight alpha
BEYOND = np.uint16(0xFFFF)  # stands for "beyond the room" in neighbourhoods; never a material

NO_CELLS = np.empty((0, 2), np.intp)
NO_CELLS.flags.writeable = False
