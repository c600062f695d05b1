"""The 24 turns of a block, and rays through cells."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from topion.grid.orient import (
    EAST,
    FACES,
    NORMALS,
    SOUTH,
    TURNS,
    UP,
    angles_of,
    composed_turns,
    face_of,
    free_turn,
    matrices,
    nearest_turn,
    turn_of,
    turned_faces,
)
from topion.grid.rays import Ray, crossing, first_hit, nearest_on_line


def test_the_24_turns_are_all_different_and_none_mirrors():
    every = matrices()
    assert len({m.tobytes() for m in every}) == TURNS
    assert np.allclose(np.linalg.det(every), 1)


def test_a_quarter_turn_is_clockwise_seen_from_above():
    assert face_of(matrices()[1] @ NORMALS[EAST]) == SOUTH
    assert face_of(matrices()[1] @ NORMALS[UP]) == UP


@given(st.integers(0, 23), st.integers(0, 23))
def test_turns_compose_like_their_matrices(first, then):
    whole = composed_turns()[first, then]
    assert (matrices()[whole] == matrices()[then] @ matrices()[first]).all()


@given(st.integers(0, 23))
def test_each_side_shows_another_face(turn):
    table = turned_faces()[turn]
    assert sorted(table[:, 0].tolist()) == list(range(6)) and table[:, 1].max() < 4


def test_upright_turns_leave_pictures_on_the_sides_upright():
    assert not turned_faces()[:4, 2:, 1].any()
    assert turned_faces()[1, UP].tolist() == [UP, 1]


angles = st.floats(-179, 179)


@given(angles, angles, angles, st.integers(0, 5))
def test_any_turn_in_space_keeps_lengths_and_hand_and_is_told_by_three_angles(
    turn, lean, roll, tip
):
    matrix = free_turn(turn, lean, roll, tip)
    assert np.allclose(matrix @ matrix.T, np.eye(3)) and np.linalg.det(matrix) > 0
    assert np.allclose(free_turn(*angles_of(matrix)), matrix, atol=1e-7)


@given(st.integers(0, 23))
def test_a_turn_by_quarters_is_the_nearest_to_itself_however_it_is_told(turn):
    matrix = matrices()[turn].astype(float)
    assert nearest_turn(matrix) == turn
    assert nearest_turn(free_turn(*angles_of(matrix))) == turn


def test_angles_tip_and_turn_as_their_names_say():
    up, south, east = np.eye(3)
    assert np.allclose(free_turn(0, 90, 0) @ up, south)
    assert np.allclose(free_turn(0, 0, 90) @ up, east)
    assert np.allclose(free_turn(90, 0, 0) @ east, south)
    assert np.allclose(free_turn(90, 0, 90) @ up, south)  # tipped east, then turned


def test_no_other_matrix_has_a_number():
    with pytest.raises(KeyError):
        turn_of(-np.eye(3, dtype=np.intp))


def test_a_ray_finds_the_cell_and_the_face_it_comes_through():
    full = np.zeros((4, 5, 6), bool)
    full[1, 2, 3] = True
    hit = first_hit(full, Ray((9.0, 2.5, 3.5), (-1.0, 0.0, 0.0)))
    assert hit is not None and hit.cell == (1, 2, 3) and FACES[hit.face] == "up"
    assert hit.before == (2, 2, 3) and hit.distance == pytest.approx(7.0)
    assert first_hit(full, Ray((9.0, 0.5, 3.5), (-1.0, 0.0, 0.0))) is None
    side = first_hit(full, Ray((1.5, 2.5, -3.0), (0.0, 0.0, 1.0)))
    assert side is not None and FACES[side.face] == "west"


places = st.tuples(*(st.floats(-6, 12),) * 3)


@given(st.integers(0, 2**32), places, places)
def test_a_ray_hits_the_cell_that_small_steps_hit(seed, start, towards):
    full = np.random.default_rng(seed).random((6, 6, 6)) < 0.2
    direction = np.array(towards) - np.array(start)
    length = float(np.linalg.norm(direction))
    if length < 1e-3:
        return
    ray = Ray(start, tuple((direction / length).tolist()))
    hit = first_hit(full, ray)
    steps = np.array(start) + np.arange(0, 40, 0.002)[:, None] * (direction / length)
    cells = np.floor(steps).astype(int)
    inside = ((cells >= 0) & (cells < 6)).all(axis=1)
    cells = cells[inside]
    met = cells[full[tuple(cells.T)]]
    if hit is None:
        assert len(met) == 0
    else:
        middle = np.array(ray.at(hit.distance))
        assert full[hit.cell] and (np.abs(middle - np.array(hit.cell) - 0.5) <= 0.5 + 1e-6).all()
        if len(met):
            first = tuple(met[0].tolist())
            entry = np.linalg.norm(np.array(first) + 0.5 - start)
            assert hit.cell == first or hit.distance <= entry + 0.9


def test_a_ray_crosses_a_plane_in_front_of_it_only():
    ray = Ray((10.0, 0.0, 0.0), (-0.5, 0.5, 0.0))
    assert crossing(ray, 0, 4.0) == pytest.approx((4.0, 6.0, 0.0))
    assert crossing(ray, 0, 12.0) is None and crossing(ray, 2, 3.0) is None


def test_the_height_under_the_pointer_is_where_the_ray_passes_the_upright():
    ray = Ray((8.0, -6.0, 3.5), (-0.5, 1.0, 0.0))
    assert nearest_on_line(ray, (0.0, 2.0, 3.5), 0) == pytest.approx(4.0)
