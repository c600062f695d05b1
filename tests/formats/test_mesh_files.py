"""Mesh files as other programs write them: read right, or refused in one true sentence."""

from __future__ import annotations

import base64
import json
import struct

import numpy as np
import pytest
from PIL import Image

from topion.errors import BadFile
from topion.formats.meshes.read import read_mesh
from topion.formats.meshes.voxels import model_from_file

CUBE = "v 0 0 0\nv 2 0 0\nv 2 2 0\nv 0 2 0\nv 0 0 2\nv 2 0 2\nv 2 2 2\nv 0 2 2\n"
SIDES = "f 1 4 3 2\nf 5 6 7 8\nf 1 2 6 5\nf 3 4 8 7\nf 1 5 8 4\nf 2 3 7 6\n"


def written(tmp_path, name, data):
    path = tmp_path / name
    path.write_bytes(data if isinstance(data, bytes) else data.encode())
    return path


def colours(path, size=8):
    return set(model_from_file(path, size).palette)


def area_of(mesh) -> float:
    edges = mesh.triangles[:, 1:] - mesh.triangles[:, :1]
    return float(np.linalg.norm(np.cross(edges[:, 0], edges[:, 1]), axis=1).sum() / 2)


# --- polygons -----------------------------------------------------------------------------


def u_shape(depth: int) -> str:
    """A letter U, 8 wide, 8 high, its strokes 2 wide, as one polygon front and back."""
    flat = [(0, 0), (8, 0), (8, 8), (6, 8), (6, 2), (2, 2), (2, 8), (0, 8)]
    points = [(x, y, z) for z in (0, depth) for x, y in flat]
    n = len(flat)
    faces = [list(range(n, 0, -1)), list(range(n + 1, 2 * n + 1))]
    faces += [[k + 1, (k + 1) % n + 1, (k + 1) % n + 1 + n, k + 1 + n] for k in range(n)]
    rows = [f"v {x} {y} {z}" for x, y, z in points]
    return "\n".join(rows + ["f " + " ".join(map(str, face)) for face in faces]) + "\n"


def test_a_concave_polygon_is_filled_inside_its_outline_alone(tmp_path):
    solid = model_from_file(written(tmp_path, "u.obj", u_shape(4)), 8)
    assert (solid.cells > 0).sum() == (8 * 8 - 4 * 6) * 4
    outline = "v 0 0 0\nv 8 0 0\nv 8 8 0\nv 6 8 0\nv 6 2 0\nv 2 2 0\nv 2 8 0\nv 0 8 0\n"
    mesh = read_mesh(written(tmp_path, "open.obj", outline + "f 1 2 3 4 5 6 7 8\n"))
    assert area_of(mesh) == pytest.approx(8 * 8 - 4 * 6)


def test_a_polygon_with_a_hole_reached_by_a_cut_keeps_the_hole(tmp_path):
    ring = [(0, 0), (9, 0), (9, 9), (0, 9), (0, 0), (3, 3), (3, 6), (6, 6), (6, 3), (3, 3)]
    text = "".join(f"v {x} {y} 0\n" for x, y in ring)
    text += "f " + " ".join(str(n + 1) for n in range(len(ring))) + "\n"
    assert area_of(read_mesh(written(tmp_path, "ring.obj", text))) == pytest.approx(81 - 9)


def head(order: str, faces: int, *, colour: str = "") -> bytes:
    rows = ["ply", f"format {order} 1.0", "comment made by hand", "element vertex 8",
            "property float x", "property float y", "property float z", *colour.splitlines(),
            f"element face {faces}", "property list uchar int vertex_indices", "end_header\n"]  # fmt: skip
    return "\n".join(rows).encode()


