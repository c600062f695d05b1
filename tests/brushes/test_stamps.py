"""Scraps: cut out of a room, turned, and laid again as stamps."""

from dataclasses import replace

import numpy as np
import pytest

from tests.rooms import small_project, small_room, stand, tile
from tests.shapes import shape_room
from tests.voxel_rooms import isle
from topion.brushes import Stamp
from topion.brushes.marks import Marks, Place
from topion.brushes.scraps import cut_out, turned
from topion.edit.picked import Picks, scrap_of
from topion.edit.picking import entries_in
from topion.errors import BadValue
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.grid.ways import Way, all_ways
from topion.model.compare import differences
from topion.model.plain import from_plain, to_plain
from topion.model.plane import Plane
from topion.model.prefab import Thing
from topion.model.scrap import Scrap, ScrapLayer


def everything(room, box, layers=None):
    """All that lies in a box of a room, as a scrap."""
    area = Area.of_box(box)
    entries = entries_in(room.project.data, room.data, area)
    layer_ids = tuple(layers or room.data.layers)
    return scrap_of(room.project.data, room.name, Picks(entries, area, layer_ids))


def lay(room, stamp, *cells, **marks):
    """Lay a stamp with its anchor in these cells; the Edit."""
    place = Place(room.project.data, room.name)
    edit = stamp.plan(place, Marks(np.array(cells), **marks))
    room.project.history.apply(edit)
    return edit


@pytest.fixture
def yard():
    """A room with weaves, pieces, pinned tiles, things and a field."""
    room = shape_room()
    project = room.project
    project.add_brush(Stamp("Pin", ((tile(0, 3), tile(0, 4)),)))
    room.lay("Pin", cells=[(12, 4)])
    room.lay("Wall", box=((13, 2), (16, 7)))
    room.lay("Pipe", line=((18, 2), (18, 8)))
    room.lay("Quay", line=((20, 2), (18, 6)))
    room.lay("Cart", cells=[(14, 10)], override=True)
    room.lay("Bush", cells=[(15, 5), (17, 9)])
    room.add_layer("Reeds", "field")
    room.set_layer("Reeds", brush="Reeds")
    room.lay("Reeds", box=((12, 2), (14, 4)))
    return room


PART = Box((11, 1), (21, 12))


# --- cut out ------------------------------------------------------------------------------


def test_a_scrap_holds_all_that_lay_there(yard):
    scrap = everything(yard, PART)
    assert scrap.size == PART.shape
    assert {layer.name for layer in scrap.layers} == {"Ground", "Things", "Reeds"}
    ground = scrap.layers[0]
    assert {piece.brush for piece in ground.pieces} == {"Wall", "Pipe", "Quay"}
    assert scrap.materials[int(ground.planes["material"].cells[0, 0]) - 1] == "Mud"
    assert len(next(la for la in scrap.layers if la.name == "Things").things) == 3
    assert scrap.holds().startswith("110 cells, 3 pieces, 3 things")


def test_an_area_of_open_cells_is_nothing(yard):
    yard.lift(box=((0, 20), (4, 24)))
    assert everything(yard, Box((0, 20), (4, 24))) is None


def test_a_lasso_keeps_its_own_outline(yard):
    area = Area.of_cells(np.array([(0, 0), (0, 1), (1, 0)]))
    scrap = cut_out(yard.project.data, yard.data, area, ["ground"], {})
    assert scrap.size == (2, 2) and scrap.mask.tolist() == [[True, True], [True, False]]
    assert scrap.count_cells() == 3


def test_things_alone_make_a_scrap_round_them(yard):
    layer_id = yard.data.id_of("Things")
    numbers = [n for n, t in yard.data.layer(layer_id).things.items() if t.prefab == "Bush"]
    scrap = cut_out(yard.project.data, yard.data, None, [], {layer_id: numbers})
    assert scrap.size == (3, 5) and [t.at for t in scrap.layers[0].things] == [(0, 0, 0), (0, 2, 4)]


def test_a_scrap_reads_back_from_plain_values(yard):
    scrap = everything(yard, PART)
    assert from_plain(Scrap, to_plain(scrap)) == scrap


