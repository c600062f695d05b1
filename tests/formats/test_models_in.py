"""Models of prefabs out of meshes, arrays and folders of slices."""

import numpy as np
import pytest

from tests.formats.test_stamps_in import png, saved
from topion.errors import BadFile, BadValue
from topion.formats.models_in import model_of_file
from topion.model.solid import LONGEST_MODEL


def test_an_array_becomes_a_model_of_what_is_filled(tmp_path):
    cells = np.zeros((6, 8, 7), np.uint8)
    cells[1:4, 2:5, 3], cells[3, 4, 5] = 9, 4
    model = model_of_file(saved(tmp_path / "post.npy", cells), 32, 8)
    assert model.size == (3, 3, 3)
    assert model.per_cell == 8
    assert len(model.palette) == 2
    assert np.array_equal(model.cells > 0, cells[1:4, 2:5, 3:6] > 0)
    assert model.cells[0, 0, 0] != model.cells[2, 2, 2]


def test_slices_keep_their_colours_from_the_lowest_up(tmp_path):
    for level, red in enumerate((200, 40)):
        rgba = np.zeros((4, 5, 4), np.uint8)
        rgba[1:3, 1:4] = (red, 20, 30, 255)
        png(tmp_path / f"{level}.png", rgba)
    model = model_of_file(tmp_path, 32, 16)
    assert model.size == (2, 2, 3)
    assert [model.palette[n - 1] for n in model.cells[:, 0, 0]] == ["#c8141e", "#28141e"]


def test_a_mesh_is_as_large_as_it_is_asked_to_be(tmp_path):
    corners = [(x, y, z) for x in (0, 2) for y in (0, 1) for z in (0, 1)]
    faces = [(1, 2, 4, 3), (5, 7, 8, 6), (1, 5, 6, 2), (3, 4, 8, 7), (1, 3, 7, 5), (2, 6, 8, 4)]
    text = [f"v {x} {y} {z}" for x, y, z in corners] + [
        f"f {a} {b} {c} {d}" for a, b, c, d in faces
    ]
    (tmp_path / "slab.obj").write_text("\n".join(text))
    model = model_of_file(tmp_path / "slab.obj", 12, 16)
    assert max(model.size) == 12
    assert sorted(model.size) == [6, 6, 12]


@pytest.mark.parametrize(("name", "cells", "words"), [
    ("open.npy", np.zeros((2, 2, 2), np.uint8), "open.npy"),
    ("long.npy", np.ones((1, 1, LONGEST_MODEL + 1), np.uint8), "at most 256 voxels a side"),
])  # fmt: skip
def test_what_is_no_model_is_told(tmp_path, name, cells, words):
    with pytest.raises((BadFile, BadValue), match=words):
        model_of_file(saved(tmp_path / name, cells), 32, 16)


def test_other_files_are_told(tmp_path):
    (tmp_path / "notes.txt").write_text("hello")
    with pytest.raises(BadFile, match=r"notes\.txt: is nothing that becomes a model"):
        model_of_file(tmp_path / "notes.txt", 32, 16)
