"""Cells under a mask, washed and edged over the table."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor, QImage, QPainter, QPen

from topion.grid.boxes import Box
from topion.view.table.camera import Camera
from topion.view.table.mask_marks import draw_edges, seen_part, wash

CAMERA = Camera(left=20, top=10, cell_px=16)
ALL = QRectF(0, 0, 200, 160)


def drawn(draw) -> np.ndarray:
    """(160, 200) of the red of each pixel of what is drawn on white in black."""
    image = QImage(200, 160, QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    painter = QPainter(image)
    draw(painter)
    painter.end()
    rows = np.frombuffer(image.constBits().asarray(image.sizeInBytes()), np.uint8)
    return rows.reshape(160, 200, 4)[..., 2].copy()


def test_a_wash_lies_over_the_cells_of_the_mask_and_over_no_other():
    mask = np.array([[True, False], [False, True]])
    red = drawn(lambda p: wash(p, mask, Box((2, 3), (4, 5)), CAMERA, QColor("black"), 255))
    dark = np.zeros((160, 200), bool)
    dark[10 + 32 : 10 + 48, 20 + 48 : 20 + 64] = True
    dark[10 + 48 : 10 + 64, 20 + 64 : 20 + 80] = True
    assert np.array_equal(red == 0, dark)


def test_edges_run_round_the_cells_and_not_between_them():
    def draw(painter: QPainter) -> None:
        painter.setPen(QPen(QColor("black"), 1))
        draw_edges(painter, np.ones((2, 3), bool), Box((1, 1), (3, 4)), CAMERA)

    red = drawn(draw)
    inside = red[10 + 16 + 3 : 10 + 48 - 3, 20 + 16 + 3 : 20 + 64 - 3]
    assert inside.min() == 255
    for line in (red[10 + 16, 37:83], red[10 + 48, 37:83], red[27:57, 36], red[27:57, 84]):
        assert line.max() < 255
    outside = red.copy()
    outside[24:61, 34:87] = 255
    assert outside.min() == 255


@given(arrays(bool, (6, 9)), st.integers(-40, 120), st.integers(-40, 120))
def test_what_is_seen_is_the_mask_there_and_holds_all_that_is_in_view(mask, top, left):
    box = Box((1, 2), (7, 11))
    view = QRectF(left, top, 60, 50)
    part, seen = seen_part(mask, box, CAMERA, view)
    assert part.shape == seen.shape
    for y, x in zip(*np.nonzero(mask), strict=True):
        at = int(y) + 1, int(x) + 2
        inside = all(a <= v < b for a, v, b in zip(seen.lo, at, seen.hi, strict=True))
        assert not inside or part[at[0] - seen.lo[0], at[1] - seen.lo[1]]
        assert inside or not CAMERA.rect_of(*at, at[0] + 1, at[1] + 1).intersects(view)
    assert part.sum() <= mask.sum()


@pytest.mark.parametrize("view", [QRectF(900, 900, 50, 50), QRectF(-900, 0, 50, 50)])
def test_nothing_is_seen_where_the_room_is_not(view):
    part, seen = seen_part(np.ones((4, 4), bool), Box((0, 0), (4, 4)), CAMERA, view)
    assert part.size == seen.size == 0


def test_more_cells_than_can_be_told_apart_are_not_marked():
    mask = np.zeros((3000, 3000), bool)
    part, _ = seen_part(mask, Box.of_shape(mask.shape), Camera(cell_px=1), QRectF(0, 0, 3000, 3000))
    assert part.size == 0


def test_of_a_large_mask_only_what_is_in_view_is_taken():
    mask = np.ones((3000, 3000), bool)
    part, seen = seen_part(mask, Box.of_shape(mask.shape), CAMERA, ALL)
    assert part.all()
    assert 10 * 12 <= part.size <= 14 * 16
    assert seen.lo == (0, 0)
