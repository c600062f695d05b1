"""Spawning: as many as are wanted where rules allow it, always the same for a seed."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import prefab, small_room
from tests.voxel_rooms import isle
from topion.edit.spawn import spawn
from topion.errors import BadValue, Stopped, UnknownName
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.things.broken import broken
from topion.things.ground import Ground
from topion.things.rules import AtMost, ClearOf, FromEdge, KeepsCells, NotOn


def into(room, mix, count, box=None, **more):
    """Spawn and lay; what was told."""
    layer = room.data.id_of("Things")
    area = Area.of_box(box or Box.of_shape(room.data.info.size))
    edit, told = spawn(room.project.data, room.name, layer, mix, count, area, **more)
    if edit:
        room.project.history.apply(edit)
    return told


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 99), st.integers(1, 40), st.sampled_from((0.0, 1.5, 3.0)),
       st.sets(st.sampled_from((ClearOf(2.0), KeepsCells(), FromEdge(1), AtMost(6),
                                NotOn(("Water",)))), max_size=3))  # fmt: skip
def test_what_is_spawned_breaks_no_rule_and_keeps_clear(seed, count, clearance, rules):
    room = small_room((12, 16))
    room.lay("Water", box=((2, 2), (5, 8)))
    room.project.add_prefab(prefab("It", *sorted(rules, key=repr)))
    told = into(room, {"It": 2.0, "Cart": 1.0}, count, clearance=clearance, seed=seed)
    things = room.things()
    assert told.placed == len(things) <= count and told.tried >= told.placed
    assert list(broken(Ground(room.project.data, room.data))) == []
    at = np.array([(t.y, t.x) for t in things]).reshape(-1, 2)
    gaps = np.sqrt(((at[:, None] - at) ** 2).sum(axis=2))[~np.eye(len(at), dtype=bool)]
    assert not len(gaps) or gaps.min() >= clearance - 1e-9
    if told.placed < count:
        assert sum(n for _, n in told.reasons) == told.tried - told.placed


def test_the_same_seed_spawns_the_same_and_again_adds_more():
    rooms = [small_room((12, 16)) for _ in range(2)]
    for room in rooms:
        into(room, {"Bush": 1.0}, 10, seed=4)
    assert rooms[0].things() == rooms[1].things() and len(rooms[0].things()) == 10
    told = into(rooms[0], {"Bush": 1.0}, 10, seed=4, clearance=1.0)
    assert told.placed == 10 and len(rooms[0].things()) == 20
    rooms[0].project.undo()
    assert rooms[0].things() == rooms[1].things()


def test_only_the_area_is_filled_and_what_is_short_is_told():
    room = small_room((12, 16))
    told = into(room, {"Lamp": 1.0}, 50, Box((2, 2), (7, 9)))
    assert all(2 <= t.y < 7 and 2 <= t.x < 9 for t in room.things())
    assert told.placed < 50 and told.tried == 35
    assert told.told().startswith(f"{told.placed} of 50 placed, 35 places tried: ")


def test_in_voxel_rooms_things_are_seated_on_surfaces():
    room = isle((8, 8, 8), 3)
    room.project.add_prefab(prefab("It", KeepsCells()))
    told = into(room, {"It": 1.0}, 12, seed=2)
    assert told.placed == 12 and {t.z for t in room.things()} == {3.0}


def test_what_cannot_be_is_told():
    room = small_room()
    with pytest.raises(BadValue, match="how many"):
        into(room, {"Bush": 1.0}, 0)
    with pytest.raises(BadValue, match="mix"):
        into(room, {}, 5)
    with pytest.raises(UnknownName):
        into(room, {"Nobody": 1.0}, 5)

    def stop():
        raise Stopped("Spawn")

    with pytest.raises(Stopped):
        into(room, {"Bush": 1.0}, 5, step=stop)
