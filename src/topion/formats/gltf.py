"""A voxel room as binary glTF 2.0: merged meshes by material, things as named nodes.

Lengths are metres, y points up, x east and z south, as the standard (Khronos, glTF 2.0
specification) has it.
"""

from __future__ import annotations

import json
import math
import struct
from importlib.metadata import version

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadValue
from topion.grid.meshing import Repeats, mesh
from topion.model.plain import Json, JsonRecord
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.model.room import Room
from topion.pictures.png import png_bytes
from topion.render.faces import Faces, faces_of_quads, model_faces
from topion.render.sprites import things_in
from topion.render.volume import (
    block_layer,
    block_matrix,
    boxes_of,
    shape_of,
    shaped_blocks,
    thing_matrix,
    thing_seat,
    thing_turn,
)
from topion.render.wear import wear_of
from topion.render.worn_blocks import dressed, worn_book
from topion.weaving.settle import shown_materials, tiles_in

_FLOAT, _USHORT, _UINT = 5126, 5123, 5125
_VERTICES, _INDICES = 34962, 34963
_LARGEST_BOX = 256


def gltf_bytes(project: Project, room: Room) -> bytes:
    """The whole of a voxel room, with all layers that are shown; raises BadValue for a flat
    one."""
    if room.info.axes != 3:
        raise BadValue("the room", room.info.name, "a voxel room, for glTF")
    file = _File(project, room)
    file.add_blocks()
    for layer_id, layer in room.drawn():
        if layer.info.shown and not layer.info.traits.shows:
            things = things_in(project, room, layer_id, None)
            file.add_things(layer.info.name, list(things))
    return file.packed()


