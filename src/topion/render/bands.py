"""Pictures that are drawn from the top, a band of rows at a time, and never held whole."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from topion.grid.arrays import Rgba
from topion.pictures.png_out import png_parts

_BAND_PX = 1 << 20  # drawn at once


@dataclass(frozen=True)
class Bands:
    """height, width : in px.  draw : rows [top, bottom) as (n, w, 4) straight RGBA.
    step : rows that are drawn together with least trouble."""

    height: int
    width: int
    draw: Callable[[int, int], Rgba]
    step: int = 1

    def __iter__(self) -> Iterator[Rgba]:
        """The bands, from the top."""
        rows = max(1, _BAND_PX // self.width // self.step) * self.step
        for top in range(0, self.height, rows):
            yield self.draw(top, min(self.height, top + rows))

    def png(self) -> Iterator[bytes]:
        """The parts of a PNG file of it."""
        return png_parts(self.height, self.width, self)

    def whole(self) -> Rgba:
        """(h, w, 4) all of it."""
        out = np.empty((self.height, self.width, 4), np.uint8)
        top = 0
        for band in self:
            out[top : top + len(band)] = band
            top += len(band)
        return out
