"""Draws the sheet of Pump Cellar: `python -m topion.demo.cellar_art` writes it beside this file."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator
from functools import lru_cache, partial
from importlib import resources
from pathlib import Path

import numpy as np

from topion.demo import cellar_tiles as tiles
from topion.demo.palette import colour
from topion.grid.arrays import Rgba
from topion.model.tileset import Cut, Slot, TileRef, TileSet
from topion.pictures.png import png_bytes, read_png

COLUMNS = 12
SHEET = "Cellar"
NINE = ("nw", "n", "ne", "w", "", "e", "sw", "s", "se")
THIN = ("nwe", "we", "swe", "nsw", "ns", "nse", "nswe")
ARCH = (4, 4)  # tiles
LAMP = (5, 4)
FRAMES = 4
_SOLID = ("stone", "slope", "fill", "head", "clay", "pier")
_CLIMBED = ("n", "ns", "s")


def pictures() -> Iterator[tuple[str, Callable[[], Rgba]]]:
    """(slot name, what draws it) of every tile, in the order of the sheet."""
    for variant in range(5):
        yield f"vault {'abcde'[variant]}", partial(tiles.vault, variant)
    for row, column in itertools.product(*map(range, ARCH)):
        yield f"arch {row} {column}", partial(tiles.arch, row, column)
    for sides, variant in itertools.product((*NINE, *THIN), range(3)):
        if variant == 0 or not sides:
            yield f"clay {sides} {'abc'[variant]}", partial(tiles.clay, sides, variant)
    for sides in (*NINE, *THIN):
        yield f"pier {sides}", partial(tiles.pier, sides, 0)
    for sides, variant in itertools.product(NINE, range(3)):
        if variant == 0 or sides in ("", "n"):
            yield f"stone {sides} {'abc'[variant]}", partial(tiles.stone, sides, "", variant)
    for corner in ("nw", "ne", "sw", "se"):
        yield f"stone inner {corner}", partial(tiles.stone, "", corner, 1)
    for part in (1, 2):
        yield f"slope {part}", partial(tiles.slope, part, 2)
    yield "slope head", tiles.slope_head
    yield "slope foot", tiles.slope_foot
    for role in ("start", "middle", "joint", "end", "alone"):
        yield f"pipe {role}", partial(tiles.pipe, role)
    for role in ("top", "upright", "joint", "bottom", "single"):
        yield f"drain {role}", partial(tiles.drain, role)
    for count in range(5):
        for links in itertools.combinations("nesw", count):
            yield f"gangway {''.join(links)}", partial(tiles.gangway, "".join(links))
    for surface, frame in itertools.product((True, False), range(FRAMES)):
        name = "surface" if surface else "body"
        yield f"water {name} {frame}", partial(tiles.cellar_water, surface, frame)
    for row, column in itertools.product(*map(range, LAMP)):
        yield f"lamp {row} {column}", partial(tiles.lamp, row, column)
    for sides, variant in itertools.product((*NINE, *THIN), range(3)):
        yield f"moss {sides} {'abc'[variant]}", partial(tiles.moss, sides, variant)


def drawn_sheet() -> Rgba:
    """The whole sheet, drawn anew."""
    found = [draw() for _, draw in pictures()]
    rows = -(-len(found) // COLUMNS)
    side = tiles.SIDE
    sheet = np.zeros((rows * side, COLUMNS * side, 4), np.uint8)
    for number, picture in enumerate(found):
        y, x = (v * side for v in divmod(number, COLUMNS))
        sheet[y : y + side, x : x + side] = picture
    return sheet


@lru_cache(maxsize=1)
def slot_places() -> dict[str, tuple[int, int]]:
    return {name: divmod(number, COLUMNS) for number, (name, _) in enumerate(pictures())}


def tileset() -> TileSet:
    """The tile set, from the sheet kept in the repository."""
    data = resources.files("topion.demo").joinpath("art/cellar.png").read_bytes()
    slots = {name: _slot(name, at) for name, at in slot_places().items()}
    cut = Cut((tiles.SIDE, tiles.SIDE))
    return TileSet(SHEET, read_png(data, "cellar.png"), cut, slots)


def _slot(name: str, at: tuple[int, int]) -> Slot:
    look, _, rest = name.partition(" ")
    if look == "water":
        kind, frame = rest.split()
        frames = tuple(slot_places()[f"water {kind} {n}"] for n in range(1, FRAMES))
        return Slot(at, tags=("water",), frames=frames if frame == "0" else (), frame_ms=320)
    if look == "gangway":
        walked = not rest or "e" in rest or "w" in rest
        return Slot(at, tags=("gangway",), carries=walked, climbable="n" in rest or "s" in rest)
    heights = {"slope 1": (0.0, 0.5), "slope 2": (0.5, 1.0)}.get(name, ())
    return Slot(at, tags=(look,), solid=look in _SOLID and rest != "foot", opening=look == "pier",
                heights=heights)  # fmt: skip


def ref(name: str) -> TileRef:
    """The tile of a slot."""
    return TileRef(SHEET, name)


# --- things -------------------------------------------------------------------------------


def wheel() -> Rgba:
    """A valve wheel of red iron on its stem; (16, 16, 4)."""
    picture = np.zeros((16, 16, 4), np.uint8)
    ys, xs = np.indices((16, 16))
    away = np.hypot(ys - 7.5, xs - 7.5)
    rim = (away > 5) & (away < 7.3)
    picture[rim] = colour("clay")
    picture[rim & (ys + xs < 13)] = colour("clay light")
    picture[rim & (ys + xs > 19)] = colour("clay deep")
    spokes = (np.abs(ys - xs) < 1.2) | (np.abs(ys + xs - 15) < 1.2)
    picture[spokes & (away <= 5)] = colour("clay dark")
    picture[away < 2] = colour("steel light")
    return picture


def gate() -> Rgba:
    """A sluice gate of planks in an iron frame; (64, 48, 4)."""
    picture = np.zeros((64, 48, 4), np.uint8)
    picture[:, 2:46] = colour("block deep")
    picture[2:, 4:44] = colour("block dark")
    picture[:3, :] = colour("block cap")
    picture[2, :] = colour("block dark")
    picture[8:64, 9:39] = colour("vault deep")
    for column in range(10, 38, 7):
        picture[14:64, column : column + 6] = colour("wood dark")
        picture[14:64, column] = colour("wood")
        picture[14:64, column + 5] = colour("wood deep")
    for y in (22, 44):
        picture[y : y + 4, 9:39] = colour("steel dark")
        picture[y, 9:39] = colour("steel light")
        picture[y + 3, 9:39] = colour("steel deep")
    picture[8:14, 22:26] = colour("steel")
    picture[8:14, 22] = colour("steel light")
    return picture


if __name__ == "__main__":
    target = Path(__file__).parent / "art" / "cellar.png"
    target.write_bytes(png_bytes(drawn_sheet()))
    print(f"drew {target.name}, {len(slot_places())} tiles")
