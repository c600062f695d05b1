"""Rooms with tint maps and themes for tests."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from tests.rooms import SHEET, small_room
from topion.brushes import TintBrush
from topion.model.palette import Palette
from topion.model.tileset import TileSet
from topion.scripting import ProjectHandle, RoomHandle
from topion.weaving.settle import shown_tiles

COLOURS = (("Night", "#1f2a44"), ("Lamp", "#e7b45a"), ("Moss", "#5d7a3a"), ("Rust", "#a0482c"))


def with_palette(project: ProjectHandle) -> ProjectHandle:
    """The same with four colours in its palette, numbers 1 to 4."""
    for name, colour in COLOURS:
        project.add_tint(name, colour)
    return project


def two_tone_project(project: ProjectHandle) -> ProjectHandle:
    """The same, its tile set declared two-tone."""
    tilesets = project.data.shelf("tilesets")
    changed: TileSet = replace(tilesets[SHEET], two_tone=True)
    project.data.put_item(("tilesets", SHEET), changed)
    return with_palette(project)


def tinted_room(size: tuple[int, int] = (12, 16)) -> RoomHandle:
    """A room of mud with a puddle, worn in a tint map `Evening` that covers part of it."""
    room = small_room(size)
    two_tone_project(room.project)
    room.lay("Water", box=((3, 4), (6, 9)))
    room.add_tint_map("Evening")
    room.lay(TintBrush("Both", 1, 2, both=True), box=((1, 1), (7, 8)))
    room.lay(TintBrush("Fore", 3, bright="bright"), box=((5, 6), (9, 12)))
    return room


def plain_tinted(room: RoomHandle) -> np.ndarray:
    """(h, w, 4) the ground of the room, each pixel worked out by itself in plain Python."""
    project, data = room.project.data, room.data
    layer = data.cell_layers()[0][1]
    tiles = shown_tiles(project, layer)
    tileset = project.tilesets[SHEET]
    sheet = tileset.sheet.rgba.astype(int)
    light = [[(77 * r + 150 * g + 29 * b) >> 8 for r, g, b, _ in row] for row in sheet.tolist()]
    seen = [(y, x) for y, x in np.argwhere(sheet[..., 3] > 0).tolist()]
    middle = int(sum(light[y][x] for y, x in seen) / len(seen))
    groups = [[light[y][x] for y, x in seen if (light[y][x] >= middle) == fore]
              for fore in (True, False)]  # fmt: skip
    middles = [int(sum(group) / len(group)) for group in groups]
    side = tileset.cut.tile[0]
    out = np.zeros((tiles.shape[0] * side, tiles.shape[1] * side, 4), np.uint8)
    palette: Palette = project.palette
    tint = data.worn_tint
    for cy, cx in np.ndindex(tiles.shape):
        if not tiles[cy, cx]:
            continue
        sy, sx = (v * side for v in tileset.slot(project.tiles[tiles[cy, cx] - 1].slot).at)
        codes = [int(tint.plane(p)[cy, cx]) if tint else 0 for p in ("fore", "back", "bright")]
        for py, px in np.ndindex(side, side):
            pixel, shade = sheet[sy + py, sx + px].tolist(), light[sy + py][sx + px]
            part = 0 if shade >= middle else 1
            if codes[part] and pixel[3]:
                found = next(t for t in palette if t.number == codes[part])
                wanted = bytes.fromhex((found.bright if codes[2] else found.colour)[1:])
                mid = middles[part]
                pixel[:3] = [c * shade // mid if shade <= mid
                             else c + (255 - c) * (shade - mid) // (255 - mid) for c in wanted]  # fmt: skip
            out[cy * side + py, cx * side + px] = pixel
    return out
