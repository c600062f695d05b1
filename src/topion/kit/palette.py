"""The few colours of the kit: warm greys, and one colour for each thing that means something."""

from __future__ import annotations

from topion.grid.arrays import Rgba

COLOURS = {
    "ground": "#8f8d87", "ground light": "#bab7ae", "ground pale": "#d6d2c7",
    "ground dark": "#6f6d68", "ground deep": "#56544f", "ground line": "#84827c",
    "floor": "#c9c4b7", "floor light": "#dfdacd", "floor dark": "#a9a497", "floor deep": "#8f8a7e",
    "floor line": "#bdb8ab",
    "wall": "#5b6368", "wall light": "#869097", "wall pale": "#a5aeb4", "wall dark": "#434a4f",
    "wall deep": "#31373b", "wall line": "#525a5f",
    "back": "#ded8cb", "back line": "#d2cbbd", "back mark": "#bdb5a5",
    "platform": "#b5a98f", "platform light": "#d4c9b0", "platform dark": "#857a64",
    "platform deep": "#6a604d",
    "plank": "#b58f58", "plank light": "#d3b07a", "plank dark": "#8a6a3d", "plank deep": "#644b29",
    "water": "#3b8793", "water light": "#6fb3ba", "water dark": "#2d6b76",
    "ink": "#22303a", "card": "#fbfaf5", "buoy": "#cf4a25", "buoy dark": "#9c3418",
    "tidal": "#23786f", "tidal light": "#3f9e93", "ochre": "#d79c2f", "ochre light": "#f3cd72",
    "ochre dark": "#9a6b17", "skin": "#e0b48c",
}  # fmt: skip


def rgba(name: str, alpha: int = 255) -> tuple[int, int, int, int]:
    """A colour by its name."""
    code = COLOURS[name]
    return int(code[1:3], 16), int(code[3:5], 16), int(code[5:7], 16), alpha


def fill(tile: Rgba, box: tuple[float, float, float, float], name: str) -> None:
    """Fill a box (y, x, y, x), each from 0 to 1 of the side, with a colour, in place."""
    high, wide = tile.shape[:2]
    y0, x0, y1, x1 = (round(v * n) for v, n in zip(box, (high, wide, high, wide), strict=True))
    tile[y0 : max(y1, y0 + 1), x0 : max(x1, x0 + 1)] = rgba(name)
