"""All tiles of a project at one size, ready to be copied row by row."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from topion.errors import TopionError
from topion.grid.arrays import Rgba, TileIds
from topion.grid.turns import turned
from topion.model.derived import Kept
from topion.model.project import Project
from topion.model.themes import picture_source
from topion.model.tileset import TileRef
from topion.model.tones import Rgb
from topion.render.pixels import Words, as_words, blended, resized

Frames = dict[int, tuple[int, Words]]  # by tile: ms a frame, and (n, side, side)
_CLEAR, _SOFT, _HARD, _OPAQUE = range(4)  # kinds of tiles; of several frames the lowest counts


class Atlas:
    """Tiles at `side` px.  Tile 0 is clear.  Animated tiles are shown as of `set_time`."""

    def __init__(self, pictures: Words, frames: Frames | None = None) -> None:
        """pictures : (tiles + 1, side, side).  frames : of animated tiles by number."""
        self.side = side = pictures.shape[1]
        self._frames = frames or {}
        kinds = _kinds(pictures)
        for number, (_, shown) in self._frames.items():
            kinds[number] = _kinds(shown).min()
        kinds[0] = _CLEAR
        self._kinds = kinds
        self.opaque = kinds == _OPAQUE  # (tiles + 1,)
        # Row k of every tile side by side, so that a row of cells is one take; the wider the
        # items are that it moves, the faster it is.  They are only ever copied.
        self._item = _widest_item(4 * side)
        self._rows = np.ascontiguousarray(pictures.transpose(1, 0, 2)).view(self._item)
        self._shown: dict[int, int] = {}
        self.animated = np.zeros(len(pictures), bool)
        self.animated[list(self._frames)] = True

    def words_of(self, number: int) -> Words:
        """(side, side) what a tile shows now."""
        rows = np.ascontiguousarray(self._rows[:, number])
        return rows.view(np.uint32).reshape(self.side, self.side)

    def frame_of(self, number: int) -> int:
        """Which of its frames an animated tile shows now."""
        return self._shown.get(number, 0)

    def into(self, out: Words, ids: TileIds) -> None:
        """Write (n, m) tiles into `out`, (n · side, m · side), row by row."""
        rows, columns = ids.shape
        target = out.view(self._item).reshape(rows, self.side, columns, -1)
        index = ids.astype(np.intp)
        for k in range(self.side):
            target[:, k] = self._rows[k].take(index, axis=0, mode="clip")

    def stack(self, out: Words, layers: Sequence[TileIds], backdrop: int) -> None:
        """Write layers of (n, m) tiles, bottom first, over a plain word into `out`.

        Of each cell only the uppermost opaque tile is written, and what lies above it.
        """
        shape = layers[0].shape
        base = np.zeros(shape[0] * shape[1], layers[0].dtype)
        left: NDArray[np.intp] | None = None  # cells in which nothing opaque was met, from above
        above: list[tuple[NDArray[np.intp], TileIds]] = []
        for layer in reversed(layers):
            ids = layer.reshape(-1) if left is None else layer.reshape(-1)[left]
            kinds = self._kinds.take(ids)
            opaque = kinds == _OPAQUE
            if left is None:
                np.copyto(base, ids, where=opaque)
                left = np.flatnonzero(~opaque)
                ids, kinds = ids[left], kinds[left]
            else:
                base[left[opaque]] = ids[opaque]
            drawn = np.flatnonzero((kinds != _CLEAR) & (kinds != _OPAQUE))
            if len(drawn):
                above.append((left[drawn], ids[drawn]))
            left = left[kinds != _OPAQUE]
            if not len(left):
                break
        bare = left if left is not None else np.arange(len(base))
        cells = out.reshape(shape[0], self.side, shape[1], self.side)
        if len(bare) < len(base):
            self.into(out, base.reshape(shape))
            if len(bare):
                rows, columns = np.divmod(bare, shape[1])
                cells[rows, :, columns] = backdrop
        else:
            out[...] = backdrop
        for at, ids in _at_once(above[::-1]):
            self._lay_over(cells, np.divmod(at, shape[1]), ids)

    def _lay_over(
        self, cells: Words, at: tuple[NDArray[np.intp], NDArray[np.intp]], ids: TileIds
    ) -> None:
        """Lay tiles that are clear in part over some of the (n, side, m, side) cells."""
        tiles = self._rows.take(ids.astype(np.intp), axis=1).view(np.uint32)
        tiles = np.ascontiguousarray(tiles.reshape(self.side, len(ids), -1).transpose(1, 0, 2))
        below = cells[at[0], :, at[1]]
        if (self._kinds.take(ids) == _HARD).all():
            np.copyto(below, tiles, where=tiles != 0)
        else:
            below = blended(below, tiles)
        cells[at[0], :, at[1]] = below

    def set_time(self, time_ms: float) -> bool:
        """Show the frames of that time; True if any tile changed."""
        changed = False
        for number, (frame_ms, frames) in self._frames.items():
            frame = int(time_ms // frame_ms) % len(frames)
            if self._shown.get(number, 0) != frame:
                self._shown[number] = frame
                words = np.ascontiguousarray(frames[frame])
                self._rows[:, number] = words.view(self._item)
                changed = True
        return changed


_Laid = tuple[NDArray[np.intp], TileIds]


def _at_once(layers: list[_Laid]) -> list[_Laid]:
    """Layers of tiles in cells as one, where no cell is in two of them."""
    if len(layers) < 2:
        return layers
    cells = np.concatenate([at for at, _ in layers])
    ordered = np.sort(cells)
    if (ordered[1:] == ordered[:-1]).any():
        return layers
    return [(cells, np.concatenate([ids for _, ids in layers]))]


def _kinds(pictures: Words) -> NDArray[np.uint8]:
    """(n,) of (n, side, side) pictures: opaque, clear or opaque in each pixel, or softly edged."""
    solid = pictures >> 24 == 255
    found = np.where((solid | (pictures == 0)).all(axis=(1, 2)), _HARD, _SOFT)
    return np.where(solid.all(axis=(1, 2)), _OPAQUE, found).astype(np.uint8)


def _widest_item(size: int) -> np.dtype[Any]:
    """The widest plain type that divides a row of so many bytes."""
    for name in ("complex128", "uint64", "uint32"):
        if size % np.dtype(name).itemsize == 0:
            return np.dtype(name)
    raise ValueError(f"a row of {size} bytes is no row of pixels")


def tile_frames(
    project: Project,
    ref: TileRef,
    theme: str = "",
    fore: Rgb | None = None,
    back: Rgb | None = None,
) -> tuple[list[Rgba], int]:
    """The (h, w, 4) pictures of a tile as it is laid, and ms a frame; none if it is missing.

    theme, fore, back : what it is worn in.
    """
    try:
        source, slot = picture_source(project, ref.tileset, ref.slot, theme)
    except TopionError:
        return [], 0
    pictures = [source.tinted_pixels(at, fore, back) for at in (slot.at, *slot.frames)]
    return [turned(p, ref.turn, ref.mirrored) for p in pictures], slot.frame_ms


def takes_tints(project: Project, ref: TileRef, theme: str = "") -> bool:
    """Whether any pixel of a tile takes the colours of a tint."""
    try:
        return picture_source(project, ref.tileset, ref.slot, theme)[0].tones is not None
    except TopionError:
        return False


def tile_picture(
    project: Project,
    ref: TileRef,
    theme: str = "",
    fore: Rgb | None = None,
    back: Rgb | None = None,
) -> Rgba:
    """(h, w, 4) the tile as it is laid; one clear pixel if it is missing."""
    frames, _ = tile_frames(project, ref, theme, fore, back)
    return frames[0] if frames else np.zeros((1, 1, 4), np.uint8)


def scaled(pictures: list[Rgba], side: int) -> list[Words]:
    """All pictures at `side` × `side` px; those of one size go through together."""
    sizes: dict[tuple[int, ...], list[int]] = {}
    for number, picture in enumerate(pictures):
        sizes.setdefault(picture.shape, []).append(number)
    found: dict[int, Words] = {}
    for numbers in sizes.values():
        stack = as_words(np.stack([pictures[number] for number in numbers]))
        found.update(zip(numbers, resized(stack, side, side), strict=True))
    return [found[number] for number in range(len(pictures))]


def atlas_of(project: Project, side: int, theme: str = "") -> Atlas:
    """The atlas of the project at that size in a theme, made anew after a tile set changed."""
    cache = _ATLASES.of(project, project.stamp("tilesets", "tiles", "themes"), dict)
    found = cache.get((side, theme))
    if found is None:
        found = cache[side, theme] = _made(project, side, theme)
    return found


_ATLASES: Kept[dict[tuple[int, str], Atlas]] = Kept()


def _made(project: Project, side: int, theme: str) -> Atlas:
    pictures = np.zeros((len(project.tiles) + 1, side, side), np.uint32)
    moving: Frames = {}
    tiles = [tile_frames(project, ref, theme) for ref in project.tiles]
    words = iter(scaled([frame for frames, _ in tiles for frame in frames], side))
    for number, (frames, frame_ms) in enumerate(tiles, 1):
        own = [next(words) for _ in frames]
        if own:
            pictures[number] = own[0]
        if len(own) > 1:
            moving[number] = (frame_ms, np.stack(own))
    return Atlas(pictures, moving)


def mean_colours(project: Project, theme: str = "") -> NDArray[np.uint32]:
    """(tiles + 1,) one pixel for each tile."""
    atlas = atlas_of(project, 1, theme)
    out = np.empty((1, len(project.tiles) + 1), np.uint32)
    atlas.into(out, np.arange(len(project.tiles) + 1, dtype=np.uint16)[None, :])
    return out[0]
