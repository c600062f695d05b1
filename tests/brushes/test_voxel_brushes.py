"""Brushes and gestures in voxel rooms."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import small_room
from tests.voxel_rooms import block_at, isle, planes
from topion.brushes import Crate, Lift, Mosaic, Sculpt
from topion.brushes.gestures import Gesture, Mirror, mirrored
from topion.brushes.marks import Marks, Place
from topion.brushes.sculpt import surface_heights
from topion.edit.models import block_of_model, lay_model
from topion.errors import BadValue, UnknownName
from topion.grid.boxes import Box
from topion.grid.orient import composed_turns
from topion.model.solid import TURN_BITS, TURN_MASK, Block, VoxelModel, block_ref
from topion.model.tileset import TileRef
from topion.weaving.looms import loom_of
from topion.weaving.rules import Variant

cells3 = st.tuples(st.integers(0, 9), st.integers(0, 11), st.integers(0, 13))
BRUSHES = ("Ground", "Stones", "Box", "Slabs")


def heights(room):
    return surface_heights(planes(room)["material"])


def flat_box(room):
    """The crate of the room whose strokes are cells, not pieces."""
    return room.project.data.brush("Box").changed(stays=False)


def place_of(room):
    return Place(room.project.data, room.name)


# --- laying -------------------------------------------------------------------------------


@settings(max_examples=30, deadline=None)
@given(st.lists(st.tuples(st.sampled_from(BRUSHES), cells3, cells3), min_size=1, max_size=5))
def test_after_any_boxes_all_that_is_not_pinned_is_as_the_whole_room_weaves_it(boxes):
    room = isle()
    for brush, a, b in boxes:
        room.lay(flat_box(room) if brush == "Box" else brush, box=(a, b))
    kept = planes(room)
    loom = loom_of(room.project.data, "blocks")
    woven = loom.whole(kept["material"])
    free = kept["pinned"] == 0
    assert np.array_equal(kept["block"][free], woven[free] >> TURN_BITS)
    assert np.array_equal(kept["turn"][free], woven[free] & TURN_MASK)


@settings(max_examples=20, deadline=None)
@given(st.sampled_from(BRUSHES), st.lists(cells3, min_size=1, max_size=6))
def test_scattered_cells_are_woven_like_a_window(brush, cells):
    one, other = isle(), isle()
    one.lay(brush, cells=cells)
    for cell in dict.fromkeys(cells):
        other.lay(brush, cells=[cell])
    if brush != "Box":  # a crate is one box, however its cells were named
        assert np.array_equal(planes(one)["material"], planes(other)["material"])
        assert np.array_equal(planes(one)["block"], planes(other)["block"])


@settings(max_examples=25, deadline=None)
@given(st.sampled_from((*BRUSHES, "Heap", "Tufts")), cells3, cells3)
def test_planning_changes_nothing_and_planning_twice_gives_the_same(brush, a, b):
    room = isle()
    before = {name: plane.copy() for name, plane in planes(room).items()}
    one, other = (room.plan(brush, box=(a, b)) for _ in range(2))
    assert len(one.records) == len(other.records)
    for first, second in zip(one.sealed().records, other.sealed().records, strict=True):
        assert first == second
    assert all(np.array_equal(plane, before[name]) for name, plane in planes(room).items())


def test_laying_the_same_again_changes_nothing():
    room = isle()
    room.lay("Stones", box=((3, 2, 2), (4, 4, 4)))
    assert not room.plan("Stones", box=((3, 2, 2), (4, 4, 4)))


def test_brushes_of_the_other_kind_say_why_they_lay_nothing():
    room = isle()
    flat = room.project.add_room("Flat", (8, 8))
    edit = flat.plan("Ground", box=((0, 0), (3, 3)))
    assert not edit and "made of tiles" in edit.refused[0]
    assert "made of tiles" in flat.plan("Heap", box=((0, 0), (1, 1))).refused[0]
    tiles = small_room((6, 6))
    tiles.project.add_room("Deep", (4, 4, 4))
    deep = tiles.project.room("Deep")
    assert "made of blocks" in deep.plan("Mud", box=((0, 0, 0), (1, 1, 1))).refused[0]


def test_a_position_with_too_few_axes_is_refused_in_words():
    with pytest.raises(BadValue, match=r"\(z, y, x\)"):
        isle().lay("Stones", box=((0, 0), (1, 1)))
    with pytest.raises(BadValue, match="3 numbers"):
        isle().why(1, 1)


def test_a_wide_nib_spreads_over_the_plane_it_is_drawn_on():
    room = isle(ground=0)
    brush = room.project.data.brush("Stones")
    wide = Mosaic("Stones", brush.tiles, nib=3)
    for across, shape in ((0, (1, 3, 3)), (2, (3, 3, 1)), (None, (3, 3, 3))):
        marks = Gesture(across=across).marks(np.array([[4.0, 5.0, 6.0]]), None)
        edit = wide.plan(place_of(room), marks)
        assert edit.records[0].touched.shape == shape


# --- flood and mirrors --------------------------------------------------------------------


def test_a_flood_takes_the_connected_like_cells_in_space_by_their_faces():
    room = isle(ground=0)
    room.lay("Stones", box=((1, 1, 1), (3, 1, 1)))
    room.lay("Stones", cells=[(3, 2, 1), (4, 3, 1)])  # the last only touches by an edge
    room.lay("Water", flood=(1, 1, 1))
    assert room.material(3, 2, 1) == "Water" and room.material(4, 3, 1) == "Stones"
    room.lay("Stones", flood=(1, 1, 1))
    room.lay("Water", flood=(1, 1, 1), corners=True)
    assert room.material(4, 3, 1) == "Water"


def test_a_flood_on_the_plane_stays_in_its_level():
    room = isle(ground=0)
    room.lay("Stones", box=((2, 2, 2), (4, 5, 5)))
    marks = Gesture("flood", across=0).marks(np.array([[3.0, 3.0, 3.0]]), planes(room)["material"])
    assert len(marks.cells) == 16 and set(marks.cells[:, 0].tolist()) == {3}
    beyond = Gesture("flood", across=1).marks(
        np.array([[3.0, 40.0, 3.0]]), planes(room)["material"]
    )
    assert beyond.cells.shape == (0, 3)


@given(st.lists(cells3, min_size=1, max_size=6), st.integers(0, 26), st.integers(0, 22))
def test_a_mirror_of_a_mirror_gives_the_stroke_back(cells, twice_x, twice_y):
    mirrors = (Mirror(-1, twice_x / 2), Mirror(-2, twice_y / 2))
    drawn = np.unique(np.array(cells), axis=0)
    for mirror in mirrors:
        assert np.array_equal(mirror.cells(mirror.cells(drawn)), drawn)
    once = mirrored(Marks(drawn), mirrors)
    again = mirrored(Marks(once.cells), mirrors)
    assert {*map(tuple, once.cells.tolist())} == {*map(tuple, again.cells.tolist())}
    assert len(once.parts) == 4 and once.start == tuple(drawn[0])


def test_a_mirrored_crate_is_two_crates():
    room = isle(ground=0)
    marks = mirrored(Marks(Box((1, 1, 1), (3, 3, 3)).cells()), (Mirror(-1, 6.5),))
    edit = room.project.data.brush("Box").plan(place_of(room), marks)
    room.project.history.apply(edit)
    assert block_at(room, 2, 1, 1) == ("Corner", 0) and block_at(room, 2, 1, 12) == ("Corner", 1)
    assert room.material(2, 1, 6) == ""


# --- crates -------------------------------------------------------------------------------


def test_every_corner_of_a_crate_is_the_one_corner_turned():
    room = isle(ground=0)
    room.lay("Box", box=((0, 2, 2), (3, 5, 6)))
    corners = {(3, 2, 2): 0, (3, 2, 6): 1, (3, 5, 6): 2, (3, 5, 2): 3}
    for cell, turn in corners.items():
        assert block_at(room, *cell) == ("Corner", turn)
    assert block_at(room, 3, 3, 4) == ("Lid", 0)
    sides = {(1, 2, 4): 0, (1, 3, 6): 1, (1, 5, 4): 2, (1, 3, 2): 3}
    for cell, turn in sides.items():
        assert block_at(room, *cell) == ("Side", turn)
    assert block_at(room, 1, 3, 4)[0] == "Fill"


def test_all_64_forms_of_a_crate_have_a_block():
    box = isle(ground=0).project.data.brush("Box")
    assert len(box.found) == 64 and len(box.forms) == 4 * 64 and all(ref.slot for ref in box.forms)


@given(st.sampled_from(["".join(key) for key in itertools.product(*Crate.letters)]))
def test_a_part_that_is_given_is_used_as_it_is(key):
    crate = Crate("C", {"mmm": block_ref("Fill"), key: block_ref("Own", 5)})
    assert crate.found[key].tile == block_ref("Own", 5)


def test_a_turned_part_adds_to_its_own_turn():
    crate = Crate("C", {"tnw": block_ref("Corner", 4)})
    assert crate.found["tse"].tile.turn == composed_turns()[4, 2]


def test_thin_boxes_show_their_top_their_south_and_their_east():
    crate = Crate(
        "C", {"mmm": block_ref("Fill"), "tsm": block_ref("Beam"), "tmm": block_ref("Lid")}
    )
    assert crate.found["aam"].tile.slot == "Beam" and crate.found["amm"].tile.slot == "Lid"


def test_a_box_drawn_flat_gets_the_height_of_the_brush():
    room = isle(ground=0)
    tall = room.project.data.brush("Box")
    room.lay(Crate("Box", tall.parts, height=4), box=((2, 3, 3), (2, 5, 5)))
    assert room.material(5, 4, 4) == "Box" and room.material(6, 4, 4) == ""


def test_a_crate_that_reaches_out_of_the_room_keeps_its_parts():
    room = isle(ground=0)
    room.lay("Box", box=((8, 9, 11), (15, 15, 20)))
    assert block_at(room, 9, 10, 12)[0] == "Fill" and block_at(room, 9, 9, 12) == ("Side", 0)


@pytest.mark.parametrize(
    ("parts", "words"),
    [({}, "at least one"), ({"xyz": block_ref("A")}, "three letters"),
     ({"tnw": TileRef("Set", "slot")}, "a block")],
)  # fmt: skip
def test_a_crate_that_cannot_be_is_refused(parts, words):
    with pytest.raises(BadValue, match=words):
        Crate("C", parts)


# --- sculpting ----------------------------------------------------------------------------


def test_raising_is_highest_in_the_middle_and_falls_off():
    room = isle((16, 15, 15))
    room.lay(Sculpt("S", "raise", 5, 5.0, 5.0), line=((3, 7, 7), (3, 7, 7)))
    found = heights(room)
    assert found[7, 7] == 8 and found[7, 1] == 3
    middle_out = found[7, 7:13].tolist()
    assert middle_out == sorted(middle_out, reverse=True) and found[7, 9] == found[9, 7]
    assert room.material(7, 7, 7) == "Ground" and block_at(room, 7, 7, 7)[0] in ("Top", "Edge")


def test_lowering_takes_from_the_top_and_stops_at_the_floor():
    room = isle()
    room.lay(Sculpt("S", "lower", 9, 2.0, 0.0), line=((2, 5, 5), (2, 5, 5)))
    assert heights(room)[5, 5] == 0 and heights(room)[0, 0] == 3


def test_levelling_brings_all_to_the_height_of_the_press():
    room = isle((12, 12, 14))
    room.lay("Ground", box=((3, 4, 4), (6, 4, 4)))
    room.lay("Ground", box=((3, 4, 8), (4, 8, 9)))
    room.lay(Sculpt("S", "level", 9, 6.0, 0.0), line=((4, 5, 8), (4, 5, 8)))
    assert set(heights(room)[3:8, 4:10].reshape(-1).tolist()) == {5}


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 1000))
def test_smoothing_never_makes_ground_rougher_and_stays_between_low_and_high(seed):
    room = isle((12, 12, 14))
    values = np.random.default_rng(seed).integers(1, 8, (12, 14))
    room.lift(box=((0, 0, 0), (11, 11, 13)))
    levels = np.arange(12)[:, None, None]
    room.lay("Ground", cells=np.argwhere(levels < values))
    before = heights(room)
    room.lay(Sculpt("S", "smooth", 8, 20.0, 0.0), line=((0, 6, 7), (0, 6, 7)))
    after = heights(room)
    rough = [np.abs(np.diff(h, axis=0)).sum() + np.abs(np.diff(h, axis=1)).sum()
             for h in (before, after)]  # fmt: skip
    assert rough[1] <= rough[0]
    assert before.min() <= after.min() and after.max() <= before.max()


def test_ground_that_is_raised_keeps_its_own_material():
    room = isle()
    room.lay("Stones", cells=[(2, 5, 5)])
    room.lay(Sculpt("S", "raise", 2), cells=[(2, 5, 5), (2, 5, 6)])
    assert room.material(4, 5, 5) == "Stones" and room.material(4, 5, 6) == "Ground"


def test_water_is_not_piled_up_but_filled_and_empty_columns_too():
    room = isle(ground=0)
    room.lay("Water", cells=[(0, 5, 5)])
    room.lay(Sculpt("S", "raise", 2, fill="Ground"), cells=[(0, 5, 5), (0, 5, 7)])
    assert room.material(1, 5, 5) == "Ground" and room.material(0, 5, 7) == "Ground"
    bare = isle(ground=0)
    assert not bare.plan(Sculpt("S", "raise", 2), cells=[(0, 5, 5)])


def test_what_was_laid_by_hand_is_not_moved():
    room = isle()
    room.lay(flat_box(room), box=((3, 4, 4), (4, 6, 6)))
    room.lay(Sculpt("S", "raise", 3, 4.0, 0.0), line=((4, 5, 5), (4, 5, 5)))
    assert heights(room)[5, 5] == 5 and heights(room)[5, 8] == 6


def test_ground_under_a_roof_is_raised_up_to_it_only():
    room = isle()
    room.lay("Stones", box=((5, 4, 4), (5, 7, 7)))
    room.lay(Sculpt("S", "raise", 6, only="Ground"), cells=[(2, 5, 5)])
    column = [room.material(z, 5, 5) for z in range(9)]
    assert column == ["Ground"] * 5 + ["Stones"] + ["Ground"] * 3


def test_a_stroke_of_radius_8_leaves_a_small_record():
    room = isle((40, 80, 80), ground=10)
    edit = room.plan(Sculpt("S", "raise", 6, 8.0, 6.0), line=((9, 40, 20), (9, 40, 60)))
    size = sum(len(record.packed) for record in edit.sealed().records)
    assert 0 < size < 64 * 1024


def test_sculpting_a_locked_layer_says_so():
    room = isle()
    room.set_layer("Blocks", locked=True)
    assert "locked" in room.plan("Heap", cells=[(2, 2, 2)]).refused[0]
    assert "locked" in room.plan("Box", cells=[(2, 2, 2)]).refused[0]


@pytest.mark.parametrize("bad", [{"levels": 0}, {"radius": 0.0}, {"soft": -1.0}])
def test_a_sculpt_brush_with_senseless_numbers_is_refused(bad):
    with pytest.raises(BadValue):
        Sculpt("S", **bad)


# --- lifting and models -------------------------------------------------------------------


def test_lifting_takes_blocks_things_and_density_in_the_marked_cells():
    room = isle()
    room.lay("Post", cells=[(3, 5, 5)])
    room.lay("Tufts", box=((0, 2, 2), (0, 3, 3)))
    room.lift(box=((4, 5, 5), (4, 5, 5)))  # the upper cell of the post's body
    assert room.things() == []
    room.lift(box=((2, 2, 2), (2, 3, 3)))
    assert room.material(2, 2, 2) == "" and room.material(1, 2, 2) == "Ground"
    assert room.tally("Tufts").wanted == 0


def test_lifting_only_one_brush_leaves_the_rest():
    room = isle()
    room.lay("Stones", box=((3, 2, 2), (3, 4, 4)))
    room.lay(Lift(only="Stones"), box=((0, 0, 0), (9, 11, 13)))
    assert room.material(3, 3, 3) == "" and room.material(2, 3, 3) == "Ground"


def test_a_model_becomes_cells_of_blocks_by_its_colours():
    room = isle()
    cells = np.zeros((2, 2, 3), np.uint8)
    cells[0], cells[1, 0, 0] = 1, 2
    model = VoxelModel(cells, ("#aa0000", "#00aa00", "#0000aa"))
    data = room.project.data
    edit = lay_model(data, room.name, "Ship", model, (3, 10, 12))
    room.project.history.apply(edit)
    assert room.material(3, 10, 12) == "Ship 1" and room.material(4, 10, 12) == "Ship 2"
    assert data.blocks["Ship 2"].colour == "#00aa00" and "Ship 3" not in data.blocks
    assert data.brush("Ship 1").summary() == "mosaic · 1"
    room.project.undo()
    assert "Ship 1" not in data.blocks and room.material(3, 10, 12) == ""


def test_a_model_too_large_or_too_coloured_for_blocks_is_refused():
    room = isle()
    many = VoxelModel(np.arange(1, 21, dtype=np.uint8).reshape(1, 4, 5), tuple(["#010101"] * 20))
    with pytest.raises(BadValue, match="at most 16 as blocks"):
        lay_model(room.project.data, room.name, "Many", many, (0, 0, 0))
    long = VoxelModel(np.ones((1, 1, 17), np.uint8), ("#010101",))
    with pytest.raises(BadValue, match="at most 16 voxels"):
        block_of_model(room.project.data, "Long", long)


def test_a_brush_of_an_unknown_block_is_refused():
    project = isle().project
    with pytest.raises(UnknownName, match="block"):
        project.add_brush(Mosaic("Ghosts", (Variant(block_ref("Nothing")),)))
    with pytest.raises(UnknownName):
        project.add_block(Block("Faced", faces=(TileRef("No set", "a"),)))


# --- turns --------------------------------------------------------------------------------


@pytest.mark.parametrize("turn", [1, 3, 7, 23])
def test_a_turned_mosaic_lays_its_blocks_turned_and_pinned(turn):
    room = isle()
    stones = room.project.data.brush("Stones")
    room.lay(Mosaic("Stones", stones.tiles, turn=turn), box=((3, 2, 2), (3, 4, 4)))
    plain = isle()
    plain.lay("Stones", box=((3, 2, 2), (3, 4, 4)))
    for y, x in ((2, 2), (3, 3), (4, 4)):
        name, found = block_at(room, 3, y, x)
        assert (name, found) == (block_at(plain, 3, y, x)[0], turn)
    assert planes(room)["pinned"][3, 2:5, 2:5].all()
    room.lay("Ground", cells=[(3, 2, 5)])
    assert block_at(room, 3, 2, 4)[1] == turn, "what is laid beside it does not turn it back"


def test_turned_brushes_say_so_and_senseless_turns_are_refused():
    stones = isle().project.data.brush("Stones")
    assert Mosaic("S", stones.tiles, turn=6).summary() == "mosaic · 2 · tipped south, turned 180°"
    assert Mosaic("S", stones.tiles).summary() == "mosaic · 2"
    with pytest.raises(BadValue, match="0 to 23"):
        Mosaic("S", stones.tiles, turn=24)
    with pytest.raises(BadValue, match="0 to 3"):
        Crate("C", {"mmm": block_ref("Fill")}, turn=4)


def test_a_turned_crate_has_every_part_a_quarter_further():
    parts = {"tnm": block_ref("Side"), "tnw": block_ref("Corner"), "mmm": block_ref("Fill")}
    room = isle(ground=0)
    room.project.add_brush(Crate("C", parts, turn=1))
    room.lay("C", box=((0, 2, 2), (2, 5, 6)))
    assert block_at(room, 2, 3, 6) == ("Side", 1) and block_at(room, 2, 2, 6) == ("Corner", 1)
    assert block_at(room, 1, 3, 3) == ("Fill", 1)
