"""What stands in a room, followed from change to change, is what counting anew would give."""

from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import prefab, small_project, stand
from topion.edit.rooms import change_things
from topion.model.prefab import Thing
from topion.things.ground import Ground
from topion.things.rules import KeepsCells
from topion.things.standing import Whole

NAMES = ("Lamp", "Bush", "Cart", "Gone")
things = st.builds(
    Thing, st.sampled_from(NAMES), st.floats(0, 11).map(lambda v: round(v * 2) / 2),
    st.integers(0, 15).map(float), turn=st.sampled_from([0.0, 90.0]),
)  # fmt: skip
steps = st.lists(
    st.tuples(st.sampled_from(["Things", "More"]), st.integers(1, 40), st.none() | things),
    min_size=1, max_size=12,
)  # fmt: skip


def yard():
    layers = [("Ground", "tiles"), ("Things", "things"), ("More", "things")]
    return small_project().add_room("Yard", (12, 16), 4, layers)


def same(one: Whole, two: Whole) -> None:
    assert one.standing.keys == two.standing.keys and one.standing.things == two.standing.things
    for name in ("positions", "prefabs", "classes"):
        assert np.array_equal(getattr(one.standing, name), getattr(two.standing, name))
    for name in ("kept_cells", "taken_cells"):
        mine, other = getattr(one, name), getattr(two, name)
        assert np.array_equal(mine.keys, other.keys) and np.array_equal(mine.rows, other.rows)


@settings(max_examples=60, deadline=None)
@given(steps)
def test_after_any_changes_it_equals_what_is_counted_anew(changes):
    room = yard()
    stand(room, *(Thing("Bush", n % 12, n // 2) for n in range(30)))  # so that little changes
    project = room.project.data
    for layer, number, thing in changes:
        layer_id = room.data.id_of(layer)
        if thing is None and number not in room.data.layers[layer_id].things:
            continue
        room.project.history.apply(change_things(project, room.name, layer_id, {number: thing}, ""))
        followed = Ground(project, room.data).whole
        assert followed.taken_cells is not None and followed.kept_cells is not None
        tables = {i: la.things for i, la in room.data.bottom_up("things")}
        same(followed, Whole.of_tables(project, tables, 2))


@settings(max_examples=40, deadline=None)
@given(steps)
def test_positions_of_a_layer_follow_its_things(changes):
    room = yard()
    stand(room, *(Thing("Bush", n % 12, n // 2) for n in range(10)))
    layer_id = room.data.id_of("Things")
    layer = room.data.layers[layer_id]
    for _, number, thing in changes:
        layer.positions()
        if thing is None and number not in layer.things:
            continue
        edit = change_things(room.project.data, room.name, layer_id, {number: thing}, "")
        room.project.history.apply(edit)
        numbers, at = layer.positions()
        assert numbers.tolist() == [*layer.things]
        assert [tuple(row) for row in at.tolist()] == [t.at for t in layer.things.values()]


def test_a_prefab_that_keeps_its_cells_from_now_on_is_seen_at_once():
    room = yard()
    project = room.project.data
    stand(room, Thing("Bush", 3, 3))
    assert not len(Ground(project, room.data).kept_cells.keys)
    room.project.add_prefab(prefab("Bush", KeepsCells()))
    assert len(Ground(project, room.data).kept_cells.keys) == 1


def test_a_frozen_room_takes_what_is_known_along_and_goes_on_by_itself():
    room = yard()
    project = room.project.data
    (number, *_) = stand(room, *(Thing("Bush", n, n) for n in range(10)))
    before = Ground(project, room.data).whole
    frozen = room.data.frozen()
    assert Ground(project, frozen).whole is before
    layer_id = room.data.id_of("Things")
    edit = change_things(project, room.name, layer_id, {number: None}, "")
    room.project.history.apply(edit)
    assert len(Ground(project, room.data).standing.things) == 9
    assert len(Ground(project, frozen).standing.things) == 10


def test_with_moved_sees_some_things_elsewhere_and_others_where_they_are():
    room = yard()
    project = room.project.data
    first, second = stand(room, Thing("Lamp", 2, 2), Thing("Lamp", 8, 8))
    layer_id = room.data.id_of("Things")
    ground = Ground(project, room.data)
    moved = ground.with_moved({(layer_id, first): Thing("Lamp", 5, 5)})
    assert [t.at[1:] for t in moved.standing.things] == [(5, 5), (8, 8)]
    less = ground.with_moved({}, without=(layer_id, second))
    assert [t.at[1:] for t in less.standing.things] == [(2, 2)]
    more = ground.with_things([Thing("Lamp", 9, 9), replace(Thing("Lamp", 9, 1))])
    assert len(more.standing.things) == 4 and len(ground.standing.things) == 2
