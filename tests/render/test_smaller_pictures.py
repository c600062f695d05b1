"""Pictures of far faces: each level half as large, colours by how solid they are."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from topion.render.pixels import halved, smaller


def test_levels_go_down_to_one_pixel():
    pictures = np.zeros((3, 16, 16, 4), np.uint8)
    assert [level.shape for level in smaller(pictures)] == [
        (3, 8, 8, 4), (3, 4, 4, 4), (3, 2, 2, 4), (3, 1, 1, 4),
    ]  # fmt: skip


@given(arrays(np.uint8, (2, 4, 4, 4)), st.integers(0, 1))
def test_each_picture_is_made_smaller_by_itself(pictures, which):
    first, last = smaller(pictures)
    assert (first[which] == halved(pictures[which])).all()
    assert (last[which] == halved(first[which])).all()


def test_what_cannot_be_seen_gives_no_colour():
    picture = np.zeros((1, 2, 2, 4), np.uint8)
    picture[0, :, :, 0], picture[0, 0, 0] = 255, (0, 200, 0, 255)
    assert smaller(picture)[0].reshape(-1).tolist() == [0, 200, 0, 64]
