"""Pictures that designers bring along, drawn here."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PIL import Image

TILE_PX = 16
MOSS, ROCK, FLOOR = (96, 128, 72), (58, 54, 60), (176, 164, 140)
_BLOCK = {  # of a 5 × 3 block: which of (north, west, south, east) stay open, and inner corners
    (row, column): ((row == 0, column == 0, row == 2, column == 2), ())
    for row in range(3) for column in range(3)
}  # fmt: skip
_BLOCK |= {
    (0, 3): ((False,) * 4, ("se",)), (0, 4): ((False,) * 4, ("sw",)),
    (1, 3): ((False,) * 4, ("ne",)), (1, 4): ((False,) * 4, ("nw",)),
    (2, 3): ((False,) * 4, ("nw", "se")), (2, 4): ((False,) * 4, ("ne", "sw")),
}  # fmt: skip


def tile_sheet(path: Path) -> Path:
    """Eight by four tiles: a 5 × 3 block of moss over rock, floors beside it, stones below."""
    rng = np.random.default_rng(7)
    sheet = np.zeros((4 * TILE_PX, 8 * TILE_PX, 4), np.uint8)
    for (row, column), (sides, corners) in _BLOCK.items():
        sheet[_tile(row, column)] = _edged(rng, sides, corners)
    for column in (5, 6, 7):
        sheet[_tile(0, column)] = _grained(rng, FLOOR)
    sheet[_tile(1, 5)] = _grained(rng, ROCK)
    for column in range(3):
        sheet[_tile(3, column)] = _stone(rng)
    Image.fromarray(sheet).save(path)
    return path


def _tile(row: int, column: int) -> tuple[slice, slice]:
    return (slice(row * TILE_PX, (row + 1) * TILE_PX),
            slice(column * TILE_PX, (column + 1) * TILE_PX))  # fmt: skip


def _grained(rng: np.random.Generator, colour: tuple[int, ...]) -> np.ndarray:
    tile = np.full((TILE_PX, TILE_PX, 4), 255, np.uint8)
    tile[..., :3] = np.clip(np.array(colour) + rng.integers(-7, 8, (TILE_PX, TILE_PX, 1)), 0, 255)
    return tile


def _edged(
    rng: np.random.Generator, sides: tuple[bool, ...], corners: tuple[str, ...]
) -> np.ndarray:
    tile, rock = _grained(rng, MOSS), _grained(rng, ROCK)
    y, x = np.indices((TILE_PX, TILE_PX))
    far = TILE_PX - 1
    edge = np.zeros((TILE_PX, TILE_PX), bool)
    for open_, depth in zip(sides, (y, x, far - y, far - x), strict=True):
        edge |= open_ & (depth < 4)
    for corner in corners:
        edge |= ((y if corner[0] == "n" else far - y) < 4) & (
            (x if corner[1] == "w" else far - x) < 4
        )
    tile[edge] = rock[edge]
    return tile


def _stone(rng: np.random.Generator) -> np.ndarray:
    tile = _grained(rng, (132, 128, 122))
    y, x = np.indices((TILE_PX, TILE_PX)) - (TILE_PX - 1) / 2
    tile[np.hypot(y, x) > 6, 3] = 0
    return tile


def recoloured(sheet: Path, path: Path) -> Path:
    """The same sheet in other colours, as another theme of its slots."""
    rgba = np.array(Image.open(sheet).convert("RGBA"))
    rgba[..., :3] = rgba[..., [2, 0, 1]]
    Image.fromarray(rgba).save(path)
    return path


def lamp(path: Path) -> Path:
    """A post with a light, one cell wide and two high."""
    picture = np.zeros((2 * TILE_PX, TILE_PX, 4), np.uint8)
    picture[8:, 7:9] = (70, 60, 52, 255)
    y, x = np.indices((12, TILE_PX))
    picture[:12][np.hypot(y - 5.5, x - 7.5) < 5.5] = (236, 196, 84, 255)
    Image.fromarray(picture).save(path)
    return path


def pyramid(path: Path) -> Path:
    """A mesh: a pyramid as high as it is wide."""
    corners = [(-1, 0, -1), (1, 0, -1), (1, 0, 1), (-1, 0, 1), (0, 2, 0)]
    sides = [(1, 2, 3), (1, 3, 4), (1, 5, 2), (2, 5, 3), (3, 5, 4), (4, 5, 1)]
    lines = [f"v {x} {y} {z}" for x, y, z in corners] + [f"f {a} {b} {c}" for a, b, c in sides]
    path.write_text("\n".join(lines) + "\n")
    return path


def hill(path: Path) -> Path:
    """A grey picture of heights: a round hill eight cells wide."""
    y, x = np.indices((8, 8)) - 3.5
    high = np.clip(4.5 - np.hypot(y, x), 0, 4) / 4 * 255
    Image.fromarray(high.astype(np.uint8), "L").save(path)
    return path
