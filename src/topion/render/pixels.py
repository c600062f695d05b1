"""Premultiplied 32-bit pixels: to and from RGBA, scaling, and laying one over another."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Rgba

Words = NDArray[np.uint32]  # (h, w), 0xAARRGGBB, premultiplied
_PAIRS, _HALVES, _8, _24 = (np.uint32(n) for n in (0x00FF00FF, 0x00800080, 8, 24))
_SOLID = np.uint32(0xFF000000)  # words from here on are opaque


def as_words(rgba: Rgba) -> Words:
    """(…, h, w, 4) straight RGBA to (…, h, w) premultiplied words."""
    wide = rgba.astype(np.uint32)
    alpha = wide[..., 3]
    red, green, blue = ((wide[..., i] * alpha + 127) // 255 for i in range(3))
    return np.asarray(alpha << 24 | red << 16 | green << 8 | blue, np.uint32)


def as_rgba(words: Words) -> Rgba:
    """(h, w) premultiplied words to (h, w, 4) straight RGBA."""
    swapped = words & np.uint32(0xFF00FF00)
    swapped |= words >> np.uint32(16) & np.uint32(0xFF)
    swapped |= (words & np.uint32(0xFF)) << np.uint32(16)
    out = swapped.view(np.uint8).reshape(*words.shape, 4)
    partly = (words < _SOLID) & (words != 0)
    if partly.any():
        rgba = out[partly].astype(np.uint32)
        safe = np.maximum(rgba[:, 3:], 1)
        rgba[:, :3] = np.minimum((rgba[:, :3] * 255 + safe // 2) // safe, 255)
        out[partly] = rgba
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
        wide = _scaled(wide, 0, old_h, (0, height), height, axis=wide.ndim - 3)
        wide = _scaled(wide, 0, old_w, (0, width), width, axis=wide.ndim - 2)
        return from_channels(wide)
    rows = np.arange(height) * old_h // height
    columns = np.arange(width) * old_w // width
    return np.ascontiguousarray(words[..., rows[:, None], columns])


def rows_behind(old: int, new: int, part: tuple[int, int]) -> tuple[int, int]:
    """The rows [lo, hi) of a picture of `old` rows that the rows of `part` need, of the same
    picture in `new` rows."""
    if new >= old:
        return part[0] * old // new, (part[1] - 1) * old // new + 1
    edges = np.linspace(0, old, new + 1)[[part[0], part[1]]]
    return int(np.floor(edges[0])), min(old, int(np.ceil(edges[1])))


def resized_rows(
    words: Words, first: int, old_h: int, part: tuple[int, int], height: int, width: int
) -> Words:
    """The rows of `part` of a picture scaled to (height, width), from those that they need.

    words : (n, w), rows of the picture from `first` on, of `old_h` in all.
    """
    if (old_h, words.shape[1]) == (height, width):
        return words[part[0] - first : part[1] - first]
    if height < old_h or width < words.shape[1]:
        wide = _scaled(channels(words), first, old_h, part, height, axis=0)
        return from_channels(_scaled(wide, 0, wide.shape[1], (0, width), width, axis=1))
    rows = np.arange(*part) * old_h // height - first
    columns = np.arange(width) * words.shape[1] // width
    return np.ascontiguousarray(words[rows[:, None], columns])


def _scaled(
    values: NDArray[np.float32], first: int, old: int, part: tuple[int, int], new: int, axis: int
) -> NDArray[np.float32]:
    """Along one axis the places of `part` when `old` are scaled to `new`: area means, also where
    the sizes do not divide; nearest if it grows.  values : from place `first` on."""
    if new >= old:
        return np.take(values, np.arange(*part) * old // new - first, axis=axis)
    edges = np.linspace(0, old, new + 1)[part[0] : part[1] + 1] - first
    zero = np.zeros_like(np.take(values, [0], axis=axis))
    sums = np.concatenate([zero, np.cumsum(values, axis=axis, dtype=np.float32)], axis=axis)
    lo = np.floor(edges).astype(int).clip(0, values.shape[axis] - 1)
    shape = [1] * values.ndim
    shape[axis] = -1
    share = (edges - lo).reshape(shape).astype(np.float32)
    at = np.take(sums, lo, axis=axis) + share * np.take(values, lo, axis=axis)
    return np.asarray(np.diff(at, axis=axis) * (new / old), np.float32)


def lay_over(below: Words, above: Words, opacity: float = 1.0) -> None:
    """Write `above` over `below` in place (source over, premultiplied)."""
    if not above.size or opacity <= 0:
        return
    if opacity >= 1:
        solid = above >= _SOLID
        if solid.all():
            below[...] = above
            return
        np.copyto(below, above, where=solid)
        partly = (above != 0) & ~solid
        if partly.any():
            below[partly] = blended(below[partly], above[partly])
        return
    partly = above != 0
    if partly.any():
        top = channels(above[partly]) * np.float32(opacity)
        rest = 1.0 - top[..., 3:] / np.float32(255)
        below[partly] = from_channels(top + channels(below[partly]) * rest)


def blended(below: Words, above: Words) -> Words:
    """`above` over `below`, two channels of a word at once (Smith, "Image Compositing
    Fundamentals", 1995, on dividing by 255)."""
    rest = np.uint32(255) - (above >> _24)
    low = (below & _PAIRS) * rest + _HALVES
    low += (low >> _8) & _PAIRS
    high = ((below >> _8) & _PAIRS) * rest + _HALVES
    high += (high >> _8) & _PAIRS
    low >>= _8
    low &= _PAIRS
    high &= ~_PAIRS
    low |= high
    low += above
    return low


def filled(shape: tuple[int, int], colour: str) -> Words:
    """A plain picture of one `#rrggbb` colour, or a clear one for an empty name."""
    word = 0xFF000000 | int(colour[1:], 16) if colour else 0
    return np.full(shape, word, np.uint32)


def halved(large: Rgba) -> Rgba:
    """Four pixels to one; colours count by how solid they are."""
    parts = [large[y::2, x::2] for y in (0, 1) for x in (0, 1)]
    out = np.empty(parts[0].shape, np.uint8)
    alpha = np.zeros((*out.shape[:-1], 1), np.uint32)
    rgb = np.zeros((*out.shape[:-1], 3), np.uint32)
    for part in parts:
        solid = part[..., 3:].astype(np.uint32)
        alpha += solid
        rgb += part[..., :3] * solid
    out[..., :3] = (rgb + (alpha >> 1)) // np.maximum(alpha, 1)
    out[..., 3:] = (alpha + 2) >> 2
    return out


def smaller(pictures: NDArray[np.uint8]) -> list[NDArray[np.uint8]]:
    """(n, h, w, 4) square pictures of a power of two px each, half as large, and so on to 1 px."""
    levels = []
    while pictures.shape[1] > 1:
        count, side = len(pictures), pictures.shape[1] // 2
        joined = pictures.reshape(count * 2 * side, 2 * side, 4)
        pictures = halved(joined).reshape(count, side, side, 4)
        levels.append(pictures)
    return levels
