"""What rooms are worn in: tiles drawn in a theme, and in the colours of a tint map."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from topion.errors import UnknownName
from topion.grid.arrays import TileIds
from topion.grid.boxes import Box
from topion.model.derived import Kept
from topion.model.layer import Layer
from topion.model.palette import CODE_BITS, packed, rgb_table, unpacked
from topion.model.project import Project
from topion.model.room import Room
from topion.model.themes import theme_names
from topion.model.tones import Rgb
from topion.render.atlas import Atlas, atlas_of, scaled, takes_tints, tile_frames
from topion.render.pixels import Words

_MOST_KEPT_PX = 1 << 22  # of tinted tiles at one size


@dataclass(frozen=True, eq=False)
class Wear:
    """theme : its name; empty for the first.  map : the tint map; None for colours as they are."""

    theme: str = ""
    map: Layer | None = None

    def codes(self, box: Box) -> NDArray[np.uint16] | None:
        """The codes of a box, 0 beyond the room; None where no cell of it is tinted."""
        if self.map is None or not self.map.planes:
            return None
        inside = box.clipped(Box.of_shape(self.map.size))
        if not inside.size:
            return None
        fore, back, bright = (
            self.map.plane(name)[inside.slices] for name in ("fore", "back", "bright")
        )
        found = packed(fore, back, bright)
        if not found.any():
            return None
        if inside == box:
            return found
        out = np.zeros(box.shape, np.uint16)
        out[inside.slices_from(box.lo)] = found
        return out


PLAIN = Wear()


def wear_of(room: Room) -> Wear:
    """What a room is worn in."""
    return Wear(room.info.theme, room.worn_tint)


def worn(project: Project, room: Room, theme: str | None = None, tint: str | None = None) -> Room:
    """The same room in another theme or tint map, by name, to be drawn; empty text for the first
    sheets and for colours as they are, None for what it is worn in.  Raises UnknownName."""
    info = room.info
    if theme is not None:
        if theme and theme not in theme_names(project):
            raise UnknownName("theme", theme, theme_names(project))
        info = replace(info, theme=theme)
    if tint is not None:
        ids = {layer.info.name: layer_id for layer_id, layer in room.tint_maps()}
        if tint and tint not in ids:
            raise UnknownName(f"tint map in {info.name}", tint, ids)
        info = replace(info, tint=ids.get(tint, ""))
    made = room.frozen()
    made.info = info
    return made


def colours_of(project: Project, code: int) -> tuple[Rgb | None, Rgb | None]:
    """Foreground and background of a code; None for a part that keeps its colours."""
    (table, known), (fore, back, bright) = _palette_of(project), unpacked(code)
    first, second = (
        tuple(table[int(bright), n].tolist()) if known[n] else None for n in (fore, back)
    )
    return first, second


def _palette_of(project: Project) -> tuple[NDArray[np.uint8], NDArray[np.bool_]]:
    return _PALETTES.of(project, project.stamp("palette"), lambda: rgb_table(project.palette))


_PALETTES: Kept[tuple[NDArray[np.uint8], NDArray[np.bool_]]] = Kept()
_Key = tuple[int, int, Rgb | None, Rgb | None]  # tile, frame, foreground, background


@dataclass(eq=False)
class _Tinted:
    """Tinted tiles of one size and theme.  takes : (tiles + 1,) whether a tile can be tinted."""

    takes: NDArray[np.bool_]
    words: dict[_Key, Words]


_TINTED: Kept[dict[tuple[int, str], _Tinted]] = Kept()


def _tinted_of(project: Project, side: int, theme: str) -> _Tinted:
    cache = _TINTED.of(project, project.stamp("tilesets", "tiles", "themes"), dict)
    found = cache.get((side, theme))
    if found is None:
        takes = [False, *(takes_tints(project, ref, theme) for ref in project.tiles)]
        found = cache[side, theme] = _Tinted(np.array(takes, bool), {})
    return found


def stack_tiles(
    project: Project,
    wear: Wear,
    box: Box,
    side: int,
    out: Words,
    layers: Sequence[TileIds],
    backdrop: int,
) -> None:
    """Write layers of the tiles of a box, bottom first, over a plain word into `out`."""
    atlas, codes = atlas_of(project, side, wear.theme), wear.codes(box)
    if codes is None:
        atlas.stack(out, layers, backdrop)
        return
    takes = _tinted_of(project, side, wear.theme).takes
    known, place = _counted(codes)
    count = len(takes)
    keys = [np.where(takes.take(ids), place * count, 0) + ids for ids in layers]
    met = np.zeros(len(known) * count, bool)
    met[0] = True  # a clear tile comes first
    for key in keys:
        met[key] = True
    number = np.cumsum(met, dtype=np.uint32) - np.uint32(1)
    pairs = zip(*np.divmod(np.flatnonzero(met), count), strict=True)
    pictures = [_words(project, wear.theme, atlas, int(tile), int(known[n])) for n, tile in pairs]
    Atlas(np.stack(pictures)).stack(out, [number.take(key) for key in keys], backdrop)


def _counted(codes: NDArray[np.uint16]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """The codes that are met, 0 first, and the place of each among them: no cell is sorted."""
    met = np.zeros(1 << CODE_BITS, bool)
    met[0] = True
    met[codes] = True
    return np.flatnonzero(met), (np.cumsum(met) - 1).take(codes)


def _words(project: Project, theme: str, atlas: Atlas, tile: int, code: int) -> Words:
    """(side, side) a tile in the colours of a code."""
    fore, back = colours_of(project, code) if code else (None, None)
    if fore is back is None:
        return atlas.words_of(tile)
    kept = _tinted_of(project, atlas.side, theme).words
    frame = atlas.frame_of(tile)
    found = kept.get((tile, frame, fore, back))
    if found is None:
        if len(kept) * atlas.side * atlas.side > _MOST_KEPT_PX:
            kept.clear()
        frames, _ = tile_frames(project, project.tiles[tile - 1], theme, fore, back)
        found = kept[tile, frame, fore, back] = scaled([frames[frame]], atlas.side)[0]
    return found
