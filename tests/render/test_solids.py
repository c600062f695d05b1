"""Eyes, faces, pictures and sections of voxel rooms."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from tests.rooms import small_room
from tests.voxel_rooms import COLOURS, isle, library, post, slab
from topion.brushes import Mosaic
from topion.edit.library import put_block
from topion.errors import BadValue, UnknownName
from topion.grid.boxes import Box
from topion.grid.meshing import Quads, mesh
from topion.grid.orient import NORMALS, matrices
from topion.grid.rays import crossing
from topion.model.prefab import Prefab, Thing
from topion.model.solid import Block, VoxelModel, block_ref
from topion.model.tileset import Cut, TileRef, TileSet
from topion.pictures.png import picture_of
from topion.render.cards import card_picture
from topion.render.eye import VIEWS, Eye
from topion.render.faces import face_book, faces_of_quads, model_quads
from topion.render.lighting import PLAIN_LIT
from topion.render.portraits import model_portrait, model_prefab, ref_picture
from topion.render.raster import draw, sky
from topion.render.section import section
from topion.render.shadow import Shadow
from topion.render.solid_scene import picture_of_eye, solid_bands
from topion.render.vertices import model_vertices, picture_frames, quad_indices, vertices
from topion.render.volume import (
    block_layer,
    block_matrix,
    boxes_of,
    coarse_box,
    mesh_box,
    outline_points,
    room_faces,
    standing_picture,
    thing_matrix,
)
from topion.weaving.rules import Variant
from topion.weaving.settle import tiles_in

eyes = st.builds(
    Eye,
    st.tuples(*(st.floats(-20, 20),) * 3),
    st.floats(-180, 180),
    st.floats(-80, 80),
    st.floats(4, 60),
    st.just(300),
    st.just(400),
    st.booleans(),
)


def commonest(rgba, box):
    """The commonest colour of a part of a picture, as #rrggbb."""
    part = rgba[box.slices].reshape(-1, 4)[:, :3]
    found, counts = np.unique(part, axis=0, return_counts=True)
    return "#{:02x}{:02x}{:02x}".format(*found[counts.argmax()])


# --- eyes ---------------------------------------------------------------------------------


@given(eyes, st.floats(5, 290), st.floats(5, 390), st.floats(0.2, 3))
def test_a_ray_leads_to_the_points_that_are_seen_there(eye, y, x, share):
    ray = eye.ray(y, x)
    at = np.array([ray.at(share * eye.distance)])
    assert eye.seen(at)[0, :2] == pytest.approx((y, x), abs=1e-3)


@given(eyes)
def test_the_target_is_in_the_middle_and_axes_keep_their_hands(eye):
    assert eye.seen(np.array([eye.target]))[0, :2] == pytest.approx((150, 200), abs=1e-6)
    frame = np.array([eye.right, eye.up, eye.forward])
    assert np.allclose(frame @ frame.T, np.eye(3), atol=1e-9)


@given(eyes, st.tuples(*(st.floats(-8, 8),) * 3))
def test_the_matrix_of_the_card_agrees_with_the_eye(eye, offset):
    point = np.array(eye.target) + np.array(offset)
    clip = eye.matrix().astype(float) @ np.append(point[::-1], 1.0)
    y, x, depth = eye.seen(point[None])[0]
    if depth < 0.2:
        return
    assert (1 - clip[1] / clip[3]) * 150 == pytest.approx(y, abs=0.5)
    assert (1 + clip[0] / clip[3]) * 200 == pytest.approx(x, abs=0.5)


@given(eyes, st.floats(20, 280), st.floats(20, 380), st.floats(0.5, 2))
def test_zooming_keeps_what_is_under_the_pointer(eye, y, x, factor):
    flat = Eye(eye.target, eye.yaw, eye.pitch, eye.px, 300, 400)
    off = flat.right * (x - 200) / flat.px + flat.up * (150 - y) / flat.px
    point = (np.array(flat.target) + off)[None]
    assert flat.zoomed(factor, y, x).seen(point)[0, :2] == pytest.approx((y, x), abs=1e-3)


def test_from_above_north_is_up_and_east_is_right():
    eye = Eye((0, 0, 0)).looking("top")
    north, east = eye.seen(np.array([[0.0, -3, 0], [0, 0, 3.0]]))[:, :2] - (300, 400)
    assert north == pytest.approx((-60, 0), abs=1e-6) and east == pytest.approx((0, 60), abs=1e-6)


