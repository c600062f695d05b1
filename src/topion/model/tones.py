"""Tones: which pixels take the colours of a tint, and how a tinted pixel keeps its shade.

All of it in whole numbers, so that every machine gives the same.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Rgba

KEEP, FORE, BACK = 0, 1, 2
Rgb = tuple[int, int, int]


def luma(rgb: NDArray[np.uint8]) -> NDArray[np.int32]:
    """(…) how light (…, 3 or 4) pixels are, 0 to 255 (weights of ITU-R BT.601, in 256ths)."""
    wide = rgb.astype(np.int32)
    return np.asarray((77 * wide[..., 0] + 150 * wide[..., 1] + 29 * wide[..., 2]) >> 8)


@dataclass(frozen=True, eq=False)
class Tones:
    """parts : (h, w) of a sheet: KEEP, FORE or BACK.  middles : of each part, the mean lightness
    of its pixels; a pixel as light as that takes a colour as it is."""

    parts: NDArray[np.uint8]
    middles: Rgb


def two_tone_parts(sheet: Rgba) -> NDArray[np.uint8]:
    """(h, w) FORE where a pixel is as light as the mean of all that can be seen, else BACK."""
    seen, light = sheet[..., 3] > 0, luma(sheet)
    middle = int(light[seen].mean()) if seen.any() else 128
    return np.where(seen, np.where(light >= middle, FORE, BACK), KEEP).astype(np.uint8)


def tones_of(sheet: Rgba, parts: NDArray[np.uint8]) -> Tones:
    """The parts of a sheet with the mean lightness of each."""
    light, seen = luma(sheet), sheet[..., 3] > 0
    means = []
    for part in (KEEP, FORE, BACK):
        own = light[(parts == part) & seen]
        means.append(min(254, max(1, int(own.mean()))) if len(own) else 128)
    return Tones(parts, (means[0], means[1], means[2]))


def tinted(
    rgba: Rgba, parts: NDArray[np.uint8], middles: Rgb, fore: Rgb | None, back: Rgb | None
) -> Rgba:
    """(h, w, 4) pixels in the colours of a tint, as light or dark about them as they were about
    the middle of their part.  None leaves a part as it is."""
    out, light = rgba.copy(), luma(rgba)
    for part, colour in ((FORE, fore), (BACK, back)):
        if colour is None:
            continue
        here, middle = parts == part, middles[part]
        shade, wanted = light[here][:, None], np.array(colour, np.int32)
        darker = wanted * shade // middle
        lighter = wanted + (255 - wanted) * (shade - middle) // (255 - middle)
        out[here, :3] = np.where(shade <= middle, darker, lighter).clip(0, 255)
    return out