@pytest.mark.parametrize("change", [
    {"size": (0, 3)}, {"size": (5000, 5000)}, {"materials": ()}, {"tiles": (tile(0, 0),) * 0},
], ids=str)  # fmt: skip
def test_a_scrap_that_does_not_hold_together_is_refused(yard, change):
    scrap = everything(yard, PART)
    values = {"size": scrap.size, "layers": scrap.layers, "materials": scrap.materials,
              "tiles": scrap.tiles} | change  # fmt: skip
    with pytest.raises(BadValue):
        Scrap(**values)


# --- turned -------------------------------------------------------------------------------


@pytest.mark.parametrize("way", all_ways(2), ids=str)
def test_a_flat_scrap_turned_and_turned_back_is_the_same(yard, way):
    project, scrap = yard.project.data, everything(yard, PART)
    there = turned(project, scrap, way).scrap
    assert turned(project, there, way.inverse()).scrap == scrap


@pytest.mark.parametrize("way", all_ways(3), ids=str)
def test_a_scrap_of_blocks_turned_and_turned_back_is_the_same(way):
    room = isle(ground=2)
    for name in ("Stone a", "Stone b"):
        room.project.add_block(replace(room.project.data.block(name), turns="any"))
    room.lay("Stones", box=((2, 1, 1), (3, 2, 4)))
    room.lay(room.project.data.brush("Stones").changed(turn=2), cells=[(3, 1, 1), (2, 3, 3)])
    stand(room, Thing("Post", 2.0, 3.0, 90.0, z=4.0))
    scrap = everything(room, Box((1, 0, 0), (5, 4, 6)))
    there = turned(room.project.data, scrap, way).scrap
    assert there.size == way.shape(scrap.size)
    assert turned(room.project.data, there, way.inverse()).scrap == scrap


def test_pieces_stay_pieces_when_they_turn(yard):
    scrap = everything(yard, PART)
    pieces = turned(yard.project.data, scrap, Way(2, 1)).scrap.layers[0].pieces
    wall = next(piece for piece in pieces if piece.brush == "Wall")
    assert wall.box.shape == (6, 4) and wall.turn == 1


def test_tiles_that_may_not_turn_are_woven_anew_and_named():
    room = isle()
    data = room.project.data
    block = data.block("Stone a")
    room.project.add_block(type(block)("Stone a", block.colour, turns="none"))
    planes = {"material": Plane(np.ones((1, 1, 2), np.uint16)),
              "pinned": Plane(np.array([[[1, 2]]], np.uint16))}  # fmt: skip
    from topion.model.solid import block_ref

    scrap = Scrap((1, 1, 2), (ScrapLayer("Blocks", "blocks", planes),), ("Stones",),
                  (block_ref("Stone a"), block_ref("Stone b", 1)))  # fmt: skip
    found = turned(data, scrap, Way(3, 1))
    assert found.notes == ("Stone a cannot be turned so, and is woven anew",)
    assert found.scrap.layers[0].planes["pinned"].cells.reshape(-1).tolist() == [0, 2]
    assert found.scrap.tiles[1] == block_ref("Stone b", 2)


def test_a_thing_turns_as_far_as_its_prefab_allows(yard):
    scrap = everything(yard, PART)
    things = {t.prefab: t for la in scrap.layers for t in la.things}
    made = turned(yard.project.data, scrap, Way(2, 1, True)).scrap
    after = {t.prefab: t for la in made.layers for t in la.things}
    assert (after["Cart"].turn, after["Cart"].mirrored) == (270.0, True)
    assert (after["Bush"].turn, after["Bush"].mirrored) == (0.0, False)
    assert things["Cart"].turn == 0


# --- laid ---------------------------------------------------------------------------------