def test_the_south_view_looks_north_and_the_corners_lie_where_they_say():
    south = Eye().looking("south")
    assert south.forward == pytest.approx((0, -1, 0)) and south.right == pytest.approx((0, 0, 1))
    east = Eye().looking("east")
    assert east.forward == pytest.approx((0, 0, -1), abs=1e-9)
    corner = Eye().looking("south-east")
    assert corner.place[1] > 0 and corner.place[2] > 0 and corner.place[0] > 0
    assert len(VIEWS) == 8 and {Eye().looking(v).yaw for v in VIEWS if "-" in v} == {
        -45.0, 45.0, 135.0, -135.0}  # fmt: skip


@given(eyes, st.tuples(*(st.integers(1, 30),) * 3))
def test_framing_a_box_shows_all_of_it(eye, size):
    if eye.perspective:
        return
    framed = eye.framing(Box((0, 0, 0), size))
    corners = np.array([(z, y, x) for z in (0, size[0]) for y in (0, size[1])
                        for x in (0, size[2])], float)  # fmt: skip
    seen = framed.seen(corners)
    assert seen[:, 0].min() >= -1 and seen[:, 0].max() <= 301
    assert seen[:, 1].min() >= -1 and seen[:, 1].max() <= 401


def test_panning_moves_the_picture_and_orbiting_keeps_the_target():
    eye = Eye((2, 3, 4))
    moved = eye.panned(10, -20).seen(np.array([eye.target]))[0, :2]
    assert moved == pytest.approx((310, 380))
    turned = eye.turned(400, 200)
    assert turned.target == eye.target and turned.pitch == 90 and -180 <= turned.yaw < 180
    floor = crossing(eye.ray(300, 400), 0, 2.0)
    assert floor == pytest.approx((2, 3, 4))


FACE_LIGHT = PLAIN_LIT.on(NORMALS.astype(float))[:, 0]


# --- drawing ------------------------------------------------------------------------------


def test_a_cube_shows_its_colour_in_the_light_of_each_side():
    room = isle((3, 3, 3), ground=0)
    room.project.add_block(Block("Red", "#c86432"))
    room.lay("Stones", cells=[(1, 1, 1)])
    for view, face in (("top", 0), ("south", 4), ("east", 3), ("north", 2)):
        eye = Eye((1.5, 1.5, 1.5), px=40, height=80, width=80).looking(view)
        picture = picture_of_eye(room.project.data, room.data, eye)
        shown = commonest(picture, Box((30, 30), (50, 50)))
        plain = {COLOURS["Stone a"], COLOURS["Stone b"]}
        wanted = {tuple(round(v * FACE_LIGHT[face]) for v in bytes.fromhex(c[1:])) for c in plain}
        assert tuple(bytes.fromhex(shown[1:])) in wanted
        assert tuple(picture[2, 2, :3]) == tuple(sky(80, 80)[2, 2, :3])


def test_tops_are_the_brightest_and_undersides_the_darkest():
    found = dict(zip(("up", "down", "north", "east", "south", "west"), FACE_LIGHT, strict=True))
    assert found["up"] == max(found.values()) and found["down"] == min(found.values())
    assert found["south"] > found["west"] > found["east"] == found["north"]


def test_what_is_nearer_hides_what_is_farther():
    room = isle((3, 6, 3), ground=0)
    room.lay("Water", cells=[(1, 1, 1)])
    room.lay("Stones", cells=[(1, 4, 1)])
    eye = Eye((1.5, 3, 1.5), px=30, height=60, width=60).looking("south")
    from_south = commonest(
        picture_of_eye(room.project.data, room.data, eye), Box((25, 25), (35, 35))
    )
    north = eye.looking("north")
    from_north = commonest(
        picture_of_eye(room.project.data, room.data, north), Box((25, 25), (35, 35))
    )
    assert int(from_south[1:3], 16) > int(from_north[1:3], 16)  # grey stone, then blue water


def test_corners_under_a_wall_are_darker():
    room = isle((4, 6, 6), ground=1)
    eye = Eye((1, 3, 3), px=20, height=120, width=120).looking("top")
    before = picture_of_eye(room.project.data, room.data, eye).astype(int)
    room.lay("Stones", box=((1, 0, 0), (1, 2, 5)))
    after = picture_of_eye(room.project.data, room.data, eye).astype(int)
    beside, away = (62, 60), (112, 60)
    assert after[beside][:3].sum() < before[beside][:3].sum()
    assert abs(after[away][:3].sum() - before[away][:3].sum()) < 12


