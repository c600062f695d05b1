"""Triangles of polygons cover them once, whatever their shape."""

import numpy as np
import pytest

from topion.grid.polygons import triangulated


def _star(corners):
    turn = np.linspace(0, 2 * np.pi, corners, endpoint=False)
    far = np.where(np.arange(corners) % 2, 1.0, 0.5)
    return np.stack([far * np.cos(turn), far * np.sin(turn)], axis=1)


def _comb(corners):
    x = np.arange(corners - 2)[::-1]
    teeth = np.stack([x, np.where(x % 2, 5, 1)], axis=1)
    return np.concatenate([teeth, [[0, 0], [corners - 3, 0]]]).astype(float)


def _spiral(corners):
    turn = np.linspace(0, 40, corners // 2)
    way = np.stack([np.cos(turn), np.sin(turn)], axis=1)
    return np.concatenate([(turn + 3)[:, None] * way, ((turn + 1)[:, None] * way)[::-1]])


def _framed_hole(_):
    """A square with a square hole, cut open from a corner to a corner."""
    outer = [(0, 0), (9, 0), (9, 9), (0, 9), (0, 0)]
    hole = [(3, 3), (3, 6), (6, 6), (6, 3), (3, 3)]
    return np.array(outer + hole, float)


@pytest.mark.parametrize("shape", [_star, _comb, _spiral, _framed_hole])
@pytest.mark.parametrize("corners", [10, 3000])
@pytest.mark.parametrize("axis", [0, 1, 2])
def test_a_concave_polygon_is_covered_once(shape, corners, axis):
    flat = shape(corners)
    after = np.roll(flat, -1, axis=0)
    whole = (flat[:, 0] * after[:, 1] - flat[:, 1] * after[:, 0]).sum() / 2
    points = np.insert(flat, axis, 2.0, axis=1)
    triangles, owner = triangulated(points, np.arange(len(flat)), np.array([len(flat)]))
    assert len(triangles) == len(owner) == len(flat) - 2
    a, b, c = (flat[triangles[:, corner]] for corner in range(3))
    one, two = b - a, c - a
    areas = (one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]) / 2 * np.sign(whole)
    assert areas.min() > -1e-9
    assert areas.sum() == pytest.approx(abs(whole))
