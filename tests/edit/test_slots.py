"""Slots of a tile set: what is known of them, their names, their uses, and finding them."""

from dataclasses import replace

import numpy as np
import pytest

from tests.rooms import SHEET, small_room, tile
from topion.edit.slots import (
    alike_slots,
    drawn_heights,
    found_slots,
    rename_slot,
    set_slots,
    slot_at,
    slot_uses,
    used_slots,
)
from topion.errors import BadValue, NameTaken, UnknownName
from topion.model.tileset import Slot
from topion.pictures.png import picture_of


@pytest.fixture
def room():
    room = small_room((12, 12))
    room.lay("Water", box=((2, 2), (6, 6)))
    return room


def apply(room, edit):
    assert room.project.history.apply(edit)
    return room.project.data


def test_several_slots_get_the_same_traits_as_one_edit(room):
    data = room.project.data
    before = dict(data.tileset(SHEET).slots)
    apply(room, set_slots(data, SHEET, [(0, 0), (4, 2)], solid=True, tags=("wet",)))
    tileset = data.tileset(SHEET)
    assert slot_at(tileset, (0, 0)).solid and slot_at(tileset, (4, 2)).tags == ("wet",)
    assert not slot_at(tileset, (0, 1)).solid
    room.project.undo()
    assert data.tileset(SHEET).slots == before


def test_a_slot_that_is_plain_again_is_not_listed(room):
    data = room.project.data
    apply(room, set_slots(data, SHEET, [(0, 0)], solid=True))
    apply(room, set_slots(data, SHEET, [(0, 0)], solid=False))
    assert "0,0" not in data.tileset(SHEET).slots


def test_what_no_slot_can_have_is_refused(room):
    with pytest.raises(BadValue, match="top"):
        set_slots(room.project.data, SHEET, [(0, 0)], top=2.0)


def test_a_new_name_goes_wherever_the_slot_is_used_and_no_cell_changes(room):
    data = room.project.data
    shown = room.why(3, 3).tile
    apply(room, rename_slot(data, SHEET, shown.slot, "deep"))
    assert room.why(3, 3).tile == replace_slot(shown, "deep")
    assert any(ref.slot == "deep" for ref in data.tiles)
    assert not any(ref.slot == shown.slot for ref in data.tiles)
    assert "deep" in {v.tile.slot for r in data.brush("Water").rules.rules for v in r.variants}
    apply(room, rename_slot(data, SHEET, "deep", "deeper"))
    assert room.why(3, 3).tile.slot == "deeper"
    room.project.undo()
    room.project.undo()
    assert room.why(3, 3).tile == shown


def replace_slot(ref, name):
    return ref._replace(slot=name)


def test_names_that_cannot_be_are_told(room):
    data = room.project.data
    apply(room, rename_slot(data, SHEET, "0,0", "mud"))
    with pytest.raises(NameTaken):
        rename_slot(data, SHEET, "0,1", "mud")
    with pytest.raises(BadValue, match="no comma"):
        rename_slot(data, SHEET, "0,1", "1,1")
    with pytest.raises(UnknownName):
        rename_slot(data, SHEET, "99,0", "far")


def test_uses_name_brushes_and_rooms_with_a_cell(room):
    shown = room.why(3, 3).tile
    found = list(slot_uses(room.project.data, SHEET, shown.slot))
    assert ("brushes", "Water") in {(use.shelf, use.name) for use in found}
    cells = next(use for use in found if use.room)
    y, x = cells.first
    assert room.why(y, x).tile.slot == shown.slot and cells.cells > 0


def test_slots_are_found_by_name_tag_unused_and_alike(room):
    data = room.project.data
    apply(room, set_slots(data, SHEET, [(0, 3)], tags=("shore",)))
    assert found_slots(data, SHEET, "shore") == {"0,3"}
    assert "0,3" in found_slots(data, SHEET, "0,3")
    unused = found_slots(data, SHEET, "unused")
    assert unused and not unused & used_slots(data, SHEET)
    assert tile(0, 0).slot not in unused
    assert found_slots(data, SHEET, "alike") == set()
    tileset = data.tileset(SHEET)
    rgba = np.array(tileset.sheet.rgba)
    rgba[:4, :4] = rgba[:4, 4:8]
    assert alike_slots(replace(tileset, sheet=picture_of(rgba))) == [("0,0", "0,1")]


def test_heights_begin_as_the_slope_is_drawn():
    pixels = np.zeros((4, 4, 4), np.uint8)
    for x, high in enumerate((1, 2, 3, 4)):
        pixels[4 - high :, x, 3] = 255
    assert drawn_heights(pixels, 4) == (0.25, 0.5, 0.75, 1.0)
    assert drawn_heights(pixels, 2) == (0.25, 1.0)
    assert drawn_heights(np.zeros_like(pixels), 2) == (0.0, 0.0)


@pytest.mark.parametrize("heights", [(0.5,), (0.0, 1.2), (-0.1, 0.0)])
def test_a_slope_needs_two_heights_within_the_cell(heights):
    with pytest.raises(BadValue, match="heights of a slope"):
        Slot((0, 0), heights=heights)
