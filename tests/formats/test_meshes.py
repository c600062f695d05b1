"""Meshes from outside: their volume, their colours, and files that are not sound."""

from __future__ import annotations

import json
import struct

import numpy as np
import pytest
import scipy
import trimesh

from tests.voxel_rooms import isle
from topion.errors import BadFile, BadValue, NameTaken, Stopped
from topion.formats.gltf import gltf_bytes
from topion.formats.meshes.read import read_mesh
from topion.formats.meshes.voxels import MOST_COLOURS, model_from_file, voxel_model
from topion.grid.voxelise import inside_voxels, surface_voxels
from topion.scripting import new

KINDS = ("stl", "obj", "ply", "glb", "gltf")


def saved(tmp_path, mesh, kind="stl", name="mesh"):
    path = tmp_path / f"{name}.{kind}"
    exported = mesh.export(file_type=kind)
    if isinstance(exported, dict):  # a glTF and its buffers
        for file, data in exported.items():
            (tmp_path / file).write_bytes(data)
        (tmp_path / "model.gltf").rename(path)
    else:
        path.write_bytes(exported if isinstance(exported, bytes) else exported.encode())
    return path


def filled(model) -> int:
    return int((model.cells > 0).sum())


@pytest.mark.parametrize("kind", KINDS)
def test_a_ball_of_any_kind_of_file_has_the_volume_of_a_ball(tmp_path, kind):
    path = saved(tmp_path, trimesh.creation.icosphere(3, 2.0), kind)
    model = model_from_file(path, 40)
    assert model.size == (40, 40, 40)
    assert filled(model) == pytest.approx(4 / 3 * np.pi * 20**3, rel=0.02)
    assert model.cells[20, 20, 20] and not model.cells[0, 0, 0]


def turned(mesh):
    return mesh.apply_transform(trimesh.transformations.rotation_matrix(0.7, (1, 2, 3)))


@pytest.mark.parametrize("size", [24, 31, 48])
@pytest.mark.parametrize("make", [
    lambda: trimesh.creation.torus(3.0, 1.0),
    lambda: trimesh.creation.annulus(1.0, 2.0, 4.0),
    lambda: trimesh.creation.capsule(2.0, 1.0),
    lambda: trimesh.creation.cylinder(1.0, 3.0),
    lambda: turned(trimesh.creation.cylinder(0.5, 3.0)),
    lambda: turned(trimesh.creation.torus(3.0, 0.5)),
    lambda: turned(trimesh.creation.box((3, 2, 1))),
])  # fmt: skip
def test_closed_meshes_are_filled_to_their_volume_and_their_holes_stay_open(tmp_path, make, size):
    mesh = make()
    model = model_from_file(saved(tmp_path, mesh), size)
    wanted = mesh.volume * (size / max(mesh.extents)) ** 3
    assert filled(model) == pytest.approx(wanted, rel=0.03)


@pytest.mark.parametrize("size", [12, 24, 40])
@pytest.mark.parametrize("make", [
    lambda: turned(trimesh.creation.cylinder(0.04, 3.0)),
    lambda: turned(trimesh.creation.box((3, 3, 0.05))),
    lambda: trimesh.creation.box((3, 3, 0.05)),
    lambda: turned(trimesh.creation.torus(3.0, 0.06)),
])  # fmt: skip
def test_what_is_thinner_than_a_voxel_stays_in_one_piece_and_one_voxel_thin(tmp_path, make, size):
    model = model_from_file(saved(tmp_path, make()), size)
    assert scipy.ndimage.label(model.cells, np.ones((3, 3, 3)))[1] == 1
    solid = model.cells > 0
    lumps = scipy.ndimage.binary_erosion(solid, np.ones((2, 2, 2)))
    assert lumps.sum() <= 0.1 * solid.sum()


def test_bodies_with_a_gap_between_them_stay_apart(tmp_path):
    one = trimesh.creation.icosphere(3, 1.0)
    two = one.copy().apply_translation((2.1, 0, 0))
    model = model_from_file(saved(tmp_path, trimesh.util.concatenate([one, two])), 41)
    assert scipy.ndimage.label(model.cells, np.ones((3, 3, 3)))[1] == 2


def test_a_mesh_with_a_few_holes_is_filled_all_the_same(tmp_path):
    ball = trimesh.creation.icosphere(3, 2.0)
    ball.update_faces(np.arange(len(ball.faces)) % 97 != 3)
    assert not ball.is_watertight
    model = model_from_file(saved(tmp_path, ball), 30)
    assert filled(model) == pytest.approx(4 / 3 * np.pi * 15**3, rel=0.04)