def cube_ply(order: str) -> bytes:
    """A cube whose sides are four squares and four triangles."""
    points = [tuple(map(float, row.split()[1:])) for row in CUBE.splitlines()]
    faces = [[int(n) - 1 for n in row.split()[1:]] for row in SIDES.splitlines()]
    faces = faces[:4] + [part for f in faces[4:] for part in (f[:3], [f[0], f[2], f[3]])]
    if order == "ascii":
        rows = [" ".join(map(str, p)) for p in points]
        rows += [" ".join(map(str, [len(f), *f])) for f in faces]
        return head(order, len(faces)) + "\n".join(rows).encode()
    sign = "<" if "little" in order else ">"
    body = b"".join(struct.pack(sign + "3f", *p) for p in points)
    body += b"".join(struct.pack(f"{sign}B{len(f)}i", len(f), *f) for f in faces)
    return head(order, len(faces)) + body


@pytest.mark.parametrize("order", ["ascii", "binary_little_endian", "binary_big_endian"])
def test_a_ply_of_squares_and_triangles_of_any_order_of_bytes(tmp_path, order):
    mesh = read_mesh(written(tmp_path, "cube.ply", cube_ply(order)))
    assert len(mesh.triangles) == 12 and mesh.closed and mesh.oriented


def test_colours_of_the_corners_of_a_ply(tmp_path):
    colour = "property uchar red\nproperty uchar green\nproperty uchar blue"
    points = [tuple(map(float, row.split()[1:])) for row in CUBE.splitlines()]
    faces = [[int(n) - 1 for n in row.split()[1:]] for row in SIDES.splitlines()]
    body = b"".join(struct.pack("<3f3B", *p, 10, 200, 30) for p in points)
    body += b"".join(struct.pack("<B4i", 4, *f) for f in faces)
    data = head("binary_little_endian", 6, colour=colour) + body
    assert colours(written(tmp_path, "green.ply", data)) == {"#0ac81e"}
    text = head("ascii", 6, colour=colour.replace("uchar", "float")).decode()
    text += "".join(f"{p[0]} {p[1]} {p[2]} 0 1 0\n" for p in points)
    text += "".join(f"4 {' '.join(map(str, f))}\n" for f in faces)
    assert colours(written(tmp_path, "bright.ply", text)) == {"#00ff00"}


# --- materials of OBJ ---------------------------------------------------------------------


def test_material_files_in_latin_1_with_spaces_in_their_names(tmp_path):
    paint = "newmtl Grün hell\nKd 0.2 0.8 0.2\n".encode("latin-1")
    written(tmp_path, "my paints.mtl", paint)
    text = f"mtllib my paints.mtl\n{CUBE}usemtl Grün hell\n{SIDES}".encode("latin-1")
    assert colours(written(tmp_path, "cube.obj", text)) == {"#33cc33"}
    again = f"mtllib my paints.mtl\n{CUBE}usemtl Grün hell\n{SIDES}"  # and in UTF-8
    assert colours(written(tmp_path, "again.obj", again)) == {"#33cc33"}


def test_paths_of_another_system_and_pictures_below_the_mesh(tmp_path):
    (tmp_path / "Art").mkdir()
    Image.new("RGB", (4, 4), (90, 10, 160)).save(tmp_path / "Art" / "Skin Two.png")
    written(tmp_path, "paint.mtl", "newmtl skin\nmap_Kd -s 1 1 1 Art\\skin two.PNG\n")
    uv = "vt 0.1 0.1\nvt 0.9 0.1\nvt 0.9 0.9\nvt 0.1 0.9\n"
    sides = SIDES.replace("\n", " ").replace("f ", "\nf ").strip()
    faces = "\n".join(
        "f " + " ".join(f"{n}/{k + 1}" for k, n in enumerate(row.split()[1:]))
        for row in sides.splitlines()
    )
    text = f"mtllib C:\\work\\models\\paint.mtl\n{CUBE}{uv}usemtl skin\n{faces}\n"
    assert colours(written(tmp_path, "cube.obj", text)) == {"#5a0aa0"}


def test_a_missing_material_file_leaves_the_mesh_grey(tmp_path):
    text = f"mtllib gone.mtl\n{CUBE}usemtl lost\n{SIDES}"
    assert colours(written(tmp_path, "cube.obj", text)) == {"#969696"}


