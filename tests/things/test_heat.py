"""Heat tells for every cell what the verdict tells."""

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import prefab, small_room
from tests.voxel_rooms import isle
from topion.grid.boxes import Box
from topion.things.ground import Ground
from topion.things.heat import ALLOWED, OTHER, heat
from topion.things.rules import Beside, ClearOf, FromEdge, KeepsCells, NotOn

RULES = (NotOn(("Water",)), FromEdge(1), ClearOf(2.0, "Bush"), KeepsCells())


@settings(max_examples=15, deadline=None)
@given(
    st.permutations(RULES), st.lists(st.tuples(st.integers(0, 7), st.integers(0, 9)), max_size=6)
)
def test_each_cell_is_refused_by_the_first_rule_that_refuses_it(rules, cells):
    room = small_room((8, 10))
    room.lay("Water", box=((2, 2), (3, 5)))
    if cells:
        room.lay("Bush", cells=cells)
    room.lay("Cart", cells=[(6, 6)])
    room.project.add_prefab(prefab("It", *rules))
    it = room.project.data.prefab("It")
    found = heat(Ground(room.project.data, room.data), it)
    assert len(found.positions) == 80 and found.rules == tuple(rules)
    for at, by in zip(found.positions.tolist(), found.by.tolist(), strict=True):
        told = room.verdict("It", *at)
        assert told.allowed == (by == ALLOWED)
        own = [r.rule for r in told.reasons if r.rule in {rule.kind for rule in rules}]
        if by >= 0:
            assert own[0] == found.rules[by].kind
        elif by == OTHER:
            assert not own
    assert found.allowed + sum(found.refused.values()) == 80


def test_a_part_of_a_room_and_the_surfaces_of_a_voxel_room():
    room = small_room((8, 10))
    room.project.add_prefab(prefab("It", FromEdge(1)))
    it = room.project.data.prefab("It")
    found = heat(Ground(room.project.data, room.data), it, Box((0, 0), (2, 3)))
    assert found.by.tolist() == [0, 0, 0, 0, ALLOWED, ALLOWED]
    deep = isle((6, 5, 5), 2)
    deep.lay("Stones", box=((2, 2, 2), (3, 2, 2)))
    deep.project.add_prefab(prefab("It", Beside("wall")))
    found = heat(Ground(deep.project.data, deep.data), deep.project.data.prefab("It"))
    free = {tuple(at) for at, by in zip(found.positions.tolist(), found.by, strict=True) if by < 0}
    assert free == {(2.0, 1.0, 2.0), (2.0, 3.0, 2.0), (2.0, 2.0, 1.0), (2.0, 2.0, 3.0)}


def test_a_rule_that_is_off_refuses_nothing():
    room = small_room((8, 10))
    room.project.add_prefab(prefab("It", FromEdge(3, on=False)))
    assert room.verdict("It", 0, 0).allowed
    found = heat(Ground(room.project.data, room.data), room.project.data.prefab("It"))
    assert found.rules == () and found.allowed == 80
