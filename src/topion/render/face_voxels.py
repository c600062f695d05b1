"""A block as voxels: its colour, or the pictures of its faces, a voxel deep."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from topion.grid.arrays import Rgba
from topion.grid.orient import NORMALS, PICTURE_RIGHT, PICTURE_UP
from topion.model.project import Project
from topion.model.solid import Block, VoxelModel
from topion.render.atlas import tile_picture

_COLOURS = 32


def block_voxels(project: Project, block: Block, side: int) -> VoxelModel:
    """A cube of side³ voxels that looks as the block does.

    Its colours are the commonest of its pictures (median cut, Heckbert 1982); within, and where a
    picture is clear, it has the colour of the block.
    """
    rgb = np.zeros((side, side, side, 3), np.uint8)
    rgb[...] = tuple(bytes.fromhex(block.colour[1:]))
    for face, ref in enumerate(block.six_faces):
        picture = _nearest(tile_picture(project, ref), side)
        seen = picture[..., 3] >= 128
        at = tuple(axis[seen] for axis in _face_cells(face, side))
        rgb[at] = picture[seen][:, :3]
    flat = Image.fromarray(rgb.reshape(side * side, side, 3))
    image = flat.quantize(_COLOURS, dither=Image.Dither.NONE)
    known = np.array(image.getpalette(), np.uint8).reshape(-1, 3)
    used, cells = np.unique(np.asarray(image), return_inverse=True)
    palette = tuple("#{:02x}{:02x}{:02x}".format(*known[n]) for n in used.tolist())
    return VoxelModel((cells.reshape(rgb.shape[:3]) + 1).astype(np.uint8), palette, side)


def _nearest(picture: Rgba, side: int) -> Rgba:
    """(side, side, 4) of the pixels that are there."""
    rows, columns = (np.arange(side) * length // side for length in picture.shape[:2])
    return picture[rows][:, columns]


def _face_cells(face: int, side: int) -> NDArray[np.intp]:
    """(3, side, side) the voxels that the rows and columns of a picture come to lie on."""
    rows, columns = np.indices((side, side)) * 2 - (side - 1)  # from the middle, in half voxels
    out = np.full((side, side), side - 1)
    parts = (NORMALS[face], out), (PICTURE_UP[face], -rows), (PICTURE_RIGHT[face], columns)
    doubled = sum(way[:, None, None] * far for way, far in parts)
    return np.asarray((doubled + side - 1) // 2, np.intp)
