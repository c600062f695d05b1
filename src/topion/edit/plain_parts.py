"""Plain tiles, blocks and prefabs for names that nobody has drawn yet, so that work can begin."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping

import numpy as np

from topion.brushes.mosaic import Mosaic
from topion.brushes.things import ThingsBrush
from topion.edit.library import free_name, put_brushes, put_prefab, put_tileset
from topion.grid.arrays import Rgba
from topion.grid.hashing import seed_of
from topion.model.edit import Edit
from topion.model.palette import lighter
from topion.model.picture import Picture
from topion.model.prefab import Prefab
from topion.model.project import Project
from topion.model.tileset import Cut, Slot, TileRef, TileSet
from topion.pictures.png import png_bytes
from topion.weaving.rules import Variant

PLAIN_COLOURS = (
    "#8c8577", "#a5533b", "#5f7f86", "#7f8a4a", "#b08a5c", "#6b5b73", "#c29b3f", "#4f6f52",
    "#94744e", "#3f6d8a", "#a86f6a", "#5a5f66", "#b3a06a", "#74915f", "#8a5a44", "#607b99",
)  # fmt: skip
PLAIN = "Plain"
_COLUMNS = 16


def plain_colour(name: str) -> str:
    """A colour for a name, always the same."""
    return PLAIN_COLOURS[seed_of(name) % len(PLAIN_COLOURS)]


def plain_colours(names: Iterable[str]) -> dict[str, str]:
    """A colour for each name, no two alike as long as there are enough."""
    found: dict[str, str] = {}
    for name in names:
        first = seed_of(name) % len(PLAIN_COLOURS)
        turned = (*PLAIN_COLOURS[first:], *PLAIN_COLOURS[:first])
        free = (colour for colour in turned if colour not in found.values())
        found[name] = next(free, turned[0])
    return found


def plain_materials(project: Project, colours: Mapping[str, str], tile_px: int) -> Iterator[Edit]:
    """A tile set with a tile of each colour, and brushes that lay them, by name; each Edit is to
    be written before the next is asked for.  Raises NameTaken for a brush of such a name."""
    names = list(colours)
    if not names:
        return
    sheet = free_name(PLAIN, project.tilesets)
    rows = -(-len(names) // _COLUMNS)
    picture = np.zeros((rows * tile_px, min(len(names), _COLUMNS) * tile_px, 4), np.uint8)
    slots = {}
    for place, name in enumerate(names):
        at = divmod(place, _COLUMNS)
        y, x = (n * tile_px for n in at)
        picture[y : y + tile_px, x : x + tile_px] = plain_tile(colours[name], tile_px)
        slots[name] = Slot(at, solid=False)
    yield put_tileset(project, TileSet(sheet, Picture(picture, png_bytes(picture)),
                                       Cut((tile_px, tile_px)), slots))  # fmt: skip
    brushes = [Mosaic(name, (Variant(TileRef(sheet, name)),), colour=colours[name])
               for name in names]  # fmt: skip
    yield put_brushes(project, brushes, "Ground")


def plain_prefabs(project: Project, names: Iterable[str], tile_px: int) -> Iterator[Edit]:
    """A prefab for each name, a disc of its colour, and a brush that lays it; each Edit is to be
    written before the next is asked for."""
    brushes = []
    taken = set(project.brushes)
    for name in names:
        picture = _disc(plain_colour(name), tile_px)
        anchor = (tile_px, tile_px // 2)
        yield put_prefab(project, Prefab(name, Picture(picture, png_bytes(picture)), anchor))
        card = free_name(name, taken)
        taken.add(card)
        brushes.append(ThingsBrush(card, name, colour=plain_colour(name)))
    yield put_brushes(project, brushes, "Things")


def plain_tile(colour: str, side: int) -> Rgba:
    """(side, side, 4) one colour, lighter at the top and left edge, darker at the others."""
    rgb = _rgb(colour)
    tile = np.empty((side, side, 4), np.uint8)
    tile[...] = (*rgb, 255)
    if side >= 4:
        light = np.array(_rgb(lighter(colour)))
        tile[0, :, :3] = tile[:, 0, :3] = (2 * np.array(rgb) + light) // 3
        tile[-1, :, :3] = tile[:, -1, :3] = np.array(rgb) * 7 // 8
    return tile


def _disc(colour: str, side: int) -> Rgba:
    """(side, side, 4) a disc with a dark rim on clear ground."""
    middle = (side - 1) / 2
    y, x = np.ogrid[:side, :side]
    far = np.hypot(y - middle, x - middle)
    picture = np.zeros((side, side, 4), np.uint8)
    picture[far <= side * 0.46] = (*(np.array(_rgb(colour)) // 2), 255)
    picture[far <= side * 0.46 - max(1, side / 16)] = (*_rgb(lighter(colour)), 255)
    return picture


def _rgb(colour: str) -> tuple[int, int, int]:
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)
