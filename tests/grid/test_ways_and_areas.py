"""Turning blocks of cells, and areas."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from topion.grid.areas import Area, enclosed, joined
from topion.grid.boxes import Box
from topion.grid.ways import Way, all_ways

WAYS = [*all_ways(2), *all_ways(3)]
SHAPES = {2: (3, 5), 3: (2, 3, 4)}


@pytest.mark.parametrize("way", WAYS, ids=str)
def test_a_way_and_its_inverse_leave_all_cells_where_they_were(way):
    cells = np.arange(np.prod(SHAPES[way.axes])).reshape(SHAPES[way.axes])
    assert np.array_equal(way.inverse().array(way.array(cells)), cells)
    assert way.array(cells).shape == way.shape(cells.shape)


@pytest.mark.parametrize("way", WAYS, ids=str)
def test_positions_go_where_the_cells_go(way):
    shape = SHAPES[way.axes]
    cells = np.arange(np.prod(shape)).reshape(shape)
    at = Box.of_shape(shape).cells()
    there = np.rint(way.positions(at.astype(float), shape)).astype(int)
    assert np.array_equal(way.array(cells)[tuple(there.T)], cells[tuple(at.T)])


@given(st.sampled_from(WAYS), st.data())
def test_two_ways_after_each_other_are_one_way(first, data):
    second = data.draw(st.sampled_from(all_ways(first.axes)))
    cells = np.arange(np.prod(SHAPES[first.axes])).reshape(SHAPES[first.axes])
    assert np.array_equal(second.array(first.array(cells)), first.then(second).array(cells))


def test_there_are_eight_ways_of_flat_blocks_and_twice_twenty_four_in_space():
    assert len({way.matrix.tobytes() for way in all_ways(2)}) == 8
    assert len({way.matrix.tobytes() for way in all_ways(3)}) == 48


def test_a_quarter_clockwise_brings_the_north_row_to_the_east():
    cells = np.array([[1, 2], [3, 4], [5, 6]])
    assert Way(2, 1).array(cells).tolist() == [[5, 3, 1], [6, 4, 2]]


def test_a_box_turns_with_what_lies_in_it():
    way, shape = Way(2, 1), (3, 5)
    box = Box((0, 1), (1, 3))
    marked = np.zeros(shape, bool)
    marked[box.slices] = True
    turned = np.zeros(way.shape(shape), bool)
    turned[way.box(box, shape).slices] = True
    assert np.array_equal(way.array(marked), turned)


# --- areas --------------------------------------------------------------------------------


def test_a_lasso_takes_the_cells_whose_middles_it_runs_round():
    way = np.array([(-0.4, -0.4), (-0.4, 2.4), (2.4, 2.4), (2.4, -0.4)])
    assert enclosed(way).cells.tolist() == Box((0, 0), (3, 3)).cells().tolist()


def test_a_lasso_round_a_hook_leaves_its_inside_out():
    way = np.array([(0, 0), (0, 4), (4, 4), (4, 3), (1, 3), (1, 1), (4, 1), (4, 0)], float) - 0.3
    assert not enclosed(way).holds(np.array([(3, 2)]))[0]
    assert enclosed(way).holds(np.array([(3, 0), (3, 3), (0, 2)])).all()


def test_a_lasso_of_two_points_takes_nothing():
    assert not enclosed(np.array([(0.0, 0.0), (5.0, 5.0)]))


@given(st.lists(st.tuples(st.integers(-4, 4), st.integers(-4, 4)), min_size=1, max_size=20),
       st.lists(st.tuples(st.integers(-4, 4), st.integers(-4, 4)), min_size=1, max_size=20))  # fmt: skip
def test_areas_are_sets_of_cells(one, other):
    a, b = (Area.of_cells(np.array(cells, np.intp)) for cells in (one, other))
    both = {tuple(c) for c in a.with_(b).cells.tolist()}
    rest = {tuple(c) for c in a.without(b).cells.tolist()}
    assert both == set(one) | set(other) and rest == set(one) - set(other)
    assert a.holds(b.cells).tolist() == [tuple(c) in set(one) for c in b.cells.tolist()]
    assert {tuple(c) for c in joined([a, b]).cells.tolist()} == both


def test_an_area_of_levels_is_seen_from_above():
    area = Area.of_cells(np.array([(0, 1, 2), (3, 1, 2), (1, 4, 0)]))
    assert area.in_plan(2).cells.tolist() == [[1, 2], [4, 0]]
    assert area.holds_columns(np.array([(1, 2), (2, 2)])).tolist() == [True, False]


def test_an_area_moves_and_is_cut_as_a_box_is():
    area = Area.of_box(Box((0, 0), (2, 2))).shifted((3, -1))
    assert area.box == Box((3, -1), (5, 1))
    assert area.clipped(Box((0, 0), (9, 9))).cells.tolist() == [[3, 0], [4, 0]]