class _File:
    def __init__(self, project: Project, room: Room) -> None:
        self.project, self.room = project, room
        self.metres = room.info.metres
        self.data = bytearray()
        self.json: JsonRecord = {
            "asset": {"version": "2.0", "generator": f"Topion {version('topion')}"},
            "scene": 0,
            "scenes": [{"name": room.info.name, "nodes": []}],
        }
        self._images: dict[int, int] = {}  # picture -> glTF material
        self._painted: int | None = None
        self._meshes: dict[int, tuple[object, int]] = {}

    def _add(self, table: str, item: JsonRecord) -> int:
        rows: list[Json] = self.json.setdefault(table, [])
        rows.append(item)
        return len(rows) - 1

    # --- numbers --------------------------------------------------------------------------

    def _view(self, data: bytes, target: int | None = None) -> int:
        self.data += b"\0" * (-len(self.data) % 4)
        view = {"buffer": 0, "byteOffset": len(self.data), "byteLength": len(data)}
        if target is not None:
            view["target"] = target
        self.data += data
        return self._add("bufferViews", view)

    def _floats(self, values: NDArray[np.float64], *, bounds: bool = False) -> int:
        stored = np.ascontiguousarray(values, np.float32)
        accessor: JsonRecord = {
            "bufferView": self._view(stored.tobytes(), _VERTICES),
            "componentType": _FLOAT,
            "count": len(stored),
            "type": {2: "VEC2", 3: "VEC3"}[stored.shape[1]],
        }
        if bounds:
            accessor["min"] = [float(v) for v in stored.min(axis=0)]
            accessor["max"] = [float(v) for v in stored.max(axis=0)]
        return self._add("accessors", accessor)

    def _colours(self, rgb: NDArray[np.uint8]) -> int:
        """(n, 3) sRGB bytes as linear colours, which is what vertices carry."""
        wide = np.full((len(rgb), 4), 65535, np.uint16)
        wide[:, :3] = np.rint(_linear(rgb) * 65535)
        view = self._view(wide.tobytes(), _VERTICES)
        return self._add("accessors", {"bufferView": view, "componentType": _USHORT,
                         "normalized": True, "count": len(wide), "type": "VEC4"})  # fmt: skip

    def _indices(self, count: int) -> int:
        first = np.arange(count, dtype=np.uint32)[:, None] * np.uint32(4)
        index = (first + np.array([0, 1, 2, 2, 1, 3], np.uint32)).reshape(-1)
        view = self._view(index.tobytes(), _INDICES)
        return self._add("accessors", {"bufferView": view, "componentType": _UINT,
                         "count": len(index), "type": "SCALAR"})  # fmt: skip

    # --- looks ----------------------------------------------------------------------------

    def _paint(self) -> int:
        """The material of faces that carry their own colour."""
        if self._painted is None:
            self._painted = self._add("materials", _matt("painted"))
        return self._painted

    def _pictured(self, layer: int) -> int:
        if layer not in self._images:
            if "samplers" not in self.json:  # crisp pixels, repeated
                self._add("samplers", {"magFilter": 9728, "minFilter": 9984,
                                       "wrapS": 10497, "wrapT": 10497})  # fmt: skip
            picture = worn_book(self.project, wear_of(self.room)).pictures[layer]
            view = self._view(png_bytes(picture))
            image = self._add("images", {"bufferView": view, "mimeType": "image/png"})
            texture = self._add("textures", {"sampler": 0, "source": image})
            made = _matt(f"face {layer}")
            made["pbrMetallicRoughness"]["baseColorTexture"] = {"index": texture}
            if (picture[..., 3] < 255).any():
                made["alphaMode"] = "MASK"
            self._images[layer] = self._add("materials", made)
        return self._images[layer]

    def _primitives(self, faces: Faces, scale: float) -> list[JsonRecord]:
        """One for each picture, and one for all faces of plain colours."""
        found = []
        for layer in np.unique(faces.layers).tolist():
            rows = np.flatnonzero(faces.layers == layer)
            found.append(self._primitive(faces, rows, layer, scale))
        return found

    def _primitive(
        self, faces: Faces, rows: NDArray[np.intp], layer: int, scale: float
    ) -> JsonRecord:
        corners, us, vs = faces.corners[rows], faces.us[rows], faces.vs[rows]
        normals = faces.normals[rows]
        # the second corner lies along u or v, so that triangles run anticlockwise outside
        right_handed = (_cross(us, vs) * normals).sum(axis=1) > 0
        first = np.where(right_handed[:, None], us, vs)
        second = np.where(right_handed[:, None], vs, us)
        points = np.stack([corners, corners + first, corners + second, corners + us + vs], axis=1)
        attributes = {
            "POSITION": self._floats(_y_up(points.reshape(-1, 3)) * scale, bounds=True),
            "NORMAL": self._floats(_y_up(np.repeat(normals, 4, axis=0))),
        }
        if layer:
            base, u, v = (faces.pixels[rows][..., i] for i in range(3))
            one = np.where(right_handed[:, None], u, v)
            two = np.where(right_handed[:, None], v, u)
            places = np.stack([base, base + one, base + two, base + u + v], axis=1)
            attributes["TEXCOORD_0"] = self._floats(places.reshape(-1, 2))
        else:
            attributes["COLOR_0"] = self._colours(np.repeat(faces.rgb[rows], 4, axis=0))
        material = self._pictured(layer) if layer else self._paint()
        return {
            "attributes": attributes,
            "indices": self._indices(len(rows)),
            "material": material,
        }

    # --- what lies in the room ------------------------------------------------------------

    def add_blocks(self) -> None:
        """A node and a mesh for each material."""
        for material, faces in faces_by_material(self.project, self.room).items():
            name = self.project.material_name(material) or "blocks"
            primitives = self._primitives(faces, self.metres)
            number = self._add("meshes", {"name": name, "primitives": primitives})
            self._root(self._add("nodes", {"name": name, "mesh": number}))

    def _root(self, node: int) -> None:
        self.json["scenes"][0]["nodes"].append(node)

    def add_things(self, layer: str, things: list[Thing]) -> None:
        """A node for the layer, and one for each of its things below it."""
        children = []
        for number, thing in enumerate(things, 1):
            node = self._thing(thing, number)
            if node is not None:
                children.append(node)
        if children:
            self._root(self._add("nodes", {"name": layer, "children": children}))

    def _thing(self, thing: Thing, number: int) -> int | None:
        prefab = self.project.prefabs.get(thing.prefab)
        if prefab is None:
            return None
        model = shape_of(self.project, prefab)
        known = self._meshes.get(id(model))
        if known is None:
            faces = model_faces(self.project, model)
            if not len(faces):
                return None
            still = Thing(thing.prefab, -0.5, -0.5)  # stands on the origin
            placed = faces.moved(*thing_matrix(prefab, model, still))
            primitives = self._primitives(placed, self.metres)
            mesh_number = self._add("meshes", {"name": thing.prefab, "primitives": primitives})
            known = (model, mesh_number)
            self._meshes[id(model)] = known
        half = math.radians(-thing.turn) / 2  # clockwise from above is backwards about y
        wide = -thing.scale if thing.mirrored else thing.scale
        node: JsonRecord = {"name": f"{thing.prefab} {number}", "mesh": known[1]}
        z, y, x = thing_seat(thing).tolist()
        at = (x, z, y)
        node["translation"] = [float(v * self.metres) for v in at]
        if thing.tip or thing.lean or thing.roll:
            node["rotation"] = _quaternion(thing_turn(thing))
        elif thing.turn % 360:
            node["rotation"] = [0.0, math.sin(half), 0.0, math.cos(half)]
        if thing.scale != 1 or thing.mirrored:
            node["scale"] = [wide, thing.scale, thing.scale]
        if thing.properties:
            node["extras"] = dict(thing.properties)
        return self._add("nodes", node)

    def packed(self) -> bytes:
        """The whole file."""
        if not self.json["scenes"][0]["nodes"]:
            del self.json["scenes"][0]["nodes"]
        if self.data:
            self.json["buffers"] = [{"byteLength": len(self.data)}]
        text = json.dumps(self.json, ensure_ascii=False, separators=(",", ":")).encode()
        text += b" " * (-len(text) % 4)
        chunks = struct.pack("<I4s", len(text), b"JSON") + text
        if self.data:
            data = bytes(self.data) + b"\0" * (-len(self.data) % 4)
            chunks += struct.pack("<I4s", len(data), b"BIN\0") + data
        return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks


