"""Sheets as people draw them, made up: their kinds of tiles, gaps and sizes."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from scipy import ndimage

Random = np.random.Generator


def texture(shape: tuple[int, int], rng: Random) -> np.ndarray:
    """(h, w, 3) uint8: soft noise round one colour, whole at its edges."""
    noise = ndimage.gaussian_filter(rng.normal(size=shape), 1.0, mode="wrap")
    base = rng.integers(50, 200, 3)
    return np.clip(base + noise[..., None] / noise.std() * 25, 0, 255).astype(np.uint8)


def ground(tile: np.ndarray, rng: Random) -> None:
    tile[..., :3], tile[..., 3] = texture(tile.shape[:2], rng), 255


def flat(tile: np.ndarray, rng: Random) -> None:
    tile[:] = (*rng.integers(20, 235, 3), 255)


def bevel(tile: np.ndarray, rng: Random) -> None:
    base = rng.integers(60, 190, 3)
    tile[:] = (*base, 255)
    tile[0, :, :3] = tile[:, 0, :3] = np.minimum(base + 50, 255)
    tile[-1, :, :3] = tile[:, -1, :3] = base // 2


def brick(tile: np.ndarray, rng: Random) -> None:
    """Courses of eight px, so that half the tile repeats."""
    base = rng.integers(90, 160, 3)
    tile[:] = (*base, 255)
    tile[::8, :, :3] = base // 2
    for row, y in enumerate(range(0, len(tile), 8)):
        tile[y : y + 8, 4 * (row % 2) :: 8, :3] = base // 2


def sprite(tile: np.ndarray, rng: Random) -> None:
    """A round body that leaves the rim of its tile free."""
    y, x = np.indices(tile.shape[:2])
    radius = min(tile.shape[:2]) * rng.uniform(0.25, 0.42)
    far = np.hypot(y - tile.shape[0] * 0.55, x - tile.shape[1] / 2)
    tile[far < radius] = (*rng.integers(40, 220, 3), 255)
    tile[far < radius * 0.4] = (*rng.integers(40, 220, 3), 255)


def figure(tile: np.ndarray, rng: Random) -> None:
    """Something that stands, half as wide as its tile."""
    height, width = tile.shape[:2]
    part = tile[int(height * rng.uniform(0.05, 0.4)) : height - 1, width // 4 : 3 * width // 4]
    ground(part, rng)


def diamond(tile: np.ndarray, rng: Random) -> None:
    height, width = tile.shape[:2]
    y, x = np.indices((height, width)) + 0.5
    inside = np.abs(y / height - 0.5) + np.abs(x / width - 0.5) <= 0.5
    tile[inside, :3], tile[inside, 3] = texture((height, width), rng)[inside], 255


def glyph(tile: np.ndarray, rng: Random) -> None:
    marks = rng.random((5, 3)) < 0.55
    tile[1:6, 1:4][marks] = (230, 230, 230, 255)


def nothing(tile: np.ndarray, rng: Random) -> None:
    """An empty slot."""


Draw = Callable[[np.ndarray, Random], None]


def sheet(
    tile: tuple[int, int],
    rows: int,
    columns: int,
    *kinds: Draw,
    margin: int = 0,
    spacing: int = 0,
    fill: tuple[int, ...] = (0, 0, 0, 0),
    seed: int = 7,
) -> np.ndarray:
    """(h, w, 4): tiles of some kinds in rows and columns."""
    rng = np.random.default_rng(seed)
    height, width = (
        2 * margin + count * (side + spacing) - spacing
        for count, side in zip((rows, columns), tile, strict=True)
    )
    out = np.zeros((height, width, 4), np.uint8)
    out[:] = fill
    for row in range(rows):
        for column in range(columns):
            y, x = margin + row * (tile[0] + spacing), margin + column * (tile[1] + spacing)
            kinds[rng.integers(len(kinds))](out[y : y + tile[0], x : x + tile[1]], rng)
    return out


def patches(tile: int, rows: int, columns: int, seed: int = 7) -> np.ndarray:
    """Patches of three by three tiles whose ground goes on from tile to tile, with a rim."""
    rng = np.random.default_rng(seed)
    out = np.full((3 * rows * tile, 3 * columns * tile, 4), 255, np.uint8)
    for y in range(0, len(out), 3 * tile):
        for x in range(0, out.shape[1], 3 * tile):
            part = out[y : y + 3 * tile, x : x + 3 * tile, :3]
            part[:] = rng.integers(30, 220, 3)
            part[3:-3, 3:-3] = np.tile(texture((tile, tile), rng), (3, 3, 1))[3:-3, 3:-3]
    return out


def mixed_sizes(tile: int, side: int, seed: int = 7) -> np.ndarray:
    """Drawings of one to three tiles each way, laid on the tiles of a square sheet."""
    rng = np.random.default_rng(seed)
    out = np.zeros((side * tile, side * tile, 4), np.uint8)
    used = np.zeros((side, side), bool)
    for _ in range(400):
        height, width = rng.choice([1, 1, 1, 2, 2, 3], 2)
        y, x = rng.integers(0, side - height + 1), rng.integers(0, side - width + 1)
        if not used[y : y + height, x : x + width].any():
            used[y : y + height, x : x + width] = True
            part = out[y * tile : (y + height) * tile, x * tile : (x + width) * tile]
            (ground, sprite, figure)[rng.integers(3 if height * width < 3 else 2)](part, rng)
    return out


def loose_sheet(seed: int = 7) -> np.ndarray:
    """Drawings of many sizes in rows, as a packing program lays them."""
    rng = np.random.default_rng(seed)
    out = np.zeros((263, 311, 4), np.uint8)
    y = x = 3
    tallest = 0
    while True:
        height, width = rng.integers(14, 52, 2)
        if x + width > 305:
            y, x, tallest = y + tallest + 5, 3, 0
        if y + height > 258:
            return out
        ground(out[y : y + height, x : x + width], rng)
        out[y : y + 2, x : x + 2] = 0
        x, tallest = x + width + int(rng.integers(3, 7)), max(tallest, height)
