"""Another sheet for a tile set: what is laid keeps its look, whatever moved."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import SHEET, SIDE, small_room
from topion.edit.library import put_item
from topion.edit.resheet import resheet, take, with_pictures
from topion.edit.slots import rename_slot, set_slots
from topion.errors import BadValue
from topion.model.plane import Plane
from topion.model.theme_sheet import ThemeSheet
from topion.model.tileset import Cut
from topion.pictures.png import picture_of
from topion.render.scene import render_room

CUT = Cut((SIDE, SIDE))


def painted_room():
    room = small_room((12, 16))
    room.lay("Mud", box=((2, 2), (8, 9)))
    room.lay("Water", box=((5, 6), (10, 12)))
    return room


def seen(room):
    return render_room(room.project.data, room.data)


def tiles_of(tileset):
    rows, columns = tileset.grid_shape
    return [np.array(tileset.pixels((y, x))) for y in range(rows) for x in range(columns)]


def sheet_from(tiles, columns):
    rows = -(-len(tiles) // columns)
    rgba = np.zeros((rows * SIDE, columns * SIDE, 4), np.uint8)
    for number, tile in enumerate(tiles):
        y, x = divmod(number, columns)
        rgba[y * SIDE : (y + 1) * SIDE, x * SIDE : (x + 1) * SIDE] = tile
    return picture_of(rgba)


@given(st.randoms(use_true_random=False), st.integers(5, 9), st.integers(0, 12))
@settings(max_examples=20)
def test_a_room_looks_the_same_on_any_order_of_the_tiles_also_with_some_missing(
    random, columns, missing
):
    room = painted_room()
    handle, before = room.project, seen(room)
    tiles = tiles_of(handle.data.tileset(SHEET))
    random.shuffle(tiles)
    change = resheet(handle.data, SHEET, sheet_from(tiles[missing:], columns), CUT)
    old = handle.data.tileset(SHEET)
    changed = handle.history.apply(take(handle.data, change))
    assert np.array_equal(seen(room), before)
    if not changed:
        return  # the order as it was
    handle.undo()
    assert handle.data.tileset(SHEET) == old and np.array_equal(seen(room), before)
    handle.redo()
    assert np.array_equal(seen(room), before)


def test_the_same_sheet_changes_nothing():
    handle = painted_room().project
    old = handle.data.tileset(SHEET)
    change = resheet(handle.data, SHEET, old.sheet, old.cut)
    assert set(change.counts) == {"same"} and not take(handle.data, change)


def test_slots_that_are_drawn_anew_are_found_by_their_place():
    handle = painted_room().project
    tiles = tiles_of(handle.data.tileset(SHEET))
    tiles[3] = tiles[3] // 2 + 60
    change = resheet(handle.data, SHEET, sheet_from(tiles, 8), CUT)
    assert change.counts["redrawn"] == 1 and change.counts["same"] == 39
    assert next(c for c in change.changes if c.how == "redrawn").name == "0,3"


def test_a_row_more_at_the_top_moves_all_and_a_new_drawing_moves_with_them():
    handle = painted_room().project
    tiles = tiles_of(handle.data.tileset(SHEET))
    tiles[9] = tiles[9] // 3 + 80
    rng = np.random.default_rng(4)
    row = [rng.integers(1, 255, (SIDE, SIDE, 4), np.uint8) for _ in range(8)]
    change = resheet(handle.data, SHEET, sheet_from(row + tiles, 8), CUT)
    assert change.counts == {"moved": 39, "redrawn": 1, "new": 8}
    assert change.places[1, 1] == (2, 1)


def test_what_is_in_use_and_not_on_the_new_sheet_is_kept_at_its_foot():
    room = painted_room()
    handle, before = room.project, seen(room)
    tiles = tiles_of(handle.data.tileset(SHEET))[:1]
    change = resheet(handle.data, SHEET, sheet_from(tiles, 1), CUT)
    assert change.counts["kept below"] > 5 and change.counts["gone"] > 0
    handle.history.apply(take(handle.data, change))
    assert np.array_equal(seen(room), before)


def test_names_traits_frames_and_mask_go_with_their_slots():
    handle = painted_room().project
    handle.history.apply(set_slots(handle.data, SHEET, [(1, 2)], solid=True, frames=((1, 3),)))
    handle.history.apply(rename_slot(handle.data, SHEET, "1,2", "kerb"))
    old = handle.data.tileset(SHEET)
    mask = np.zeros(old.sheet.size_px, np.uint16)
    mask[SIDE : SIDE + 2, 2 * SIDE : 3 * SIDE] = 1
    handle.history.apply(
        put_item(
            handle.data,
            "tilesets",
            type(old)(old.name, old.sheet, old.cut, old.slots, mask=Plane(mask)),
        )
    )
    tiles = tiles_of(old)
    change = resheet(handle.data, SHEET, sheet_from(tiles[::-1], 8), CUT)
    handle.history.apply(take(handle.data, change))
    new = handle.data.tileset(SHEET)
    kerb = new.slot("kerb")
    assert kerb.solid and kerb.at == (4, 5) and kerb.frames == ((4, 4),)
    y, x = new.cut.corner_px(kerb.at)
    assert (new.mask.cells[y : y + 2, x : x + SIDE] == 1).all()
    assert new.mask.cells.sum() == mask.sum()


def test_a_theme_follows_slots_that_moved():
    handle = painted_room().project
    old = handle.data.tileset(SHEET)
    night = picture_of(np.array(old.sheet.rgba) // 2)
    handle.add_theme(ThemeSheet("night", "night", SHEET, night, CUT))
    theme = handle.data.shelf("themes")["night"]
    there = {name: theme.slot_for(old, name).at for name in old.filled_slots()}
    change = resheet(handle.data, SHEET, sheet_from(tiles_of(old)[::-1], 8), CUT)
    handle.history.apply(take(handle.data, change))
    new, theme = handle.data.tileset(SHEET), handle.data.shelf("themes")["night"]
    for place, to in change.places.items():
        assert theme.slot_for(new, new.name_at(to)).at == there[old.name_at(place)]


def test_another_cut_finds_slots_by_where_they_begin():
    handle = painted_room().project
    old = handle.data.tileset(SHEET)
    change = resheet(handle.data, SHEET, old.sheet, Cut((SIDE * 2, SIDE)))
    assert change.places[0, 3] == (0, 3) and change.places[2, 5] == (1, 5)
    assert change.counts["kept below"] > 0, "slots in use that begin within a new one"


def test_slots_in_use_that_would_be_lost_are_told():
    handle = painted_room().project
    old = handle.data.tileset(SHEET)
    with pytest.raises(BadValue, match="slots in use"):
        resheet(handle.data, SHEET, sheet_from(tiles_of(old)[:1], 1), Cut((2, 2), 1))


def test_single_pictures_become_named_slots_at_the_foot():
    room = painted_room()
    handle, before = room.project, seen(room)
    picture = np.full((3, 2, 4), 255, np.uint8)
    handle.history.apply(with_pictures(handle.data, SHEET, {"knob": picture, "a,b": picture}))
    new = handle.data.tileset(SHEET)
    pixels = new.pixels(new.slot("knob").at)
    assert (pixels[1:, 1:3] == 255).all() and pixels.sum() == picture.sum()
    assert "a b" in new.slots and np.array_equal(seen(room), before)
    with pytest.raises(BadValue, match="at most"):
        with_pictures(handle.data, SHEET, {"large": np.zeros((9, 9, 4), np.uint8)})


def test_a_cut_round_drawings_grows_too():
    handle = painted_room().project
    old = handle.data.tileset(SHEET)
    loose = Cut((SIDE, SIDE), rects=tuple((y, x, SIDE, SIDE) for y in (0, 8) for x in (0, 12)))
    change = resheet(handle.data, SHEET, old.sheet, loose)
    assert change.counts["kept below"] > 0
    for place, to in change.places.items():
        assert np.array_equal(change.after.pixels(to), old.pixels(place))