def _matt(name: str) -> JsonRecord:
    return {"name": name, "pbrMetallicRoughness": {"metallicFactor": 0.0, "roughnessFactor": 1.0}}


def _y_up(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n, 3) of (z, y, x) as (x, z, y): east, up, south."""
    return points[:, [2, 0, 1]]


def _quaternion(turn: NDArray[np.float64]) -> list[float]:
    """x, y, z, w of a rotation given over (z, y, x)."""
    from scipy.spatial.transform import Rotation  # takes long to load, and is seldom needed

    to = np.array([(0, 0, 1), (1, 0, 0), (0, 1, 0)], float)  # (z, y, x) to y up
    found: list[float] = Rotation.from_matrix(to @ turn @ to.T).as_quat().tolist()
    return found


def _cross(a: NDArray[np.float64], b: NDArray[np.float64]) -> NDArray[np.float64]:
    """The cross product of (z, y, x) vectors in the right-handed space of the file, as
    (z, y, x)."""
    return np.cross(_y_up(a), _y_up(b))[:, [1, 2, 0]]


def _linear(rgb: NDArray[np.uint8]) -> NDArray[np.float64]:
    """sRGB bytes to linear light, 0 to 1 (IEC 61966-2-1)."""
    value = rgb / 255.0
    return np.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4)


def faces_by_material(project: Project, room: Room) -> dict[int, Faces]:
    """The faces of a room's blocks by the material of their cells; cubes are meshed so that no
    rectangle holds two materials."""
    layer, wear = block_layer(room), wear_of(room)
    parts: dict[int, list[Faces]] = {}
    if layer is None:
        return {}
    for box in boxes_of(room.box, _LARGEST_BOX):
        around = box.grown(1)
        book, tiles = dressed(project, wear, around, tiles_in(project, layer, around))
        material = np.zeros(tiles.shape, np.uint32)
        material[1:-1, 1:-1, 1:-1] = shown_materials(project, layer, box)
        pairs, number = np.unique(material << 16 | tiles, return_inverse=True)
        solid = (pairs & 0xFFFF) > 0
        ids = np.zeros(len(pairs), np.uint16)
        ids[solid] = np.arange(1, int(solid.sum()) + 1)
        own = pairs[solid]
        keys = (own >> 16).astype(np.uint64)[:, None] << np.uint64(16)
        keys = keys | book.faces[own & 0xFFFF].astype(np.uint64)
        kinds, table = np.unique(keys, return_inverse=True)
        look = (kinds & np.uint64(0xFFFF)).astype(np.intp)
        sizes = np.ones((len(kinds), 2), np.int64) if book.patterns is None else book.patterns[look]
        counts = sizes.prod(axis=1)  # a pattern takes as many looks as it has tiles, in a row
        starts = np.cumsum(counts) - counts
        face_looks = np.zeros((len(own) + 1, 6), np.uint16)
        face_looks[1:] = starts[table].reshape(-1, 6)
        repeats = np.ones((int(counts.sum()), 2), np.int64)
        repeats[starts] = sizes
        full = ids[number.reshape(tiles.shape)]
        quads = mesh(full, face_looks, shaded=False,
                     repeats=Repeats(box.lo, repeats[:, 0], repeats[:, 1]))  # fmt: skip
        quads = quads.moved((box.lo[0], box.lo[1], box.lo[2]))
        look = np.repeat(look - starts, counts) + np.arange(len(repeats))
        faces = faces_of_quads(quads, book.rgb[look], book.layers[look], book.quarters[look])
        of = np.repeat((kinds >> np.uint64(16)).astype(np.intp), counts)[quads.looks]
        for number_ in np.unique(of).tolist():
            parts.setdefault(number_, []).append(faces.picked(np.flatnonzero(of == number_)))
    for shaped in shaped_blocks(project, layer, room.box, wear):
        own_faces = model_faces(project, shaped.model)
        for cell, turn in zip(shaped.cells, shaped.turns.tolist(), strict=True):
            matrix, by = block_matrix(shaped.model, turn)
            of_cell = int(shown_materials(project, layer)[tuple(cell)])
            parts.setdefault(of_cell, []).append(own_faces.moved(matrix, by + cell))
    return {number: Faces.joined(found) for number, found in sorted(parts.items())}
