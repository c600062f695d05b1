"""Pictures that are drawn and written band by band are those that are drawn whole."""

from __future__ import annotations

import io
import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from tests.rooms import small_room
from tests.voxel_rooms import isle
from topion.formats.exports import export_files
from topion.pictures.png_out import png_parts
from topion.render.bands import Bands
from topion.render.pixels import as_rgba, resized
from topion.render.scene import render_box, render_room, room_bands
from topion.render.solid_scene import solid_bands


def read(parts) -> np.ndarray:
    return np.array(Image.open(io.BytesIO(b"".join(parts))))


def in_parts(rgba, cuts):
    edges = sorted({0, len(rgba), *(cut % (len(rgba) + 1) for cut in cuts)})
    return [rgba[a:b] for a, b in itertools.pairwise(edges)]


@given(st.integers(1, 40), st.integers(1, 30), st.lists(st.integers(0, 1000)), st.integers(0, 9))
def test_what_is_written_reads_back_however_it_is_cut(height, width, cuts, seed):
    rgba = np.random.default_rng(seed).integers(0, 256, (height, width, 4), np.uint8)
    data = b"".join(png_parts(height, width, in_parts(rgba, cuts)))
    assert np.array_equal(read([data]), rgba)
    assert data == b"".join(png_parts(height, width, [rgba]))


def test_a_picture_of_many_bands_needs_no_memory_for_all_of_them():
    drawn = []

    def draw(top, bottom):
        drawn.append(bottom - top)
        return np.zeros((bottom - top, 5000, 4), np.uint8)

    parts = sum(len(part) for part in Bands(3000, 5000, draw, 16).png())
    assert sum(drawn) == 3000 and max(drawn) * 5000 <= 1 << 20 and parts < 200_000
    assert all(rows % 16 == 0 for rows in drawn[:-1])


@settings(max_examples=25, deadline=None)
@given(st.sampled_from([0.1, 0.3, 0.45, 0.5, 1.0, 1.3, 2.0]), st.lists(st.integers(0, 2000)))
def test_rows_of_a_flat_room_are_the_same_alone_and_among_all(scale, cuts):
    room = small_room()
    room.lay("Mud", cells=[(y, x) for y in range(2, 9) for x in range(3, 20)])
    bands = room_bands(room.project.data, room.data, scale)
    whole = bands.draw(0, bands.height)
    edges = sorted({0, bands.height, *(cut % (bands.height + 1) for cut in cuts)})
    parts = [bands.draw(a, b) for a, b in itertools.pairwise(edges)]
    assert np.abs(np.concatenate(parts).astype(int) - whole).max() <= 1


@pytest.mark.parametrize("scale", [0.3, 0.5, 1.0, 1.3])
def test_scaling_in_bands_is_scaling_the_whole(scale):
    room = small_room()
    room.lay("Mud", cells=[(y, x) for y in range(2, 9) for x in range(3, 20)])
    side = max(1, round(room.data.info.cell_px * scale))
    whole = render_box(room.project.data, room.data, room.data.box, side)
    picture = render_room(room.project.data, room.data, scale)
    assert np.abs(as_rgba(resized(whole, *picture.shape[:2])).astype(int) - picture).max() <= 1


@pytest.mark.parametrize("perspective", [False, True])
def test_rows_of_a_voxel_room_are_the_same_alone_and_among_all(perspective):
    room = isle()
    bands = solid_bands(room.project.data, room.data, size=(90, 120), perspective=perspective)
    whole = bands.draw(0, 90)
    parts = [bands.draw(a, b) for a, b in ((0, 1), (1, 37), (37, 38), (38, 90))]
    assert np.array_equal(np.concatenate(parts), whole)


def test_an_exported_picture_is_the_room():
    room = small_room()
    room.lay("Mud", cells=[(y, x) for y in range(2, 9) for x in range(3, 20)])
    pictures = {
        name: read(contents)
        for name, contents in export_files(room.project.data, ("Yard",), "png", 0.5)
    }
    assert np.array_equal(pictures["Yard.png"], room.render(0.5))
    assert len(pictures) == 1 + len(room.data.layers)
