"""Rooms, layers, prefabs and tile sets hold and check what they are given."""

import numpy as np
import pytest

from tests.rooms import SIDE, planes, prefab, sheet_picture, small_project, small_room
from topion.edit.library import moved_card, put_brush, put_tileset
from topion.errors import BadValue, NameTaken, UnknownName
from topion.grid.boxes import Box
from topion.model.compare import differences
from topion.model.edit import Edit, joined
from topion.model.layer import LayerInfo
from topion.model.picture import Picture
from topion.model.prefab import Prefab, Thing, turned_offsets
from topion.model.records import cells_changed
from topion.model.room import RoomInfo
from topion.model.tileset import Cut, Slot, TileSet
from topion.scripting import ProjectHandle, RoomHandle


@pytest.mark.parametrize(
    "make",
    [
        lambda: RoomInfo(" ", (4, 4)),
        lambda: RoomInfo("a", (0, 4)),
        lambda: RoomInfo("a", (4,)),
        lambda: RoomInfo("a", (16_384, 16_384)),
        lambda: RoomInfo("a", (4, 4), 0),
        lambda: LayerInfo("", "tiles"),
        lambda: LayerInfo("a", "clouds"),
        lambda: LayerInfo("a", "tiles", opacity=1.5),
        lambda: Slot((0, 0), frame_ms=1),
        lambda: TileSet("a", sheet_picture(), Cut((4, 4)), {"x": Slot((99, 0))}),
        lambda: TileSet("a", sheet_picture(), Cut((500, 500))),
        lambda: prefab("a", footprint=("#", "##")),
        lambda: prefab("a", footprint=("..",)),
        lambda: prefab("a", footprint=("#" * 40,)),
    ],
)
def test_values_without_sense_are_refused_in_a_sentence(make):
    with pytest.raises(BadValue, match="must be"):
        make()


def test_a_footprint_is_counted_from_its_bottom_middle():
    assert prefab("a", footprint=("##", "##")).offsets.tolist() == [
        [-1, 0],
        [-1, 1],
        [0, 0],
        [0, 1],
    ]
    assert prefab("a", footprint=("#.#",)).offsets.tolist() == [[0, -1], [0, 1]]


def test_four_quarter_turns_bring_a_footprint_back():
    cart = prefab("a", footprint=("##", "#."))
    once = turned_offsets(cart, 90, False)
    assert {tuple(c) for c in once.tolist()} == {(0, 1), (1, 1), (0, 0)}
    assert np.array_equal(turned_offsets(cart, 360, False), cart.offsets)
    twice = turned_offsets(cart, 180, False)
    assert np.array_equal(-twice, cart.offsets)


def test_a_thing_between_cells_stands_in_the_cell_of_its_anchor():
    assert Thing("a", 3.0, 4.0).cell == (3, 4)
    assert Thing("a", 3.49, 3.5).cell == (3, 4)


def test_slots_are_known_by_name_or_place():
    slots = {"door": Slot((1, 2), tags=("built",), solid=True)}
    tileset = TileSet("s", sheet_picture(), Cut((SIDE, SIDE)), slots)
    assert tileset.slot("door").at == (1, 2) and tileset.name_at((1, 2)) == "door"
    assert tileset.slot("0,3").at == (0, 3) and "door" in list(tileset.filled_slots())
    for name in ("5,0", "99,0", "nonsense", "1,2,3"):
        with pytest.raises(UnknownName):
            tileset.slot(name)


def test_pixels_of_the_model_cannot_be_written():
    picture = sheet_picture()
    with pytest.raises(ValueError, match="read-only"):
        picture.rgba[0, 0] = 0
    assert picture == Picture(picture.rgba.copy(), b"other file")


def test_names_are_taken_once():
    project = small_project()
    with pytest.raises(NameTaken, match="already a tile set named “sheet”"):
        put_tileset(project.data, project.data.tilesets["sheet"])
    project.add_room("Hall")
    with pytest.raises(NameTaken, match="already a room"):
        project.add_room("Hall")


