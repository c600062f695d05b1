"""Greedy meshing: the rectangles are just the visible faces of single cells."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from topion.grid.meshing import OPEN_CORNERS, SPANS, Quads, exposed_faces, mesh
from topion.grid.orient import NORMALS, UP

LOOKS = np.repeat(np.arange(4, dtype=np.uint16)[:, None], 6, axis=1)
boxes = hnp.arrays(
    np.uint16,
    hnp.array_shapes(min_dims=3, max_dims=3, min_side=1, max_side=7),
    elements=st.integers(0, 3),
)


def padded(cells: np.ndarray) -> np.ndarray:
    return np.pad(cells, 1)


def faces_of(quads: Quads) -> dict[tuple[int, int, int, int], int]:
    """(face, z, y, x) -> look, of every cell face that the rectangles cover."""
    found: dict[tuple[int, int, int, int], int] = {}
    for face, cell, size, look in zip(
        quads.faces.tolist(), quads.cells.tolist(), quads.sizes.tolist(), quads.looks.tolist(),
        strict=True,
    ):  # fmt: skip
        v_axis, u_axis = SPANS[face]
        for v in range(size[0]):
            for u in range(size[1]):
                at = list(cell)
                at[v_axis] += v
                at[u_axis] += u
                key = (face, *at)
                assert key not in found, "two rectangles overlap"
                found[key] = look
    return found


def plain_faces(cells: np.ndarray) -> dict[tuple[int, int, int, int], int]:
    """The same, cell by cell."""
    around = padded(cells)
    found = {}
    for z, y, x in np.argwhere(cells).tolist():
        for face, (dz, dy, dx) in enumerate(NORMALS.tolist()):
            if not around[z + 1 + dz, y + 1 + dy, x + 1 + dx]:
                found[face, z, y, x] = int(cells[z, y, x])
    return found


@given(boxes)
def test_rectangles_cover_each_visible_face_once_and_nothing_else(cells):
    for shaded in (True, False):
        assert faces_of(mesh(padded(cells), LOOKS, shaded=shaded)) == plain_faces(cells)
    assert exposed_faces(padded(cells)) == len(plain_faces(cells))


def test_a_plain_box_is_six_rectangles():
    quads = mesh(padded(np.full((5, 70, 130), 2, np.uint16)), LOOKS)
    assert len(quads) == 6 and set(quads.faces.tolist()) == set(range(6))
    assert (quads.corners == OPEN_CORNERS).all()
    assert sorted(np.prod(quads.sizes, axis=1).tolist())[-1] == 70 * 130


def test_different_looks_are_never_joined():
    cells = np.array([[[1, 1, 2, 2, 2]]], np.uint16)
    up = [q for q in faces_of(mesh(padded(cells), LOOKS)) if q[0] == UP]
    quads = mesh(padded(cells), LOOKS)
    assert len(up) == 5 and (quads.faces == UP).sum() == 2


def test_cells_beyond_the_box_hide_faces_and_darken_corners():
    cells = np.zeros((3, 3, 4), np.uint16)
    cells[1, 1, 1:3] = 1
    cells[1, 1, 3] = 1  # a neighbour in the rim
    cells[2, 0, 1] = 1  # and one above and to the north
    quads = mesh(cells, LOOKS)
    assert not ((quads.faces == 3) & (quads.cells[:, 2] == 1)).any()
    top = np.flatnonzero(quads.faces == UP)
    openness = quads.opened_corners()[top[np.argsort(quads.cells[top, 2])]]
    assert openness[0].tolist() == [2, 2, 3, 3]  # its north edge lies under the neighbour
    assert openness[-1].tolist()[1] == 3
