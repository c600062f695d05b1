"""Voxel rooms as glTF: sound to the validator, and the right shape when read back."""

from __future__ import annotations

import io
import json
import struct

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import small_room
from tests.voxel_rooms import isle, planes
from topion.brushes import ThingsBrush
from topion.demo.brinehollow import brinehollow
from topion.demo.island import ROOM
from topion.edit.rooms import change_things
from topion.errors import BadValue
from topion.formats.gltf import faces_by_material, gltf_bytes
from topion.model.prefab import Thing
from topion.model.room import RoomInfo
from topion.render.volume import room_faces, shape_of, thing_faces
from topion.scripting import new


def head(data: bytes) -> dict:
    assert data[:4] == b"glTF" and struct.unpack("<I", data[8:12])[0] == len(data)
    length = struct.unpack("<I", data[12:16])[0]
    return json.loads(data[20 : 20 + length])


def read_back(data: bytes) -> trimesh.Trimesh:
    return trimesh.load(io.BytesIO(data), file_type="glb").to_geometry()


def written(room) -> bytes:
    return gltf_bytes(room.project.data, room.data)


def furnished():
    room = isle((8, 10, 12))
    room.lay("Stones", box=((3, 2, 2), (5, 4, 4)))
    room.lay("Box", box=((3, 6, 6), (4, 8, 8)))
    room.lay("Slabs", cells=[(3, 1, 8), (3, 1, 9)])
    room.lay("Post", cells=[(7, 5, 10)])
    room.lay(ThingsBrush("Post", "Post", turn=90.0, mirrored=True, scale=0.5), cells=[(7, 9, 1)])
    room.lay("Tufts", box=((0, 0, 5), (0, 9, 6)))
    return room


def test_a_furnished_room_has_nothing_the_validator_minds(validated, tmp_path):
    room = furnished()
    issues, info = validated(written(room), tmp_path)
    assert issues["numErrors"] == issues["numWarnings"] == 0, issues["messages"]
    assert info["totalTriangleCount"] > 100 and info["version"] == "2.0"


def test_the_demo_island_has_nothing_the_validator_minds(validated, tmp_path):
    data = brinehollow().data
    issues, info = validated(gltf_bytes(data, data.room(ROOM)), tmp_path)
    assert issues["numErrors"] == issues["numWarnings"] == issues["numInfos"] == 0, issues
    assert info["hasTextures"] and info["materialCount"] > 5


def test_an_empty_room_is_a_sound_file_too(validated, tmp_path):
    room = isle(ground=0)
    data = written(room)
    issues, _ = validated(data, tmp_path)
    assert issues["numErrors"] == issues["numWarnings"] == 0
    assert "meshes" not in head(data)


def test_read_back_it_has_the_bounds_and_the_triangles_of_the_room():
    room = furnished()
    mesh = read_back(written(room))
    data = room.project.data
    blocks = sum(len(f) for f in faces_by_material(data, room.data).values())
    things = [*room.things(), *room.sown("Tufts")]
    faces = [len(thing_faces(data, thing)) for thing in things]
    assert len(mesh.faces) == 2 * (blocks + sum(faces))
    corners = room_faces(data, room.data, shaded=False)
    points = np.concatenate([corners.corners, corners.corners + corners.us + corners.vs])
    lo, hi = points.min(axis=0)[[2, 0, 1]], points.max(axis=0)[[2, 0, 1]]
    assert np.allclose(mesh.bounds, [lo, hi], atol=1e-5)


def test_y_points_up_x_east_and_z_south():
    room = isle((6, 7, 9), ground=0)
    room.lay("Stones", cells=[(5, 1, 8)])
    bounds = read_back(written(room)).bounds
    assert bounds.tolist() == [[8, 5, 1], [9, 6, 2]]


def test_lengths_are_metres():
    project = isle(ground=0).project
    room = project.add_room("Wide", (4, 4, 4), metres=2.5)
    room.lay("Stones", box=((0, 0, 0), (3, 3, 3)))
    room.lay("Post", cells=[(3, 1, 1)], override=True)
    data = gltf_bytes(project.data, room.data)
    assert read_back(data).bounds[1].max() > 10 - 1e-6
    node = next(n for n in head(data)["nodes"] if n["name"] == "Post 1")
    assert node["translation"] == [3.75, 7.5, 3.75]