def test_a_stamp_lays_cells_pieces_things_and_density(yard):
    stamp = Stamp("Part", scrap=everything(yard, PART), repeat="once")
    other = yard.project.add_room("Other", (24, 32), 4)
    other.lay("Mud", box=((0, 0), (23, 31)))
    other.add_layer("Reeds", "field")
    other.set_layer("Reeds", brush="Reeds")
    edit = lay(other, stamp, (11, 1), override=True)
    assert not edit.refused
    for plane in ("material", "pinned"):
        ours = yard.data.layer("ground").plane(plane)[PART.slices]
        assert np.array_equal(other.data.layer("ground").plane(plane)[PART.slices], ours)
    assert len(other.data.layer("ground").pieces) == 3
    assert [t.at for t in other.data.layer("things").things.values()] == [
        t.at for t in yard.data.layer("things").things.values()
    ]
    assert other.data.layer("reeds").plane("density").any()
    before = yard.project.data.frozen()
    yard.project.undo(), yard.project.history.redo()
    assert differences(before, yard.project.data) == []


def test_a_stamp_asks_the_rules_on_the_ground_that_it_lays():
    room = small_room()
    room.lay("Lamp", cells=[(2, 2)])
    stamp = Stamp("Lamp here", scrap=everything(room, Box((2, 2), (3, 3))), repeat="once")
    near = lay(room, stamp, (3, 3))
    assert near.refused == ("1 thing refused",) and len(room.data.layer("things").things) == 1
    lay(room, stamp, (10, 10))
    assert len(room.data.layer("things").things) == 2


def test_what_a_room_has_no_layer_for_is_named(yard):
    stamp = Stamp("Part", scrap=everything(yard, PART), repeat="once")
    other = yard.project.add_room("Bare", (24, 32), 4, layers=[("Ground", "tiles")])
    edit = lay(other, stamp, (0, 0))
    assert edit.refused == ("Bare has no layer of things, so Things is left out",
                            "Bare has no layer for a field of Reeds, so Reeds is left out")  # fmt: skip
    assert len(other.data.layer("ground").pieces) == 3


def test_only_open_cells_are_filled_when_asked_so():
    room = small_room((6, 6))
    room.lay("Water", box=((0, 0), (1, 1)))
    stamp = Stamp("Pool", scrap=everything(room, Box((0, 0), (2, 2)), ["ground"]),
                  onto="open cells", repeat="once")  # fmt: skip
    room.lift(cells=[(4, 4)])
    lay(room, stamp, (3, 3))
    material = room.data.layer("ground").plane("material")
    water = room.project.data.material_id("Water")
    assert np.argwhere(material[2:] == water).tolist() == [[2, 4]]


def test_the_whole_area_replaces_what_is_open_in_the_stamp_too():
    room = small_room((6, 6))
    room.lift(cells=[(0, 1)])
    room.lay("Bush", cells=[(3, 4), (5, 5)])
    scrap = everything(room, Box((0, 0), (1, 2)), ["ground"])
    lay(room, Stamp("Gap", scrap=scrap, onto="its cells", repeat="once"), (2, 2))
    assert room.data.layer("ground").plane("material")[2, 3]
    lay(room, Stamp("Gap", scrap=scrap, onto="whole area", repeat="once"), (3, 3))
    assert not room.data.layer("ground").plane("material")[3, 4]


def test_a_drag_lays_one_at_every_pitch():
    room = small_room((8, 30))
    room.lay("Bush", cells=[(0, 0)])
    scrap = everything(room, Box((0, 0), (1, 1)))
    stamp = Stamp("Row", scrap=scrap, repeat="at a pitch", pitch=5)
    way = np.array([(4, x) for x in range(2, 24)])
    lay(room, stamp, *way.tolist(), path=way.astype(float))
    at = sorted(int(t.x) for t in room.data.layer("things").things.values() if t.y == 4)
    assert at == [2, 7, 12, 17, 22]


def test_copies_never_lie_on_what_the_same_stroke_laid():
    room = small_room((8, 30))
    room.lay("Water", cells=[(0, 0)])
    room.lay("Bush", cells=[(0, 2)])
    scrap = everything(room, Box((0, 0), (1, 3)))
    stamp = Stamp("Row", scrap=scrap, repeat="at a pitch", pitch=1)
    way = np.array([(4, x) for x in range(4, 8)])
    lay(room, stamp, *way.tolist(), path=way.astype(float))
    row = room.data.layer("ground").plane("material")[4]
    assert np.flatnonzero(row == room.project.data.material_id("Water")).tolist() == [4]
    bushes = sorted(t.x for t in room.data.layer("things").things.values() if t.y == 4)
    assert bushes == [6, 7, 8, 9]  # each in the column that no copy before it covers


