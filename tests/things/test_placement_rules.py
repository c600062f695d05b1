"""Each placement rule in cases that were counted by hand: from above, from the side, in voxels."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import SHEET, prefab, small_project, small_room, stand
from tests.voxel_rooms import isle
from topion.brushes import Mosaic, ThingsBrush
from topion.edit.rooms import set_room
from topion.errors import BadValue
from topion.model.prefab import PrefabClass, Thing
from topion.model.tileset import Slot, TileRef
from topion.survey import survey
from topion.things.ground import Ground
from topion.things.rules import (
    AtLeast,
    AtMost,
    Beside,
    ClearOf,
    FacesAway,
    FromEdge,
    KeepsCells,
    Near,
    NotInSight,
    NotOn,
    On,
    OnlyIn,
)
from topion.weaving.rules import Variant


def asks(room, *rules, **more):
    """A prefab "It" with these rules, and a brush that lays it."""
    room.project.add_prefab(prefab("It", *rules, **more))
    if "It" not in room.project.data.brushes:
        room.project.add_brush(ThingsBrush("It", "It"))
    return room


def why(room, *cell):
    """(rule, measured, wanted) of the first refusal there; None where it may stand."""
    found = room.verdict("It", *cell)
    return None if found.allowed else (
        found.reasons[0].rule, found.reasons[0].measured, found.reasons[0].wanted
    )  # fmt: skip


@pytest.fixture
def yard():
    """Mud of 12 × 16 with a brick wall down column 8, from row 0 to row 9."""
    room = small_room((12, 16))
    project = room.project
    sheet = project.data.tilesets[SHEET]
    slots = {"brick": Slot((4, 7), solid=True, tags=("masonry", "hard"))}
    project.data.put_item(("tilesets", SHEET), replace(sheet, slots=slots))
    project.add_brush(Mosaic("Brick", (Variant(TileRef(SHEET, "brick")),)))
    room.lay("Brick", box=((0, 8), (9, 8)))
    return room


@pytest.fixture
def cellar():
    """Seen from the side: ground from row 10 down, a wall at column 0, a shelf in row 5."""
    project = small_project()
    sheet = project.data.tilesets[SHEET]
    slots = {"brick": Slot((4, 7), solid=True, tags=("masonry",))}
    slots |= {f"mud {y},{x}": Slot((y, x), solid=True) for y in (0, 1) for x in range(8)}
    project.data.put_item(("tilesets", SHEET), replace(sheet, slots=slots))
    project.add_brush(Mosaic("Brick", (Variant(TileRef(SHEET, "brick")),)))
    layers = (("Ground", "tiles"), ("Things", "things"))
    room = project.add_room("Cellar", (12, 16), 4, layers, seen="side")
    room.lay("Mud", box=((10, 0), (11, 15)), layer="Ground")
    room.lay("Brick", box=((0, 0), (9, 0)), layer="Ground")
    room.lay("Brick", box=((5, 6), (5, 9)), layer="Ground")
    return room


# --- on, not on -----------------------------------------------------------------------------


def test_on_by_tag_and_by_what_carries(yard, cellar):
    asks(yard, On(tags=("masonry",)))
    assert why(yard, 4, 8) is None
    assert why(yard, 4, 7) == ("on", "Mud", "what is tagged masonry")
    asks(yard, NotOn(tags=("hard", "other")))
    assert why(yard, 4, 7) is None and why(yard, 4, 8)[:2] == ("not on", "Brick")
    asks(cellar, On(tags=("masonry",)))
    assert why(cellar, 4, 7) is None, "on the shelf"
    assert why(cellar, 9, 7)[:2] == ("on", "Mud")
    asks(cellar, On(carries=True))
    assert why(cellar, 9, 7) is None


def test_on_wants_something_to_stand_on():
    with pytest.raises(BadValue, match="a material, a tag"):
        On()


# --- beside ---------------------------------------------------------------------------------


def test_beside_a_wall_from_above_from_the_side_and_in_voxels(yard, cellar):
    asks(yard, Beside("wall"))
    assert why(yard, 4, 7) is None and why(yard, 4, 9) is None and why(yard, 10, 8) is None
    assert why(yard, 4, 6) == ("beside", "nothing", "a wall")
    asks(cellar, Beside("wall"))
    assert why(cellar, 9, 1) is None and why(cellar, 9, 2)[0] == "beside"
    assert why(cellar, 4, 6)[0] == "beside", "a shelf below is no wall"
    room = isle((8, 8, 8), 2)
    room.lay("Stones", box=((2, 2, 2), (3, 2, 4)))
    asks(room, Beside("wall"))
    assert why(room, 2, 3, 3) is None and why(room, 2, 4, 3)[0] == "beside"


def test_beside_a_ceiling_a_material_and_a_thing(cellar, yard):
    asks(cellar, Beside("ceiling"))
    assert why(cellar, 9, 12)[0] == "beside"
    cellar.lay("Brick", box=((8, 12), (8, 12)), layer="Ground")
    assert why(cellar, 9, 12) is None
    asks(yard, Beside(material="Water"))
    assert why(yard, 5, 4)[0] == "beside"
    yard.lay("Water", cells=[(5, 3)])
    assert why(yard, 5, 4) is None and why(yard, 4, 4)[0] == "beside"
    asks(yard, Beside(thing="Bush"))
    yard.lay("Bush", cells=[(2, 2)])
    assert why(yard, 2, 3) is None and why(yard, 2, 4)[0] == "beside"


# --- distances ------------------------------------------------------------------------------


def test_near_measures_between_middles(yard):
    asks(yard, Near(2.0, "Bush"))
    assert why(yard, 6, 4) == ("near", "none in the room", "at most 2 cells")
    yard.lay("Bush", cells=[(6, 2)])
    assert why(yard, 6, 4) is None and why(yard, 6, 5) == ("near", "3", "at most 2 cells")
    assert why(yard, 7, 4) == ("near", "2.3", "at most 2 cells")


def test_clear_between_bodies_counts_the_cells_that_are_free(yard):
    stand(yard, Thing("Cart", 6.0, 3.0))
    body = {tuple(cell) for cell in _cells(yard, "Cart", 6.0, 3.0)}
    right = max(x for _, x in body)
    asks(yard, ClearOf(2.0, "Cart", between="bodies"))
    assert why(yard, 6, right + 1)[:2] == ("clear of", "0")
    assert why(yard, 6, right + 2)[:2] == ("clear of", "1")
    assert why(yard, 6, right + 3) is None


def _cells(room, name, y, x):
    from topion.things.ground import body_cells

    return body_cells(room.project.data.prefab(name), Thing(name, y, x))


def test_from_the_edge_in_each_view(yard, cellar):
    asks(yard, FromEdge(2))
    assert why(yard, 2, 2) is None
    assert why(yard, 1, 5) == ("from the edge", "1", "2 cells")
    assert why(yard, 5, 15) == ("from the edge", "0", "2 cells")
    asks(cellar, FromEdge(3))
    assert why(cellar, 9, 4) is None, "the foot of the room is no edge"
    assert why(cellar, 9, 2) == ("from the edge", "2", "3 cells")
    room = isle((6, 8, 9), 2)
    asks(room, FromEdge(2))
    assert why(room, 2, 2, 2) is None and why(room, 2, 2, 7)[:2] == ("from the edge", "1")


def test_a_wall_stands_in_the_way_of_sight(yard):
    stand(yard, Thing("Bush", 4.0, 4.0))
    asks(yard, NotInSight("Bush", 6))
    assert why(yard, 4, 7) == ("not in sight", "3 cells away", "a wall between")
    assert why(yard, 4, 9) is None, "behind the wall"
    assert why(yard, 11, 4) is None, "farther than it looks"
    room = isle((6, 10, 10), 2)
    stand(room, Thing("Post", 4.0, 2.0, z=2.0))
    asks(room, NotInSight("Post", 8))
    assert why(room, 2, 4, 6)[0] == "not in sight"
    room.lay("Stones", box=((2, 3, 4), (4, 5, 4)))
    assert why(room, 2, 4, 6) is None


# --- counts, rooms, classes -----------------------------------------------------------------


def test_at_most_in_the_world_counts_all_rooms(yard):
    asks(yard, AtMost(3, "world"))
    other = yard.project.add_room("Other", (6, 6), 4)
    other.lay("Mud", box=((0, 0), (5, 5)))
    yard.lay("It", cells=[(1, 1), (1, 3)])
    other.lay("It", cells=[(1, 1), (1, 3), (1, 5)])
    assert len(other.things()) == 1
    assert why(yard, 8, 2) == ("at most", "3", "3")
    yard.project.undo()
    assert why(yard, 8, 2) is None


def test_at_least_refuses_nothing_and_is_surveyed(yard):
    asks(yard, AtLeast(2, "world"), AtLeast(3, "room"))
    told = [f.sentence for f in survey(yard.project.data) if f.check == "rule broken: at least"]
    assert told == ["It · too few in the world: 0 of 2"]
    yard.lay("It", cells=[(1, 1), (1, 3)])
    told = [f.sentence for f in survey(yard.project.data) if f.check == "rule broken: at least"]
    assert told == ["It · too few in the room: 2 of 3"]


def test_rooms_are_told_by_their_tags(yard):
    asks(yard, OnlyIn(("cave", "deep")))
    assert why(yard, 2, 2) == ("only in", "without tags", "cave or deep")
    data = yard.project.data
    yard.project.history.apply(set_room(data, yard.name, tags=("deep",)))
    assert why(yard, 2, 2) is None
    asks(yard, OnlyIn(("deep",), never=True))
    assert why(yard, 2, 2) == ("only in", "tagged deep", "not deep")


def test_rules_of_a_class_hold_for_all_its_prefabs_after_their_own(yard):
    asks(yard, FromEdge(1), class_name="lights")
    assert why(yard, 4, 4) is None
    lights = PrefabClass("lights", (NotOn(("Mud",)), KeepsCells()))
    yard.project.data.put_item(("classes", "lights"), lights)
    assert why(yard, 4, 4)[0] == "not on" and why(yard, 0, 4)[0] == "from the edge"
    stand(yard, Thing("It", 4.0, 4.0))
    assert yard.verdict("Bush", 4, 4).reasons[0].rule == "kept cell"
    yard.project.rename("classes", "lights", "lamps")
    assert yard.project.data.prefab("It").class_name == "lamps"
    assert why(yard, 6, 4)[0] == "not on"


# --- strokes --------------------------------------------------------------------------------

_RULES = (ClearOf(2.0), ClearOf(1.0, between="bodies"), ClearOf(1.5, "anything"), KeepsCells(),
          AtMost(4), AtMost(5, "world"), FromEdge(1), Beside("wall"), On(("Mud",)))  # fmt: skip
_cells_of = st.tuples(st.integers(0, 11), st.integers(0, 15))


@settings(max_examples=40, deadline=None)
@given(st.sets(st.sampled_from(_RULES), min_size=1, max_size=4),
       st.lists(st.lists(_cells_of, min_size=1, max_size=8), max_size=4))  # fmt: skip
def test_no_stroke_leaves_a_broken_rule(rules, strokes):
    room = small_room((12, 16))
    asks(room, *sorted(rules, key=repr))
    for stroke in strokes:
        room.lay("It", cells=stroke)
    ground = Ground(room.project.data, room.data)
    from topion.things.broken import broken

    assert list(broken(ground)) == []


# --- turned by a wall -----------------------------------------------------------------------


def test_a_thing_turns_its_back_to_the_wall_beside_it(yard):
    asks(yard, FacesAway(otherwise="north"), turns="quarters")
    yard.lay("Brick", box=((2, 2), (2, 5)))
    yard.lay("It", cells=[(3, 3), (1, 4), (4, 7), (4, 9), (8, 3)])
    turns = {(t.y, t.x): t.turn for t in yard.things()}
    assert turns == {(3, 3): 0.0, (1, 4): 180.0, (4, 7): 90.0, (4, 9): 270.0, (8, 3): 180.0}
    asks(yard, FacesAway(), turns="none")
    yard.lay("It", cells=[(5, 7)])
    assert yard.things()[-1].turn == 0.0, "it may not be turned"


def test_it_turns_in_voxel_rooms_too_and_refuses_nothing():
    room = isle((8, 8, 8), 2)
    room.lay("Stones", box=((2, 2, 4), (3, 5, 4)))
    asks(room, FacesAway(), turns="quarters")
    room.lay("It", cells=[(2, 3, 3), (2, 3, 5)])
    assert sorted((t.x, t.turn) for t in room.things()) == [(3, 90.0), (5, 270.0)]
    assert not [f for f in survey(room.project.data) if f.check.startswith("rule broken")]