def test_every_voxel_in_sight_has_the_colour_of_the_surface_there(tmp_path):
    ball = trimesh.creation.icosphere(4, 2.0)
    south = ball.triangles_center[:, 1] < 0
    ball.visual.face_colors = np.where(south[:, None], (200, 0, 0, 255), (0, 0, 200, 255))
    model = model_from_file(saved(tmp_path, ball, "ply"), 24)
    red = model.palette.index("#c80000") + 1
    seen = (model.cells > 0) & ~scipy.ndimage.binary_erosion(model.cells > 0)
    assert (model.cells[:, 13:][seen[:, 13:]] == red).all()
    assert (model.cells[:, :11][seen[:, :11]] != red).all()


def test_a_box_is_exact(tmp_path):
    path = saved(tmp_path, trimesh.creation.box((6, 4, 2)))
    model = model_from_file(path, 12)
    assert model.size == (4, 8, 12) and (model.cells > 0).all()


def test_what_points_up_depends_on_the_kind_of_file_and_may_be_said(tmp_path):
    tall = trimesh.creation.box((2, 6, 2))
    assert model_from_file(saved(tmp_path, tall, "obj"), 12).size == (12, 4, 4)
    assert model_from_file(saved(tmp_path, tall, "stl"), 12).size == (4, 12, 4)
    assert model_from_file(saved(tmp_path, tall, "stl"), 12, up="y").size == (12, 4, 4)
    assert model_from_file(saved(tmp_path, tall, "obj"), 12, up="z").size == (4, 12, 4)


