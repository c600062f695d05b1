"""Premultiplied 32-bit pixels: to and from RGBA, scaling, and laying one over another."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Rgba

Words = NDArray[np.uint32]  # (h, w), 0xAARRGGBB, premultiplied


def as_words(rgba: Rgba) -> Words:
    """(…, h, w, 4) straight RGBA to (…, h, w) premultiplied words."""
    wide = rgba.astype(np.uint32)
    alpha = wide[..., 3]
    red, green, blue = ((wide[..., i] * alpha + 127) // 255 for i in range(3))
    return np.asarray(alpha << 24 | red << 16 | green << 8 | blue, np.uint32)


def as_rgba(words: Words) -> Rgba:
    """(h, w) premultiplied words to (h, w, 4) straight RGBA."""
    alpha = words >> 24
    out = np.empty((*words.shape, 4), np.uint8)
    out[..., 3] = alpha
    safe = np.maximum(alpha, 1)
    for channel, shift in enumerate((16, 8, 0)):
        out[..., channel] = np.minimum(((words >> shift & 255) * 255 + safe // 2) // safe, 255)
    return out


def channels(words: Words) -> NDArray[np.float32]:
    """(…, h, w, 4) floats B, G, R, A, still premultiplied."""
    flat = np.ascontiguousarray(words)
    return flat.view(np.uint8).reshape(*words.shape, 4).astype(np.float32)


def from_channels(values: NDArray[np.float32]) -> Words:
    packed = np.ascontiguousarray(np.rint(values).clip(0, 255).astype(np.uint8))
    return packed.view(np.uint32)[..., 0]


def resized(words: Words, height: int, width: int) -> Words:
    """(…, h, w) scaled to (…, height, width): averages down, nearest up."""
    old_h, old_w = words.shape[-2:]
    if (old_h, old_w) == (height, width):
        return words
    if height < old_h or width < old_w:
        wide = channels(words)
        wide = _averaged(wide, height, axis=wide.ndim - 3)
        wide = _averaged(wide, width, axis=wide.ndim - 2)
        return from_channels(wide)
    rows = np.arange(height) * old_h // height
    columns = np.arange(width) * old_w // width
    return np.ascontiguousarray(words[..., rows[:, None], columns])


def _averaged(values: NDArray[np.float32], size: int, axis: int) -> NDArray[np.float32]:
    """Area means along one axis, also where the sizes do not divide; nearest if it grows."""
    old = values.shape[axis]
    if size >= old:
        return np.take(values, np.arange(size) * old // size, axis=axis)
    edges = np.linspace(0, old, size + 1)
    zero = np.zeros_like(np.take(values, [0], axis=axis))
    sums = np.concatenate([zero, np.cumsum(values, axis=axis, dtype=np.float32)], axis=axis)
    lo = np.floor(edges).astype(int).clip(0, old - 1)
    shape = [1] * values.ndim
    shape[axis] = -1
    part = (edges - lo).reshape(shape).astype(np.float32)
    at = np.take(sums, lo, axis=axis) + part * np.take(values, lo, axis=axis)
    return np.asarray(np.diff(at, axis=axis) * (size / old), np.float32)


def lay_over(below: Words, above: Words, opacity: float = 1.0) -> None:
    """Write `above` over `below` in place (source over, premultiplied)."""
    if not above.size:
        return
    alpha = above >> 24
    if opacity >= 1:
        if int(alpha.min()) == 255:
            below[...] = above
            return
        if not above.any():
            return
    top = channels(above) * np.float32(opacity)
    rest = 1.0 - top[..., 3:] / np.float32(255)
    below[...] = from_channels(top + channels(below) * rest)


def filled(shape: tuple[int, int], colour: str) -> Words:
    """A plain picture of one `#rrggbb` colour, or a clear one for an empty name."""
    word = 0xFF000000 | int(colour[1:], 16) if colour else 0
    return np.full(shape, word, np.uint32)
