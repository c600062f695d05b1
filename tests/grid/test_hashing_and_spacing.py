"""Randomness depends on seed and position alone; points keep their distance exactly."""

import numpy as np
import pytest
from scipy.spatial import cKDTree

from topion.grid.hashing import hashed, unit, variant_bytes
from topion.grid.spacing import fill_torus, point_tile


def test_hashes_are_the_same_on_every_machine():
    assert hashed(7, np.array([0, 1]), np.array([5, -5])).tolist() == [
        int(hashed(7, 0, 5)),
        int(hashed(7, 1, -5)),
    ]
    assert int(hashed(0, 0, 0)) == int(hashed(0, 0, 0)) != int(hashed(1, 0, 0))


def test_units_are_spread_evenly():
    ys, xs = np.indices((200, 200))
    counts, _ = np.histogram(unit(3, ys, xs), bins=10, range=(0, 1))
    assert counts.min() > 3700 and counts.max() < 4300


def test_variant_bytes_of_a_window_are_those_of_the_whole():
    ys, xs = np.indices((50, 60))
    assert np.array_equal(
        variant_bytes(ys, xs)[10:20, 30:45], variant_bytes(ys[10:20, 30:45], xs[10:20, 30:45])
    )


@pytest.mark.parametrize("seed", [1, 4107, 99])
def test_no_two_points_are_closer_than_one_also_across_the_sides(seed):
    tile = point_tile(seed, period=24)
    gap, _ = cKDTree(tile.points, boxsize=24).query(tile.points, k=2)
    assert gap[:, 1].min() >= 1.0


def test_there_is_no_room_left_for_another_point():
    points = fill_torus(5, 20.0, 1.0)
    ys, xs = np.meshgrid(np.linspace(0, 19.99, 500), np.linspace(0, 19.99, 500))
    gap, _ = cKDTree(points, boxsize=20).query(np.stack([ys.ravel(), xs.ravel()], axis=1))
    assert gap.max() < 1.0 + 1e-6


def test_the_first_points_in_rank_are_spread_themselves():
    tile = point_tile(11, period=32)
    first = tile.points[tile.ranks < 0.12]
    gap, _ = cKDTree(first, boxsize=32).query(first, k=2)
    assert gap[:, 1].min() > 1.4
