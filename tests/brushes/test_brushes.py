"""What each brush lays, where it lays it, and what it leaves alone."""

import numpy as np
import pytest

from tests.rooms import SHEET, drawn, planes, slots, small_project, small_room, tile
from topion.brushes import Lift, Mosaic, Stamp, ThingsBrush
from topion.brushes.gestures import Gesture, Mirror, mirrored
from topion.brushes.marks import Marks, Place
from topion.brushes.slots import mosaic_of, stamp_of
from topion.brushes.weave_slots import weave_of
from topion.demo.brinehollow import brinehollow
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.weaving.rules import Variant

SIGNS = {"Mud": "m", "Water": "w", "Stones": "s"}


def small(rows, columns):
    return small_room((rows, columns))


def test_a_weave_lays_its_material_and_its_corners(room):
    room.lay("Water", box=((1, 1), (3, 4)))
    assert [row[:6] for row in drawn(room, SIGNS)[:5]] == [
        "mmmmmm",
        "mwwwwm",
        "mwwwwm",
        "mwwwwm",
        "mmmmmm",
    ]
    shown = slots(room)
    assert shown[1][1] == "2,0" and shown[2][2] == "2,4" and shown[3][4] == "3,0"


def test_a_nib_widens_a_line_but_not_a_box():
    room = small(9, 9)
    brush = room.project.data.brushes["Water"]
    room.project.add_brush(type(brush)(brush.name, brush.rules, nib=3))
    room.lay("Water", line=((4, 2), (4, 4)))
    assert drawn(room, SIGNS)[3:6] == ["mwwwwwmmm"] * 3
    room.project.undo()
    room.lay("Water", box=((4, 2), (4, 4)))
    assert drawn(room, SIGNS)[3:6] == ["mmmmmmmmm", "mmwwwmmmm", "mmmmmmmmm"]


def test_cells_beyond_the_room_are_left_out():
    room = small(4, 4)
    room.lay("Water", box=((-3, 2), (1, 9)))
    assert drawn(room, SIGNS) == ["mmww", "mmww", "mmmm", "mmmm"]


def test_laying_the_same_again_changes_nothing(room):
    room.lay("Water", box=((1, 1), (5, 5)))
    assert not room.lay("Water", box=((1, 1), (5, 5)))


def test_a_mosaic_lays_the_same_tile_in_the_same_place(room):
    room.lay("Stones", box=((0, 0), (9, 9)))
    first = slots(room)
    room.lay("Mud", box=((0, 0), (9, 9)))
    room.lay("Stones", box=((0, 0), (9, 9)))
    assert slots(room) == first and len({s for row in first[:10] for s in row[:10]}) == 4


def test_a_turning_mosaic_lays_turned_tiles(room):
    room.project.add_brush(Mosaic("Spun", (Variant(tile(0, 0)),), turns=True, mirrors=True))
    room.lay("Spun", box=((0, 0), (15, 15)))
    tiles = room.project.data.tiles
    laid = {tiles[t - 1][2:] for t in np.unique(planes(room, "Ground")["tile"][:16, :16])}
    assert len(laid) == 8


def test_a_stamp_lays_whole_blocks_that_join_and_stay_pinned(room):
    block = ((tile(0, 0), tile(0, 1)), (None, tile(1, 1)))
    room.project.add_brush(Stamp("Pair", block))
    room.lay("Pair", line=((2, 2), (2, 5)))
    shown = slots(room)
    assert shown[2][2:6] == ["0,0", "0,1", "0,0", "0,1"]
    assert (
        shown[3][3] == shown[3][5] == "1,1" and drawn(room, SIGNS | {"Pair": "p"})[3][2:6] == "mpmp"
    )
    room.lay("Water", box=((1, 1), (1, 8)))
    assert slots(room)[2][2] == "0,0"


@pytest.mark.parametrize("ways", ["E–W", "N–S", "both"])
def test_a_mirrored_stamp_is_the_picture_of_the_stroke_in_the_mirror(ways):
    """What is drawn is symmetric to the pixel, tiles and all."""
    mirrors = {"E–W": [Mirror(-1, 7.5)], "N–S": [Mirror(-2, 8)]}
    mirrors["both"] = mirrors["E–W"] + mirrors["N–S"]
    room = small(17, 16)
    block = ((tile(0, 0), tile(0, 1)), (None, tile(1, 1)))
    room.project.add_brush(Stamp("Pair", block))
    place = Place(room.project.data, "Yard")
    drag = Marks(np.array([(2, 1), (2, 2), (2, 3), (3, 4)]))
    room.lift(box=((0, 0), (16, 15)))
    before = room.render(1)
    edit = room.project.data.brush("Pair").plan(place, mirrored(drag, mirrors[ways]))
    room.project.history.apply(edit)
    seen = room.render(1)
    changed = (seen != before).any(axis=2)
    assert changed.any()
    if ways != "N–S":
        assert np.array_equal(changed, changed[:, ::-1])
        assert np.array_equal(seen[changed], seen[:, ::-1][changed])
    if ways != "E–W":
        assert np.array_equal(changed, changed[::-1]) and np.array_equal(
            seen[changed], seen[::-1][changed]
        )
    room.project.undo()
    assert np.array_equal(room.render(1), before)


