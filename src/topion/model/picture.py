"""Pictures as the project keeps them: pixels, and the file bytes they came from."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from topion.grid.arrays import Rgba


@dataclass(frozen=True, eq=False)
class Picture:
    """Pixels with straight alpha; `png` is the file they came from, kept to the byte."""

    rgba: Rgba  # (h, w, 4)
    png: bytes = field(repr=False)

    def __post_init__(self) -> None:
        self.rgba.flags.writeable = False

    @property
    def size_px(self) -> tuple[int, int]:
        """(height, width) in px."""
        return (self.rgba.shape[0], self.rgba.shape[1])

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Picture) and (
            self.png == other.png or np.array_equal(self.rgba, other.rgba)
        )

    def __hash__(self) -> int:
        return hash(self.size_px)
