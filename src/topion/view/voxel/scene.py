"""What the graphics card holds of a room, and how a frame of it is drawn."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from topion.grid.boxes import Box
from topion.grid.orient import NORMALS
from topion.model.solid import VoxelModel
from topion.render.eye import Eye
from topion.render.faces import SIDE_PX, FaceBook
from topion.render.lighting import PLAIN_LIT, Lit, depths
from topion.render.pixels import smaller
from topion.render.vertices import (
    Vertices,
    model_vertices,
    picture_frames,
    quad_indices,
)
from topion.view.voxel import shaders
from topion.view.voxel.support import upload_smaller

# Where the card is slow, smaller cells are drawn in fewer rectangles, and yet smaller ones in
# fewest while the view turns.
FAR_PX, COARSE_PX = 9.0, 4.0
_MOST_QUADS = 98_304  # of a chunk of 32³ cells: every second cell full, six sides each
Features = tuple[str, ...]
_CELL_FEATURES: tuple[Features, ...] = ((), ("CUT",), ("PICTURES",), ("CUT", "PICTURES"))
_CELLS = "3u2 1u2 4f1 1u1 1u1 2x1 /v"
_CELL_NAMES = ("in_at", "in_layer", "in_colour", "in_face", "in_quarter")
_SHAPES = "3u2 2x1 4f1 1u1 3x1 /v"
_SHAPE_NAMES = ("in_at", "in_colour", "in_face")
_INSTANCE = "9f4 3f4 4f4 /i"
_INSTANCE_NAMES = ("in_turn", "in_place", "in_tint")
_WASH = "3u2 10x1 /v"
_SHARE_S = 0.02  # of a frame, for models that are new on the card
ChunkKey = tuple[int, int, int]


@dataclass(frozen=True)
class Cut:
    """Cells beyond `level` along (x, y, z) `normal` are left out or ghosted."""

    normal: tuple[float, float, float] = (0.0, 0.0, 0.0)
    level: float = 0.0
    mode: int = 0  # 0 shown, 1 left out, 2 ghosted


@dataclass(eq=False)
class Mesh:
    """Vertices on the card.  corner : (z, y, x) of the cells they count from.
    drawn : ready to be drawn, by the features of the shader."""

    buffer: Any
    drawn: dict[Features, Any]
    washed: Any
    ends: NDArray[np.intp]
    corner: tuple[int, int, int]
    box: Box

    def release(self) -> None:
        """Give it back to the graphics card."""
        for part in (*self.drawn.values(), self.washed, self.buffer):
            part.release()


@dataclass(eq=False)
class Shape:
    """The vertices of a model, and as many places as it stands in."""

    vertices: Any
    quads: int
    instances: Any = None
    drawn: dict[Features, Any] = field(default_factory=dict)
    count: int = 0

    def release(self) -> None:
        """Give it back to the graphics card."""
        for part in (*self.drawn.values(), self.instances, self.vertices):
            if part is not None:
                part.release()


@dataclass(eq=False)
class Scene:
    """One room on the card.  Needs a current context for every call."""

    context: Any
    chunks: dict[ChunkKey, Mesh] = field(default_factory=dict)
    few: tuple[dict[ChunkKey, Mesh], ...] = field(default_factory=lambda: ({}, {}))
    quads_drawn: int = 0
    pictures_held: int = 0
    light: Lit = PLAIN_LIT
    size: tuple[int, ...] = (1, 1, 1)  # of the room, in cells
    slow: bool = False  # the last frames in full took too long
    turning: bool = False  # another view will follow at once
    _in_few: set[ChunkKey] = field(default_factory=set)

    def __post_init__(self) -> None:
        make = self.context.program
        self._cells = {
            features: make(
                vertex_shader=shaders.with_features(shaders.CELLS_VERTEX, *features),
                fragment_shader=shaders.with_features(shaders.CELLS_FRAGMENT, *features),
            )
            for features in _CELL_FEATURES
        }
        self._shape_programs: dict[Features, Any] = {
            features: make(
                vertex_shader=shaders.SHAPES_VERTEX,
                fragment_shader=shaders.with_features(shaders.SHAPES_FRAGMENT, *features),
            )
            for features in ((), ("CUT",))
        }
        self._wash = make(vertex_shader=shaders.WASH_VERTEX, fragment_shader=shaders.PLAIN_FRAGMENT)
        self._line = make(
            vertex_shader=shaders.LINES_VERTEX, fragment_shader=shaders.PLAIN_FRAGMENT
        )
        self._sky = make(vertex_shader=shaders.SKY_VERTEX, fragment_shader=shaders.SKY_FRAGMENT)
        self._sky_drawn = self.context.vertex_array(self._sky, [])
        spread = make(vertex_shader=shaders.SPREAD_VERTEX, fragment_shader=shaders.SPREAD_FRAGMENT)
        self._spread_drawn = self.context.vertex_array(spread, [])
        self._small: Any = None  # framebuffer of fewer pixels than the window has
        self._index = self.context.buffer(quad_indices(_MOST_QUADS).tobytes())
        for features, program in self._cells.items():
            if "PICTURES" in features:
                program["frames"].write(picture_frames().tobytes())
        self._pictures: Any = None
        self._shapes: dict[int, tuple[VoxelModel, Shape]] = {}

    # --- what it holds --------------------------------------------------------------------

    def use_pictures(self, book: FaceBook) -> None:
        """The pictures on faces, with smaller ones for far faces."""
        if self._pictures is not None:
            self._pictures.release()
        count, height, width, _ = book.pictures.shape
        data = np.ascontiguousarray(book.pictures)
        self._pictures = self.context.texture_array((width, height, count), 4, data.tobytes())
        upload_smaller(self._pictures, smaller(data))
        self._pictures.filter = (moderngl.NEAREST_MIPMAP_NEAREST, moderngl.NEAREST)
        self._pictures.repeat_x = self._pictures.repeat_y = False
        self.pictures_held = count

    def mesh(self, vertices: Vertices, corner: tuple[int, int, int], box: Box) -> Mesh | None:
        """Put vertices on the card; None for none."""
        if not vertices.quads:
            return None
        buffer = self.context.buffer(vertices.data.tobytes())
        content = [(buffer, _CELLS, *_CELL_NAMES)]
        drawn = {
            features: self.context.vertex_array(program, content, self._index, skip_errors=True)
            for features, program in self._cells.items()
        }
        washed = self.context.vertex_array(self._wash, [(buffer, _WASH, "in_at")], self._index)
        return Mesh(buffer, drawn, washed, vertices.ends, corner, box)

    def put(self, key: ChunkKey, mesh: Mesh | None, few: Sequence[Mesh | None] = ()) -> None:
        """Let a chunk show another mesh, and others in fewer rectangles, or nothing."""
        (self._in_few.add if few else self._in_few.discard)(key)
        news = (mesh, *(few or (None,) * len(self.few)))
        for shelf, new in zip((self.chunks, *self.few), news, strict=True):
            old = shelf.pop(key, None)
            if old is not None:
                old.release()
            if new is not None:
                shelf[key] = new

    def clear(self) -> None:
        """Show nothing, hold nothing."""
        for key in list(self.chunks):
            self.put(key, None)
        for _, shape in self._shapes.values():
            shape.release()
        self._shapes.clear()

    def stand(self, places: dict[int, tuple[VoxelModel, NDArray[np.float32]]]) -> bool:
        """Where models stand: by id, the model and (n, 16) matrix by columns, place and tint.
        False where there are more new models than one frame has time for."""
        begun = time.perf_counter()
        for key in [key for key in self._shapes if key not in places]:
            self._shapes[key][1].count = 0
        for key, (model, rows) in places.items():
            known = self._shapes.get(key)
            if known is None or known[0] is not model:
                if time.perf_counter() - begun > _SHARE_S:
                    return False
                found = model_vertices(model)
                shape = Shape(None, found.quads)
                if found.quads:
                    shape.vertices = self.context.buffer(found.data.tobytes())
                known = (model, shape)
                self._shapes[key] = known
            self._stand_one(known[1], np.ascontiguousarray(rows, np.float32))
        return True

    def _stand_one(self, shape: Shape, rows: NDArray[np.float32]) -> None:
        shape.count = len(rows)
        if shape.vertices is None or not len(rows):
            shape.count = 0
            return
        if shape.instances is None or shape.instances.size < rows.nbytes:
            for part in (*shape.drawn.values(), shape.instances):
                if part is not None:
                    part.release()
            shape.instances = self.context.buffer(reserve=max(1024, rows.nbytes * 2))
            index = self.context.buffer(quad_indices(shape.quads).tobytes())
            content = [(shape.vertices, _SHAPES, *_SHAPE_NAMES),
                       (shape.instances, _INSTANCE, *_INSTANCE_NAMES)]  # fmt: skip
            shape.drawn = {
                features: self.context.vertex_array(program, content, index)
                for features, program in self._shape_programs.items()
            }
        shape.instances.write(rows.tobytes())

    # --- a frame --------------------------------------------------------------------------

    def begin_frame(self, frame: Any, size: tuple[int, int], pixels: int) -> None:
        """Draw into the frame of (width, height) px; or, with more than one of its pixels to one
        of ours, into a smaller picture that `end_frame` spreads over it."""
        target, (width, height) = frame, size
        if pixels > 1:
            width, height = max(1, width // pixels), max(1, height // pixels)
            target = self._smaller((width, height))
        else:
            self._let_go_of_smaller()
        target.use()
        self.context.viewport = (0, 0, width, height)
        self.context.clear(0, 0, 0, 1, depth=1.0)

    def end_frame(self, frame: Any, size: tuple[int, int]) -> None:
        """The frame shows what was drawn since `begin_frame`."""
        if self._small is None:
            return
        context = self.context
        frame.use()
        context.viewport = (0, 0, *size)
        context.disable(moderngl.DEPTH_TEST | moderngl.BLEND | moderngl.CULL_FACE)
        self._small.color_attachments[0].use(0)
        self._spread_drawn.render(moderngl.TRIANGLES, vertices=3)

    def _smaller(self, size: tuple[int, int]) -> Any:
        if self._small is None or self._small.size != size:
            self._let_go_of_smaller()
            picture = self.context.texture(size, 4)
            picture.filter = (moderngl.NEAREST, moderngl.NEAREST)
            depth = self.context.depth_renderbuffer(size)
            self._small = self.context.framebuffer([picture], depth)
        return self._small

    def _let_go_of_smaller(self) -> None:
        if self._small is not None:
            for part in (*self._small.color_attachments, self._small.depth_attachment, self._small):
                part.release()
            self._small = None

    def draw_sky(self, top: tuple[float, ...], foot: tuple[float, ...]) -> None:
        """Fill the frame from top to foot."""
        context = self.context
        rest = moderngl.ONE_MINUS_SRC_ALPHA  # the picture stays opaque, whatever lies over it
        context.blend_func = (moderngl.SRC_ALPHA, rest, moderngl.ONE, rest)
        context.disable(moderngl.DEPTH_TEST | moderngl.BLEND | moderngl.CULL_FACE)
        self._sky["top"].value, self._sky["foot"].value = top, foot
        self._sky_drawn.render(moderngl.TRIANGLES, vertices=3)

    def draw_room(
        self, eye: Eye, cut: Cut, instead: dict[ChunkKey, Mesh | None], extra: list[Mesh]
    ) -> None:
        """Chunks (or what the ghost shows instead of them), caps of the cut, and all shapes."""
        self.context.enable(moderngl.DEPTH_TEST)
        self.context.disable(moderngl.BLEND)
        matrix = eye.matrix()
        self.quads_drawn = 0
        if self._pictures is not None:
            self._pictures.use(0)
        shown = self._level(eye)
        chunks = {**shown, **{k: m for k, m in instead.items() if m is not None}}
        meshes = [m for k, m in chunks.items() if k not in instead or instead[k] is m]
        cutting: Features = ("CUT",) if cut.mode else ()
        features: Features = (*cutting, "PICTURES") if shown is self.chunks else cutting
        program = self._ready(features, eye, matrix, cut)
        corner = program["corner"]
        for mesh, ranges in _seen(meshes, eye, matrix):
            corner.value = mesh.corner[::-1]
            for first, count in ranges:
                mesh.drawn[features].render(moderngl.TRIANGLES, vertices=6 * count, first=6 * first)
                self.quads_drawn += count
        if extra:
            corner = self._ready(("PICTURES",), eye, matrix, Cut())["corner"]
            for mesh in extra:
                corner.value = mesh.corner[::-1]
                count = int(mesh.ends[-1])
                mesh.drawn["PICTURES",].render(moderngl.TRIANGLES, vertices=6 * count)
        self._draw_shapes(eye, matrix, cut, cutting)

    def _level(self, eye: Eye) -> dict[ChunkKey, Mesh]:
        """The meshes that suit the size of cells and the speed of the card."""
        if not self.slow or not self._in_few >= self.chunks.keys():
            return self.chunks
        if self.turning and eye.px < COARSE_PX:
            return self.few[1]
        return self.few[0] if eye.px < FAR_PX else self.chunks

    def _ready(self, features: Features, eye: Eye, matrix: NDArray[np.float32], cut: Cut) -> Any:
        """The program for cells, set up for a frame."""
        program = self._cells[features]
        program["matrix"].write(matrix.T.tobytes())
        self._set_light(program, eye)
        if "PICTURES" in features:
            smaller = max(0.0, float(np.log2(SIDE_PX / max(eye.px, 0.1))) - 0.5)
            program["smaller"].value = smaller
        if "CUT" in features:
            self._set_cut(program, cut)
        return program

    def _set_light(self, program: Any, eye: Eye) -> None:
        light, forward = self.light, eye.forward
        begins, ends = depths(eye, self.size)
        program["sun"].value = tuple(light.sun[::-1])
        program["direct"].value = tuple(light.direct)
        program["ambient"].value = tuple(light.ambient)
        dark = 1 - float(light.openness[0])
        program["corners"].value = dark / (1 - float(PLAIN_LIT.openness[0]))
        program["view"].value = (*forward[::-1], float(forward @ eye.place))
        program["haze"].value = (light.haze, begins, ends)
        program["haze_colour"].value = tuple(light.haze_rgb)

    def _draw_shapes(
        self, eye: Eye, matrix: NDArray[np.float32], cut: Cut, features: Features
    ) -> None:
        program = self._shape_programs[features]
        program["matrix"].write(matrix.T.tobytes())
        self._set_light(program, eye)
        if features:
            self._set_cut(program, cut)
        for _, shape in self._shapes.values():
            if shape.count:
                shape.drawn[features].render(
                    moderngl.TRIANGLES, vertices=6 * shape.quads, instances=shape.count
                )

    @staticmethod
    def _set_cut(program: Any, cut: Cut) -> None:
        program["cut"].value = (*cut.normal, cut.level)
        program["cut_mode"].value = cut.mode

    def draw_wash(self, eye: Eye, mesh: Mesh, rgba: tuple[float, ...]) -> None:
        """A thin colour over the faces of a mesh, just in front of them."""
        context = self.context
        context.enable(moderngl.DEPTH_TEST | moderngl.BLEND)
        context.polygon_offset = (-1.0, -2.0)
        self._wash["matrix"].write(eye.matrix().T.tobytes())
        self._wash["corner"].value = tuple(float(v) for v in mesh.corner[::-1])
        self._wash["colour"].value = rgba
        mesh.washed.render(moderngl.TRIANGLES, vertices=6 * int(mesh.ends[-1]))
        context.polygon_offset = (0.0, 0.0)
        context.disable(moderngl.BLEND)

    def draw_lines(
        self, eye: Eye, points: NDArray[np.float64], rgba: tuple[float, ...], *, through: bool
    ) -> None:
        """(2n, 3) ends of lines in corner coordinates (z, y, x); `through` what stands before."""
        if not len(points):
            return
        context = self.context
        context.enable(moderngl.BLEND)
        (context.disable if through else context.enable)(moderngl.DEPTH_TEST)
        data = np.ascontiguousarray(points[:, ::-1], np.float32)
        buffer = context.buffer(data.tobytes())
        drawn = context.vertex_array(self._line, [(buffer, "3f4", "in_at")])
        self._line["matrix"].write(eye.matrix().T.tobytes())
        self._line["colour"].value = rgba
        drawn.render(moderngl.LINES, vertices=len(points))
        drawn.release()
        buffer.release()
        context.disable(moderngl.BLEND)


def _seen(meshes: list[Mesh], eye: Eye, matrix: NDArray[np.float32]) -> list[tuple[Mesh, _Ranges]]:
    """Those whose boxes may be in the picture, the nearest first, with the ranges (first
    rectangle, count) of their sides that can face the eye."""
    if not meshes:
        return []
    lo = np.array([mesh.box.lo for mesh in meshes], float)
    hi = np.array([mesh.box.hi for mesh in meshes], float)
    middle, half = (lo + hi) / 2, (hi - lo) / 2
    inside = np.ones(len(meshes), bool)
    wide = matrix.astype(float)
    for sign in (1.0, -1.0):
        for row in (0, 1):  # the four sides of the picture; w + s · coordinate ≥ 0 lies inside
            plane = wide[3] + sign * wide[row]
            normal = plane[2::-1]
            inside &= middle @ normal + half @ np.abs(normal) + plane[3] >= 0
    place, forward = eye.place, eye.forward
    if eye.perspective:
        nearest = np.where(NORMALS > 0, lo[:, None], hi[:, None])  # (n, 6, 3)
        faces = ((place - nearest) * NORMALS).sum(axis=2) > 0
    else:
        faces = np.broadcast_to(NORMALS @ forward < -1e-9, (len(meshes), 6))
    rows = np.flatnonzero(inside)
    order = rows[np.argsort(((middle - place) @ forward)[rows])]
    return [(meshes[row], _joined(meshes[row].ends.tolist(), faces[row].tolist())) for row in order]


_Ranges = list[tuple[int, int]]


def _joined(ends: list[int], faces: list[bool]) -> _Ranges:
    """Ranges of the sides that are shown, neighbours as one."""
    ranges: _Ranges = []
    for face, shown in enumerate(faces):
        first, last = ends[face], ends[face + 1]
        if not shown or first == last:
            continue
        if ranges and sum(ranges[-1]) == first:
            ranges[-1] = (ranges[-1][0], ranges[-1][1] + last - first)
        else:
            ranges.append((first, last - first))
    return ranges