def test_pictures_on_faces_stand_upright_and_are_not_mirrored():
    sheet = np.zeros((16, 16, 4), np.uint8)
    sheet[..., 3] = 255
    sheet[:8, :8] = (255, 0, 0, 255)  # upper left
    sheet[:8, 8:] = (0, 255, 0, 255)  # upper right
    sheet[8:, :8] = (0, 0, 255, 255)  # lower left
    project = isle((3, 3, 3), ground=0).project
    project.add_tileset(TileSet("Marks", picture_of(sheet), Cut((16, 16))))
    project.add_block(Block("Marked", faces=(TileRef("Marks", "0,0"),)))
    project.add_brush(Mosaic("Marked", (Variant(block_ref("Marked")),)))
    room = project.room("Isle")
    room.lay("Marked", cells=[(1, 1, 1)])
    for view in ("top", "south", "east", "north"):
        eye = Eye((1.5, 1.5, 1.5), px=64, height=64, width=64).looking(view)
        picture = picture_of_eye(project.data, room.data, eye)
        quarters = [picture[y, x, :3].argmax() for y, x in ((16, 16), (16, 48), (48, 16))]
        assert quarters == [0, 1, 2], view


def test_a_room_is_drawn_at_any_size_and_from_any_fixed_place():
    room = isle()
    data = room.project.data
    for view in VIEWS:
        picture = solid_bands(data, room.data, view=view, size=(60, 90)).whole()
        assert picture.shape == (60, 90, 4) and (picture[..., 3] == 255).all()
        assert (picture != sky(60, 90)).any(axis=2).mean() > 0.1
    assert solid_bands(data, room.data, scale=0.5).whole().shape[1] < room.render(1).shape[1]
    assert room.view("top", (50, 50), perspective=True).shape == (50, 50, 4)
    with pytest.raises(UnknownName, match="view"):
        solid_bands(data, room.data, view="below")  # type: ignore[arg-type]
    with pytest.raises(BadValue, match="million px"):
        solid_bands(data, room.data, size=(0, 10))
    with pytest.raises(BadValue, match="million px"):
        draw(room_faces(data, room.data), face_book(data).pictures, Eye(height=10**5, width=10**5))


def test_an_empty_room_is_a_picture_of_the_sky():
    room = isle(ground=0)
    picture = solid_bands(room.project.data, room.data, size=(40, 40)).whole()
    assert np.array_equal(picture, sky(40, 40))


# --- volumes ------------------------------------------------------------------------------


def test_what_the_ghost_shows_is_the_room_with_the_edit_put_on():
    room = isle((6, 7, 8))
    edit = room.plan("Box", box=((2, 2, 2), (4, 4, 4)))
    box = Box((1, 1, 1), (9, 5, 5))
    shadow = Shadow(room.project.data, "Isle")
    shadow.show(edit)
    ghost = tiles_in(shadow.project, block_layer(shadow.room), box).copy()
    assert not np.array_equal(ghost, tiles_in(room.project.data, block_layer(room.data), box))
    room.project.history.apply(edit)
    here = tiles_in(room.project.data, block_layer(room.data), box)
    assert np.array_equal(ghost, here) and not ghost[5:].any()


def test_a_room_meshed_in_parts_has_the_faces_of_the_whole():
    room = isle((6, 40, 70))
    room.lay("Stones", box=((2, 20, 20), (5, 36, 50)))
    layer, project = room.data.cell_layers()[-1][1], room.project.data
    whole = mesh_box(project, layer, room.data.box)
    area = int(np.prod(whole.sizes.astype(int), axis=1).sum())
    parts = [mesh_box(project, layer, part) for part in boxes_of(room.data.box, 32)]
    assert sum(int(np.prod(p.sizes.astype(int), axis=1).sum()) for p in parts) == area
    assert sum(part.size for part in boxes_of(room.data.box, 32)) == room.data.box.size


def test_in_cubes_twice_as_wide_a_room_keeps_its_shape_in_a_quarter_of_the_faces():
    room = isle((8, 42, 70))
    room.lay("Stones", box=((2, 20, 20), (5, 35, 49)))
    layer, project = room.data.cell_layers()[-1][1], room.project.data
    parts = []
    for part in boxes_of(room.data.box, 32):
        quads = coarse_box(project, layer, part)
        parts.append(quads.moved((part.lo[0], part.lo[1], part.lo[2])))
    found = Quads.joined(parts)
    top = found.faces == 0
    area = int(np.prod(found.sizes[top].astype(int), axis=1).sum())
    assert area == 42 * 70  # each column has one top
    high = found.cells[top][:, 0] + 1
    assert set(high.tolist()) == {4, 6}  # the ground is three cells high
    tower = np.prod(found.sizes[top][high == 6].astype(int), axis=1).sum()
    assert tower == 16 * 30
    faces = faces_of_quads(found, np.zeros((999, 3), np.uint8))
    areas = np.prod(found.sizes.astype(float), axis=1)
    for axis in range(3):  # its sides lie where they enclose all of it, whichever way one counts
        volume = (faces.corners[:, axis] * faces.normals[:, axis] * areas).sum()
        assert volume == 42 * 70 * 4 + 16 * 30 * 2