def test_a_material_file_out_of_the_folder_is_not_opened(tmp_path):
    written(tmp_path, "away.mtl", "newmtl skin\nKd 1 0 0\n")
    (tmp_path / "in").mkdir()
    text = f"mtllib ../away.mtl\n{CUBE}usemtl skin\n{SIDES}"
    assert colours(written(tmp_path / "in", "cube.obj", text)) == {"#969696"}


# --- glTF ---------------------------------------------------------------------------------


def gltf(**changes) -> dict:
    """One triangle; `changes` by the names of the parts of its head."""
    points = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], np.float32).tobytes()
    rows = np.array([0, 1, 2], np.uint16).tobytes()
    uri = "data:application/octet-stream;base64," + base64.b64encode(points + rows).decode()
    parts = {
        "asset": {"version": "2.0"},
        "buffers": [{"uri": uri, "byteLength": 42}],
        "bufferViews": [{"buffer": 0, "byteLength": 36},
                        {"buffer": 0, "byteOffset": 36, "byteLength": 6}],
        "accessors": [
            {"bufferView": 0, "count": 3, "componentType": 5126, "type": "VEC3"},
            {"bufferView": 1, "count": 3, "componentType": 5123, "type": "SCALAR"}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1,
                                    "material": 0}]}],
        "materials": [{"pbrMetallicRoughness": {"baseColorFactor": [0.5, 0.0331, 1.0, 1.0]}}],
        "nodes": [{"mesh": 0}], "scenes": [{"nodes": [0]}], "scene": 0,
    }  # fmt: skip
    return parts | changes


def as_file(tmp_path, parts: dict):
    return written(tmp_path, "model.gltf", json.dumps(parts))


def test_base_colours_of_gltf_are_linear_light(tmp_path):
    assert colours(as_file(tmp_path, gltf())) == {"#bc33ff"}


def test_a_compression_that_is_not_read_is_refused_by_its_name(tmp_path):
    name = "KHR_draco_mesh_compression"
    parts = gltf(extensionsRequired=[name], extensionsUsed=[name])
    with pytest.raises(BadFile, match=rf"model\.gltf: needs {name}, which is not read"):
        read_mesh(as_file(tmp_path, parts))


def test_an_extension_that_only_tells_how_it_shines_does_not_matter(tmp_path):
    parts = gltf(extensionsRequired=["KHR_materials_unlit"])
    assert len(read_mesh(as_file(tmp_path, parts)).triangles) == 1


def accessor(number: int, **changes) -> list:
    accessors = gltf()["accessors"]
    accessors[number] |= changes
    return accessors


def without_bytes() -> list:
    accessors = gltf()["accessors"]
    del accessors[0]["bufferView"]
    return accessors


BAD_GLTF = {
    "corners as single numbers": ({"accessors": accessor(0, type="SCALAR")},
                                  "keeps corners as SCALAR instead of VEC3"),
    "corners nowhere": ({"accessors": without_bytes()}, "compressed form"),
    "more corners than bytes": ({"accessors": accessor(0, count=40)}, "too short"),
    "triangles of pairs": ({"accessors": accessor(1, type="VEC2")}, "instead of SCALAR"),
    "no such accessor": ({"meshes": [{"primitives": [{"attributes": {"POSITION": 9}}]}]},
                         "not there"),
    "no corners": ({"meshes": [{"primitives": [{"attributes": {}}]}]}, "head is broken"),
    "an older form": ({"asset": {"version": "1.0"}}, "version 1.0"),
    "an accessor of words": ({"accessors": ["one", "two"]}, "head is broken"),
    "a mesh of numbers": ({"meshes": [7]}, "head is broken"),
}  # fmt: skip


@pytest.mark.parametrize("case", BAD_GLTF)
def test_a_gltf_that_is_not_sound_is_refused(tmp_path, case):
    changes, reason = BAD_GLTF[case]
    with pytest.raises(BadFile, match=reason) as problem:
        read_mesh(as_file(tmp_path, gltf(**changes)))
    assert "\n" not in str(problem.value)


