"""What the faces of blocks and models show: for the window, for pictures, for exports."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Rgba
from topion.grid.meshing import SPANS, Quads, Repeats, mesh
from topion.grid.orient import NORMALS, PICTURE_RIGHT, PICTURE_UP, TURNS, turned_faces
from topion.model.derived import Kept
from topion.model.project import Project
from topion.model.solid import TURN_BITS, Block, VoxelModel
from topion.model.tileset import TileRef
from topion.render.atlas import tile_picture
from topion.render.pixels import as_rgba, as_words, resized

SIDE_PX = 16  # of the pictures on faces
_MOST_MORE = 1.6  # times as many rectangles may be spent on the corners of a model
_ALIKE = 28  # of 255: colours this near count as one from afar


@dataclass(frozen=True, eq=False)
class FaceBook:
    """What every block shows on each of its sides.

    faces : (blocks · 32, 6) uint16, the look of each side of a tile (see TURN_BITS).
    cubes : (blocks · 32,) bool, tiles that fill their cell.
    layers, quarters : by look, a picture (0: none) and its quarter turns clockwise.
    rgb : (looks, 3) uint8, the colour of a plain face, or the mean of the picture.
    pictures : (layers, SIDE_PX, SIDE_PX, 4) uint8; 0 is clear.
    models : by block number, the shape of those that have one.
    far : as `faces`, with looks of about the same colour as one, for what is seen from afar.
    patterns : (looks, 2) rows and columns of the pattern that begins at a look; None without any.
    refs : of each picture the tile that it shows.
    """

    faces: NDArray[np.uint16]
    cubes: NDArray[np.bool_]
    layers: NDArray[np.uint16]
    quarters: NDArray[np.uint8]
    rgb: NDArray[np.uint8]
    pictures: NDArray[np.uint8]
    models: dict[int, VoxelModel]
    far: NDArray[np.uint16]
    patterns: NDArray[np.int64] | None = None
    refs: tuple[TileRef | None, ...] = (None,)

    def repeats(self, origin: tuple[int, ...]) -> Repeats | None:
        """How patterns fall where a box of cells begins."""
        if self.patterns is None:
            return None
        return Repeats(origin, self.patterns[:, 0], self.patterns[:, 1])


def face_book(project: Project, theme: str = "") -> FaceBook:
    """Made once for the blocks and pictures a project has now, as they look in a theme."""
    kept = _BOOKS.of(project, project.stamp(*LOOKS_OF_BLOCKS), dict)
    found = kept.get(theme)
    if found is None:
        found = kept[theme] = _made(project, theme)
    return found


LOOKS_OF_BLOCKS = ("blocks", "block_names", "tilesets", "tiles", "themes")  # all that they show
_BOOKS: Kept[dict[str, FaceBook]] = Kept()


class _Looks:
    """Numbers distinct faces: a colour, or a picture and its turn."""

    def __init__(self, project: Project, theme: str) -> None:
        self.project, self.theme = project, theme
        self.refs: list[TileRef | None] = [None]  # of the pictures
        self.pictures = [np.zeros((SIDE_PX, SIDE_PX, 4), np.uint8)]
        self._means: list[tuple[int, ...]] = [(0, 0, 0)]  # of the pictures
        self._layers: dict[TileRef, int] = {}
        self._numbers: dict[tuple[object, ...], int] = {}
        self.rows: list[tuple[int, int, tuple[int, ...]]] = [(0, 0, (0, 0, 0))]
        self.patterns: dict[tuple[tuple[TileRef, ...], ...], int] = {}

    def of(self, block: Block, face: int, quarters: int) -> int:
        refs = block.six_faces
        if not refs:
            rgb = tuple(bytes.fromhex(block.colour[1:]))
            return self._number((rgb,), (0, 0, rgb))
        layer = self._layer(refs[face])
        rgb = self._means[layer]
        return self._number((layer, quarters), (layer, quarters, rgb))

    def of_pattern(self, rows: tuple[tuple[TileRef, ...], ...]) -> int:
        """The first of the looks of a pattern, which follow on each other."""
        if rows not in self.patterns:
            first = len(self.rows)
            for ref in (ref for row in rows for ref in row):
                layer = self._layer(ref)
                self.rows.append((layer, 0, self._means[layer]))
            self.patterns[rows] = first
        return self.patterns[rows]

    def _layer(self, ref: TileRef) -> int:
        if ref not in self._layers:
            self._layers[ref] = len(self.pictures)
            self.refs.append(ref)
            self.pictures.append(face_picture(tile_picture(self.project, ref, self.theme)))
            self._means.append(mean_rgb(self.pictures[-1]))
        return self._layers[ref]

    def _number(self, key: tuple[object, ...], row: tuple[int, int, tuple[int, ...]]) -> int:
        if key not in self._numbers:
            self._numbers[key] = len(self.rows)
            self.rows.append(row)
        return self._numbers[key]


def face_picture(picture: Rgba) -> Rgba:
    """(SIDE_PX, SIDE_PX, 4) a tile as it is shown on a face."""
    return as_rgba(resized(as_words(np.ascontiguousarray(picture)), SIDE_PX, SIDE_PX))


def mean_rgb(picture: Rgba) -> tuple[int, ...]:
    """The mean of what of a picture can be seen."""
    solid = picture.reshape(-1, 4)
    solid = solid[solid[:, 3] > 0]
    mean = solid[:, :3].mean(axis=0) if len(solid) else np.zeros(3)
    return tuple(int(v) for v in mean)


def _made(project: Project, theme: str) -> FaceBook:
    looks = _Looks(project, theme)
    count = len(project.block_names) + 1
    faces = np.zeros((count << TURN_BITS, 6), np.uint16)
    cubes = np.zeros(count << TURN_BITS, bool)
    models = {}
    turned = turned_faces()
    for number, name in enumerate(project.block_names, 1):
        block = project.blocks[name].worn(theme)
        if block.model is not None:
            models[number] = block.model
            continue
        for turn in range(TURNS):
            row = number << TURN_BITS | turn
            cubes[row] = True
            for side in range(6):
                face, quarters = turned[turn, side].tolist()
                if block.pattern:
                    faces[row, side] = looks.of_pattern(block.pattern)
                else:
                    faces[row, side] = looks.of(block, face, quarters)
    layers, quarters, rgb = zip(*looks.rows, strict=True)
    return FaceBook(
        faces,
        cubes,
        np.array(layers, np.uint16),
        np.array(quarters, np.uint8),
        np.array(rgb, np.uint8).reshape(-1, 3),
        np.stack(looks.pictures),
        models,
        _alike(np.array(rgb, np.int64).reshape(-1, 3))[faces],
        _sizes(looks),
        tuple(looks.refs),
    )


def _sizes(looks: _Looks) -> NDArray[np.int64] | None:
    """(looks, 2) rows and columns of patterns, 1 × 1 for all else."""
    if not looks.patterns:
        return None
    out = np.ones((len(looks.rows), 2), np.int64)
    for rows, first in looks.patterns.items():
        out[first] = len(rows), len(rows[0])
    return out


def _alike(rgb: NDArray[np.int64]) -> NDArray[np.uint16]:
    """(looks,) for each look the first of about the same colour."""
    rough = rgb // _ALIKE
    key = (rough[:, 0] << 16) + (rough[:, 1] << 8) + rough[:, 2]
    key[0] = -1
    _, first, which = np.unique(key, return_index=True, return_inverse=True)
    return first[which.reshape(-1)].astype(np.uint16)


@dataclass(frozen=True, eq=False)
class Faces:
    """n rectangles anywhere, ready to be drawn or exported.

    corners : (n, 3) one corner, in cells.  us, vs : (n, 3) edges from it.
    normals : (n, 3), of length one.  rgb : (n, 3) uint8.  layers : (n,) pictures, 0 for none.
    pixels : (n, 2, 3) what to add up for a place in the picture, in pictures right and down:
    the place of the corner, and the steps along u and v.  openness : (n, 4), see Quads.
    """

    corners: NDArray[np.float64]
    us: NDArray[np.float64]
    vs: NDArray[np.float64]
    normals: NDArray[np.float64]
    rgb: NDArray[np.uint8]
    layers: NDArray[np.uint16]
    pixels: NDArray[np.float64]
    openness: NDArray[np.uint8]

    def __len__(self) -> int:
        return len(self.corners)

    @classmethod
    def joined(cls, parts: list[Faces]) -> Faces:
        if not parts:
            parts = [faces_of_quads(Quads.joined([]), np.zeros((1, 3), np.uint8))]
        return cls(*(np.concatenate([getattr(p, name) for p in parts]) for name in _FIELDS))

    def picked(self, rows: NDArray[np.intp]) -> Faces:
        """Some of them."""
        return Faces(*(getattr(self, name)[rows] for name in _FIELDS))

    def moved(self, matrix: NDArray[np.float64], by: NDArray[np.float64]) -> Faces:
        """Through a (3, 3) matrix over (z, y, x), then shifted."""
        normals = self.normals @ matrix.T
        normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
        us, vs = self.us @ matrix.T, self.vs @ matrix.T
        return Faces(self.corners @ matrix.T + by, us, vs, normals, self.rgb, self.layers,
                     self.pixels, self.openness)  # fmt: skip


_FIELDS = ("corners", "us", "vs", "normals", "rgb", "layers", "pixels", "openness")


def faces_of_quads(
    quads: Quads,
    rgb: NDArray[np.uint8],
    layers: NDArray[np.uint16] | None = None,
    quarters: NDArray[np.uint8] | None = None,
) -> Faces:
    """The rectangles of a mesh in its own cells; rgb, layers, quarters : by look."""
    count = len(quads)
    faces = quads.faces.astype(np.intp)
    out = (NORMALS.sum(axis=1) > 0)[faces]
    corners = quads.cells.astype(np.float64)
    plane_axis = np.array([0, 0, 1, 2, 1, 2])[faces]
    corners[np.arange(count), plane_axis] += out
    us, vs = np.zeros((count, 3)), np.zeros((count, 3))
    spans = np.array(SPANS)[faces]
    us[np.arange(count), spans[:, 1]] = quads.sizes[:, 1]
    vs[np.arange(count), spans[:, 0]] = quads.sizes[:, 0]
    looks = quads.looks
    layer = layers[looks] if layers is not None else np.zeros(count, np.uint16)
    turn = quarters[looks] if quarters is not None else np.zeros(count, np.uint8)
    return Faces(
        corners,
        us,
        vs,
        NORMALS[faces].astype(np.float64),
        rgb[looks],
        layer,
        _pixels(faces, turn, corners, us, vs),
        quads.opened_corners(),
    )


def _pixels(
    faces: NDArray[np.intp],
    quarters: NDArray[np.uint8],
    corners: NDArray[np.float64],
    us: NDArray[np.float64],
    vs: NDArray[np.float64],
) -> NDArray[np.float64]:
    """(n, 2, 3) how the picture lies on each rectangle; whole numbers are edges of cells."""
    right, up = picture_axes(faces, quarters)
    rows = []
    for axis in (right, -up):
        steps = [(axis * way).sum(axis=1) for way in (corners, us, vs)]
        rows.append(np.stack(steps, axis=1))
    return np.stack(rows, axis=1)


def picture_axes(
    faces: NDArray[np.intp], quarters: NDArray[np.uint8]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Where the right and the upper edge of pictures point, on faces and quarter turns."""
    up, right = PICTURE_UP[faces], PICTURE_RIGHT[faces]
    ways = np.stack([up, right, -up, -right], axis=1)  # where the top comes to, turning clockwise
    row = np.arange(len(faces))
    tops = ways[row, quarters % 4]
    rights = ways[row, (quarters + 1) % 4]
    return rights.astype(np.float64), tops.astype(np.float64)


def model_quads(model: VoxelModel) -> Quads:
    """The mesh of a model in voxels; looks are places in its palette."""
    padded = np.zeros(tuple(side + 2 for side in model.size), np.uint16)
    padded[1:-1, 1:-1, 1:-1] = model.cells
    own = np.repeat(np.arange(len(model.palette) + 1, dtype=np.uint16)[:, None], 6, axis=1)
    shaded, plain = mesh(padded, own), mesh(padded, own, shaded=False)
    # thin shapes fall to pieces for shadows that nobody sees
    return shaded if len(shaded) <= _MOST_MORE * len(plain) else plain


def model_faces(project: Project, model: VoxelModel) -> Faces:
    """The rectangles of a model in its own voxels; kept, as many things share it."""
    cache = _MODEL_FACES.of(project, None, dict)
    found = cache.get(id(model))
    if found is None or found[0] is not model:
        found = (model, faces_of_quads(model_quads(model), model.rgb))
        cache[id(model)] = found
    return found[1]


_MODEL_FACES: Kept[dict[int, tuple[VoxelModel, Faces]]] = Kept()
