"""Tile sets: slots with stable names, cut from one sheet."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple

import numpy as np

from topion.errors import BadValue, UnknownName
from topion.grid.arrays import CellMask, Rgba
from topion.grid.orient import TURNS
from topion.model.picture import Picture
from topion.model.plane import Plane
from topion.model.refs import Use
from topion.model.tones import Rgb, Tones, tinted, tones_of, two_tone_parts
from topion.model.traits import Traits
from topion.model.typed import Name, typed

LONGEST_TILE_PX = 512
MOST_RECTS, MOST_RECTS_PX = 4096, 1 << 25  # of a cut that is not even
_QUARTERS = 4
MOST_HEIGHTS = 64


def slot_kind(tileset: str) -> str:
    """What the slots of a tile set are called where names are used or changed."""
    return f"slots of {tileset}"


class TileRef(NamedTuple):
    """A tile as it is laid: a slot, quarter turns clockwise, then mirrored left-right.

    With an empty `tileset`, `slot` names a block of the project, and the turn may be any of 24.
    """

    tileset: str
    slot: str
    turn: int = 0
    mirrored: bool = False

    @property
    def is_block(self) -> bool:
        return not self.tileset

    @property
    def is_sound(self) -> bool:
        """Whether its turn is one that a tile, or a block, can have."""
        return 0 <= self.turn < (TURNS if self.is_block else _QUARTERS)

    def own_uses(self) -> Iterator[Use]:
        """The tile set and its slot, or the block, that it shows."""
        yield Use("blocks", self.slot) if self.is_block else Use("tilesets", self.tileset)
        if not self.is_block:
            yield Use(slot_kind(self.tileset), self.slot, perhaps=True)

    def with_use(self, kind: str, old: str, new: str) -> TileRef:
        """The same tile after a tile set or a block got another name."""
        if kind == "tilesets" and self.tileset == old:
            return self._replace(tileset=new)
        if kind == "blocks" and self.is_block and self.slot == old:
            return self._replace(slot=new)
        if kind == slot_kind(self.tileset) and self.slot == old and not self.is_block:
            return self._replace(slot=new)
        return self


@typed
@dataclass(frozen=True)
class Cut:
    """How a sheet is cut: tile (h, w), margin round the sheet and spacing between tiles, in px.

    rects : (y, x, h, w) in px of each slot, in one row, where tiles do not lie evenly; one that is
    smaller than the tile stands in its middle, on its ground.  Margin and spacing then say nothing.
    """

    tile: tuple[int, int]
    margin: int = 0
    spacing: int = 0
    rects: tuple[tuple[int, int, int, int], ...] = ()

    def __post_init__(self) -> None:
        if len(self.tile) != 2 or not all(1 <= side <= LONGEST_TILE_PX for side in self.tile):
            raise BadValue("the tile size", self.tile, f"two numbers from 1 to {LONGEST_TILE_PX}")
        for name in ("margin", "spacing"):
            if not 0 <= getattr(self, name) <= LONGEST_TILE_PX:
                raise BadValue(f"the {name}", getattr(self, name), f"0 to {LONGEST_TILE_PX}")
        if not self.can_have(len(self.rects), self.tile):
            wanted = f"at most {MOST_RECTS}, and fewer of large tiles"
            raise BadValue("the rectangles of the cut", len(self.rects), wanted)
        for rect in self.rects:
            fits = 1 <= rect[2] <= self.tile[0] and 1 <= rect[3] <= self.tile[1]
            if not fits or min(rect[:2]) < 0:
                raise BadValue("a rectangle of the cut", rect, "y, x, height, width in the tile")

    @staticmethod
    def can_have(rects: int, tile: tuple[int, int]) -> bool:
        """Whether so many rectangles may stand in tiles of that size: all are cut at once."""
        return rects <= MOST_RECTS and rects * tile[0] * tile[1] <= MOST_RECTS_PX

    def grid_of(self, size_px: tuple[int, int]) -> tuple[int, int]:
        """How many whole tiles fit: (rows, columns)."""
        if self.rects:
            inside = all(y + h <= size_px[0] and x + w <= size_px[1] for y, x, h, w in self.rects)
            return (1, len(self.rects)) if inside else (0, 0)
        rows, columns = (
            max(0, (side - self.margin + self.spacing) // (tile + self.spacing))
            for side, tile in zip(size_px, self.tile, strict=True)
        )
        return rows, columns

    def corner_px(self, at: tuple[int, int]) -> tuple[int, int]:
        """(y, x) of the top left pixel of the tile in row and column `at`."""
        if self.rects:
            return self.rects[at[1]][:2]
        y, x = (
            self.margin + index * (tile + self.spacing)
            for index, tile in zip(at, self.tile, strict=True)
        )
        return y, x

    def size_of(self, at: tuple[int, int]) -> tuple[int, int]:
        """(h, w) in px of what the slot in row and column `at` takes from the sheet."""
        return self.rects[at[1]][2:] if self.rects else self.tile


@typed
@dataclass(frozen=True)
class Slot(Traits):
    """What is known of one slot beyond its picture.

    heights : of its top at places evenly from the left to the right edge, 0 to 1; two for a
    straight slope, more for a curved one, none for a level top.
    """

    at: tuple[int, int]  # row, column in the sheet
    frames: tuple[tuple[int, int], ...] = field(default=(), kw_only=True)  # of an animation
    frame_ms: int = field(default=250, kw_only=True)
    heights: tuple[float, ...] = field(default=(), kw_only=True)

    def __post_init__(self) -> None:
        if not 20 <= self.frame_ms <= 60_000:
            raise BadValue("the time of a frame", self.frame_ms, "20 to 60000 ms")
        self.check_top("a slot")
        if len(self.heights) == 1 or len(self.heights) > MOST_HEIGHTS:
            raise BadValue("the heights of a slope", len(self.heights), f"2 to {MOST_HEIGHTS}")
        if not all(0 <= height <= 1 for height in self.heights):
            raise BadValue("the heights of a slope", self.heights, "each 0 to 1")


@typed
@dataclass(frozen=True)
class TileSet:
    """A sheet, its cut, and the slots that were given a name or attributes.

    Every other slot that is not empty is known by its place, as `row,column`.

    two_tone : light pixels take the foreground of a tint, dark ones its background.  mask : as
    large as the sheet, which pixels do: 1 the foreground, 2 the background, 0 neither.
    """

    name: Name
    sheet: Picture
    cut: Cut
    slots: dict[str, Slot] = field(default_factory=dict)
    two_tone: bool = False
    mask: Plane | None = None

    def __post_init__(self) -> None:
        check_mask(self.mask, self.sheet.size_px, f"tile set {self.name}")
        rows, columns = self.grid_shape
        if not rows or not columns:
            raise BadValue("the cut", self.cut, "small enough for one whole tile of the sheet")
        for name, slot in self.slots.items():
            for row, column in (slot.at, *slot.frames):
                if not (0 <= row < rows and 0 <= column < columns):
                    raise BadValue(
                        f"slot {name}", (row, column), f"inside the {rows} × {columns} slots"
                    )

    @cached_property
    def grid_shape(self) -> tuple[int, int]:
        """(rows, columns) of slots in the sheet."""
        return self.cut.grid_of(self.sheet.size_px)

    @cached_property
    def filled(self) -> CellMask:
        """(rows, columns): slots with any visible pixel."""
        return np.asarray(self.all_pixels()[..., 3].any(axis=(2, 3)))

    @cached_property
    def opaque(self) -> CellMask:
        """(rows, columns): slots that cover all of their cell."""
        return np.asarray((self.all_pixels()[..., 3] == 255).all(axis=(2, 3)))

    @cached_property
    def names(self) -> dict[tuple[int, int], str]:
        """The given names by place in the sheet."""
        return {slot.at: name for name, slot in self.slots.items()}

    @cached_property
    def tones(self) -> Tones | None:
        """Which pixels of the sheet take the colours of a tint; None where none do."""
        if self.mask is not None:
            return tones_of(self.sheet.rgba, self.mask.cells.astype(np.uint8))
        return tones_of(self.sheet.rgba, two_tone_parts(self.sheet.rgba)) if self.two_tone else None

    def tinted_pixels(self, at: tuple[int, int], fore: Rgb | None, back: Rgb | None) -> Rgba:
        """(h, w, 4) pixels of a slot in the colours of a tint; None leaves a part as it is."""
        pixels = self.pixels(at)
        if self.tones is None or fore is back is None:
            return pixels
        y, x = self.cut.corner_px(at)
        height, width = self.cut.size_of(at)
        own = self.tones.parts[y : y + height, x : x + width, None]
        return tinted(pixels, _in_tile(own, self.cut.tile)[..., 0], self.tones.middles, fore, back)

    def all_pixels(self) -> Rgba:
        """(rows, columns, h, w, 4) of every slot; of an even cut a view without a copy."""
        return cut_pixels(self.sheet.rgba, self.cut)

    def name_at(self, at: tuple[int, int]) -> str:
        return self.names.get(at) or f"{at[0]},{at[1]}"

    def slot(self, name: str) -> Slot:
        """Raises UnknownName for a slot that is not there or is empty."""
        if name in self.slots:
            return self.slots[name]
        try:
            row, column = (int(part) for part in name.split(","))
        except ValueError:
            raise UnknownName(f"slot in tile set {self.name}", name, self.slots) from None
        rows, columns = self.grid_shape
        if not (0 <= row < rows and 0 <= column < columns and self.filled[row, column]):
            raise UnknownName(f"slot in tile set {self.name}", name, self.slots)
        known = self.names.get((row, column))  # it may have got a name since it was first used
        return Slot((row, column)) if known is None else self.slots[known]

    def pixels(self, at: tuple[int, int]) -> Rgba:
        """(h, w, 4) pixels of the slot in row and column `at`."""
        y, x = self.cut.corner_px(at)
        height, width = self.cut.size_of(at)
        return _in_tile(self.sheet.rgba[y : y + height, x : x + width], self.cut.tile)

    def filled_slots(self) -> Iterator[str]:
        for row, column in np.argwhere(self.filled):
            yield self.name_at((int(row), int(column)))


def check_mask(mask: Plane | None, size_px: tuple[int, int], what: str) -> None:
    """Raises BadValue for a mask that does not fit its sheet."""
    if mask is None:
        return
    if mask.shape != size_px:
        raise BadValue(f"the mask of {what}", mask.shape, f"as large as its sheet, {size_px}")
    if mask.cells.size and int(mask.cells.max()) > 2:
        raise BadValue(f"the mask of {what}", int(mask.cells.max()), "0 to 2")


def _in_tile(part: Rgba, tile: tuple[int, int]) -> Rgba:
    """(h, w, 4): a part of a sheet as large as a tile, in its middle and on its ground."""
    height, width = part.shape[:2]
    if (height, width) == tile:
        return part
    out = np.zeros((*tile, part.shape[2]), part.dtype)
    left = (tile[1] - width) // 2
    out[tile[0] - height :, left : left + width] = part
    return out


def cut_pixels(rgba: Rgba, cut: Cut) -> Rgba:
    """(rows, columns, h, w, channels) of the tiles of a picture; of an even cut a view, without
    a copy."""
    if cut.rects:
        parts = [_in_tile(rgba[y : y + h, x : x + w], cut.tile) for y, x, h, w in cut.rects]
        return np.stack(parts)[None]
    rows, columns = cut.grid_of((rgba.shape[0], rgba.shape[1]))
    height, width = cut.tile
    step_y, step_x = height + cut.spacing, width + cut.spacing
    part = rgba[cut.margin :, cut.margin :]
    sy, sx, sc = part.strides
    return np.lib.stride_tricks.as_strided(
        part,
        (rows, columns, height, width, rgba.shape[2]),
        (sy * step_y, sx * step_x, sy, sx, sc),
        writeable=False,
    )
