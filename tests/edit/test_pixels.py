"""Pixels of a slot as a room of colours: what is read is what is written back."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import SHEET, small_project
from topion.edit.pixels import (
    LAYER,
    PARTS,
    ROOM,
    colour_name,
    colour_of,
    mask_project,
    painted,
    palette_of,
    pixel_project,
    with_mask,
    with_pixels,
)
from topion.errors import BadValue
from topion.model.tileset import Cut, TileSet
from topion.pictures.png import picture_of


@given(st.tuples(*[st.integers(0, 255)] * 3), st.integers(1, 255))
def test_a_colour_is_read_back_from_its_name(rgb, alpha):
    assert colour_of(colour_name((*rgb, alpha))) == (*rgb, alpha)


def test_what_is_no_colour_is_told():
    with pytest.raises(BadValue, match="#rrggbb"):
        colour_of("#12g")


@given(st.integers(0, 10_000))
def test_the_room_of_a_slot_shows_its_pixels(seed):
    rng = np.random.default_rng(seed)
    few = rng.integers(0, 255, (5, 4), np.uint8)
    few[0, 3] = 0
    rgba = few[rng.integers(0, 5, (6, 12))]
    tileset = TileSet("t", picture_of(rgba), Cut((6, 6)))
    project = pixel_project(tileset, (0, 1), palette_of(tileset, (0, 1)))
    shown = painted(project)
    wanted = np.where(rgba[:, 6:, 3:] > 0, rgba[:, 6:], 0)
    assert (shown == wanted).all()


def test_a_stroke_is_written_onto_the_sheet_and_nowhere_else():
    handle = small_project()
    tileset = handle.data.tileset(SHEET)
    pixels = np.array(tileset.pixels((1, 2)))
    pixels[1, 1] = (1, 2, 3, 255)
    assert handle.history.apply(with_pixels(handle.data, SHEET, (1, 2), pixels))
    after = handle.data.tileset(SHEET)
    assert (after.pixels((1, 2)) == pixels).all()
    differs = (after.sheet.rgba != tileset.sheet.rgba).any(axis=2)
    assert np.argwhere(differs).tolist() == [[5, 9]]
    assert not with_pixels(handle.data, SHEET, (1, 2), pixels), "nothing changed, no Edit"
    handle.undo()
    assert handle.data.tileset(SHEET) == tileset


def test_slots_of_a_loose_cut_are_painted_in_their_own_part():
    rgba = np.random.default_rng(1).integers(1, 255, (10, 10, 4), np.uint8)
    cut = Cut((6, 6), rects=((0, 0, 4, 4), (4, 4, 6, 5)))
    handle = small_project()
    handle.add_tileset(TileSet("loose", picture_of(rgba), cut))
    tileset = handle.data.tileset("loose")
    pixels = np.array(tileset.pixels((0, 0)))
    pixels[5, 1] = (9, 9, 9, 255)
    handle.history.apply(with_pixels(handle.data, "loose", (0, 0), pixels))
    assert (handle.data.tileset("loose").pixels((0, 0)) == pixels).all()
    assert (handle.data.tileset("loose").pixels((0, 1)) == tileset.pixels((0, 1))).all()


def test_a_mask_is_painted_as_three_parts_and_read_back():
    handle = small_project()
    tileset = handle.data.tileset(SHEET)
    scratch = mask_project(tileset, (0, 0))
    assert scratch.materials == PARTS
    material = scratch.room(ROOM).layers[LAYER].plane("material")
    assert (material == 1).all()
    part = np.ones(material.shape, np.uint16)
    part[0] = 2
    part[1] = 3
    scratch.room(ROOM).layers[LAYER].put_planes({"material": part})
    handle.history.apply(with_mask(handle.data, SHEET, (0, 0), scratch))
    mask = handle.data.tileset(SHEET).mask
    assert mask.cells[:4, :4].tolist() == [[1] * 4, [2] * 4, [0] * 4, [0] * 4]
    again = mask_project(handle.data.tileset(SHEET), (0, 0))
    assert (again.room(ROOM).layers[LAYER].plane("material") == part).all()


def test_a_slot_with_more_colours_than_can_be_shown_is_refused():
    rgba = np.random.default_rng(1).integers(1, 255, (64, 64, 4), np.uint8)
    with pytest.raises(BadValue, match="at most"):
        palette_of(TileSet("photo", picture_of(rgba), Cut((64, 64))), (0, 0))