def test_each_material_is_one_named_mesh_and_each_thing_a_named_node():
    room = furnished()
    found = head(written(room))
    names = [node["name"] for node in found["nodes"]]
    for name in ("Ground", "Stones", "Box", "Slabs", "Things", "Tufts", "Post 1", "Post 2"):
        assert names.count(name) == 1, name
    meshes = [mesh["name"] for mesh in found["meshes"]]
    assert sorted(meshes) == sorted({*meshes}) and meshes.count("Post") == 1
    parents = {n["name"]: n["children"] for n in found["nodes"] if "children" in n}
    assert len(parents["Things"]) == 2 and len(parents["Tufts"]) == len(room.sown("Tufts"))


@settings(max_examples=20, deadline=None)
@given(
    st.sampled_from([0.0, 90.0, 180.0, 270.0, 33.0]),
    st.booleans(),
    st.sampled_from([0.5, 1.0, 2.0]),
    st.tuples(*(st.sampled_from([0.0, 20.0, -75.0]),) * 2),
)
def test_things_are_turned_mirrored_and_scaled_as_in_the_room(turn, mirrored, scale, lean):
    room = isle(ground=0)
    data = room.project.data
    thing = Thing("Tuft", 4.0, 5.25, turn, mirrored, scale, z=2.5, lean=lean[0], roll=lean[1])
    room.project.history.apply(
        change_things(data, room.name, room.data.id_of("Things"), {1: thing}, "stand")
    )
    mesh = read_back(written(room))
    faces = thing_faces(data, thing)
    points = np.concatenate(
        [faces.corners, faces.corners + faces.us, faces.corners + faces.vs,
         faces.corners + faces.us + faces.vs]
    )[:, [2, 0, 1]]  # fmt: skip
    wanted = {tuple(p) for p in (points.round(4) + 0.0).tolist()}
    got = {tuple(p) for p in (np.asarray(mesh.vertices).round(4) + 0.0).tolist()}
    assert all(min(np.abs(np.subtract(p, q)).max() for q in got) < 2e-4 for p in wanted)
    assert shape_of(data, data.prefab("Tuft")).per_cell == 16


def test_faces_look_outwards():
    room = isle((5, 6, 7), ground=0)
    room.lay("Stones", box=((1, 1, 1), (3, 4, 5)))
    mesh = read_back(written(room))
    mesh.merge_vertices(merge_tex=True, merge_norm=True)
    assert mesh.volume == pytest.approx(3 * 4 * 5)


def test_a_material_never_shares_a_rectangle_with_another_that_looks_alike():
    room = isle((4, 6, 8), ground=0)
    twin = type(room.project.data.brush("Stones"))("Twin", room.project.data.brush("Water").tiles)
    room.project.add_brush(twin)
    room.lay("Water", box=((0, 0, 0), (0, 5, 3)))
    room.lay("Twin", box=((0, 0, 4), (0, 5, 7)))
    found = faces_by_material(room.project.data, room.data)
    names = [room.project.data.material_name(n) for n in found]
    assert sorted(names) == ["Twin", "Water"]
    assert [len(f) for f in found.values()] == [5, 5]


def test_hidden_layers_stay_out_and_a_flat_room_is_refused():
    room = furnished()
    room.set_layer("Tufts", shown=False)
    assert "Tufts" not in [n["name"] for n in head(written(room))["nodes"]]
    room.set_layer("Blocks", shown=False)
    assert "Ground" not in [n["name"] for n in head(written(room))["nodes"]]
    flat = small_room()
    with pytest.raises(BadValue, match="voxel room"):
        gltf_bytes(flat.project.data, flat.data)


def test_rooms_larger_than_a_mesh_come_out_whole():
    project = isle(ground=0).project
    room = project.add_room("Long", (2, 3, 400))
    room.lay("Stones", box=((0, 0, 0), (1, 2, 399)))
    mesh = read_back(gltf_bytes(project.data, room.data))
    assert mesh.bounds[1].tolist() == [400, 2, 3]
    mesh.merge_vertices(merge_tex=True, merge_norm=True)
    assert mesh.area == pytest.approx(2 * (2 * 3 + 2 * 400 + 3 * 400))
    assert planes(room)["block"].all()


def test_a_room_of_nothing_but_a_name_is_written():
    project = new(None, "Bare")
    room = project.add_room("Bare room", (1, 1, 1), layers=(("Blocks", "blocks"),))
    assert head(gltf_bytes(project.data, room.data))["scenes"][0]["name"] == "Bare room"
    assert RoomInfo("x", (1, 1, 1)).axes == 3
