"""Boxes are half-open; lines and paths have no gaps."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from topion.grid.boxes import Box
from topion.grid.lines import box_between, line_cells, outline_cells, path_cells, widened

points = st.tuples(st.integers(-30, 30), st.integers(-30, 30))
points_3d = st.tuples(st.integers(-9, 9), st.integers(-9, 9), st.integers(-9, 9))


def test_a_box_holds_its_low_corner_and_not_its_high_one():
    box = Box((1, 2), (3, 5))
    assert box.shape == (2, 3)
    assert box.holds(np.array([(1, 2), (2, 4), (3, 4), (2, 5)])).tolist() == [
        True,
        True,
        False,
        False,
    ]


@given(points, points, points, points)
def test_a_union_holds_both_and_a_clip_lies_in_both(a, b, c, d):
    one, other = box_between(a, b), box_between(c, d)
    assert one.union(other).clipped(one) == one
    clip = one.clipped(other)
    assert clip.size == int((one.holds(other.cells())).sum())


@given(points_3d, points_3d)
def test_a_line_runs_from_end_to_end_in_touching_steps_in_any_number_of_axes(a, b):
    line = line_cells(a, b)
    assert tuple(line[0]) == a and tuple(line[-1]) == b
    assert np.abs(np.diff(line, axis=0)).max(initial=0) <= 1
    assert len(np.unique(line, axis=0)) == len(line)


@given(st.lists(points, min_size=1, max_size=8))
def test_a_fast_pointer_leaves_no_gaps(way):
    cells = path_cells(np.array(way))
    assert len(np.unique(cells, axis=0)) == len(cells)
    seen = {tuple(c) for c in cells.tolist()}
    assert {tuple(p) for p in way} <= seen
    reached, fresh = set(), [tuple(cells[0].tolist())]
    while fresh:
        y, x = fresh.pop()
        reached.add((y, x))
        near = {(y + dy, x + dx) for dy in (-1, 0, 1) for dx in (-1, 0, 1)}
        fresh += list((near & seen) - reached - set(fresh))
    assert reached == seen


@given(points, points)
def test_an_outline_is_the_box_without_its_inside(a, b):
    box = box_between(a, b)
    inner = box.grown(-1)
    inside = inner.size if min(inner.shape) > 0 else 0
    assert len(outline_cells(box)) == box.size - inside


def test_a_wide_nib_covers_a_square_round_each_cell():
    assert len(widened(np.array([(5, 5)]), 3)) == 9
    assert len(widened(np.array([(5, 5), (5, 6)]), 3)) == 12
