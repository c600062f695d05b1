"""Draws the sheet of Brinehollow: `python -m topion.demo.art` writes it beside this file."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import lru_cache, partial
from importlib import resources
from pathlib import Path

import numpy as np

from topion.demo import tiles
from topion.grid.arrays import Rgba
from topion.grid.neighbours import E, N, S, W, cases_47
from topion.model.tileset import Cut, Slot, TileSet
from topion.pictures.png import png_bytes, read_png

COLUMNS = 24
SHEET = "Saltworks"
SIDES_16 = tuple(sum(d for i, d in enumerate((N, W, E, S)) if k >> i & 1) for k in range(16))
INSIDE = cases_47()[-1]
FRAMES = 4


def pictures() -> Iterator[tuple[str, Callable[[], Rgba]]]:
    """(slot name, what draws it) of every tile, in the order of the sheet."""
    for mask in cases_47():
        for variant in range(_variants(mask)):
            yield f"mud {mask} {'abcd'[variant]}", partial(_mud, mask, variant)
    for mask in cases_47():
        for variant in range(_variants(mask)):
            yield f"grass {mask} {'abcd'[variant]}", partial(_grass, mask, variant)
    for mask in cases_47():
        for variant in range(3):
            yield f"pan {mask} {'abc'[variant]}", partial(tiles.pan, mask, variant)
    for mask in cases_47()[:-1]:
        yield f"deep {mask} a", partial(tiles.deep_edge, mask)
    for look in ("water", "deep"):
        for variant in range(3):
            for frame in range(FRAMES):
                draw_water = partial(tiles.water_inside, variant, frame, look)
                yield f"{look} {'abc'[variant]} {frame}", draw_water
    drawn: tuple[tuple[str, Callable[[int, int], Rgba]], ...] = (
        ("boardwalk", tiles.boardwalk),
        ("brick", tiles.brick),
        ("slate", tiles.slate),
    )
    for name, draw in drawn:
        for mask in SIDES_16:
            for variant in range(3):
                yield f"{name} {mask} {'abc'[variant]}", partial(draw, mask, variant)
    for variant in range(6):
        yield f"cobbles {'abcdef'[variant]}", partial(tiles.cobbles, variant)


def _mud(mask: int, variant: int) -> Rgba:
    if mask == INSIDE:
        return tiles.mud_inside(variant)
    return tiles.shore(mask, tiles.mud_inside(variant % 2), tiles.MUD, "mud shore", 3)


def _grass(mask: int, variant: int) -> Rgba:
    inside = tiles.grass_inside(variant)
    return inside if mask == INSIDE else tiles.shore(mask, inside, tiles.GRASS, "grass shore", 2)


def _variants(mask: int) -> int:
    """Four for the inside, three for straight edges, one for the rest."""
    if mask == INSIDE:
        return 4
    return 3 if bin(INSIDE & ~mask).count("1") == 3 else 1


def drawn_sheet() -> Rgba:
    """The whole sheet, drawn anew."""
    found = [draw() for _, draw in pictures()]
    rows = -(-len(found) // COLUMNS)
    sheet = np.zeros((rows * tiles.SIDE, COLUMNS * tiles.SIDE, 4), np.uint8)
    for number, picture in enumerate(found):
        y, x = (v * tiles.SIDE for v in divmod(number, COLUMNS))
        sheet[y : y + tiles.SIDE, x : x + tiles.SIDE] = picture
    return sheet


@lru_cache(maxsize=1)
def slot_places() -> dict[str, tuple[int, int]]:
    return {name: divmod(number, COLUMNS) for number, (name, _) in enumerate(pictures())}


def tileset() -> TileSet:
    """The tile set, from the sheet kept in the repository."""
    data = resources.files("topion.demo").joinpath("art/saltworks.png").read_bytes()
    slots = {}
    for name, at in slot_places().items():
        look, *rest = name.split()
        if look in ("water", "deep") and len(rest) == 2 and rest[0] in "abc":
            if rest[1] == "0":
                frames = tuple((at[0], at[1]) for at in _frames_of(look, rest[0]))
                slots[name] = Slot(at, tags=(look,), frames=frames, frame_ms=420)
        else:
            solid = look in ("brick", "slate")
            slots[name] = Slot(at, tags=(look,), solid=solid)
    return TileSet(SHEET, read_png(data, "saltworks.png"), Cut((tiles.SIDE, tiles.SIDE)), slots)


def _frames_of(look: str, letter: str) -> list[tuple[int, int]]:
    return [slot_places()[f"{look} {letter} {frame}"] for frame in range(1, FRAMES)]


if __name__ == "__main__":
    target = Path(__file__).parent / "art" / "saltworks.png"
    target.write_bytes(png_bytes(drawn_sheet()))
    print(f"drew {target.name}, {len(slot_places())} tiles")
