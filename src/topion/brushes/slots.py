"""Brushes made from a marked block of slots of a sheet."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from topion.brushes.mosaic import Mosaic
from topion.brushes.stamp import Stamp
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.model.solid import Block
from topion.model.tileset import TileRef, TileSet
from topion.weaving.rules import Variant


def stamp_of(
    tileset: TileSet, box: Box, taken: set[str], within: NDArray[np.bool_] | None = None
) -> Stamp:
    """The block as it lies on the sheet; empty slots stay holes.  Raises BadValue for none.

    within : as large as the box, which of its slots are wanted; all by itself.
    """
    wanted = np.ones(box.shape, bool) if within is None else within
    block = tuple(tuple(ref_at(tileset, (y + box.lo[0], x + box.lo[1])) if is_wanted else None
                        for x, is_wanted in enumerate(row))
                  for y, row in enumerate(wanted.tolist()))  # fmt: skip
    name = free_in(f"{tileset.name} {tileset.name_at((box.lo[0], box.lo[1]))}", taken)
    return Stamp(name, block)


def block_of(tileset: TileSet, box: Box, taken: set[str]) -> Block:
    """A block whose faces are the marked slots in reading order: one for all sides, three for
    top, sides and bottom, six for up, down, north, east, south and west; any other number
    repeats over all its faces by its place in the room.  Raises BadValue."""
    faces = [ref for ref in _refs(tileset, box) if ref]
    if len(faces) != box.size:
        raise BadValue("the marked slots", len(faces), "all filled")
    name = free_in(f"{tileset.name} {tileset.name_at((box.lo[0], box.lo[1]))}", taken)
    if box.size in (1, 3, 6):
        return Block(name, colour_of(tileset, box), tuple(faces))
    wide = box.shape[1]
    pattern = tuple(tuple(faces[n : n + wide]) for n in range(0, len(faces), wide))
    return Block(name, colour_of(tileset, box), pattern=pattern)


def mosaic_of(tileset: TileSet, box: Box, taken: set[str]) -> Mosaic:
    """Each marked tile with the same weight.  Raises BadValue if all are empty."""
    refs = [ref for ref in _refs(tileset, box) if ref]
    if not refs:
        raise BadValue("the marked block", box.shape, "at least one slot that is not empty")
    variants = tuple(Variant(ref) for ref in refs)
    return Mosaic(
        free_in(f"{tileset.name} mosaic", taken), variants, colour=colour_of(tileset, box)
    )


def pattern_of(tileset: TileSet, box: Box, taken: set[str]) -> Mosaic:
    """The block as it lies on the sheet, repeating by its place in the room.  Raises BadValue for
    an empty slot."""
    rows = [[ref_at(tileset, (y, x)) for x in range(box.lo[1], box.hi[1])]
            for y in range(box.lo[0], box.hi[0])]  # fmt: skip
    pattern = tuple(tuple(ref for ref in row if ref) for row in rows)
    if sum(map(len, pattern)) != box.size:
        raise BadValue("the marked slots", sum(map(len, pattern)), "all filled")
    name = free_in(f"{tileset.name} pattern", taken)
    colour = colour_of(tileset, box)
    return Mosaic(name, (Variant(pattern[0][0]),), colour=colour, pattern=pattern)


def _refs(tileset: TileSet, box: Box) -> Iterator[TileRef | None]:
    for y, x in box.cells():
        yield ref_at(tileset, (int(y), int(x)))


def ref_at(tileset: TileSet, at: tuple[int, int]) -> TileRef | None:
    """The tile of a slot; None for an empty one."""
    return TileRef(tileset.name, tileset.name_at(at)) if tileset.filled[at] else None


def colour_of(tileset: TileSet, box: Box) -> str:
    """The mean colour of the middle slot."""
    middle = (box.lo[0] + box.shape[0] // 2, box.lo[1] + box.shape[1] // 2)
    pixels = tileset.pixels(middle).reshape(-1, 4).astype(float)
    solid = pixels[pixels[:, 3] > 0]
    red, green, blue = (int(v) for v in (solid if len(solid) else pixels)[:, :3].mean(axis=0))
    return f"#{red:02x}{green:02x}{blue:02x}"


def free_in(stem: str, taken: set[str]) -> str:
    """That name, with a number behind it where it is taken."""
    if stem not in taken:
        return stem
    return next(n for n in (f"{stem} {i}" for i in range(2, 10_000)) if n not in taken)