def test_the_anchor_lies_under_the_pointer_however_the_stamp_is_turned():
    room = small_room((12, 12))
    room.lay("Water", cells=[(0, 1)])
    scrap = everything(room, Box((0, 0), (1, 3)), ["ground"])
    for turn in range(4):
        fresh = small_room((12, 12), small_project())
        stamp = Stamp("Dot", scrap=scrap, anchor=(0, 1), turn=turn, repeat="once")
        lay(fresh, stamp, (5, 6))
        water = fresh.project.data.material_id("Water")
        assert np.argwhere(fresh.data.layer("ground").plane("material") == water).tolist() == [
            [5, 6]
        ]


def test_a_stamp_turned_by_keys_comes_back_to_where_it_was():
    room = isle()
    stamp = Stamp("Rock", scrap=everything(room, Box((0, 0, 0), (2, 2, 3))))
    for axis in ("up", "south", "east"):
        now = stamp
        seen = set()
        for _ in range(4):
            now = now.turned_about(axis)
            seen.add(now.turn)
        assert now == stamp and len(seen) == 4
    turned_ = stamp.turned_about("east").lifted_by(2).flipped()
    assert turned_.state() and turned_.straightened() == stamp


def test_a_raised_stamp_lies_so_many_levels_higher():
    room = isle(ground=1)
    stamp = Stamp("Slab", scrap=everything(room, Box((0, 0, 0), (1, 2, 2))), repeat="once")
    edit = lay(room, stamp.lifted_by(2), (1, 3, 3))
    assert edit.records[0].touched == Box((3, 3, 3), (4, 5, 5))


def test_groups_of_a_stamp_are_groups_of_their_own_in_each_copy():
    room = small_room()
    stand(room, Thing("Bush", 1, 1, groups=(7,)), Thing("Bush", 1, 2, groups=(7, 9)),
                     Thing("Bush", 1, 3, groups=(7, 9)))  # fmt: skip
    scrap = everything(room, Box((1, 1), (2, 4)))
    lay(room, Stamp("Three", scrap=scrap, repeat="at a rate"), (5, 1), (9, 1))
    copies = [[t.groups for t in room.data.layer("things").things.values() if t.y == y]
              for y in (5, 9)]  # fmt: skip
    for groups in copies:
        assert groups[0] == groups[1][:1] == groups[2][:1] and groups[1] == groups[2]
        assert len(set(groups[1])) == 2
    assert not {g for gs in copies[0] for g in gs} & {g for gs in copies[1] for g in gs}


def test_what_is_laid_stays_within_the_area_that_is_picked():
    room = small_room()
    room.lay("Water", box=((0, 0), (3, 3)))
    scrap = everything(room, Box((0, 0), (4, 4)), ["ground"])
    within = Area.of_box(Box((10, 10), (12, 14)))
    edit = lay(room, Stamp("Pool", scrap=scrap, repeat="once"), (9, 9), within=within)
    assert edit.records[0].touched == Box((10, 10), (12, 13))


def test_unknown_materials_are_named_and_leave_what_lies_there(yard):
    scrap = everything(yard, Box((11, 1), (13, 4)), ["ground"])
    other = small_room(project=small_project())
    strange = Scrap(scrap.size, scrap.layers, ("Mudd", *scrap.materials[1:]), scrap.tiles)
    before = other.data.layer("ground").plane("material").copy()
    edit = lay(other, Stamp("Odd", scrap=strange, repeat="once"), (0, 0))
    assert "material Mudd is not known here" in edit.refused
    assert np.array_equal(other.data.layer("ground").plane("material"), before)


def test_a_stamp_of_a_quarter_of_a_million_cells_shows_its_middle_on_its_card():
    planes = {"material": Plane(np.ones((500, 500), np.uint16))}
    scrap = Scrap((500, 500), (ScrapLayer("Ground", "tiles", planes),), ("Mud",))
    room = small_room()
    sample = Stamp("Large", scrap=scrap).sample(room.project.data, deep=False)
    assert max(sample.size) <= 40 and sample.brush.scrap.count_cells() == 28 * 40
