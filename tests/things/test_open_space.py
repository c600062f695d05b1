"""Things that nothing carries, turned freely about all three axes."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import prefab, small_project
from tests.voxel_rooms import isle
from topion.brushes import ThingsBrush
from topion.brushes.marks import Marks, Place
from topion.brushes.scraps import turned_in_space
from topion.edit.picked import Picks
from topion.edit.picked_moves import moved
from topion.edit.pieces import Pick
from topion.grid.ways import Way, all_ways
from topion.model.prefab import Thing
from topion.survey import survey
from topion.things.ground import Ground, body_cells
from topion.things.rules import KeepsCells

GROUND = 3


@pytest.fixture
def sky():
    """An isle with three levels of ground, and a lantern that floats."""
    room = isle(ground=GROUND)
    tuft = room.project.data.prefab("Tuft")
    room.project.add_prefab(replace(tuft, name="Lantern", floats=True, tips=True, rules=()))
    room.project.add_brush(ThingsBrush("Lantern", "Lantern", lean=20.0, roll=-30.0))
    return room


def lay(room, brush, *cells):
    plan = brush.plan(Place(room.project.data, room.name), Marks(np.array(cells)))
    if plan:
        room.project.history.apply(plan)
    return plan


def test_it_stays_at_the_height_it_is_put_at_and_leans_as_the_brush_says(sky):
    lay(sky, sky.project.data.brush("Lantern"), (7, 4, 5))
    (thing,) = sky.things()
    assert thing.at == (7, 4, 5) and (thing.lean, thing.roll) == (20, -30)
    assert not survey(sky.project.data)


def test_what_does_not_float_comes_down_to_the_ground(sky):
    lay(sky, ThingsBrush("Post", "Post"), (7, 4, 5))
    (thing,) = sky.things()
    assert thing.z == GROUND and not thing.lean


def test_it_may_not_stand_inside_a_block(sky):
    plan = lay(sky, sky.project.data.brush("Lantern"), (1, 4, 5))
    assert not plan and plan.refused


def test_moved_in_the_air_it_stays_in_the_air(sky):
    lay(sky, sky.project.data.brush("Lantern"), (7, 4, 5))
    (number,) = sky.data.layers["things"].things
    picks = Picks((Pick("things", number),))
    sky.project.history.apply(moved(sky.project.data, sky.name, picks, (1, 2, 0.5), seats=True))
    assert sky.things()[0].at == (8, 6, 5.5)


def test_in_a_side_view_it_floats_too():
    project = small_project()
    project.add_prefab(prefab("Star", floats=True))
    room = project.add_room("Side", (8, 8), 4, seen="side")
    lay(room, ThingsBrush("Star", "Star"), (3, 3))
    assert [(t.y, t.x) for t in room.things()] == [(3, 3)]


def test_the_body_of_a_leaning_thing_lies_as_the_nearest_quarter():
    room = isle()
    room.project.add_prefab(replace(room.project.data.prefab("Tuft"), name="Mast", height=3,
                                    tips=True, rules=(KeepsCells(),)))  # fmt: skip
    mast = room.project.data.prefab("Mast")
    upright = body_cells(mast, Thing("Mast", 5, 5, z=4, lean=30), 3)
    assert upright == [(4, 5, 5), (5, 5, 5), (6, 5, 5)]
    lying = body_cells(mast, Thing("Mast", 5, 5, z=4, lean=60), 3)
    assert lying == [(4, 5, 5), (4, 6, 5), (4, 7, 5)]


angles = st.floats(-170, 170)


@settings(max_examples=60)
@given(
    angles, st.floats(-80, 80), angles, st.sampled_from(all_ways(3)), st.sampled_from(all_ways(3))
)
def test_turning_a_leaning_thing_twice_equals_turning_it_once_by_both(turn, lean, roll, one, two):
    thing = Thing("Lantern", 0, 0, turn=turn, lean=lean, roll=roll)
    twice = turned_in_space(turned_in_space(thing, one), two)
    once = turned_in_space(thing, one.then(two))
    assert np.allclose(twice.directions, once.directions, atol=1e-4)


def test_a_way_turns_what_a_leaning_thing_points_to():
    thing = Thing("Lantern", 0, 0, lean=30.0)
    turned = turned_in_space(thing, Way(3, 1))  # a quarter clockwise: south goes to west
    up = np.array([1.0, 0, 0])
    assert np.allclose(turned.directions @ up, Way(3, 1).matrix @ thing.directions @ up, atol=1e-4)


def test_floating_things_keep_their_cells_in_the_air(sky):
    data = sky.project.data
    sky.project.add_prefab(replace(data.prefab("Lantern"), rules=(KeepsCells(),)))
    brush = sky.project.data.brush("Lantern")
    lay(sky, brush, (7, 4, 5))
    plan = lay(sky, ThingsBrush("Other", "Lantern"), (7, 4, 5))
    assert not plan and plan.refused
    assert Ground(data, sky.data).standing.things