def test_new_cards_come_into_the_bay_of_their_kind_and_can_be_moved():
    project = small_project()
    bays = {bay.name: bay.brushes for bay in project.data.bays}
    assert bays["Ground"] == ("Mud", "Water", "Stones") and bays["Fields"] == ("Reeds",)
    project.history.apply(moved_card(project.data, "Stones", "Things", 1))
    bays = {bay.name: bay.brushes for bay in project.data.bays}
    assert bays["Things"][1] == "Stones" and "Stones" not in bays["Ground"]
    assert not moved_card(project.data, "Stones", "Things", 1)


def test_a_brush_that_did_not_change_is_no_edit():
    project = small_project()
    assert not put_brush(project.data, project.data.brushes["Mud"])


def test_a_brush_whose_tiles_are_not_there_is_refused():
    from topion.brushes import Stamp
    from topion.model.tileset import TileRef

    project = small_project()
    with pytest.raises(UnknownName, match="tile set"):
        project.add_brush(Stamp("x", ((TileRef("nowhere", "0,0"),),)))
    with pytest.raises(UnknownName, match="slot"):
        project.add_brush(Stamp("x", ((TileRef("sheet", "5,5"),),)))


def test_layer_ids_are_short_and_free():
    room = small_room((4, 4)).data
    assert room.new_layer_id("Ground") == "ground-2" and room.new_layer_id("Üb / 3") == "üb---3"
    assert room.new_layer_id("···") == "layer"


def test_differences_are_told_in_words(room):
    other = small_room()
    assert differences(room.project.data, other.project.data) == []
    other.lay("Water", cells=[(1, 1), (1, 2)])
    other.lay("Lamp", cells=[(4, 4)])
    told = differences(room.project.data, other.project.data)
    assert "room Yard: layer ground differs in material of 2 cells" in told
    assert "room Yard: layer things holds other things" in told


def test_a_frozen_project_does_not_see_later_strokes_things_or_layers(room):
    shot, other = room.project.data.frozen(), room.project.data.frozen()
    before = planes(RoomHandle(ProjectHandle(other), "Yard"), "Ground")["tile"].copy()
    room.lay("Lamp", cells=[(4, 4)])
    room.lay("Water", box=((1, 1), (9, 9)))
    room.add_layer("More", "tiles")
    assert not shot.rooms["Yard"].layers["things"].things and len(shot.rooms["Yard"].order) == 2
    assert differences(shot, other) == []
    now = planes(RoomHandle(ProjectHandle(shot), "Yard"), "Ground")["tile"]
    assert np.array_equal(now, before) and not np.array_equal(planes(room, "Ground")["tile"], now)


def test_planes_are_copied_only_while_a_frozen_project_is_in_use(room):
    layer = room.data.layers["ground"]
    kept = layer.plane("material")
    shot = room.project.data.frozen()
    room.lay("Water", cells=[(1, 1)])
    assert layer.plane("material") is not kept
    kept = layer.plane("material")
    del shot
    room.lay("Water", cells=[(1, 2)])
    assert layer.plane("material") is kept


def test_joined_edits_undo_as_one(room):
    data = room.project.data
    one = room.plan("Water", cells=[(1, 1)])
    other = room.plan("Lamp", cells=[(9, 9)])
    room.project.history.apply(joined("both", [one, other]))
    assert room.material(1, 1) == "Water" and room.things()
    room.project.undo()
    assert room.material(1, 1) == "Mud" and not room.things() and data is room.project.data


def test_a_record_knows_the_box_it_touches():
    cells = np.ravel_multi_index(([3, 3, 7], [9, 2, 4]), (10, 12))
    values = {"material": np.zeros(3, np.uint16)}
    new = {"material": np.ones(3, np.uint16)}
    (record,) = cells_changed("r", "l", (10, 12), cells, values, new)
    assert record.touched == Box((3, 2), (8, 10)) == record.dirty().box
    deep = np.ravel_multi_index(([1, 2], [3, 1], [0, 4]), (4, 5, 6))
    zeros, ones = ({"material": np.full(2, v, np.uint16)} for v in (0, 1))
    (record,) = cells_changed("r", "l", (4, 5, 6), deep, zeros, ones)
    assert record.touched == Box((1, 1, 0), (3, 4, 5))
    assert not Edit("nothing")


def test_a_picture_without_pixels_left_over_is_a_prefab_all_the_same():
    made = Prefab("x", sheet_picture(2, 1), (SIDE, 2))
    assert made.footprint == ("#",) and made.rules == ()
