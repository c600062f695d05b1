"""Small pictures of blocks, models and tiles, well framed."""

from __future__ import annotations

import numpy as np

from topion.grid.arrays import Rgba
from topion.grid.boxes import Box
from topion.grid.meshing import mesh
from topion.model.derived import Kept
from topion.model.prefab import PlacementRule, Prefab, Turns
from topion.model.project import Project
from topion.model.solid import TURN_BITS, VoxelModel
from topion.model.tileset import TileRef
from topion.pictures.png import picture_of
from topion.render.atlas import tile_picture
from topion.render.eye import Eye
from topion.render.faces import LOOKS_OF_BLOCKS, Faces, face_book, faces_of_quads, model_quads
from topion.render.pixels import halved
from topion.render.raster import draw
from topion.render.volume import block_matrix

_PITCH_DEG, _YAW_DEG = 32.0, -40.0
_NO_PICTURES = np.zeros((1, 16, 16, 4), np.uint8)


def portrait(
    faces: Faces, pictures: np.ndarray, box: Box, side_px: int, yaw: float = _YAW_DEG
) -> Rgba:
    """(side, side, 4) faces seen from the south-east, as large as they fit.  yaw : degrees."""
    eye = Eye(height=side_px * 2, width=side_px * 2, yaw=yaw, pitch=_PITCH_DEG).framing(box, 0.98)
    large = draw(faces, pictures, eye)
    return halved(large)


def block_portrait(
    project: Project,
    name: str,
    turn: int = 0,
    side_px: int = 32,
    theme: str = "",
    *,
    side: int = 1,
    yaw: float = _YAW_DEG,
) -> Rgba:
    """A block as it stands in its cell, or a heap of side³ of them.  yaw : degrees."""
    book = face_book(project, theme)
    number = project.block_names.index(name) + 1
    box = Box.of_shape((side,) * 3)
    if number in book.models:
        model = book.models[number]
        own = faces_of_quads(model_quads(model), model.rgb).moved(*block_matrix(model, turn))
        still = np.eye(3)
        heap = Faces.joined([own.moved(still, cell.astype(float)) for cell in box.cells()])
        return portrait(heap, book.pictures, box, side_px, yaw)
    full = np.zeros((side + 2,) * 3, np.uint16)
    full[1:-1, 1:-1, 1:-1] = number << TURN_BITS | turn
    quads = mesh(full, book.faces, repeats=book.repeats((0, 0, 0)))
    faces = faces_of_quads(quads, book.rgb, book.layers, book.quarters)
    return portrait(faces, book.pictures, box, side_px, yaw)


def model_portrait(model: VoxelModel, side_px: int = 48) -> Rgba:
    """A model alone."""
    faces = faces_of_quads(model_quads(model), model.rgb)
    return portrait(faces, _NO_PICTURES, model.extent, side_px)


def ref_picture(project: Project, ref: TileRef, theme: str = "") -> Rgba:
    """A tile as it is laid, or a block as it stands; one clear pixel if it is missing."""
    if not ref.is_block:
        return tile_picture(project, ref, theme)
    if ref.slot not in project.block_names:
        return np.zeros((1, 1, 4), np.uint8)
    cache = _PORTRAITS.of(project, project.stamp(*LOOKS_OF_BLOCKS), dict)
    found = cache.get((ref, theme))
    if found is None:
        found = cache[ref, theme] = block_portrait(project, ref.slot, ref.turn, theme=theme)
    return found


_PORTRAITS: Kept[dict[tuple[TileRef, str], Rgba]] = Kept()


def model_prefab(
    name: str,
    model: VoxelModel,
    *,
    class_name: str = "",
    turns: Turns = "quarters",
    mirrors: bool = True,
    rules: tuple[PlacementRule, ...] = (),
) -> Prefab:
    """A prefab of a model: its footprint and height follow from the voxels, its picture is
    drawn from them."""
    extent = model.extent
    if not extent.size:
        extent = Box((0, 0, 0), (1, 1, 1))
    high, deep, wide = (max(1, -(-side // model.per_cell)) for side in extent.shape)
    trimmed = VoxelModel(model.cells[extent.slices].copy(), model.palette, model.per_cell)
    picture = model_portrait(trimmed, 16 * max(high, deep, wide) + 16)
    seen = np.flatnonzero(picture[..., 3].any(axis=1))
    foot = int(seen[-1]) + 1 if len(seen) else picture.shape[0]
    return Prefab(
        name,
        picture_of(picture),
        (foot, picture.shape[1] // 2),
        ("#" * wide,) * deep,
        class_name,
        turns,
        mirrors,
        rules,
        high,
        trimmed,
    )