def test_east_stays_east_and_south_stays_south(tmp_path):
    """In glTF x is east and z is south; where z points up, y is north."""
    mark = trimesh.creation.box((4, 4, 4))
    far = trimesh.creation.box((1, 1, 1))
    for kind, shift in (("glb", (6, -1.5, 4)), ("stl", (6, -4, -1.5))):
        both = mark + far.copy().apply_translation(shift)
        model = model_from_file(saved(tmp_path, both, kind), 34)
        corner = model.cells[: model.size[0] // 2, model.size[1] - 4 :, model.size[2] - 4 :]
        assert corner.any() and not model.cells[:, :4, model.size[2] - 4 :].any()


def test_an_open_sheet_becomes_a_skin_without_holes(tmp_path):
    sheet = trimesh.Trimesh(
        [[0, 0, 0], [10, 0, 0], [10, 10, 4], [0, 10, 4]], [[0, 1, 2], [0, 2, 3]]
    )
    model = model_from_file(saved(tmp_path, sheet), 30)
    assert (model.cells > 0).any(axis=0).all()
    assert filled(model) < 3 * 30 * 30


def test_bodies_that_overlap_are_not_hollow_where_they_do(tmp_path):
    one = trimesh.creation.box((4, 4, 4))
    both = trimesh.util.concatenate([one, one.copy().apply_translation((2, 0, 0))])
    model = model_from_file(saved(tmp_path, both), 12)
    assert (model.cells > 0).all()


def test_colours_come_from_the_faces(tmp_path):
    box = trimesh.creation.box((2, 2, 2))
    colours = np.tile([10, 200, 30, 255], (len(box.faces), 1)).astype(np.uint8)
    colours[box.face_normals[:, 2] > 0.5] = (220, 20, 20, 255)
    box.visual.face_colors = colours
    model = model_from_file(saved(tmp_path, box, "ply"), 16)
    top = {model.palette[n - 1] for n in np.unique(model.cells[-1, 4:12, 4:12])}
    side = {model.palette[n - 1] for n in np.unique(model.cells[4:8, 0, 4:12])}
    assert top == {"#dc1414"} and side == {"#0ac81e"}


def test_many_colours_are_brought_down_to_a_palette(tmp_path):
    ball = trimesh.creation.icosphere(3)
    ball.visual.face_colors = np.random.default_rng(3).integers(0, 255, (len(ball.faces), 4))
    model = model_from_file(saved(tmp_path, ball, "ply"), 24)
    assert 2 < len(model.palette) <= MOST_COLOURS


def test_progress_is_told_and_a_stop_is_obeyed(tmp_path):
    path = saved(tmp_path, trimesh.creation.icosphere(4))
    told: list[str] = []
    model_from_file(path, 32, step=told.append)
    assert told[0] == "reading" and any(t.startswith("inside") for t in told)
    assert any(t == "surface 100%" for t in told)

    def stop(words: str) -> None:
        if words.startswith("surface"):
            raise Stopped("Bringing in")

    with pytest.raises(Stopped):
        model_from_file(path, 32, step=stop)


OBJ_OF_TWO = """mtllib paint.mtl
v 0 0 0\nv 2 0 0\nv 2 2 0\nv 0 2 0\nv 0 0 2\nv 2 0 2\nv 2 2 2\nv 0 2 2
usemtl red\nf 1 4 3 2\nf 5 6 7 8\nf 1 2 6 5
usemtl blue\nf -5 -6 -2 -1\nf 1 5 8 4\nf 2 3 7 6
"""


def test_an_obj_of_several_materials_with_sides_that_look_both_ways(tmp_path):
    """Squares, negative numbers, a material file beside it, one side turned inside out."""
    (tmp_path / "paint.mtl").write_text("newmtl red\nKd 0.9 0.1 0.1\nnewmtl blue\nKd 0.1 0.1 0.9\n")
    path = tmp_path / "crate.obj"
    path.write_text(OBJ_OF_TWO)
    mesh = read_mesh(path)
    assert mesh.closed and not mesh.oriented and len(mesh.triangles) == 12
    model = model_from_file(path, 10)
    assert (model.cells > 0).all()
    north = {model.palette[n - 1] for n in np.unique(model.cells[2:8, 0, 2:8])}
    west = {model.palette[n - 1] for n in np.unique(model.cells[2:8, 2:8, 0])}
    assert len(north) == len(west) == 1 and north != west
    red, blue = (bytes.fromhex(next(iter(c))[1:]) for c in (north, west))
    assert red[0] > 200 > 60 > red[2] and blue[2] > 200 > 60 > blue[0]


def test_text_in_another_encoding_does_not_matter(tmp_path):
    path = tmp_path / "latin.obj"
    path.write_bytes("# Größe: klein\n".encode("latin-1") + OBJ_OF_TWO.encode())
    assert (model_from_file(path, 6).cells > 0).all()


def test_what_this_program_writes_as_gltf_comes_in_with_its_colours(tmp_path):
    room = isle((6, 8, 8))
    room.lay("Water", box=((3, 2, 2), (4, 4, 4)))
    path = tmp_path / "room.glb"
    path.write_bytes(gltf_bytes(room.project.data, room.data))
    model = model_from_file(path, 8)
    assert model.size == (5, 8, 8) and len(model.palette) >= 3
    blue = [bytes.fromhex(c[1:]) for c in model.palette]
    assert any(rgb[2] > rgb[0] + 20 for rgb in blue)


# --- files that are not sound -------------------------------------------------------------


def stl_head(count: int, triangles: int = 1) -> bytes:
    corner = struct.pack("<12fH", 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0)
    return b"\0" * 80 + struct.pack("<I", count) + corner * triangles


BAD = {
    "empty.stl": b"",
    "short.stl": stl_head(1_000_000),
    "nan.stl": stl_head(1).replace(struct.pack("<f", 1.0), struct.pack("<f", float("nan"))),
    "huge.ply": b"ply\nformat binary_little_endian 1.0\nelement vertex 4000000000\n"
                b"property float x\nend_header\n",
    "words.obj": b"v one two three\nf 1 2 3\n",
    "none.obj": b"v 0 0 0\nv 1 0 0\n",
    "noise.glb": b"glTF" + bytes(range(64)),
    "head.glb": b"glTF\x02\0\0\0\x14\0\0\0",
    "json.gltf": b"{not json",
    "many.gltf": json.dumps({"asset": {"version": "2.0"}, "accessors": [
        {"count": 10**12, "componentType": 5126, "type": "VEC3"}]}).encode(),
    "away.gltf": json.dumps({"asset": {"version": "2.0"}, "buffers": [
        {"uri": "../../etc/passwd", "byteLength": 36}], "bufferViews": [
        {"buffer": 0, "byteLength": 36}], "accessors": [
        {"bufferView": 0, "count": 3, "componentType": 5126, "type": "VEC3"}], "meshes": [
        {"primitives": [{"attributes": {"POSITION": 0}}]}], "nodes": [{"mesh": 0}],
        "scenes": [{"nodes": [0]}], "scene": 0}).encode(),
    "picture.png": b"\x89PNG",
}  # fmt: skip


@pytest.mark.parametrize("name", BAD)
def test_a_file_that_is_not_sound_is_refused_in_one_sentence(tmp_path, name):
    path = tmp_path / name
    path.write_bytes(BAD[name])
    with pytest.raises(BadFile) as problem:
        model_from_file(path, 16)
    text = str(problem.value)
    assert name in text and "\n" not in text and "Traceback" not in text
    wanted = {"away.gltf": "not beside it", "huge.ply": "too short", "many.gltf": "too many",
              "short.stl": "too short", "none.obj": "no triangles", "nan.stl": "finite"}  # fmt: skip
    assert wanted.get(name, "") in text


def test_a_missing_file_is_refused_too(tmp_path):
    with pytest.raises(BadFile, match=r"gone\.stl"):
        read_mesh(tmp_path / "gone.stl")


@pytest.mark.parametrize("size", [0, 257, -3])
def test_a_senseless_size_is_refused(tmp_path, size):
    with pytest.raises(BadValue, match="1 to 256"):
        model_from_file(saved(tmp_path, trimesh.creation.box()), size)


def test_a_mesh_without_extent_is_refused(tmp_path):
    point = trimesh.Trimesh([[1, 1, 1]] * 3, [[0, 1, 2]], process=False)
    with pytest.raises((BadValue, BadFile)):
        model_from_file(saved(tmp_path, point), 8)


# --- into the project ---------------------------------------------------------------------


def test_a_mesh_becomes_a_prefab_with_its_footprint_and_a_brush(tmp_path):
    project = new(None, "P")
    project.import_mesh(saved(tmp_path, trimesh.creation.box((4, 2, 1))), "Plank", 32)
    prefab = project.data.prefab("Plank")
    assert prefab.footprint == ("##",) and prefab.height == 1
    assert prefab.picture.rgba[..., 3].any() and project.data.brush("Plank").kind == "things"
    with pytest.raises(NameTaken):
        project.import_mesh(saved(tmp_path, trimesh.creation.box()), "Plank", 8)
    project.undo()
    assert "Plank" not in project.data.prefabs and "Plank" not in project.data.brushes


def test_a_mesh_becomes_a_block_or_a_room(tmp_path):
    project = new(None, "P")
    path = saved(tmp_path, trimesh.creation.box((4, 4, 2)))
    project.import_mesh(path, "Half", 16, "block")
    assert project.data.block("Half").top == 0.5
    room = project.add_room("Isle", (4, 4, 4))
    room.lay("Half", cells=[(0, 1, 1)])
    assert room.material(0, 1, 1) == "Half"
    project.import_mesh(path, "Hall", 20, "room")
    assert project.data.room("Hall").info.size == (10, 20, 20)
    assert project.room("Hall").material(5, 5, 5) == "Hall"
    project.import_mesh(path, "Bit", 3, "room", room="Isle", corner=(2, 1, 1))
    assert room.material(2, 1, 1) == "Bit" and room.material(0, 1, 1) == "Half"
    with pytest.raises(BadValue, match="16 voxels"):
        project.import_mesh(path, "Large", 17, "block")


# --- voxelising ---------------------------------------------------------------------------


def test_the_voxels_inside_are_those_whose_middles_lie_inside():
    mesh = trimesh.creation.icosphere(3, 7.3)
    corners = np.asarray(mesh.triangles)[..., ::-1] + 8.0
    inside = inside_voxels(corners, (16, 16, 16))
    middles = np.indices((16, 16, 16)).reshape(3, -1).T + 0.5
    far = np.linalg.norm(middles - 8.0, axis=1).reshape(16, 16, 16)
    assert inside[far < 7.15].all() and not inside[far > 7.31].any()


def test_the_voxels_of_a_surface_are_those_that_fine_samples_meet():
    rng = np.random.default_rng(5)
    triangles = rng.uniform(0.5, 9.5, (6, 3, 3))
    cells, which = surface_voxels(triangles, (10, 10, 10))
    found = {(*cell, w) for cell, w in zip(cells.tolist(), which.tolist(), strict=True)}
    weights = rng.dirichlet((1, 1, 1), 6000)
    for number, corners in enumerate(triangles):
        points = weights @ corners
        met = {(*np.floor(p).astype(int).tolist(), number) for p in points}
        assert met <= found
    assert len(found) < 900


def test_a_plane_model_has_at_least_one_voxel_of_depth(tmp_path):
    flat = trimesh.Trimesh([[0, 0, 0], [8, 0, 0], [0, 8, 0]], [[0, 1, 2]])
    mesh = read_mesh(saved(tmp_path, flat))
    assert not mesh.closed and voxel_model(mesh, 16).size == (1, 16, 16)
