"""A voxel room as faces: its cubes meshed, its shaped blocks and its things put in place."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from topion.grid.arrays import CellList
from topion.grid.boxes import Box
from topion.grid.meshing import Quads, mesh
from topion.grid.orient import NORMALS, matrices
from topion.model.derived import Kept
from topion.model.layer import Layer
from topion.model.picture import Picture
from topion.model.prefab import Prefab, Thing
from topion.model.project import Project
from topion.model.room import Room
from topion.model.solid import LONGEST_MODEL, TURN_BITS, TURN_MASK, VoxelModel
from topion.render.faces import Faces, face_book, faces_of_quads, model_faces
from topion.render.sprites import frame_number, shown_picture, things_in
from topion.render.wear import PLAIN, Wear, wear_of
from topion.render.worn_blocks import dressed, worn_book, worn_model
from topion.weaving.settle import tiles_in

CHUNK = 32  # cells a side
_LARGEST_BOX = 256  # cells a side that are meshed at once


def block_layer(room: Room) -> Layer | None:
    """The layer of blocks that is shown, if there is one."""
    layers = [layer for _, layer in room.cell_layers() if layer.info.shown]
    return layers[-1] if layers else None


def mesh_box(
    project: Project,
    layer: Layer,
    box: Box,
    wear: Wear = PLAIN,
    *,
    shaded: bool = True,
    far: bool = False,
) -> Quads:
    """The mesh of the cubes in a box of the room; quads count cells from the box's corner.  Their
    looks are those of `worn_book`, asked for afterwards.

    far : for small cells on the screen: what looks about alike is joined, corners do not count.
    """
    tiles = tiles_in(project, layer, box.grown(1))
    if not tiles[1:-1, 1:-1, 1:-1].any():
        return Quads.joined([])
    book, cubes = dressed(project, wear, box.grown(1), tiles)
    if far:
        return mesh(cubes, book.far, shaded=False)
    return mesh(cubes, book.faces, shaded=shaded, repeats=book.repeats(layer.from_origin(box.lo)))


def coarse_box(project: Project, layer: Layer, box: Box, wear: Wear = PLAIN) -> Quads:
    """The mesh of a box in cubes twice as wide, for cells of a px or two while the view turns.

    Its corner must lie on even cells.  A cube shows the uppermost of its eight cells; where fewer
    than three are full there is none.
    """
    high = tuple(side + side % 2 for side in box.shape)
    wide = Box(box.lo, tuple(lo + side for lo, side in zip(box.lo, high, strict=True))).grown(2)
    book, cells = dressed(project, wear, wide, tiles_in(project, layer, wide))
    if not cells.any():
        return Quads.joined([])
    depth, height, width = (side // 2 for side in cells.shape)
    eights = cells.reshape(depth, 2, height, 2, width, 2)[:, ::-1].transpose(0, 2, 4, 1, 3, 5)
    eights = eights.reshape(depth, height, width, 8)
    first = (eights != 0).argmax(axis=3)
    shown = np.take_along_axis(eights, first[..., None], axis=3)[..., 0]
    quads = mesh(np.where((eights != 0).sum(axis=3) >= 3, shown, 0), book.far, shaded=False)
    lowest = quads.cells * np.int16(2)
    lowest += np.maximum(NORMALS, 0).astype(np.int16)[quads.faces]  # of the half next to the face
    return replace(quads, cells=lowest, sizes=quads.sizes * np.int16(2))


@dataclass(frozen=True, eq=False)
class Shaped:
    """Blocks with a shape of their own: n cells of one block in one colour.

    cells : (n, 3).  turns : (n,) of 24.
    """

    model: VoxelModel
    cells: CellList
    turns: NDArray[np.uint8]


def shaped_blocks(project: Project, layer: Layer, box: Box, wear: Wear = PLAIN) -> list[Shaped]:
    """The blocks in a box that are models."""
    book = face_book(project, wear.theme)
    if not book.models:
        return []
    tiles, codes = tiles_in(project, layer, box), wear.codes(box)
    found = []
    for number, model in book.models.items():
        cells = np.argwhere(tiles >> TURN_BITS == number)
        if not len(cells):
            continue
        turns = (tiles[tuple(cells.T)] & TURN_MASK).astype(np.uint8)
        own = np.zeros(len(cells), np.uint16) if codes is None else codes[tuple(cells.T)]
        for code in np.unique(own).tolist():
            here = own == code
            made = worn_model(project, wear.theme, model, code)
            found.append(Shaped(made, cells[here] + np.array(box.lo), turns[here]))
    return found


def block_matrix(model: VoxelModel, turn: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(3, 3) and (3,): from voxels of a block's model to its cell, turned about its middle."""
    scale = 1.0 / max(model.size)
    turned = matrices()[turn].astype(np.float64)
    middle = np.array([model.size[0] / 2, model.size[1] / 2, model.size[2] / 2]) * scale
    middle[0] = 0.5  # shapes stand on the floor of their cell
    return turned * scale, 0.5 - turned @ middle


def shape_of(project: Project, prefab: Prefab) -> VoxelModel:
    """The model of a prefab, at the time that was set last; a picture stands upright, a voxel
    thick."""
    if prefab.model is not None:
        shown = prefab.model_at(frame_number(project, prefab.name)) if prefab.model_frames else None
        return shown or prefab.model
    cache = _UPRIGHT.of(project, None, dict)
    picture = shown_picture(project, prefab)
    found = cache.get(id(picture))
    if found is None or found[0] is not picture:
        found = cache[id(picture)] = (picture, standing_picture(prefab, picture))
    return found[1]


_UPRIGHT: Kept[dict[int, tuple[object, VoxelModel]]] = Kept()