@given(hnp.arrays(bool, hnp.array_shapes(min_dims=3, max_dims=3, max_side=5)))
def test_the_outline_of_full_cells_holds_all_of_them(full):
    points = outline_points(full)
    cells = np.argwhere(full)
    if len(cells):
        assert (points.min(axis=0) == cells.min(axis=0)).all()
        assert (points.max(axis=0) == cells.max(axis=0) + 1).all()
    else:
        assert points.max(axis=0).tolist() == [1, *full.shape[1:]]


def test_shaped_blocks_turn_about_the_middle_of_their_cell():
    steps = np.zeros((4, 4, 4), np.uint8)
    steps[:2, :, 2:] = 1  # the east half
    model = VoxelModel(steps, ("#808080",))
    for turn, (y, x) in enumerate(((0.5, 0.75), (0.75, 0.5), (0.5, 0.25), (0.25, 0.5))):
        matrix, by = block_matrix(model, turn)
        middle = matrix @ np.array([1.0, 2.0, 3.0]) + by
        assert middle == pytest.approx((0.25, y, x))
    assert np.allclose(block_matrix(model, 5)[0], matrices()[5] * 0.25)


def test_things_stand_on_their_seat_in_the_middle_of_their_footprint():
    prefab = model_prefab("Post", post())
    matrix, by = thing_matrix(prefab, prefab.model, Thing("Post", 4, 5, z=3.5))
    foot = matrix @ np.array([0.0, 4.0, 4.0]) + by
    assert foot == pytest.approx((3.5, 4.5, 5.5))
    bench = model_prefab("Bench", VoxelModel(np.ones((8, 16, 48), np.uint8), ("#808080",)))
    assert bench.footprint == ("###",)
    matrix, by = thing_matrix(bench, bench.model, Thing("Bench", 4, 5, turn=90.0))
    ends = [matrix @ np.array([0.0, 8.0, x]) + by for x in (0.0, 48.0)]
    assert ends[0] == pytest.approx((0, 3, 5.5)) and ends[1] == pytest.approx((0, 6, 5.5))


def test_a_picture_stands_as_a_model_one_voxel_thick():
    rgba = np.zeros((20, 12, 4), np.uint8)
    rgba[2:18, 4:8] = (200, 30, 30, 255)
    rgba[18:, :] = (0, 0, 0, 80)  # a shadow is not stood up
    prefab = Prefab("Flag", picture_of(rgba), (18, 6))
    model = standing_picture(prefab, prefab.picture)
    assert model.size == (18, 1, 12) and model.per_cell == 16
    assert (model.cells > 0).sum() == 16 * 4 and model.cells[0, 0, 5] and not model.cells[17].any()
    shown = model.palette[int(model.cells[0, 0, 5]) - 1]
    assert shown == "#c81e1e"


def test_a_picture_larger_than_a_model_may_be_is_thinned():
    rgba = np.full((600, 300, 4), 255, np.uint8)
    wall = Prefab("Wall", picture_of(rgba), (600, 150))
    model = standing_picture(wall, wall.picture)
    assert max(model.size) <= 256 and model.per_cell == 5


def test_a_prefab_of_a_model_is_trimmed_and_knows_its_size():
    loose = np.zeros((40, 40, 40), np.uint8)
    loose[3:23, 10:30, 5:15] = 1
    prefab = model_prefab("Chest", VoxelModel(loose, ("#804020",)))
    assert prefab.model.size == (20, 20, 10) and prefab.footprint == ("#", "#")
    assert prefab.height == 2 and prefab.picture.rgba[..., 3].any()
    empty = model_prefab("Air", VoxelModel(np.zeros((4, 4, 4), np.uint8), ("#804020",)))
    assert empty.footprint == ("#",) and empty.height == 1


# --- small pictures -----------------------------------------------------------------------


def test_every_brush_of_a_voxel_room_has_a_card_of_its_own():
    project = library().data
    pictures = {n: card_picture(project, b) for n, b in project.brushes.items() if n != "Lift"}
    assert {p.shape for p in pictures.values()} == {(61, 83, 4)}
    assert len({p.tobytes() for p in pictures.values()}) == len(pictures)


