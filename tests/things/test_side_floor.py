"""In a room seen from the side things stand on what is solid below them."""

from dataclasses import replace

import numpy as np
import pytest

from tests.rooms import small_project, tile
from tests.walk.texts import drawn as drawn_room
from topion.brushes import Mosaic, ThingsBrush
from topion.model.tileset import Slot
from topion.things.floor import PaintedFloor, SideFloor, floor_of
from topion.things.ground import Ground
from topion.things.rules import Headroom, On
from topion.weaving.rules import Variant


@pytest.fixture
def cellar():
    """A floor of mud two cells high, a shelf of stone in the air, and a wall that is no ground."""
    project = small_project()
    sheet = project.data.tilesets["sheet"]
    slots = {"wall": Slot((4, 6)), "stone": Slot((4, 7), solid=True)}
    slots |= {f"mud {y},{x}": Slot((y, x), solid=True) for y in (0, 1) for x in range(8)}
    project.data.put_item(("tilesets", "sheet"), replace(sheet, slots=slots))
    for name in ("wall", "stone"):
        at = tile(4, 6 if name == "wall" else 7)._replace(slot=name)
        project.add_brush(Mosaic(name.title(), (Variant(at),)))
    layers = (("Back", "tiles"), ("Ground", "tiles"), ("Things", "things"))
    room = project.add_room("Cellar", (12, 16), 4, layers, seen="side")
    room.lay("Wall", box=((0, 0), (11, 15)), layer="Back")
    room.lay("Mud", box=((10, 0), (11, 15)), layer="Ground")
    room.lay("Stone", box=((5, 4), (5, 8)), layer="Ground")
    return room


def test_the_view_of_a_room_tells_what_carries(cellar):
    data = cellar.project.data
    assert isinstance(floor_of(data, cellar.data), SideFloor)
    top = cellar.project.add_room("Yard", (4, 4), 4)
    assert isinstance(floor_of(data, top.data), PaintedFloor)
    assert cellar.data.info.view == "side" and top.data.info.view == "top"


def test_a_thing_falls_to_the_first_ground_below_it(cellar):
    cellar.lay("Bush", cells=[(2, 2), (2, 6), (8, 6)])
    assert sorted((t.y, t.x) for t in cellar.things()) == [(4, 6), (9, 2), (9, 6)]


def test_nothing_stands_in_the_air_or_inside_the_ground(cellar):
    assert cellar.verdict("Bush", 9, 3).allowed and cellar.verdict("Bush", 4, 5).allowed
    floats = cellar.verdict("Bush", 7, 3)
    assert not floats.allowed and floats.reasons[0].sentence == "nothing carries it"
    inside = cellar.verdict("Bush", 10, 3)
    assert not inside.allowed and "fills the cell" in inside.reasons[0].sentence
    assert floats.nearest == (9, 3)


def test_rules_ask_for_what_lies_below_the_feet(cellar):
    project = cellar.project
    project.add_prefab(replace(project.data.prefab("Bush"), rules=(On(("Stone",)),)))
    assert cellar.verdict("Bush", 4, 6).allowed
    assert cellar.verdict("Bush", 9, 6).reasons[0].measured == "Mud"


def test_headroom_is_counted_upwards(cellar):
    floor = Ground(cellar.project.data, cellar.data).floor
    assert floor.headroom(np.array([[9, 6], [9, 1], [4, 6]])).tolist()[0] == 4
    project = cellar.project
    project.add_prefab(replace(project.data.prefab("Bush"), rules=(Headroom(5),)))
    assert not cellar.verdict("Bush", 9, 6).allowed and cellar.verdict("Bush", 9, 1).allowed


def test_a_field_sows_on_the_ground_alone(cellar):
    project = cellar.project
    project.add_brush(replace(project.data.brush("Reeds"), density=1.0, spacing=0.6))
    cellar.lay("Reeds", box=((0, 0), (11, 15)))
    sown = cellar.sown("Reeds")
    assert sown and {t.y for t in sown} <= {9.0, 4.0}
    assert all(t.y == 9 or 3.5 <= t.x < 8.5 for t in sown)


def test_a_sheet_with_nothing_marked_is_all_ground(cellar):
    project = small_project()
    room = project.add_room("Cellar", (6, 6), 4, seen="side")
    room.lay("Mud", box=((4, 0), (5, 5)))
    room.lay("Lamp", cells=[(0, 2)])
    assert [(t.y, t.x) for t in room.things()] == [(3, 2)]


def test_a_thing_dropped_above_a_thin_floor_comes_to_stand_on_it():
    room = drawn_room("......", "......", "..--..", "......", "######")
    room.project.add_brush(ThingsBrush("Bush", "Bush"))
    room.lay("Bush", cells=[(0, 2), (0, 5), (3, 3)])
    assert [(t.y, t.x) for t in room.things()] == [(1, 2), (3, 5), (3, 3)]
