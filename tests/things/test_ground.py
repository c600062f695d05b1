"""What a rule may ask of a room: who stands where, who is nearest, what lies uppermost."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import prefab, small_room
from topion.model.prefab import Thing
from topion.things.ground import Ground, Spots, body_cells
from topion.things.rules import ClearOf
from topion.things.verdict import allowed_spots, reasons_at

spots = st.lists(
    st.tuples(st.integers(0, 11), st.integers(0, 11)), min_size=1, max_size=14, unique=True
)


def ground_with(names, room=None):
    room = room or small_room((12, 12))
    for name, cells in names.items():
        room.lay(name, cells=cells, override=True)
    return Ground(room.project.data, room.data)


@given(spots, st.floats(0.5, 6))
def test_clear_of_measures_the_nearest_of_its_like(places, distance):
    room = small_room((12, 12))
    room.project.add_prefab(prefab("Bush", ClearOf(distance)))
    ground = ground_with({"Bush": places}, room)
    at = np.array([(y, x) for y in range(12) for x in range(12)], float)
    allowed = allowed_spots(ground, Spots(room.project.data.prefabs["Bush"], at))
    gaps = np.linalg.norm(at[:, None] - np.array(places, float)[None], axis=2).min(axis=1)
    assert np.array_equal(allowed, gaps >= distance - 1e-9)


@given(spots)
def test_a_standing_thing_is_not_in_its_own_way(places):
    room = small_room((12, 12))
    room.project.add_prefab(prefab("Bush", ClearOf(1.5)))
    ground = ground_with({"Bush": places}, room)
    rows = np.arange(len(ground.standing.things))
    asked = Spots(room.project.data.prefabs["Bush"], ground.standing.positions, own=rows)
    at = ground.standing.positions
    gaps = np.linalg.norm(at[:, None] - at[None], axis=2)
    np.fill_diagonal(gaps, np.inf)
    assert set(reasons_at(ground, asked)) == set(np.flatnonzero(gaps.min(axis=1) < 1.5).tolist())


def test_bodies_meet_every_cell_they_reach_into():
    lamp = prefab("x")
    assert body_cells(lamp, Thing("x", 3.0, 4.0)) == [(3, 4)]
    assert body_cells(lamp, Thing("x", 3.25, 4.0)) == [(3, 4), (4, 4)]
    assert len(body_cells(lamp, Thing("x", 3.25, 4.5))) == 4


@pytest.mark.parametrize(("y", "x"), [(3, 4), (3.5, 4), (3.5, 4.5)])
def test_taken_cells_are_the_cells_of_all_bodies(y, x):
    room = small_room((12, 12))
    room.lay("Cart", cells=[(8, 8)])
    layer = room.data.layers["things"]
    layer.things[99] = Thing("Lamp", y, x)
    layer.revision += 1
    ground = Ground(room.project.data, room.data)
    every = [(r, c) for r in range(12) for c in range(12)]
    who = ground.taken_cells.who(np.array([every])[0][:, None])[:, 0]
    taken = {cell for cell, row in zip(every, who.tolist(), strict=True) if row >= 0}
    data = room.project.data
    assert taken == {
        c for t in layer.things.values() for c in body_cells(data.prefabs[t.prefab], t)
    }


def test_only_keepers_keep_their_cells():
    ground = ground_with({"Bush": [(2, 2)], "Lamp": [(5, 5)]})
    who = ground.kept_cells.who(np.array([[[2, 2]], [[5, 5]]]))
    assert who[0, 0] == -1 and ground.standing.things[who[1, 0]].prefab == "Lamp"


def test_what_stands_is_looked_up_once_until_it_changes():
    room = small_room((12, 12))
    room.lay("Bush", cells=[(2, 2)])
    first = Ground(room.project.data, room.data).standing
    assert Ground(room.project.data, room.data).standing is first
    room.lay("Bush", cells=[(4, 4)])
    assert len(Ground(room.project.data, room.data).standing.things) == 2


def test_the_uppermost_material_counts_and_outside_there_is_none(room):
    room.add_layer("Upper", "tiles")
    room.lay("Stones", cells=[(2, 2)], layer="Upper")
    ground = Ground(room.project.data, room.data)
    names = [
        room.project.data.material_name(int(m))
        for m in ground.floor.under(np.array([[2, 2], [3, 3], [-1, 0], [99, 0]]))
    ]
    assert names == ["Stones", "Mud", "", ""]


def test_things_of_a_prefab_that_is_gone_do_not_stand_in_the_way(room):
    room.lay("Lamp", cells=[(5, 5)])
    room.project.data.put_item(("prefabs", "Lamp"), None)
    assert room.verdict("Bush", 5, 5).allowed
    assert any(f.check == "unknown name" for f in room.project.check())


def test_nothing_free_near_is_said_too():
    room = small_room((3, 3))
    room.project.add_prefab(prefab("Bush", ClearOf(50)))
    room.lay("Bush", cells=[(1, 1)])
    found = room.verdict("Bush", 0, 0)
    assert found.nearest is None and found.way() == "no free cell within 8 cells" and not found
