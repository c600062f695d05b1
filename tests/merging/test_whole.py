"""Two who paint in copies of one project, put together."""

from __future__ import annotations

from hypothesis import Phase, given, settings
from hypothesis import strategies as st

from tests.merging.pairs import drawn_apart, merged, onto
from tests.strategies import CELL_BRUSHES, THING_BRUSHES
from topion.model.compare import differences

BOXES = st.tuples(st.integers(0, 10), st.integers(0, 14), st.integers(0, 3), st.integers(0, 3))


def strokes() -> st.SearchStrategy[tuple[str, tuple[int, int, int, int]]]:
    return st.tuples(st.sampled_from((*CELL_BRUSHES, *THING_BRUSHES, "Reeds", "Lift")), BOXES)


@settings(deadline=None, max_examples=40, phases=(Phase.explicit, Phase.generate))
@given(st.lists(strokes(), max_size=4), st.lists(strokes(), max_size=4))
def test_what_two_painted_apart_is_what_one_then_the_other_paints(ours, theirs):
    pair = drawn_apart(ours, theirs)
    found = merged(pair)
    assert found.conflicts == ()
    assert differences(found.project, onto(pair)) == []
