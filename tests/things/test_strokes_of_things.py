"""Rules between the things of one stroke, and nearest things, are quick and stay exact."""

import numpy as np
import pytest
import scipy
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import small_room
from topion.brushes.marks import Marks
from topion.brushes.soft import soft_columns
from topion.grid.boxes import Box
from topion.grid.nearest import Nearest
from topion.survey import survey

places = st.lists(st.tuples(st.integers(0, 4), st.integers(0, 4)), min_size=1, max_size=30)


@given(places, places)
def test_the_nearest_point_is_found_where_many_coincide(points, asked):
    points, asked = np.array(points, float), np.array(asked, float)
    nearest = Nearest(points)
    own = np.arange(len(asked)) % len(points)
    plain = nearest.by_pairs(asked, own)[0]
    assert np.allclose(nearest.by_tree(asked, own)[0], plain)
    assert np.allclose(nearest.by_tree(asked, None)[0], nearest.by_pairs(asked, None)[0])


def test_lamps_of_one_stroke_keep_their_distance():
    room = small_room((20, 30))
    room.lay("Lamp", box=((0, 0), (19, 29)))
    at = np.array([(t.y, t.x) for t in room.things()])
    gaps = scipy.spatial.distance.pdist(at)
    assert len(at) > 40 and gaps.min() >= 3.0 - 1e-9


def test_carts_of_one_stroke_share_no_cell():
    room = small_room((20, 30))
    edit = room.lay("Cart", box=((0, 0), (19, 29)))
    assert "refused" in edit.refused[0] and survey(room.project.data) == []


@pytest.mark.parametrize("radius", [3.0, 40.0, 400.0])
def test_a_soft_edge_is_the_same_however_far_it_reaches(radius):
    plan, path = Box((0, 0), (30, 40)), np.array([[5.0, 5.0], [5.0, 9.0]])
    cells = np.array([[5, x] for x in range(5, 10)])
    found, share = soft_columns(plan, Marks(cells, path), radius, radius)
    far = scipy.spatial.distance.cdist(found, cells).min(axis=1)
    t = np.clip((radius - far) / radius, 0, 1)
    assert np.allclose(share, t * t * (3 - 2 * t)) and len(found) > 20


def test_things_that_reach_out_of_a_room_are_found_in_every_turn(room):
    room.lay("Cart", cells=[(0, 0), (10, 10), (23, 31)], override=True)
    found = [f.cell for f in survey(room.project.data) if f.check == "outside"]
    assert (10, 10) not in found and (0, 0) in found
