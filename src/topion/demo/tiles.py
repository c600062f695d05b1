"""The tiles of Brinehollow, drawn 16 px square under one light from the north-west."""

from __future__ import annotations

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.demo.palette import colour
from topion.grid.arrays import CellMask, Rgba
from topion.grid.hashing import seed_of, unit
from topion.grid.neighbours import NE, NW, SE, SW, E, N, S, W, bits_of

SIDE = 16


def plain(name: str) -> Rgba:
    return np.tile(colour(name), (SIDE, SIDE, 1))


def clear() -> Rgba:
    return np.zeros((SIDE, SIDE, 4), np.uint8)


def noise(seed: str, variant: int = 0) -> NDArray[np.float64]:
    """(16, 16) even noise, by name and variant."""
    ys, xs = np.indices((SIDE, SIDE))
    return unit(seed_of(seed) + variant, ys, xs)


def soft_noise(seed: str, variant: int, sigma: float) -> NDArray[np.float64]:
    """(16, 16) smooth noise in 0…1 that repeats without a seam."""
    smooth = scipy.ndimage.gaussian_filter(noise(seed, variant), sigma, mode="wrap")
    lo, hi = smooth.min(), smooth.max()
    return np.asarray((smooth - lo) / (hi - lo))


def calm_middle() -> NDArray[np.float64]:
    """1 in the middle of a tile, 0 at its border: where variants may differ."""
    ys, xs = np.indices((SIDE, SIDE))
    edge = np.minimum.reduce([ys, xs, SIDE - 1 - ys, SIDE - 1 - xs])
    return np.clip(edge / 3.0, 0, 1)


def strokes(
    tile: Rgba, seed: str, variant: int, name: str, count: int, length: int, lit: str = ""
) -> None:
    """A few short level strokes, as of a broad brush; with a lit pixel row above, if wanted."""
    for i in range(count):
        y = 1 + int(unit(seed_of(seed), variant, i, 0) * 14)
        x = 1 + int(unit(seed_of(seed), variant, i, 1) * (SIDE - 1 - length))
        run = 1 + int(unit(seed_of(seed), variant, i, 2) * length)
        tile[y, x : x + run] = colour(name)
        if lit:
            tile[y - 1, x : x + max(1, run - 1)] = colour(lit)


# --- ground -------------------------------------------------------------------------------


def mud_inside(variant: int) -> Rgba:
    tile = plain("mud")
    patch = soft_noise("mud patch", variant, 2.2) * calm_middle()
    tile[patch > 0.62] = colour("mud light")
    strokes(tile, "mud crack", variant, "mud dark", 2 + variant % 3, 3)
    if variant == 2:  # a shell
        tile[6:8, 9:11] = colour("sand light")
        tile[7, 10] = colour("sand")
        tile[8, 9:11] = colour("mud deep")
    if variant == 3:  # a small pool
        tile[8:11, 4:9] = colour("mud dark")
        tile[9:10, 5:8] = colour("water")
        tile[11, 5:8] = colour("mud light")
    return tile


def grass_inside(variant: int) -> Rgba:
    tile = plain("grass")
    patch = soft_noise("grass patch", variant, 1.8) * calm_middle()
    tile[patch > 0.6] = colour("grass light")
    for i in range(4 + variant):
        y = 3 + int(unit(seed_of("blade"), variant, i, 0) * 11)
        x = 1 + int(unit(seed_of("blade"), variant, i, 1) * 13)
        tile[y - 2 : y, x] = colour("grass dark")
        tile[y - 1, x + 1] = colour("grass light")
    if variant == 3:  # sea lavender
        for y, x in ((4, 5), (10, 11), (11, 4)):
            tile[y, x] = np.array([181, 152, 178, 255], np.uint8)
            tile[y + 1, x] = colour("grass deep")
    return tile


def rounded(
    mask: int, seed: str, inset: float, wobble: float
) -> tuple[CellMask, NDArray[np.float64]]:
    """Where a material with these like neighbours covers its tile, and (48, 48) the field
    whose zero line is its shore.  Neighbouring tiles agree along their borders."""
    solid = np.kron(bits_of(mask), np.ones((SIDE, SIDE)))
    field = scipy.ndimage.gaussian_filter(solid, 2.4, mode="nearest") - inset
    ripple = np.tile(soft_noise(seed, 0, 1.3) - 0.5, (3, 3))
    field = field + wobble * ripple * (solid < 1.1)
    field[solid * (scipy.ndimage.uniform_filter(solid, 9, mode="nearest") > 0.999) > 0] = 1.0
    middle = slice(SIDE, 2 * SIDE)
    return field[middle, middle] > 0, field