def test_a_portrait_fills_its_frame():
    for picture in (model_portrait(post(), 40), model_portrait(slab(), 40)):
        rows = np.flatnonzero(picture[..., 3].any(axis=1))
        columns = np.flatnonzero(picture[..., 3].any(axis=0))
        assert max(np.ptp(rows), np.ptp(columns)) >= 34


def test_turned_blocks_have_other_portraits_and_unknown_ones_none():
    project = library().data
    steps = np.zeros((4, 4, 4), np.uint8)
    steps[:, :, 2:] = 1
    for record in put_block(project, Block("Half", model=VoxelModel(steps, ("#aa2020",)))).records:
        record.write(project)
    one, other = (ref_picture(project, block_ref("Half", turn)) for turn in (0, 2))
    assert one.shape == (32, 32, 4) and not np.array_equal(one, other)
    assert ref_picture(project, block_ref("None")).shape == (1, 1, 4)
    yard = small_room().project.data
    assert ref_picture(yard, yard.tiles[0]).shape[0] > 1


def test_a_section_shows_the_nearest_block_of_each_level_and_side():
    room = isle((4, 5, 6), ground=1)
    room.lay("Water", cells=[(2, 0, 1)])
    room.lay("Stones", cells=[(2, 4, 1)])
    south, east = (section(room.project.data, room.data, s) for s in ("south", "east"))
    assert south.shape == (4, 6) and east.shape == (4, 5)
    assert south[2, 1] and not south[3].any() and (south[0] > 0).all()
    assert (south[2] > 0).sum() == 1 and (east[2] > 0).sum() == 2
    assert east[2, 0] and east[2, 4]  # from the east, south lies to the left
    stone = int(south[2, 1]) & 0xFFFFFF
    assert f"#{stone:06x}" in (COLOURS["Stone a"], COLOURS["Stone b"])
    room.set_layer("Blocks", shown=False)
    assert not section(room.project.data, room.data, "south").any()


# --- vertices -----------------------------------------------------------------------------


def test_vertices_lie_in_the_corners_of_their_rectangles():
    model = VoxelModel(np.ones((2, 3, 4), np.uint8), ("#102030",))
    found = model_vertices(model)
    assert found.quads == 6 and found.ends.tolist() == [0, 1, 2, 3, 4, 5, 6]
    at = found.data["at"].reshape(6, 4, 3)
    assert at.min(axis=(0, 1)).tolist() == [0, 0, 0] and at.max(axis=(0, 1)).tolist() == [4, 3, 2]
    assert (at[0, :, 2] == 2).all() and (at[1, :, 2] == 0).all()  # up, then down
    assert (found.data["rgb"] == (0x10, 0x20, 0x30)).all() and (found.data["open"] == 255).all()
    assert quad_indices(2).tolist() == [0, 1, 2, 2, 1, 3, 4, 5, 6, 6, 5, 7]


@pytest.mark.parametrize("corner", [(2, 0, 2), (2, 0, 0), (2, 2, 0), (2, 2, 2)])
def test_the_diagonal_of_a_rectangle_never_ends_in_its_one_dark_corner(corner):
    cells = np.zeros((3, 3, 3), np.uint16)
    cells[1, 1, 1] = cells[corner] = 1
    quads = mesh(cells, np.ones((2, 6), np.uint16))
    top = vertices(quads, np.zeros((2, 3), np.uint8)).data.reshape(-1, 4)[0]
    dark = top["open"] < 255
    assert dark.sum() == 1 and dark.argmax() in (0, 3)  # the second and the third are joined
    x, y, z = top["at"][dark.argmax()].tolist()
    assert (z, y, x) == (1, corner[1] // 2, corner[2] // 2)


def test_the_frames_of_pictures_are_right_and_down_for_every_side_and_turn():
    frames = picture_frames()
    assert frames.shape == (24, 2, 3)
    assert frames[0].tolist() == [[1, 0, 0], [0, 1, 0]]  # from above: east, south
    assert frames[4 * 4].tolist() == [[1, 0, 0], [0, 0, -1]]  # from the south: east, down
    assert np.allclose((frames**2).sum(axis=2), 1)


def test_faces_of_a_mesh_are_measured_in_its_own_cells():
    model = VoxelModel(np.ones((2, 3, 4), np.uint8), ("#102030",))
    faces = faces_of_quads(model_quads(model), model.rgb)
    area = np.linalg.norm(np.cross(faces.us, faces.vs), axis=1)
    assert sorted(area.tolist()) == [6, 6, 8, 8, 12, 12]
