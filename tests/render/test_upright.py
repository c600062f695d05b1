"""Pictures that stand upright as voxels."""

import numpy as np
import pytest

from topion.model.solid import LONGEST_MODEL, MOST_COLOURS
from topion.render.upright import upright_model


def picture(high, wide, seed=3):
    rng = np.random.default_rng(seed)
    rgba = rng.integers(0, 256, (high, wide, 4)).astype(np.uint8)
    rgba[..., 3] = np.where(rng.random((high, wide)) < 0.5, 255, 0)
    rgba[0, 0, 3] = 255
    return rgba


@pytest.mark.parametrize(
    ("high", "wide", "cell"), [(8, 8, 8), (32, 16, 16), (5, 9, 4), (40, 70, 1)]
)
def test_from_the_south_it_looks_as_its_picture(high, wide, cell):
    rgba = picture(high, wide)
    model = upright_model(rgba, cell)
    assert model.size == (high, cell, wide) and model.per_cell == cell
    assert np.array_equal(model.cells.any(axis=1), rgba[::-1, :, 3] == 255)


def test_colours_are_kept_where_they_are_few_enough():
    rgba = picture(10, 10)
    model = upright_model(rgba, 8)
    seen = model.rgb[model.cells.max(axis=1)][::-1]
    filled = rgba[..., 3] == 255
    assert np.array_equal(seen[filled], rgba[filled][:, :3])


def test_a_large_picture_of_many_colours_becomes_a_model_that_may_be():
    model = upright_model(picture(900, 300), 100)
    assert max(model.size) <= LONGEST_MODEL and len(model.palette) <= MOST_COLOURS


def test_of_a_picture_that_shows_nothing_it_is_clay():
    model = upright_model(np.zeros((16, 16, 4), np.uint8), 16)
    assert model.cells.any()