def shore(mask: int, inside: Rgba, look: dict[str, str], seed: str, face_px: int) -> Rgba:
    """A material with a worn edge: lit to the north and west, a dark face to the south."""
    covered, field = rounded(mask, seed, 0.62, 0.24)
    whole = field > 0
    middle = slice(SIDE, 2 * SIDE)

    def open_by(dy: int, dx: int) -> CellMask:
        """Pixels whose neighbour at (dy, dx) lies off the material."""
        moved = np.zeros_like(whole)
        src = whole[max(0, dy) : 48 + min(0, dy), max(0, dx) : 48 + min(0, dx)]
        moved[max(0, -dy) : 48 + min(0, -dy), max(0, -dx) : 48 + min(0, -dx)] = src
        return covered & ~moved[middle, middle]

    tile = inside.copy()
    tile[open_by(0, 2) | open_by(2, 0)] = colour(look["rim shade"])
    tile[open_by(-2, 0) | open_by(0, -2)] = colour(look["rim"])
    tile[open_by(-1, 0) | open_by(0, -1)] = colour(look["rim light"])
    tile[open_by(0, 1)] = colour(look["rim"])
    for step in range(face_px, 0, -1):
        tile[open_by(step, 0)] = colour(look["face"] if step < face_px else look["lip"])
    tile[~covered] = 0
    if look.get("foam"):
        around = scipy.ndimage.binary_dilation(whole, iterations=1)[middle, middle] & ~covered
        tile[around] = colour(look["foam"], 170)
        below = np.roll(whole, 2, axis=0)[middle, middle] & ~covered & ~around
        tile[below] = colour("shade", 60)
    return tile


MUD = {"rim": "sand", "rim light": "sand light", "rim shade": "mud dark", "face": "mud face",
       "lip": "mud deep", "foam": "foam"}  # fmt: skip
GRASS = {"rim": "grass light", "rim light": "grass light", "rim shade": "grass dark",
         "face": "grass deep", "lip": "grass dark"}  # fmt: skip


# --- water --------------------------------------------------------------------------------


def water_inside(variant: int, frame: int, look: str) -> Rgba:
    """Level water with a few glints that drift and fade, four frames a round."""
    tile = plain(look)
    light, glint = f"{look} light", f"{look} glint"
    for i in range(2 + variant % 2):
        y = 2 + int(unit(seed_of(look), variant, i, 0) * 12)
        x = int(unit(seed_of(look), variant, i, 1) * 9) + (0, 1, 2, 1)[frame]
        run = 3 + int(unit(seed_of(look), variant, i, 2) * 3)
        tile[y, x + 1 : min(15, x + run + 1)] = colour(light)
        if (frame + i) % 4 < 2:
            tile[y, x + 2 : min(14, x + run)] = colour(glint)
    return tile


def deep_edge(mask: int) -> Rgba:
    """Deep water giving way to shallow: one soft step, so that the edge stays quiet."""
    tile = plain("water")
    _, field = rounded(mask, "deep shore", 0.66, 0.30)
    middle = slice(SIDE, 2 * SIDE)
    tile[field[middle, middle] > 0.0] = colour("deep light")
    tile[field[middle, middle] > 0.24] = colour("deep")
    return tile


# --- brine pans ---------------------------------------------------------------------------


def brine_inside(variant: int) -> Rgba:
    tile = plain("brine")
    crust = soft_noise("crust", variant, 1.6) * calm_middle()
    tile[crust > 0.55] = colour("brine light")
    tile[(crust > 0.30) & (crust < 0.36)] = colour("brine dark")
    if variant == 1:
        tile[(soft_noise("rose", variant, 2.0) * calm_middle()) > 0.7] = colour("brine rose")
    if variant == 2:  # a raked heap
        tile[6:9, 5:11] = colour("brine light")
        tile[9, 5:12] = colour("brine dark")
    return tile


def pan(mask: int, variant: int) -> Rgba:
    """Brine in a timber frame; the frame throws its shade on the north and west."""
    tile = brine_inside(variant)
    open_ = {d: not mask & d for d in (N, S, W, E)}
    if open_[N]:
        tile[4:6] = colour("brine dark")
    if open_[W]:
        tile[:, 4:5] = colour("brine dark")
    for side, box in (
        (N, (0, 4, 0, 16)),
        (S, (12, 16, 0, 16)),
        (W, (0, 16, 0, 4)),
        (E, (0, 16, 12, 16)),
    ):
        if open_[side]:
            _beam(tile, *box)
    inner = ((NW, N, W, 0, 0), (NE, N, E, 0, 12), (SW, S, W, 12, 0), (SE, S, E, 12, 12))
    for corner, a, b, y, x in inner:
        if mask & a and mask & b and not mask & corner:
            _beam(tile, y, y + 4, x, x + 4)
    return tile


def _beam(tile: Rgba, top: int, bottom: int, left: int, right: int) -> None:
    tile[top:bottom, left:right] = colour("wood dark")
    tile[top : top + 1, left:right] = colour("wood light")
    tile[top:bottom, left : left + 1] = colour("wood")
    tile[bottom - 1 : bottom, left:right] = colour("wood deep")
    tile[top + 1 : bottom - 1, left + 1 : right : 8] = colour("wood")


# --- boardwalk ----------------------------------------------------------------------------


