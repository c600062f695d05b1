"""The tiles of Pump Cellar, seen from the side, lit from above and a little from the west."""

from __future__ import annotations

import numpy as np

from topion.demo.palette import colour
from topion.demo.tiles import SIDE, clear, noise, plain, soft_noise
from topion.grid.arrays import Rgba
from topion.grid.hashing import seed_of, unit

# --- walls of bricks ----------------------------------------------------------------------


def courses(look: str, variant: int, *, high: int, long: int, seed: str) -> Rgba:
    """Courses of bricks that meet those of every other tile of the same look."""
    tile = plain(look)
    for row in range(SIDE // high):
        shift = 0 if row % 2 else long // 2
        for column in range(-1, SIDE // long + 1):
            x = column * long + shift
            tone = unit(seed_of(seed), row, column % (SIDE // long), variant)
            name = f"{look} light" if tone > 0.82 else f"{look} dark" if tone < 0.2 else look
            lo, hi = max(0, x), max(0, min(SIDE, x + long - 1))
            tile[row * high : (row + 1) * high - 1, lo:hi] = colour(name)
            if hi > lo and name != f"{look} dark":
                tile[row * high, lo:hi] = colour(f"{look} light")
            if 0 <= x + long - 1 < SIDE:
                tile[row * high : (row + 1) * high - 1, x + long - 1] = colour(f"{look} joint")
        tile[(row + 1) * high - 1] = colour(f"{look} joint")
    return tile


def vault(variant: int) -> Rgba:
    """The wall behind everything: dull, so that what stands before it is seen."""
    tile = courses("vault", variant, high=4, long=8, seed="vault")
    damp = soft_noise("damp", variant, 2.4)
    if variant == 3:  # a brick that fell out
        tile[4:7, 5:11] = colour("vault deep")
        tile[7, 5:11] = colour("vault light")
    if variant == 4:
        tile[damp > 0.72] = colour("vault dark")
    return tile


def arch(row: int, column: int) -> Rgba:
    """One of 6 by 4 tiles of a blind arch in that wall."""
    tile = vault((row * 3 + column * 5) % 3)
    ys, xs = np.indices((SIDE, SIDE))
    y, x = ys + row * SIDE - 62, xs + column * SIDE - 31.5
    away = np.hypot(x, np.minimum(y, 0))
    inside = away < 26
    ring = (away >= 26) & (away < 31)
    deep = tile.copy()
    deep[..., :3] = (deep[..., :3] * 0.66).astype(np.uint8)
    tile[inside] = deep[inside]
    stones = (np.arctan2(np.minimum(y, 0), x) * 7).astype(int) + np.maximum(y, 0) // 6
    tile[ring] = colour("vault light")
    tile[ring & (stones % 2 == 0)] = colour("vault")
    tile[(away >= 25) & (away < 26)] = colour("vault deep")
    tile[(away >= 31) & (away < 32)] = colour("vault joint")
    return tile


def clay(sides: str, variant: int) -> Rgba:
    """Red brick; `sides` are open: a cap to the north, corner stones at the ends."""
    tile = courses("clay", variant, high=4, long=8, seed="clay")
    if "w" in sides:
        tile[:, :1] = colour("clay light")
        tile[:, 1] = colour("clay joint")
    if "e" in sides:
        tile[:, 14:] = colour("clay deep")
        tile[:, 13] = colour("clay joint")
    if "n" in sides:
        tile[:3] = colour("clay cap")
        tile[0] = colour("clay light")
        tile[3] = colour("clay deep")
        tile[1:3, 7] = colour("clay joint")
    if "s" in sides:
        tile[13:] = colour("clay deep")
        tile[13] = colour("clay dark")
    return tile


# --- stone --------------------------------------------------------------------------------


def stone(sides: str, corners: str, variant: int) -> Rgba:
    """Dressed blocks, 8 px high; `sides` and inner `corners` are open."""
    tile = courses("block", variant, high=8, long=16, seed="block")
    rough = noise("chip", variant)
    tile[(rough > 0.955)] = colour("block dark")
    if "w" in sides:
        tile[:, 0] = colour("block light")
    if "e" in sides:
        tile[:, 15] = colour("block deep")
        tile[:, 14] = colour("block dark")
    if "s" in sides:
        tile[14:] = colour("block deep")
    if "n" in sides:
        tile[:4] = colour("block cap")
        tile[3] = colour("block dark")
        tile[4] = colour("block deep")
        tile[0] = colour("block light")
        tile[1:3, 5 + 4 * (variant % 2)] = colour("block light")
    for name, y, x in (("nw", 0, 0), ("ne", 0, 12), ("sw", 13, 0), ("se", 13, 12)):
        if name in corners.split():
            tile[y : y + 4, x : x + 4] = colour("block cap" if name[0] == "n" else "block deep")
            if name[0] == "n":
                tile[3, x : x + 4] = colour("block dark")
    return tile


def pier(sides: str, variant: int) -> Rgba:
    """A pier of larger stones with a lit west side."""
    tile = courses("block", variant + 7, high=8, long=16, seed="pier")
    tile[..., :3] = (tile[..., :3] * 0.86).astype(np.uint8)
    if "w" in sides:
        tile[:, :2] = colour("block light")
        tile[:, 2] = colour("block joint")
    if "e" in sides:
        tile[:, 13:] = colour("block deep")
        tile[:, 12] = colour("block joint")
    if "n" in sides:
        tile[:6] = colour("block")
        tile[:2] = colour("block cap")
        tile[5] = colour("block deep")
    if "s" in sides:
        tile[10:] = colour("block dark")
        tile[10] = colour("block light")
        tile[15] = colour("block deep")
    return tile


def slope(part: int, run: int) -> Rgba:
    """Part 1 is the low one; it rises to the east by a whole tile over `run` parts."""
    tile = stone("", "", part)
    ys, xs = np.indices((SIDE, SIDE))
    surface = SIDE - (xs + (part - 1) * SIDE + 0.5) / run
    depth = ys + 0.5 - surface
    tile[(depth >= 0) & (depth < 4)] = colour("block cap")
    tile[(depth >= 0) & (depth < 1)] = colour("block light")
    tile[(depth >= 3) & (depth < 4)] = colour("block dark")
    tile[(depth >= 4) & (depth < 5)] = colour("block deep")
    tile[depth < 0] = 0
    return tile


def slope_head() -> Rgba:
    """Level ground that takes over from a slope: no edge to the west, its cap worn there."""
    tile = stone("n", "", 2)
    tile[1:3, 1] = colour("block dark")
    tile[1:3, 9] = colour("block light")
    return tile


def slope_foot() -> Rgba:
    """Loose stones where the slope begins."""
    tile = clear()
    for y, x, wide in ((14, 9, 4), (13, 13, 3), (14, 4, 3)):
        tile[y:, x : x + wide] = colour("block")
        tile[y, x : x + wide - 1] = colour("block light")
        tile[15, x + 1 : x + wide] = colour("block dark")
    return tile


# --- steel --------------------------------------------------------------------------------

_PROFILE = ("steel dark", "steel light", "steel glint", "steel light", "steel", "steel",
            "steel dark", "steel dark", "steel deep")  # fmt: skip


def pipe(role: str) -> Rgba:
    """A pipe that lies from west to east, with a collar at its ends."""
    tile = clear()
    for number, name in enumerate(_PROFILE):
        tile[3 + number, :] = colour(name)
    tile[12] = colour("shade", 90)
    if role == "joint":
        _collar(tile, 6)
    if role in ("start", "alone"):
        tile[:, :3] = 0
        _collar(tile, 2)
        tile[5:10, 1] = colour("steel deep")
    if role in ("end", "alone"):
        tile[:, 13:] = 0
        _collar(tile, 10)
        tile[5:10, 14] = colour("steel deep")
    return tile


def _collar(tile: Rgba, left: int) -> None:
    tile[2:13, left : left + 4] = colour("steel dark")
    tile[3:6, left : left + 4] = colour("steel light")
    tile[4, left : left + 4] = colour("steel glint")
    tile[2:13, left + 3] = colour("steel deep")
    tile[12, left : left + 4] = colour("steel deep")


def drain(role: str) -> Rgba:
    """The same standing: lit on its west side."""
    lying = {"top": "start", "bottom": "end", "single": "alone", "joint": "joint"}
    tile = np.ascontiguousarray(pipe(lying.get(role, "middle")).transpose(1, 0, 2))
    if role in ("top", "single"):
        tile[0:2, 3:12] = colour("steel dark")
        tile[0, 3:12] = colour("steel light")
    return tile


# --- wood ---------------------------------------------------------------------------------


def gangway(links: str) -> Rgba:
    """A walkway of planks on an iron frame; where it goes up or down, a ladder."""
    tile = clear()
    up, down = "n" in links, "s" in links
    level = "e" in links or "w" in links or not links
    if up or down:
        _ladder(tile, 0 if up else 1, 6 if up and level and not down else SIDE)
    if level:
        left, right = (0 if "w" in links else 1), (SIDE if "e" in links else 15)
        _planks(tile, left, right, hatch=up or down)
    return tile


def _ladder(tile: Rgba, top: int, bottom: int) -> None:
    for x in (3, 11):
        tile[top:bottom, x : x + 2] = colour("wood dark")
        tile[top:bottom, x] = colour("wood light")
    for y in range(2, SIDE, 5):
        if top <= y < bottom:
            tile[y, 4:12] = colour("wood")
            tile[y + 1 : y + 2, 5:11] = colour("wood deep")


def _planks(tile: Rgba, left: int, right: int, *, hatch: bool) -> None:
    tile[1:4, left:right] = colour("wood")
    tile[1, left:right] = colour("wood light")
    tile[3, left:right] = colour("wood deep")
    tile[1:4, left + 4 : right : 5] = colour("wood deep")
    tile[4:6, left:right] = colour("steel dark")
    tile[4, left:right] = colour("steel deep")
    tile[6, left:right] = colour("shade", 80)
    if hatch:
        tile[1:4, 5:11] = colour("wood dark")
        tile[1, 5:11] = colour("wood light")


# --- water and moss -----------------------------------------------------------------------


def cellar_water(surface: bool, frame: int) -> Rgba:
    """Water one looks into from the side, with a moving surface."""
    tile = np.tile(colour("water", 176), (SIDE, SIDE, 1))
    ys, xs = np.indices((SIDE, SIDE))
    tile[(ys * 3 + xs + frame * 4) % 29 == 0] = colour("water light", 190)
    if surface:
        wave = np.rint(1.2 + 0.9 * np.sin((xs + frame * 4) / SIDE * 2 * np.pi)).astype(int)
        tile[ys < wave] = 0
        tile[ys == wave] = colour("foam", 235)
        tile[ys == wave + 1] = colour("water glint", 220)
        tile[ys == wave + 2] = colour("water light", 205)
    return tile


def moss(sides: str, variant: int) -> Rgba:
    """Moss on stone: it hangs from edges above, and thins out below; clear between."""
    tile = clear()
    field = soft_noise("moss", variant, 1.5)
    ys, xs = np.indices((SIDE, SIDE))
    hang = np.tile(soft_noise("hang", variant, 1.1)[:1], (SIDE, 1))
    grows = field > 0.74
    if "n" in sides:
        grows |= ys < 2 + 7 * hang**1.6
    for side, away in (("w", xs), ("e", SIDE - 1 - xs)):
        if side in sides:
            grows &= away > 2 * field[:, ::-1]
    if "s" in sides:
        grows &= ys < SIDE - 3 - 4 * hang
    tile[grows] = colour("moss")
    tile[grows & (noise("leaf", variant) > 0.72)] = colour("moss light")
    tile[grows & (noise("gap", variant) > 0.8)] = colour("moss dark")
    tile[grows & ~np.roll(grows, -1, axis=0)] = colour("moss dark")
    if "n" in sides:
        tile[0][grows[0]] = colour("moss light")
    return tile


def lamp(row: int, column: int) -> Rgba:
    """One of 5 by 4 tiles of a lamp on a chain, in its own light."""
    picture = np.zeros((80, 64, 4), np.uint8)
    ys, xs = np.indices(picture.shape[:2])
    away = np.hypot((ys - 38) / 1.15, xs - 31.5)
    glow = np.clip(1 - away / 32, 0, 1) ** 1.7
    picture[..., :3] = colour("lamp")[:3]
    picture[..., 3] = (glow * 92).astype(np.uint8)
    for y in range(32):
        picture[y, 31 + (y % 4 > 1)] = colour("iron")
    picture[32:34, 28:36] = colour("iron")
    picture[34, 27:37] = colour("ink")
    picture[35:42, 28:36] = colour("lamp")
    picture[35:41, 29:33] = colour("lamp light")
    picture[35:42, 27] = picture[35:42, 36] = colour("ink")
    picture[42:44, 28:36] = colour("iron")
    part = picture[row * SIDE : (row + 1) * SIDE, column * SIDE : (column + 1) * SIDE]
    return np.ascontiguousarray(part)
