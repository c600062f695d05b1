"""Blocks in a theme, and in the colours of a tint map: a face book that grows as tints are met."""

from __future__ import annotations

import threading
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Rgba
from topion.grid.boxes import Box
from topion.model.derived import Kept
from topion.model.project import Project
from topion.model.solid import VoxelModel
from topion.model.tileset import TileRef
from topion.model.tones import FORE, Rgb, tinted, tones_of
from topion.render.atlas import takes_tints, tile_picture
from topion.render.faces import LOOKS_OF_BLOCKS, FaceBook, face_book, face_picture, mean_rgb
from topion.render.wear import Wear, colours_of

_MOST_ROWS, _MOST_LOOKS, _MOST_PICTURES = 0xFFFF, 0xFFFF, 1024
_Pair = tuple[Rgb | None, Rgb | None]


@dataclass(eq=False)
class _Wardrobe:
    """book : of all blocks in a theme, and of those tints that were met, behind the others; what
    has a number once keeps it.  rows : of tinted tiles.  looks : of tinted looks."""

    book: FaceBook
    rows: dict[tuple[int, _Pair], int] = field(default_factory=dict)
    looks: dict[tuple[int, _Pair], int] = field(default_factory=dict)
    models: dict[tuple[int, Rgb], VoxelModel] = field(default_factory=dict)
    lock: threading.Lock = field(default_factory=threading.Lock)


def _wardrobe(project: Project, theme: str) -> _Wardrobe:
    kept = _WARDROBES.of(project, project.stamp(*LOOKS_OF_BLOCKS, "palette"), dict)
    found = kept.get(theme)
    if found is None:
        found = kept[theme] = _Wardrobe(face_book(project, theme))
    return found


_WARDROBES: Kept[dict[str, _Wardrobe]] = Kept()


def worn_book(project: Project, wear: Wear) -> FaceBook:
    """What every block shows, and every tinted one that was met so far."""
    return _wardrobe(project, wear.theme).book


def dressed(
    project: Project, wear: Wear, box: Box, tiles: NDArray[np.uint16]
) -> tuple[FaceBook, NDArray[np.uint16]]:
    """The cubes of a box by rows of a face book, 0 where a block does not fill its cell."""
    wardrobe = _wardrobe(project, wear.theme)
    cubes = np.where(wardrobe.book.cubes.take(tiles), tiles, 0).astype(np.uint16)
    codes = wear.codes(box)
    if codes is None or not cubes.any():
        return wardrobe.book, cubes
    wide = np.where(cubes > 0, codes.astype(np.uint32) << 16, 0) | cubes
    met, places = np.unique(wide, return_inverse=True)
    with wardrobe.lock:
        rows = [_row(project, wear.theme, wardrobe, key) for key in met.tolist()]
    return wardrobe.book, np.array(rows, np.uint16)[places.reshape(tiles.shape)]


def _row(project: Project, theme: str, wardrobe: _Wardrobe, key: int) -> int:
    """The row of a tile in the colours of a code."""
    tile, pair = key & 0xFFFF, colours_of(project, key >> 16)
    if pair == (None, None):
        return tile
    if (tile, pair) not in wardrobe.rows:
        book = wardrobe.book
        if len(book.faces) > _MOST_ROWS:
            return tile
        sides = [_look(project, theme, wardrobe, int(look), pair) for look in book.faces[tile]]
        book = wardrobe.book
        row = np.array([sides], np.uint16)
        wardrobe.rows[tile, pair] = len(book.faces)
        wardrobe.book = replace(
            book,
            faces=np.concatenate([book.faces, row]),
            far=np.concatenate([book.far, row]),
            cubes=np.append(book.cubes, True),
        )
    return wardrobe.rows[tile, pair]


def _look(project: Project, theme: str, wardrobe: _Wardrobe, look: int, pair: _Pair) -> int:
    """A look in the colours of a tint; of a pattern, the first of its looks."""
    found = wardrobe.looks.get((look, pair))
    if found is not None:
        return found
    book = wardrobe.book
    count = 1 if book.patterns is None else int(book.patterns[look].prod())
    first = len(book.rgb)
    if first + count > _MOST_LOOKS or len(book.pictures) + count > _MOST_PICTURES:
        return look
    rgb: list[tuple[int, ...]] = []
    layers: list[int] = []
    pictures: list[Rgba] = []
    refs: list[TileRef | None] = []
    for own in range(look, look + count):
        layer = int(book.layers[own])
        if not layer:
            rgb.append(pair[0] or tuple(book.rgb[own].tolist()))
            layers.append(0)
            continue
        picture = face_picture(_picture(project, theme, book, layer, pair))
        layers.append(len(book.pictures) + len(pictures))
        pictures.append(picture)
        refs.append(book.refs[layer])
        rgb.append(mean_rgb(picture))
    sizes = book.patterns
    wardrobe.book = replace(
        book,
        rgb=np.concatenate([book.rgb, np.array(rgb, np.uint8)]),
        layers=np.concatenate([book.layers, np.array(layers, np.uint16)]),
        quarters=np.concatenate([book.quarters, book.quarters[look : look + count]]),
        pictures=np.concatenate([book.pictures, *(p[None] for p in pictures)]),
        patterns=None if sizes is None else np.concatenate([sizes, sizes[look : look + count]]),
        refs=(*book.refs, *refs),
    )
    wardrobe.looks[look, pair] = first
    return first


def _picture(project: Project, theme: str, book: FaceBook, layer: int, pair: _Pair) -> Rgba:
    """The picture of a face in the colours of a tint: by the mask of its tile set, else all of it
    takes the foreground."""
    ref = book.refs[layer]
    if ref is not None and takes_tints(project, ref, theme):
        return tile_picture(project, ref, theme, *pair)
    plain = book.pictures[layer] if ref is None else tile_picture(project, ref, theme)
    parts = np.where(plain[..., 3] > 0, FORE, 0).astype(np.uint8)
    return tinted(plain, parts, tones_of(plain, parts).middles, pair[0], None)


def worn_model(project: Project, theme: str, model: VoxelModel, code: int) -> VoxelModel:
    """A model in the foreground of a code, each of its colours as light or dark as it was."""
    fore = colours_of(project, code)[0]
    if fore is None:
        return model
    kept = _wardrobe(project, theme).models
    found = kept.get((id(model), fore))
    if found is None:
        used = np.append(model.rgb[1:], np.full((len(model.palette), 1), 255, np.uint8), axis=1)
        used = used[None]
        parts = np.full(used.shape[:2], FORE, np.uint8)
        rgb = tinted(used, parts, tones_of(used, parts).middles, fore, None)[0, :, :3]
        palette = tuple("#{:02x}{:02x}{:02x}".format(*row) for row in rgb.tolist())
        found = kept[id(model), fore] = replace(model, palette=palette)
    return found