def standing_picture(prefab: Prefab, picture: Picture) -> VoxelModel:
    """A picture of a prefab as a model: one voxel thick, a voxel for each pixel that is seen."""
    rgba = picture.rgba[: max(0, prefab.anchor_px[0]) or None]
    step = -(-max(rgba.shape[:2]) // LONGEST_MODEL)
    rgba = np.ascontiguousarray(rgba[::step, ::step])
    solid = rgba[..., 3] >= 128
    image = Image.fromarray(rgba[..., :3]).quantize(254, dither=Image.Dither.NONE)
    colours = np.array(image.getpalette() or [0, 0, 0], np.uint8).reshape(-1, 3)
    cells = np.where(solid, np.asarray(image, np.uint8) + 1, 0).astype(np.uint8)
    palette = tuple("#{:02x}{:02x}{:02x}".format(*rgb) for rgb in colours.tolist())
    return VoxelModel(cells[::-1, None, :].copy(), palette, max(1, 16 // step))


def thing_matrix(
    prefab: Prefab, model: VoxelModel, thing: Thing
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(3, 3) and (3,): from voxels of its model to where a thing stands, in corner
    coordinates (z, y, x)."""
    scale = thing.scale / model.per_cell
    flip = np.diag([1.0, 1.0, -1.0 if thing.mirrored else 1.0])
    matrix = scale * thing_turn(thing) @ flip
    rows, columns = len(prefab.footprint), len(prefab.footprint[0])
    # the middle of the footprint, from the middle of the thing's own cell, in voxels
    off_y = (1 - rows) / 2 * model.per_cell
    off_x = ((columns - 1) / 2 - (columns - 1) // 2) * model.per_cell
    below = prefab.below_px * model.per_cell / 16 if prefab.model is None else prefab.below_px
    middle = np.array([below, model.size[1] / 2 - off_y, model.size[2] / 2 - off_x])
    return matrix, thing_seat(thing) - matrix @ middle


def thing_seat(thing: Thing) -> NDArray[np.float64]:
    """(3,) where the bottom middle of its own cell comes to lie, in corner coordinates: of a
    tipped thing, on another side of the cell."""
    up = np.array([0.5, 0.0, 0.0])
    middle = np.array([thing.z + 0.5, thing.y + 0.5, thing.x + 0.5])
    return np.asarray(middle - thing_turn(thing) @ up)


def thing_turn(thing: Thing) -> NDArray[np.float64]:
    """(3, 3) how it turns directions."""
    return thing.directions


def shown_things(project: Project, room: Room) -> Iterator[Thing]:
    """All placed and sown things of the layers that are shown."""
    for layer_id, layer in room.drawn():
        if layer.info.shown and layer.info.kind in ("things", "field"):
            yield from things_in(project, room, layer_id, None)


def boxes_of(box: Box, side: int) -> Iterator[Box]:
    """The box in parts of at most `side` cells a side."""
    starts = np.meshgrid(
        *(range(lo, hi, side) for lo, hi in zip(box.lo, box.hi, strict=True)), indexing="ij"
    )
    for lo in np.stack(starts, axis=-1).reshape(-1, len(box.lo)).tolist():
        hi = tuple(min(a + side, b) for a, b in zip(lo, box.hi, strict=True))
        yield Box(tuple(lo), hi)


def block_faces(project: Project, room: Room, *, shaded: bool = True) -> Faces:
    """The blocks of a room."""
    layer, wear = block_layer(room), wear_of(room)
    if layer is None:
        return Faces.joined([])
    parts = []
    for box in boxes_of(room.box, _LARGEST_BOX):
        quads = mesh_box(project, layer, box, wear, shaded=shaded)
        book = worn_book(project, wear)
        moved = quads.moved((box.lo[0], box.lo[1], box.lo[2]))
        parts.append(faces_of_quads(moved, book.rgb, book.layers, book.quarters))
    for shaped in shaped_blocks(project, layer, room.box, wear):
        own = model_faces(project, shaped.model)
        for cell, turn in zip(shaped.cells, shaped.turns.tolist(), strict=True):
            matrix, by = block_matrix(shaped.model, turn)
            parts.append(own.moved(matrix, by + cell))
    return Faces.joined(parts)


def thing_faces(project: Project, thing: Thing) -> Faces:
    """One thing, where it stands; nothing if its prefab is not known."""
    prefab = project.prefabs.get(thing.prefab)
    if prefab is None:
        return Faces.joined([])
    model = shape_of(project, prefab)
    return model_faces(project, model).moved(*thing_matrix(prefab, model, thing))


def room_faces(project: Project, room: Room, *, shaded: bool = True) -> Faces:
    """The whole room, things and all."""
    things = [thing_faces(project, thing) for thing in shown_things(project, room)]
    return Faces.joined([block_faces(project, room, shaded=shaded), *things])


def outline_points(full: NDArray[np.bool_]) -> NDArray[np.float64]:
    """(n, 3) corners that hold all full cells of (d, h, w) between them; those of the room if
    it is empty."""
    columns = full.any(axis=0)
    if not columns.any():
        return np.array([(z, y, x) for z in (0, 1) for y in (0, full.shape[1])
                         for x in (0, full.shape[2])], float)  # fmt: skip
    ys, xs = np.nonzero(columns)
    held = full[:, ys, xs]
    high = full.shape[0] - held[::-1].argmax(axis=0)
    low = held.argmax(axis=0)
    points = [np.stack([z, ys + dy, xs + dx], axis=1) for z in (low, high)
              for dy in (0, 1) for dx in (0, 1)]  # fmt: skip
    return np.concatenate(points).astype(np.float64)