def boardwalk(mask: int, variant: int) -> Rgba:
    """Planks across the way, on posts; the deck stands two pixels above its shade."""
    tile = clear()
    n, s, w, e = (bool(mask & d) for d in (N, S, W, E))
    top, bottom = (0 if n else 2), (16 if s else 13)
    left, right = (0 if w else 2), (16 if e else 14)
    if not s:
        tile[bottom : bottom + 2, left:right] = colour("shade", 110)
    if not e:
        tile[top:bottom, right : right + 1] = colour("shade", 70)
    along_x = (w or e) and not (n and s and not (w and e))
    for y in range(top, bottom):
        for x in range(left, right):
            place = x if along_x else y
            board = place // 4
            tone = unit(seed_of("board"), board, variant, int(along_x))
            name = "wood light" if tone > 0.78 else "wood dark" if tone < 0.12 else "wood"
            tile[y, x] = colour("wood deep" if place % 4 == 3 else name)
    if not n:
        tile[top, left:right] = colour("wood light")
    if not s:
        tile[bottom - 1, left:right] = colour("wood deep")
    if not w:
        tile[top:bottom, left] = colour("wood light")
    if not e:
        tile[top:bottom, right - 1] = colour("wood deep")
    if variant == 2:
        y, x = (top + bottom) // 2, (left + right) // 2
        tile[y, x : x + 2] = colour("wood deep")  # a knot
    if not s and variant == 1:
        tile[bottom - 1 : 16, 7:9] = colour("wood deep")  # a post below
    return tile


# --- sheds --------------------------------------------------------------------------------


def brick(mask: int, variant: int) -> Rgba:
    """A wall seen from the south: courses of brick, a lit cap, a dark foot."""
    tile = plain("brick")
    for row in range(4):
        shift = 0 if row % 2 else 4
        for column in range(-1, 3):
            x = column * 8 + shift
            tone = unit(seed_of("brick"), row, column % 2, variant)
            name = "brick light" if tone > 0.8 else "brick dark" if tone < 0.16 else "brick"
            tile[row * 4 : row * 4 + 3, max(0, x) : max(0, min(16, x + 7))] = colour(name)
            if 0 <= x + 7 < 16:
                tile[row * 4 : row * 4 + 3, x + 7] = colour("mortar")
        tile[row * 4 + 3] = colour("mortar")
    if not mask & W:
        tile[:, 0] = colour("brick light")
    if not mask & E:
        tile[:, 14:] = colour("brick deep")
    if not mask & N:
        tile[:2] = colour("brick cap")
        tile[2] = colour("brick deep")
    if not mask & S:
        tile[13:15] = colour("brick deep")
        tile[15] = colour("shade")
    return tile


def slate(mask: int, variant: int) -> Rgba:
    """A slate roof falling to the south; the ridge catches the light."""
    tile = plain("slate")
    for row in range(4):
        shift = 0 if row % 2 else 3
        tone_row = 0.06 * row
        for column in range(-1, 4):
            x = column * 6 + shift
            tone = unit(seed_of("slate"), row, column, variant) - tone_row
            name = "slate light" if tone > 0.72 else "slate dark" if tone < 0.08 else "slate"
            tile[row * 4 : row * 4 + 3, max(0, x) : max(0, min(16, x + 5))] = colour(name)
            if 0 <= x + 5 < 16:
                tile[row * 4 + 1 : row * 4 + 3, x + 5] = colour("slate dark")
        tile[row * 4 + 3] = colour("slate dark")
    if not mask & W:
        tile[:, :2] = colour("slate light")
    if not mask & E:
        tile[:, 14:] = colour("slate deep")
    if not mask & N:
        tile[:3] = colour("slate light")
        tile[0] = colour("stone light")
    if not mask & S:
        tile[13:15] = colour("slate deep")
        tile[15] = colour("shade")
    return tile


# --- stone --------------------------------------------------------------------------------


def cobbles(variant: int) -> Rgba:
    """Round stones on a fixed layout that repeats without a seam; their tones vary."""
    middles = np.array(
        [(2, 2), (2, 7), (2.5, 12.5), (7, 4.5), (7, 10), (7.5, 15), (12, 2), (12.5, 7), (12, 12.5)]
    )
    ys, xs = np.indices((SIDE, SIDE))
    gaps = []
    for y, x in middles:
        dy = (ys - y + 8) % SIDE - 8
        dx = (xs - x + 8) % SIDE - 8
        gaps.append(np.hypot(dy * 1.1, dx))
    order = np.sort(np.array(gaps), axis=0)
    nearest = np.argmin(np.array(gaps), axis=0)
    tile = plain("joint")
    for i in range(len(middles)):
        tone = unit(seed_of("cobble"), variant, i)
        name = "stone light" if tone > 0.7 else "stone dark" if tone < 0.3 else "stone"
        stone = (nearest == i) & (order[1] - order[0] > 0.9)
        tile[stone] = colour(name)
        top = stone & ~np.roll(stone, 1, axis=0)
        tile[top] = colour("stone light")
    return tile
