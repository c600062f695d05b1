"""What tiles look like, so that a tile and the turned picture of another count as one."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from topion.grid.arrays import Rgba
from topion.grid.turns import turned
from topion.weaving.rules import Orientation

ORIENTATIONS = tuple(Orientation(turn, mirrored) for mirrored in (False, True) for turn in range(4))
INVERSE = (0, 3, 2, 1, 4, 5, 6, 7)  # a mirrored one undoes itself


class Contents:
    """Numbers for pictures, *looks*: equal pixels have the same, however they came to lie so.

    of : (n,) the look of each given picture.  oriented : (looks, 8) the look of the same picture
    as it stands in each of ORIENTATIONS, -1 where it cannot stand so.
    """

    def __init__(self, pictures: Sequence[Rgba]) -> None:
        """pictures : (h, w, 4) each, all of one size."""
        self._numbers: dict[bytes, int] = {}
        self._kept: list[Rgba] = []
        self.of = np.array([self._number(np.asarray(p)) for p in pictures], np.intp)
        rows: list[list[int]] = []
        while len(rows) < len(self._kept):  # turned ones that are new come in behind
            picture = self._kept[len(rows)]
            square = picture.shape[0] == picture.shape[1]
            rows.append([self._number(turned(picture, *way)) if square or way.turn % 2 == 0
                         else -1 for way in ORIENTATIONS])  # fmt: skip
        self.oriented = np.array(rows, np.intp).reshape(-1, len(ORIENTATIONS))

    def _number(self, picture: Rgba) -> int:
        clear = np.where(picture[..., 3:] > 0, picture, 0)  # colours under clear pixels do not show
        number = self._numbers.setdefault(clear.astype(np.uint8).tobytes(), len(self._numbers))
        if number == len(self._kept):
            self._kept.append(picture)
        return number
