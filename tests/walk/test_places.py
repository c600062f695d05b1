"""What is looked for near a place is all that can be there."""

from hypothesis import given
from hypothesis import strategies as st

from tests.walk.texts import begin, drawn, put
from topion.roles import Pickup, Scenery, Switch, Walker
from topion.walk import RIGHT, step
from topion.walk.lives import Lives
from topion.walk.places import Places
from topion.walk.stage import meets

CELL = 60
edges = st.tuples(*[st.integers(-900, 900)] * 2, *[st.integers(1, 700)] * 2).map(
    lambda box: (box[0], box[1], box[0] + box[2], box[1] + box[3])
)


@given(st.lists(edges, max_size=12), st.sets(st.integers(20, 24)), edges)
def test_nothing_that_meets_a_box_is_left_out(staying, moving, box):
    places = Places.of(enumerate(staying), sorted(moving), CELL)
    found = places.near(box)
    assert found == sorted(set(found)) and moving <= {*found}
    assert {n for n, known in enumerate(staying) if meets(known, box)} <= {*found}


def test_what_does_nothing_at_a_tick_is_kept_as_it_was():
    room = drawn(*(["............"] * 3), "############")
    for name, x, role in (("Token", 9, Pickup()), ("Block", 11, Scenery()), ("Gull", 6, Walker())):
        put(room, name, 2, x, role)
    state = begin(room, 2, 1)
    after = step(state, RIGHT)
    same = [a is b for a, b in zip(state.lives, after.lives, strict=True)]
    assert same == [True, True, False], "only the walker moved"


def test_a_room_where_nothing_changes_hands_on_the_same_things():
    room = drawn(*(["............"] * 3), "############")
    put(room, "Wheel", 2, 9, Switch())
    state = begin(room, 2, 1)
    assert step(state, RIGHT).lives is state.lives
    assert Lives(state.world.stage(state.room), state.lives).now() is state.lives
