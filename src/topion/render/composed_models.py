"""A part of a voxel room as one model: blocks and things become voxels."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from topion.grid.arrays import CellMask
from topion.grid.boxes import Box
from topion.grid.ways import Way
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.model.room import Room
from topion.model.solid import (
    LONGEST_MODEL,
    MOST_COLOURS,
    TURN_BITS,
    TURN_MASK,
    Block,
    VoxelModel,
)
from topion.render.face_voxels import block_voxels
from topion.render.volume import shape_of, thing_matrix
from topion.weaving.settle import tiles_in

_SIDES = (16, 8, 4, 2, 1)  # voxels to a cell that are tried
Rgb = NDArray[np.uint8]  # (d, h, w, 3)


def composed_model(project: Project, room: Room, box: Box) -> VoxelModel:
    """All blocks and things that show in a box of a room, with as many voxels to a cell as a model
    can have.  box : at most 256 cells a side."""
    side = next(n for n in _SIDES if n * max(box.shape) <= LONGEST_MODEL)
    size = tuple(n * side for n in box.shape)
    rgb, full = np.zeros((*size, 3), np.uint8), np.zeros(size, bool)
    for _, layer in room.drawn():
        if layer.info.shown and layer.info.traits.shows:
            _lay_blocks(project, tiles_in(project, layer, box), side, rgb, full)
    for _, layer in room.drawn():
        for thing in layer.things.values() if layer.info.shown else ():
            _lay_thing(project, thing, box, side, rgb, full)
    return _coloured(rgb, full, side)


def _lay_blocks(
    project: Project, tiles: NDArray[np.uint16], side: int, rgb: Rgb, full: CellMask
) -> None:
    depth, height, width = tiles.shape
    colours = rgb.reshape(depth, side, height, side, width, side, 3)
    filled = full.reshape(depth, side, height, side, width, side)
    for number in np.unique(tiles[tiles > 0]).tolist():
        block = project.blocks[project.block_names[(number >> TURN_BITS) - 1]]
        own, there = _turned(_voxels_of(project, block, side), number & TURN_MASK)
        z, y, x = np.nonzero(tiles == number)
        kept = filled[z, :, y, :, x, :]
        colours[z, :, y, :, x, :] = np.where(there[..., None], own, colours[z, :, y, :, x, :])
        filled[z, :, y, :, x, :] = kept | there


def _voxels_of(project: Project, block: Block, side: int) -> VoxelModel:
    """A block in a cell of side³ voxels."""
    if block.model is None:
        return block_voxels(project, block, side)
    model = block.model
    longest = max(model.size)
    depth, height, width = model.size
    whole = np.zeros((longest,) * 3, np.uint8)  # on the floor, in the middle of its cell
    top, left = (longest - height) // 2, (longest - width) // 2
    whole[:depth, top : top + height, left : left + width] = model.cells
    at = np.arange(side) * longest // side
    return VoxelModel(whole[np.ix_(at, at, at)], model.palette, side)


def _turned(model: VoxelModel, turn: int) -> tuple[Rgb, CellMask]:
    cells = Way(3, turn).array(model.cells)
    return model.rgb[cells], cells > 0


def _lay_thing(
    project: Project, thing: Thing, box: Box, side: int, rgb: Rgb, full: CellMask
) -> None:
    """Each voxel of the box takes the one of the thing that lies at its middle."""
    prefab = project.prefabs.get(thing.prefab)
    if prefab is None:
        return
    model = shape_of(project, prefab)
    matrix, by = thing_matrix(prefab, model, thing)
    ends = np.stack(np.meshgrid(*((0, n) for n in model.size), indexing="ij"), axis=-1)
    corners = (ends.reshape(-1, 3) @ matrix.T + by - np.array(box.lo)) * side
    lo = np.maximum(np.floor(corners.min(axis=0)).astype(int), 0)
    hi = np.minimum(np.ceil(corners.max(axis=0)).astype(int), full.shape)
    if (hi <= lo).any():
        return
    part = tuple(slice(a, b) for a, b in zip(lo.tolist(), hi.tolist(), strict=True))
    at = np.stack(np.meshgrid(*(np.arange(s.start, s.stop) for s in part), indexing="ij"), axis=-1)
    places = (at + 0.5) / side + np.array(box.lo) - by
    own = np.floor(places @ np.linalg.inv(matrix).T + 1e-9).astype(int)
    inside = ((own >= 0) & (own < model.size)).all(axis=-1)
    numbers = np.zeros(inside.shape, np.uint8)
    numbers[inside] = model.cells[tuple(own[inside].T)]
    there = numbers > 0
    rgb[part][there] = model.rgb[numbers[there]]
    full[part] |= there


def _coloured(rgb: Rgb, full: CellMask, side: int) -> VoxelModel:
    """With the colours that are there; the commonest where there are too many (median cut,
    Heckbert 1982)."""
    colours = rgb[full]
    known, numbers = np.unique(colours, axis=0, return_inverse=True)
    if len(known) > MOST_COLOURS:
        image = Image.fromarray(colours[None]).quantize(MOST_COLOURS, dither=Image.Dither.NONE)
        every = np.array(image.getpalette(), np.uint8).reshape(-1, 3)
        used, numbers = np.unique(np.asarray(image)[0], return_inverse=True)
        known = every[used]
    cells = np.zeros(full.shape, np.uint8)
    cells[full] = numbers.reshape(-1) + 1
    palette = tuple("#{:02x}{:02x}{:02x}".format(*colour) for colour in known.tolist())
    return VoxelModel(cells, palette or ("#808080",), side)
