"""Blocks: faces, looks in themes, uses; their voxels as a room and back."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import SHEET, small_project
from tests.voxel_rooms import isle
from topion.edit.blocks import (
    block_uses,
    coloured_face,
    faced,
    new_block,
    plainly,
    set_block,
    with_face,
    with_look,
)
from topion.edit.models import with_brush
from topion.edit.voxels import (
    LAYER,
    ROOM,
    carved,
    cells_of_model,
    cubed,
    model_project,
    resized,
    with_model,
)
from topion.errors import UnknownName
from topion.model.solid import Block, VoxelModel
from topion.model.tileset import Cut, TileRef, TileSet
from topion.pictures.png import picture_of
from topion.render.face_voxels import block_voxels
from topion.render.model_pictures import model_picture
from topion.render.portraits import block_portrait

RED, GREEN = "#aa3322", "#22aa33"


def tile(slot: str) -> TileRef:
    return TileRef(SHEET, slot)


@pytest.fixture
def handle():
    made = small_project()
    assert made.history.apply(with_brush(made.data, Block("Post", RED)))
    return made


def test_faces_are_told_as_one_three_or_six_without_losing_what_is_there(handle):
    project = handle.data
    three = (tile("0,0"), tile("0,1"), tile("0,2"))
    handle.history.apply(set_block(project, "Post", faces=three))
    block = project.blocks["Post"]
    six = faced(block, 6, tile("1,1"))["faces"]
    assert six == (three[0], three[2], *[three[1]] * 4)
    handle.history.apply(set_block(project, "Post", faces=six))
    assert faced(project.blocks["Post"], 3, tile("1,1"))["faces"] == three
    handle.history.apply(set_block(project, "Post", **plainly(project.blocks["Post"])))
    assert not project.blocks["Post"].tiles()
    assert faced(project.blocks["Post"], 1, tile("1,1"))["faces"] == (tile("1,1"),)


def test_another_tile_comes_onto_one_face_or_one_place_of_a_pattern(handle):
    rows = ((tile("0,0"), tile("0,1")), (tile("1,0"), tile("1,1")))
    changed = with_face(Block("Post", pattern=rows), 2, tile("2,2"))
    assert changed == {"pattern": (rows[0], (tile("2,2"), tile("1,1")))}
    assert with_face(Block("Post", faces=rows[0] + (rows[1][0],)), 1, tile("2,2")) == {
        "faces": (tile("0,0"), tile("2,2"), tile("1,0"))
    }


def test_a_face_that_is_not_there_is_refused(handle):
    with pytest.raises(UnknownName, match="9,9"):
        set_block(handle.data, "Post", faces=(tile("9,9"),))


def test_a_new_block_has_a_brush_and_a_name_of_its_own(handle):
    for _ in range(2):
        handle.history.apply(new_block(handle.data))
    assert {"Block", "Block 2"} <= set(handle.data.blocks) & set(handle.data.brushes)


def test_colours_are_set_theme_by_theme_and_taken_back():
    model = VoxelModel(np.ones((2, 2, 2), np.uint8), (RED, GREEN))
    block = Block("Post", RED, model=model)
    night = Block("Post", RED, model=model, **with_look(block, "night", "#101020", number=1))
    assert night.worn("night").model.palette == (RED, "#101020")
    assert night.worn("").model.palette == (RED, GREEN)
    assert with_look(night, "night") == {"themes": {}}
    first = with_look(block, "", "#ffffff", number=0)["model"]
    assert first.palette == ("#ffffff", GREEN)
    assert with_look(block, "night", "#101020")["themes"]["night"].colour == "#101020"


def test_uses_of_a_block_are_brushes_and_rooms():
    handle = isle().project
    project = handle.data
    name = next(iter(project.blocks))
    found = list(block_uses(project, name))
    assert any(use.shelf == "brushes" for use in found)
    room = next((use for use in found if use.room), None)
    if room is not None:
        assert room.cells > 0 and len(room.first) == 3


# --- voxels ---------------------------------------------------------------------------------


@st.composite
def models(draw):
    size = draw(st.tuples(*[st.integers(1, 6)] * 3))
    seed = draw(st.integers(0, 10_000))
    cells = np.random.default_rng(seed).integers(0, 3, size).astype(np.uint8)
    return VoxelModel(cells, (RED, GREEN), 8)


@given(models())
def test_the_room_of_a_model_reads_back_as_the_model(model):
    whole = cubed(model)
    assert len(set(whole.size)) == 1 and (whole.cells > 0).sum() == (model.cells > 0).sum()
    assert carved(whole, model_project(whole, ["#000000"])) == whole


def test_new_colours_come_behind_those_that_are_there_also_in_themes(handle):
    project = handle.data
    model = VoxelModel(np.ones((2, 2, 2), np.uint8), (RED, GREEN))
    handle.history.apply(with_model(project, "Post", model))
    handle.history.apply(
        set_block(
            project, "Post", **with_look(project.blocks["Post"], "night", "#000011", number=0)
        )
    )
    scratch = model_project(model, ["#0000ff"])
    material = scratch.room(ROOM).layers[LAYER].plane("material").copy()
    material[1, 1, 1] = scratch.material_id("#0000ff")
    scratch.room(ROOM).layers[LAYER].put_planes({"material": material})
    handle.history.apply(with_model(project, "Post", carved(model, scratch)))
    block = project.blocks["Post"]
    assert block.model.palette == (RED, GREEN, "#0000ff")
    assert block.model.cells[1, 1, 1] == 3
    assert block.worn("night").model.palette == ("#000011", GREEN, "#0000ff")
    handle.undo()
    assert project.blocks["Post"].model == model


@pytest.mark.parametrize("yaw", [-40.0, 140.0])
def test_voxels_of_a_block_look_as_its_faces_do(handle, yaw):
    """From either corner, a block of tiles and its voxels are the same picture but for the edges,
    whose voxels belong to two faces."""
    project, side = handle.data, 16
    quarters = np.random.default_rng(5).integers(40, 250, (6, 2, 2, 3), np.uint8)
    rgba = np.full((side, 6 * side, 4), 255, np.uint8)
    rgba[..., :3] = np.concatenate(quarters, 1).repeat(side // 2, 0).repeat(side // 2, 1)
    handle.add_tileset(TileSet("faces", picture_of(rgba), Cut((side, side))))
    faces = tuple(TileRef("faces", f"0,{n}", n % 4) for n in range(6))
    handle.history.apply(set_block(project, "Post", faces=faces))
    tiles = block_portrait(project, "Post", side_px=96, yaw=yaw).astype(int)
    model = block_voxels(project, project.blocks["Post"], side)
    handle.history.apply(with_model(project, "Post", model))
    voxels = block_portrait(project, "Post", side_px=96, yaw=yaw).astype(int)
    seen = tiles[..., 3] == 255
    alike = (np.abs(tiles - voxels).max(axis=2) < 12)[seen].mean()
    assert alike > 0.85


def test_voxels_of_a_plain_block_are_its_colour(handle):
    model = block_voxels(handle.data, handle.data.blocks["Post"], 8)
    assert model.size == (8, 8, 8) and model.palette == (RED,) and model.cells.min() == 1


def test_a_face_of_one_colour_is_a_slot_of_that_colour_made_once(handle):
    project = handle.data
    handle.history.apply(
        set_block(project, "Post", **faced(project.blocks["Post"], 3, tile("0,0")))
    )
    before, count = project.blocks["Post"], len(handle.history.edits)
    for number, colour in ((0, RED), (1, GREEN), (2, RED)):
        handle.history.apply(coloured_face(project, "Post", number, colour))
    colours = project.tileset("Colours")
    assert [ref.slot for ref in project.blocks["Post"].faces] == [RED, GREEN, RED]
    assert set(colours.slots) == {RED, GREEN}
    assert (colours.pixels(colours.slot(GREEN).at)[..., :3] == (0x22, 0xAA, 0x33)).all()
    assert len(handle.history.edits) == count + 3
    for _ in range(3):
        handle.undo()
    assert project.blocks["Post"] == before and "Colours" not in project.tilesets


# --- models of prefabs ----------------------------------------------------------------------


@given(models(), st.tuples(*[st.integers(0, 3)] * 3))
def test_room_about_a_model_is_given_and_taken_back(model, more):
    size = tuple(side + 2 * m for side, m in zip(model.size, more, strict=True))
    larger = resized(model, size)
    assert (larger.cells > 0).sum() == (model.cells > 0).sum()
    assert resized(larger, model.size) == model


def test_cells_and_levels_follow_from_the_voxels():
    cells = np.zeros((20, 8, 24), np.uint8)
    cells[:18, :, 8:16] = 1  # the middle of three cells of 8 voxels, 18 high
    model = VoxelModel(cells, (RED,), 8)
    assert cells_of_model(model) == ((".#.",), 3)
    wider = cells.copy()
    wider[0, 0, 0] = 1
    assert cells_of_model(VoxelModel(wider, (RED,), 8)) == (("##.",), 3)
    assert cells_of_model(VoxelModel(np.zeros((4, 4, 4), np.uint8), (RED,), 4)) == (("#",), 1)


def test_a_picture_is_drawn_from_each_side():
    cells = np.zeros((3, 2, 4), np.uint8)
    cells[0, :, :] = 1
    cells[1:, 1, 0] = 2  # a post in the south-west
    model = VoxelModel(cells, (RED, GREEN), 4)
    south, foot = model_picture(model, "south")
    assert south.shape == (3, 4, 4) and foot == (3, 2)
    assert south[0, 0, 1] > south[0, 0, 0] and south[0, 1, 3] == 0 and south[2, 3, 0] > 0
    east, _ = model_picture(model, "east")
    assert east.shape == (3, 2, 4) and east[0, 0, 3] == 255 and east[0, 1, 3] == 0, "south is left"
    top, _ = model_picture(model, "top")
    assert top.shape == (2, 4, 4) and top[1, 0, 1] > top[1, 0, 0]
    assert model_picture(model, "corner")[0][..., 3].any()
    empty = VoxelModel(np.zeros((2, 2, 2), np.uint8), (RED,), 4)
    assert model_picture(empty, "south")[0].shape == (1, 1, 4)
