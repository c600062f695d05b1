"""A flood takes exactly the connected cells that are alike."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.strategies import materials
from topion.grid.flood import flood_cells


def slow_flood(cells, start, corners):
    height, width = cells.shape
    found, fresh = set(), [start]
    while fresh:
        y, x = fresh.pop()
        if (y, x) in found or not (0 <= y < height and 0 <= x < width):
            continue
        if cells[y, x] != cells[start]:
            continue
        found.add((y, x))
        for dy in (-1, 0, 1):
            for dx in (-1, 0, 1):
                if corners or not (dy and dx):
                    fresh.append((y + dy, x + dx))
    return found


@given(materials(1), st.integers(0, 99), st.integers(0, 99), st.booleans())
def test_it_equals_a_plain_search(cells, y, x, corners):
    start = (y % cells.shape[0], x % cells.shape[1])
    found = flood_cells(cells, start, corners=corners)
    assert {tuple(c) for c in found.tolist()} == slow_flood(cells, start, corners)


def test_all_alike_takes_cells_that_are_not_connected():
    cells = np.array([[1, 0, 1]])
    assert flood_cells(cells, (0, 0), everywhere=True).tolist() == [[0, 0], [0, 2]]


def test_a_region_wider_than_the_first_windows_is_found_whole():
    cells = np.zeros((700, 900), np.uint16)
    cells[350, :899] = 1
    assert len(flood_cells(cells, (0, 0))) == 700 * 900 - 899


def test_it_works_in_three_axes():
    cells = np.zeros((3, 4, 5), np.uint16)
    cells[1] = 1
    assert len(flood_cells(cells, (0, 0, 0))) == 20


def test_a_start_outside_is_refused():
    with pytest.raises(IndexError, match="outside"):
        flood_cells(np.zeros((2, 2)), (2, 0))