@pytest.mark.parametrize("room_name", ["Sluice Yard", "Lamp Island"])
def test_no_brush_of_any_kind_lays_on_a_locked_layer(room_name):
    demo = brinehollow()
    room = demo.room(room_name)
    locked = dict(room.data.layers)
    for layer in locked.values():
        room.set_layer(layer.info.name, locked=True)
    before = {layer_id: layer.revision for layer_id, layer in locked.items()}
    middle = tuple(n // 2 for n in room.data.info.size)
    for brush in demo.data.brushes.values():  # a field may make itself a layer of its own
        room.lay(brush, cells=[middle], override=True)
    assert {i: room.data.layers[i].revision for i in locked} == before


def test_a_locked_layer_takes_nothing_and_says_so(room):
    room.set_layer("Ground", locked=True)
    edit = room.lay("Water", cells=[(1, 1)])
    assert not edit and edit.refused == ("layer Ground is locked",)
    assert room.lay(Lift(), cells=[(1, 1)]).refused == ("layer Ground is locked",)


def test_lifting_everything_or_only_what_one_brush_lays(room):
    room.lay("Water", box=((0, 0), (2, 2)))
    room.lay("Lamp", cells=[(1, 1), (8, 8)])
    room.lift("Water", box=((0, 0), (2, 4)))
    assert drawn(room, SIGNS)[0][:5] == "...mm" and len(room.things()) == 2
    room.lift(box=((0, 0), (2, 4)))
    assert drawn(room, SIGNS)[0][:5] == "....." and [t.cell for t in room.things()] == [(8, 8)]


def test_lifting_takes_a_thing_whose_body_meets_the_cell(room):
    room.lay("Cart", cells=[(10, 10)])
    room.lift("Cart", cells=[(9, 11)])
    assert room.things() == []


def test_things_stand_once_in_a_spot_and_keep_clear_of_their_own_stroke(room):
    room.lay("Bush", cells=[(3, 3), (3, 3)])
    assert not room.lay("Bush", cells=[(3, 3)])
    edit = room.lay("Lamp", line=((10, 0), (10, 12)))
    assert [t.x for t in room.things() if t.prefab == "Lamp"] == [0, 3, 6, 9, 12]
    assert edit.refused == ("8 refused",) and edit.label == "Lamp ×5"


def test_things_stand_on_parts_of_cells(room):
    brush = ThingsBrush("fine", "Bush", cell_parts=2)
    marks = Gesture("drag").marks(np.array([[3.2, 4.3], [3.2, 4.8]]), None)
    assert brush.positions(marks).tolist() == [[3.25, 4.25], [3.25, 4.75]]


def test_a_turned_cart_stands_on_turned_cells(room):
    room.project.add_brush(ThingsBrush("Cart turned", "Cart", turn=90))
    room.lay("Cart turned", cells=[(10, 10)])
    assert not room.verdict("Lamp", 11, 11).allowed and room.verdict("Lamp", 9, 14).allowed


def test_an_explicit_layer_beats_the_home_of_a_brush(room):
    room.add_layer("Upper", "tiles")
    room.lay("Water", cells=[(2, 2)], layer="Upper")
    assert (
        room.material(2, 2, layer="Upper") == "Water"
        and room.material(2, 2, layer="Ground") == "Mud"
    )


def test_brushes_are_made_from_marked_slots():
    project = small_project()
    tileset = project.data.tilesets[SHEET]
    stamp = stamp_of(tileset, Box((0, 0), (2, 3)), set())
    assert stamp.name == "sheet 0,0" and len(stamp.block[0]) == 3
    assert stamp_of(tileset, Box((0, 0), (2, 3)), {stamp.name}).name == "sheet 0,0 2"
    assert len(mosaic_of(tileset, Box((4, 0), (6, 2)), set()).tiles) == 2
    assert len(weave_of(tileset, Box((0, 0), (3, 5)), set()).rules.rules) == 15
    assert len(weave_of(tileset, Box((0, 0), (3, 3)), set()).rules.rules) == 9
    with pytest.raises(BadValue, match="not empty"):
        weave_of(tileset, Box((5, 0), (6, 3)), set())
    with pytest.raises(BadValue, match="at least one tile"):
        stamp_of(tileset, Box((5, 0), (6, 2)), set())
