"""Text rows hold cells exactly, and say line and reason when they do not."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from topion.grid.runs import BadRows, rows_to_text, text_to_rows

anything = arrays(
    np.uint16,
    st.tuples(st.integers(1, 9), st.integers(1, 40)),
    elements=st.sampled_from([0, 1, 7, 10, 99, 100, 12345, 65535]),
)


@given(anything)
def test_what_is_written_reads_back(cells):
    text = b"".join(rows_to_text(cells))
    assert np.array_equal(text_to_rows(text, cells.shape), cells)
    assert text.count(b"\n") == cells.shape[0]


def test_runs_are_short():
    assert b"".join(rows_to_text(np.array([[0, 0, 0, 5, 5, 7]]))) == b"3*0 2*5 7\n"


def test_large_rooms_cross_the_strips_unharmed():
    cells = np.random.default_rng(4).integers(0, 3, (700, 900)).astype(np.uint16)
    assert np.array_equal(text_to_rows(b"".join(rows_to_text(cells)), cells.shape), cells)


@pytest.mark.parametrize(
    ("text", "line", "reason"),
    [
        (b"3*0\n2*0\n", 2, "has 2 cells, but the room is 3 wide"),
        (b"3*0\n", 2, "has 1 rows, but 2 are declared"),
        (b"3*0\n3*0\n3*0\n", 3, "more than the 2 rows"),
        (b"3*0\n3*0", 2, "cut short"),
        (b"3*0\n3*x\n", 2, "only numbers"),
        (b"3*0\n3* 0\n", 2, "misses a number"),
        (b"3*0\n1*2*0\n", 2, "two \\*"),
        (b"3*0\n3*9\n", 2, "holds 9, but the highest known is 4"),
        (b"3*0\n999999*0\n", 2, "too long"),
        (b"3*0\n-3*0\n", 2, "holds b'-', but only numbers"),
    ],
)
def test_a_broken_row_names_its_line_and_the_reason(text, line, reason):
    with pytest.raises(BadRows, match=reason) as caught:
        text_to_rows(text, (2, 3), highest=4)
    assert caught.value.line == line
