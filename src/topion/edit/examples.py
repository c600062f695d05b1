"""Examples to learn rules from: an area of a room, or a picture cut into tiles."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadValue
from topion.grid.areas import Area
from topion.grid.arrays import Rgba
from topion.grid.turns import turned
from topion.model.project import Project
from topion.model.room import Room
from topion.model.tileset import Cut, TileRef, TileSet, cut_pixels
from topion.pictures.png import picture_of
from topion.weaving.contents import Contents
from topion.weaving.example import Example
from topion.weaving.grouping import colours_in_the_middle, groups_of, who_beside_whom
from topion.weaving.learn import Learned, learn
from topion.weaving.settle import ref_of_tile, shown_materials, shown_tiles

_RIM = 2  # cells round an area that tell its cells apart, too
MOST_PICTURE_TILES = 1 << 20
MOST_DISTINCT = 4096
_COLUMNS = 16


@dataclass(frozen=True, eq=False)
class Patch:
    """Tiles side by side.

    tile : (h, w) places in `refs`, -1 for none.  asked : (h, w) the cells to be learned from.
    pictures : of the refs, as they stand.  material : (h, w) numbers of the project where cells
    have them, 0 where they are open.  first : the cell of the room that is the first one here.
    """

    tile: NDArray[np.intp]
    asked: NDArray[np.bool_]
    refs: tuple[TileRef, ...]
    pictures: tuple[Rgba, ...]
    material: NDArray[np.uint16]
    first: tuple[int, int] = (0, 0)


@dataclass(frozen=True, eq=False)
class Group:
    """Tiles that may be one material.  refs : most frequent first.  cells : how many show them."""

    refs: tuple[TileRef, ...]
    cells: int


def patch_of_area(project: Project, room: Room, layer_id: str, area: Area) -> Patch:
    """The tiles that show in an area of a flat layer, with a rim of what lies round it.

    Raises BadValue where none does.
    """
    layer = room.layer(layer_id)
    box = area.box.grown(_RIM).clipped(room.box)
    tiles = shown_tiles(project, layer, box)
    numbers, place = np.unique(tiles, return_inverse=True)
    found = [ref_of_tile(project, layer, int(n)) for n in numbers.tolist()]
    kept = [ref for ref in found if ref is not None and ref.tileset in project.tilesets]
    known = {ref: n for n, ref in enumerate(kept)}
    to = np.array([known.get(ref, -1) if ref is not None else -1 for ref in found], np.intp)
    tile = to[place].reshape(tiles.shape)
    asked = area.within(box) & (tile >= 0)
    if not asked.any():
        raise BadValue(f"the area picked in layer {layer.info.name}", "empty", "with tiles in it")
    pictures = tuple(_standing(project, ref) for ref in kept)
    if len({picture.shape for picture in pictures}) > 1:
        raise BadValue("the tiles of the area", "of several sizes", "of one size")
    material = np.array(shown_materials(project, layer, box))
    return Patch(tile, asked, tuple(kept), pictures, material, (box.lo[0], box.lo[1]))


def _standing(project: Project, ref: TileRef) -> Rgba:
    tileset = project.tileset(ref.tileset)
    return turned(tileset.pixels(tileset.slot(ref.slot).at), ref.turn, ref.mirrored)


def patch_of_picture(
    rgba: Rgba, tile: tuple[int, int], name: str, known: Mapping[str, TileSet]
) -> tuple[Patch, TileSet | None]:
    """A picture cut into tiles of (h, w) px.  Tiles that a known tile set has in the same pixels
    are taken for its slots; where some are in none, all come into a new tile set.

    Raises BadValue for a picture without a whole tile, or with too many different ones.
    """
    pixels = cut_pixels(rgba, Cut(tile))
    rows, columns = pixels.shape[:2]
    if not rows or not columns or rows * columns > MOST_PICTURE_TILES:
        raise BadValue(f"the picture {name}", rgba.shape[:2], f"some whole tiles of {tile} px")
    flat = np.ascontiguousarray(pixels.reshape(rows * columns, -1))
    words = flat.view(np.dtype((np.void, flat.shape[1]))).reshape(-1)
    _, first, place = np.unique(words, return_index=True, return_inverse=True)
    if len(first) > MOST_DISTINCT:
        wanted = f"at most {MOST_DISTINCT}; is the tile size right?"
        raise BadValue(f"the different tiles of {name}", len(first), wanted)
    order = np.argsort(first)  # as they come in the picture
    rank = np.empty(len(order), np.intp)
    rank[order] = np.arange(len(order))
    pictures = [pixels[divmod(int(at), columns)] for at in first[order]]
    solid = [bool(picture[..., 3].any()) for picture in pictures]
    refs, made = _refs_of(pictures, solid, tile, name, known)
    to = np.full(len(pictures), -1, np.intp)
    to[solid] = np.arange(sum(solid))
    cells = to[rank[place]].reshape(rows, columns)
    seen = tuple(p for p, s in zip(pictures, solid, strict=True) if s)
    nothing = np.zeros(cells.shape, np.uint16)
    return Patch(cells, cells >= 0, refs, seen, nothing), made


def _refs_of(
    pictures: list[Rgba],
    solid: list[bool],
    tile: tuple[int, int],
    name: str,
    known: Mapping[str, TileSet],
) -> tuple[tuple[TileRef, ...], TileSet | None]:
    shown = [picture for picture, there in zip(pictures, solid, strict=True) if there]
    for tileset in known.values():
        if tileset.cut.tile == tile:
            places = ((int(y), int(x)) for y, x in np.argwhere(tileset.filled))
            of = {tileset.pixels(at).tobytes(): tileset.name_at(at) for at in places}
            if all(picture.tobytes() in of for picture in shown):
                refs = (TileRef(tileset.name, of[picture.tobytes()]) for picture in shown)
                return tuple(refs), None
    rows = -(-len(shown) // _COLUMNS)
    sheet = np.zeros((rows * tile[0], _COLUMNS * tile[1], 4), np.uint8)
    spots = [divmod(number, _COLUMNS) for number in range(len(shown))]
    for (y, x), picture in zip(spots, shown, strict=True):
        sheet[y * tile[0] : (y + 1) * tile[0], x * tile[1] : (x + 1) * tile[1]] = picture
    made = TileSet(name, picture_of(sheet), Cut(tile))
    return tuple(TileRef(name, f"{y},{x}") for y, x in spots), made


def groups_in(patch: Patch, wanted: int = 0) -> list[Group]:
    """Materials proposed for its tiles, the most frequent first.  wanted : so many; 0 for as many
    as tell most."""
    count = len(patch.refs)
    beside = who_beside_whom(patch.tile, count)
    group = groups_of(beside, wanted, colours_in_the_middle(patch.pictures))
    cells = np.bincount(patch.tile[patch.tile >= 0], minlength=count)
    found = []
    for number in range(int(group.max(initial=-1)) + 1):
        mine = np.flatnonzero(group == number)
        mine = mine[np.argsort(-cells[mine], kind="stable")]
        refs = tuple(patch.refs[n] for n in mine.tolist())
        found.append(Group(refs, int(cells[mine].sum())))
    return found


def given_groups(patch: Patch, project: Project) -> list[tuple[str, Group]]:
    """The materials that its cells have, by name, with their tiles."""
    found = []
    for number in np.unique(patch.material[patch.asked]).tolist():
        here = patch.asked & (patch.material == number)
        tiles, counts = np.unique(patch.tile[here], return_counts=True)
        refs = tuple(patch.refs[n] for n in tiles[np.argsort(-counts)].tolist())
        found.append((project.material_name(number), Group(refs, int(counts.sum()))))
    return found


def learned_by_tiles(
    patch: Patch,
    meant: Mapping[TileRef, str],
    material: str,
    step: Callable[[], None] = lambda: None,
) -> Learned:
    """The rules of a material where tiles tell what a cell is.  meant : by tile, its material;
    open ground for those that are not in it."""
    names = [material, *dict.fromkeys(n for n in meant.values() if n and n != material)]
    numbers = [names.index(meant[ref]) + 1 if meant.get(ref) else 0 for ref in patch.refs]
    table = np.array([*numbers, 0], np.uint16)  # the last one for no tile
    return _learned(patch, table[patch.tile], names, 1, step)


def learned_by_cells(
    patch: Patch, project: Project, material: str, step: Callable[[], None] = lambda: None
) -> Learned:
    """The rules of a material where cells have it already."""
    number = project.material_id(material)
    return _learned(patch, patch.material, project.materials, number, step)


def _learned(
    patch: Patch,
    material: NDArray[np.uint16],
    names: Sequence[str],
    number: int,
    step: Callable[[], None],
) -> Learned:
    tile = np.where(patch.asked, patch.tile, -1)
    example = Example(material, tile, Contents(patch.pictures))
    return learn(example, patch.refs, names, number, step)
