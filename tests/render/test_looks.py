"""Tint maps and themes: what a room looks like in them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.looks import plain_tinted, tinted_room, with_palette
from tests.rooms import SHEET, SIDE, sheet_picture, small_room, tile
from tests.voxel_rooms import isle
from topion.brushes import Stamp, TintBrush
from topion.errors import UnknownName
from topion.model.palette import lighter
from topion.model.plane import Plane
from topion.model.solid import BlockLook
from topion.model.theme_sheet import ThemeSheet, sheet_name
from topion.model.tileset import Cut, Slot
from topion.pictures.png import picture_of
from topion.render.scene import room_bands
from topion.render.volume import room_faces
from topion.render.wear import worn

numbers = st.integers(0, 4)


def test_every_tinted_pixel_is_as_worked_out_by_itself():
    room = tinted_room()
    assert np.array_equal(room.render(layer="Ground"), plain_tinted(room))


def test_a_room_without_a_tint_map_on_looks_as_it_did():
    room = tinted_room()
    before = small_room((12, 16))
    before.lay("Water", box=((3, 4), (6, 9)))
    assert np.array_equal(room.render(tint=""), before.render())


def test_the_same_room_is_drawn_in_two_maps_and_neither_changes_a_cell():
    room = tinted_room()
    revision = room.data.cell_layers()[0][1].revision
    evening = room.render()
    room.add_tint_map("Flood", copy_of="Evening")
    assert np.array_equal(room.render(), evening)
    room.lay(TintBrush("Rust", 4), box=((0, 0), (11, 15)))
    assert not np.array_equal(room.render(), evening)
    assert np.array_equal(room.render(tint="Evening"), evening)
    assert room.data.cell_layers()[0][1].revision == revision


def test_a_map_that_is_not_there_is_named():
    with pytest.raises(UnknownName, match="Dawn"):
        tinted_room().render(tint="Dawn")


def test_tiles_of_a_set_without_mask_or_two_tones_keep_their_colours():
    room = small_room()
    with_palette(room.project)
    before = room.render()
    room.lay(TintBrush("Both", 1, 2, both=True), box=((0, 0), (20, 20)))
    assert np.array_equal(room.render(), before)


def test_a_mask_tells_which_pixels_take_which_colour():
    room = small_room((4, 4))
    with_palette(room.project)
    parts = np.zeros((6 * SIDE, 8 * SIDE), np.uint16)
    parts[1:SIDE, :2], parts[1:SIDE, 2:SIDE] = 1, 2  # the first row keeps its colours
    data = room.project.data
    masked = replace(data.tilesets[SHEET], mask=Plane(parts))
    data.put_item(("tilesets", SHEET), masked)
    room.project.add_brush(Stamp("First", ((tile(0, 0),),)))
    room.lay("First", cells=[(1, 1)])
    room.lay(TintBrush("Both", 1, 2, both=True), cells=[(1, 1)])
    cell = room.render(layer="Ground")[SIDE : 2 * SIDE, SIDE : 2 * SIDE, :3].astype(int)
    plain = room.render(layer="Ground", tint="")[SIDE : 2 * SIDE, SIDE : 2 * SIDE, :3]
    assert tuple(cell[2, 1]) == (0x1F, 0x2A, 0x44)  # as light as the middle of its part
    assert tuple(cell[2, 3]) == (0xE7, 0xB4, 0x5A)
    assert not (cell == plain).all(axis=2)[1:].any()
    assert np.array_equal(cell[0], plain[0])


@settings(max_examples=15, deadline=None)
@given(numbers, numbers, st.booleans(), st.sampled_from([0.25, 0.5, 1.0, 2.0]))
def test_a_part_of_a_picture_is_the_same_as_in_the_whole(fore, back, bright, scale):
    room = tinted_room((8, 8))
    form = "bright" if bright else "plain"
    room.lay(TintBrush("Any", fore, back, form, both=True), box=((2, 2), (5, 5)))
    whole, bands = room.render(scale), room_bands(room.project.data, room.data, scale)
    rows = [bands.draw(top, min(top + 5, bands.height)) for top in range(0, bands.height, 5)]
    assert np.array_equal(np.concatenate(rows), whole)


# --- themes -------------------------------------------------------------------------------


def other_sheet(shift: int = 60, columns: int = 8):
    rgba = sheet_picture(columns=columns).rgba.copy()
    rgba[..., 2] = (rgba[..., 2].astype(int) + shift) % 256
    return picture_of(rgba)


def themed(columns: int = 8, **more):
    room = small_room((8, 8))
    name = sheet_name(SHEET, "Winter")
    cut = Cut((SIDE, SIDE))
    room.project.add_theme(
        ThemeSheet(name, "Winter", SHEET, other_sheet(columns=columns), cut, **more)
    )
    return room


def test_a_theme_shows_the_same_slots_of_another_sheet():
    room = themed()
    plain = room.render().astype(int)
    winter = room.render(theme="Winter").astype(int)
    assert np.array_equal((plain[..., 2] + 60) % 256, winter[..., 2])
    assert np.array_equal(plain[..., :2], winter[..., :2])
    room.wear(theme="Winter")
    assert np.array_equal(room.render(), winter)


def test_slots_that_a_theme_lacks_fall_back_to_the_first_and_are_listed():
    room = themed(columns=3)
    sheet = room.project.data.shelf("themes")[sheet_name(SHEET, "Winter")]
    missing = sheet.missing(room.project.data.tilesets[SHEET])
    assert missing == [f"{y},{x}" for y in range(5) for x in range(3, 8)]
    room.project.add_brush(Stamp("Pair", ((tile(0, 1), tile(0, 4)),)))
    room.lay("Pair", cells=[(1, 1)])
    plain, winter = (room.render(theme=t)[SIDE : 2 * SIDE] for t in ("", "Winter"))
    assert np.array_equal(plain[:, 2 * SIDE : 3 * SIDE], winter[:, 2 * SIDE : 3 * SIDE])
    assert not np.array_equal(plain[:, SIDE : 2 * SIDE], winter[:, SIDE : 2 * SIDE])


def test_slots_are_found_by_name_where_the_sheet_says_so():
    room = small_room((4, 4))
    data = room.project.data
    named = replace(data.tilesets[SHEET], slots={"stone": Slot((4, 0))})
    data.put_item(("tilesets", SHEET), named)
    sheet = ThemeSheet("s", "Winter", SHEET, other_sheet(), Cut((SIDE, SIDE)), "name",
                       {"stone": Slot((0, 0))})  # fmt: skip
    room.project.add_theme(sheet)
    room.project.add_brush(Stamp("Stone", ((tile(4, 0),),)))
    room.lay("Stone", cells=[(0, 0)])
    shown = room.render(theme="Winter")[:SIDE, :SIDE]
    assert np.array_equal(shown, other_sheet().rgba[:SIDE, :SIDE])


def test_a_theme_that_nobody_knows_is_named():
    with pytest.raises(UnknownName, match="Summer"):
        small_room().render(theme="Summer")


# --- blocks -------------------------------------------------------------------------------


def test_a_tint_map_colours_blocks_and_leaves_the_others():
    room = isle()
    two_tone = with_palette(room.project)
    before = room_faces(two_tone.data, room.data).rgb
    room.lay(TintBrush("Lamp", 2), box=((2, 0, 0), (2, 3, 3)))
    after = room_faces(two_tone.data, room.data)
    lamp = (after.rgb == (0xE7, 0xB4, 0x5A)).all(axis=1)
    assert lamp.any() and not lamp.all()
    assert not (before == (0xE7, 0xB4, 0x5A)).all(axis=1).any()
    assert set(map(tuple, after.rgb[~lamp])) <= set(map(tuple, before))


def test_a_block_has_another_colour_in_a_theme():
    room = isle()
    data = room.project.data
    name = "Top"
    block = replace(data.blocks[name], faces=(), pattern=(), model=None,
                    themes={"Frost": BlockLook("#e0f0ff")})  # fmt: skip
    room.project.add_block(block)
    frost = worn(data, room.data, theme="Frost")
    assert not (room_faces(data, room.data).rgb == (0xE0, 0xF0, 0xFF)).all(axis=1).any()
    assert (room_faces(data, frost).rgb == (0xE0, 0xF0, 0xFF)).all(axis=1).any()


def test_a_bright_form_is_lighter_than_its_colour():
    assert lighter("#204060") > "#204060"
    assert lighter("#000000") != "#000000"
