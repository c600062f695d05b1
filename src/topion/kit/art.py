"""The tiles of the kit, drawn for any tile size, lit from the north-west."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial

import numpy as np

from topion.grid.arrays import Rgba
from topion.grid.neighbours import NE, NW, SE, SW, E, N, S, W, cases_47
from topion.kit.palette import fill, rgba

Draw = Callable[[int], Rgba]
SIDES_16 = tuple(sum(d for i, d in enumerate((N, W, E, S)) if k >> i & 1) for k in range(16))
INSIDE = cases_47()[-1]
LOOKS = ("ground", "floor", "wall")  # that are woven
RUNS = (1, 2)  # cells along for one up, of the slopes
_CORNERS = ((NW, N, W), (NE, N, E), (SW, S, W), (SE, S, E))


def pictures() -> Iterator[tuple[str, Draw]]:
    """(slot name, what draws it at a tile size) of all tiles."""
    for look in LOOKS:
        for mask in cases_47():
            yield f"{look} {mask}", partial(woven, look, mask)
        yield f"{look} marked", partial(marked, look)
    for name in ("back", "back marked"):
        yield name, partial(back, name)
    for name in ("water surface", "water"):
        yield name, partial(water, name)
    for mask in SIDES_16:
        yield f"platform {mask}", partial(platform, mask)
        yield f"plank {mask}", partial(plank, mask)
        yield f"ladder {mask}", partial(ladder, mask)
    for run in RUNS:
        for part in range(1, run + 1):
            yield f"slope {run} {part}", partial(slope, run, part)
            yield f"under {run} {part}", partial(slope, run, part, under=True)


def blank(px: int) -> Rgba:
    """(px, px, 4) nothing."""
    return np.zeros((px, px, 4), np.uint8)


def _px(px: int, share: float) -> int:
    """A share of a tile in px, one at least."""
    return max(1, round(px * share))


def woven(look: str, mask: int, px: int) -> Rgba:
    """A cell of a look whose neighbours are alike where the mask has them."""
    tile = blank(px)
    tile[...] = rgba(look)
    tile[-1, :] = tile[:, -1] = rgba(f"{look} line")  # cells can be counted
    top, side, foot = _px(px, 3 / 16), _px(px, 1 / 16), _px(px, 2 / 16)
    if not mask & S:
        tile[-foot:] = rgba(f"{look} dark")
        tile[-1] = rgba(f"{look} deep")
    if not mask & E:
        tile[:, -foot:] = rgba(f"{look} dark")
        tile[:, -1] = rgba(f"{look} deep")
    if not mask & W:
        tile[:, :side] = rgba(f"{look} light")
    if not mask & N:
        tile[:top] = rgba(f"{look} light")
        tile[0] = rgba(f"{look} light")
        tile[top] = rgba(f"{look} dark")
    for corner, a, b in _CORNERS:
        if mask & a and mask & b and not mask & corner:
            high = top if corner in (NW, NE) else foot
            wide = side if corner in (NW, SW) else foot
            rows = slice(0, high) if corner in (NW, NE) else slice(px - high, px)
            columns = slice(0, wide) if corner in (NW, SW) else slice(px - wide, px)
            tile[rows, columns] = rgba(f"{look} {'light' if corner in (NW, NE) else 'dark'}")
    return tile


def marked(look: str, px: int) -> Rgba:
    """An inside cell with a small cross, a rare one, for the eye to hold on to."""
    tile = woven(look, INSIDE, px)
    _cross(tile, f"{look} dark")
    return tile


def _cross(tile: Rgba, name: str) -> None:
    px = len(tile)
    middle, arm = px // 2, _px(px, 2 / 16)
    tile[middle, middle - arm : middle + arm + 1] = rgba(name)
    tile[middle - arm : middle + arm + 1, middle] = rgba(name)


def back(name: str, px: int) -> Rgba:
    """Squared paper behind everything."""
    tile = blank(px)
    tile[...] = rgba("back")
    tile[-1, :] = tile[:, -1] = rgba("back line")
    if name.endswith("marked"):
        _cross(tile, "back mark")
    return tile


def water(name: str, px: int) -> Rgba:
    """Clear enough to see what is behind; its surface is a light line with room above."""
    tile = blank(px)
    tile[...] = rgba("water", 200)
    if name.endswith("surface"):
        tile[: _px(px, 2 / 16)] = 0
        tile[_px(px, 2 / 16) : _px(px, 2 / 16) + _px(px, 1.5 / 16)] = rgba("water light", 230)
    else:
        y, long = px // 2, _px(px, 4 / 16)
        tile[y, long : 2 * long] = rgba("water light", 200)
    return tile


def platform(mask: int, px: int) -> Rgba:
    """A slab with a frame where it ends, and a brace in each cell."""
    tile = blank(px)
    tile[...] = rgba("platform")
    edge = _px(px, 1.5 / 16)
    y, x = np.indices((px, px))
    brace = np.abs(y - x) < max(1, px / 16)
    brace |= np.abs(y + x - px + 1) < max(1, px / 16)
    tile[brace] = rgba("platform light")
    for bit, line in ((N, tile[edge]), (W, tile[:, edge])):
        if not mask & bit:
            line[...] = rgba("platform dark")
    for bit, where in ((N, np.s_[:edge]), (W, np.s_[:, :edge]), (S, np.s_[-edge:]),
                       (E, np.s_[:, -edge:])):  # fmt: skip
        if not mask & bit:
            tile[where] = rgba("platform light" if bit in (N, W) else "platform deep")
    return tile


def plank(mask: int, px: int) -> Rgba:
    """Boards that lead to the sides of the mask, with rims where they end."""
    tile = blank(px)
    lo, hi = _px(px, 3 / 16), px - _px(px, 3 / 16)
    shown = np.zeros((px, px), bool)
    shown[lo:hi, lo:hi] = True
    for bit, where in ((N, np.s_[:lo, lo:hi]), (S, np.s_[hi:, lo:hi]), (W, np.s_[lo:hi, :lo]),
                       (E, np.s_[lo:hi, hi:])):  # fmt: skip
        if mask & bit:
            shown[where] = True
    across = not (mask & (W | E)) and bool(mask & (N | S))
    y, x = np.indices((px, px))
    along = y if across else x
    board = along // max(2, px // 4)
    tile[shown] = rgba("plank")
    tile[shown & (board % 2 == 1)] = rgba("plank light")
    tile[shown & (along % max(2, px // 4) == 0)] = rgba("plank dark")
    inner = np.pad(shown, 1, mode="edge")
    rim = shown & ~(inner[:-2, 1:-1] & inner[2:, 1:-1] & inner[1:-1, :-2] & inner[1:-1, 2:])
    tile[rim] = rgba("plank deep")
    return tile


def ladder(mask: int, px: int) -> Rgba:
    """Two rails and rungs."""
    tile = blank(px)
    rail, rung = _px(px, 2 / 16), _px(px, 1.5 / 16)
    left = _px(px, 3 / 16)
    for y in range(_px(px, 2 / 16), px, max(2, px // 4)):
        tile[y : y + rung, left : px - left] = rgba("plank light")
    tile[:, left : left + rail] = rgba("plank")
    tile[:, px - left - rail : px - left] = rgba("plank dark")
    if not mask & N:
        tile[: _px(px, 1 / 16)] = 0
    return tile


def slope(run: int, part: int, px: int, *, under: bool = False) -> Rgba:
    """A part of a slope that rises to the east by one cell on `run`, its low end first; or the
    cell right under it."""
    tile = blank(px)
    y, x = np.indices((px, px)) + 0.5
    top = px * (1 - (part - 1 + x / px) / run) - px * under
    depth = y - top
    tile[depth >= 0] = rgba("ground")
    if under:
        tile[-1, :] = tile[:, -1] = rgba("ground line")
    hatch = (np.floor(x + y) % max(3, px // 3) < 1) & (depth > px * 5 / 16) & (not under)
    tile[hatch] = rgba("ground line")
    light, dark = max(1.5, px * 3.2 / 16), max(2.5, px * 4.4 / 16)
    tile[(depth >= 0) & (depth < dark)] = rgba("ground dark")
    tile[(depth >= 0) & (depth < light)] = rgba("ground light")
    return tile


# --- faces of blocks ----------------------------------------------------------------------


def faces() -> Iterator[tuple[str, Draw]]:
    """(slot name, what draws it) of the tiles on blocks."""
    for look in LOOKS:
        yield f"{look} top", partial(_top, look)
        yield f"{look} side", partial(_side, look)
    yield "platform face", partial(platform, 0)


def _top(look: str, px: int) -> Rgba:
    tile = blank(px)
    tile[...] = rgba(f"{look} light")
    tile[-1, :] = tile[:, -1] = rgba(look)
    return tile


def _side(look: str, px: int) -> Rgba:
    tile = blank(px)
    tile[...] = rgba(look)
    tile[-1, :] = tile[:, -1] = rgba(f"{look} line")
    return tile


def box_colour(name: str) -> str:
    """`#rrggbb` of a colour of the kit."""
    return "#{:02x}{:02x}{:02x}".format(*rgba(name)[:3])


__all__ = ["INSIDE", "LOOKS", "RUNS", "SIDES_16", "Draw", "box_colour", "faces", "fill", "pictures"]