def test_triangles_that_name_corners_which_are_not_there(tmp_path):
    parts = gltf()
    data = base64.b64decode(parts["buffers"][0]["uri"].split(",")[1])
    bad = data[:36] + np.array([0, 1, 900], np.uint16).tobytes()
    uri = "data:application/octet-stream;base64," + base64.b64encode(bad).decode()
    with pytest.raises(BadFile):
        read_mesh(as_file(tmp_path, gltf(buffers=[{"uri": uri, "byteLength": 42}])))


# --- OBJ and PLY that are not sound -------------------------------------------------------

BAD = {
    "f 1 2 0\n": "line 9.*names corner 0, but has 8 of them, counted from 1",
    "f 1 2 99\n": "line 9.*names corner 99, but has 8 of them",
    "f -1 -2 -9\n": "line 9.*names corner -9",
    "f 1 2 x\n": "line 9.*no number: x",
    "v 1 2\nf 1 2 3\n": "line 9.*corner of 2 numbers instead of 3",
    "v 1 2 nan\nf 1 2 9\n": "no finite numbers",
    "# nothing else\n": "holds no triangles",
}


@pytest.mark.parametrize("rows", BAD)
def test_an_obj_that_is_not_sound_is_refused_with_its_line(tmp_path, rows):
    with pytest.raises(BadFile, match=BAD[rows]):
        read_mesh(written(tmp_path, "bad.obj", CUBE + rows))


def test_corners_may_be_named_before_they_come(tmp_path):
    mesh = read_mesh(written(tmp_path, "late.obj", SIDES + CUBE))
    assert mesh.closed and len(mesh.triangles) == 12


BAD_PLY = {
    "no x": (lambda data: data.replace(b"float x", b"float a"), "corners without x"),
    "cut off": (lambda data: data[:-9], "ends before all its 8 face rows"),
    "an unknown type": (lambda data: data.replace(b"float y", b"real y"), "makes no sense"),
    "no head": (lambda data: data.replace(b"end_header", b"end"), "head is broken"),
    "no format": (lambda data: data.replace(b"format", b"comment"), "in which format"),
    "a corner beyond": (lambda data: data.replace(struct.pack("<4i", 4, 5, 6, 7),
                                                  struct.pack("<4i", 4, 5, 6, -7)), "corner -7"),
    "nothing but corners": (lambda data: data.replace(b"element face 8", b"element face 0"),
                            "no triangles"),
}  # fmt: skip


@pytest.mark.parametrize("case", BAD_PLY)
def test_a_ply_that_is_not_sound_is_refused(tmp_path, case):
    change, reason = BAD_PLY[case]
    path = written(tmp_path, "bad.ply", change(cube_ply("binary_little_endian")))
    with pytest.raises(BadFile, match=reason):
        read_mesh(path)


def test_words_where_a_ply_should_have_numbers(tmp_path):
    data = cube_ply("ascii").replace(b"2.0", b"two", 1)
    with pytest.raises(BadFile, match="words where numbers should be"):
        read_mesh(written(tmp_path, "bad.ply", data))


def test_nothing_is_printed_beside_the_sentence(tmp_path, capfd):
    for name, data in (("odd.stl", b"solid odd\n facet normal a b c\n"),
                       ("odd.glb", b"glTF\2\0\0\0" + bytes(40))):  # fmt: skip
        with pytest.raises(BadFile):
            read_mesh(written(tmp_path, name, data))
    with pytest.raises(BadFile):
        read_mesh(as_file(tmp_path, gltf(buffers=[{"uri": "gone.bin", "byteLength": 42}])))
    assert capfd.readouterr() == ("", "")


def test_a_line_that_goes_on_in_the_next_is_one_and_later_lines_keep_their_numbers(tmp_path):
    text = "v 0 0 \\\n0\nv 4 0 0\nv 4 4 0\nf 1 \\\n2 \\\n3\n"
    assert area_of(read_mesh(written(tmp_path, "a.obj", text))) == pytest.approx(8)
    with pytest.raises(BadFile, match="line 8"):
        read_mesh(written(tmp_path, "b.obj", text + "f 1 2 9\n"))
