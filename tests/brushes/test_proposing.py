"""Brushes that are proposed for a sheet: sound whatever the sheet shows."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from topion import scripting
from topion.brushes.proposing import MOST_BRUSHES, proposed_brushes
from topion.edit.proposed import sheet_with_brushes
from topion.errors import TopionError
from topion.kit import flat
from topion.model.tileset import Cut, TileSet
from topion.pictures.png import picture_of

TILE = 8
INKS = [
    (0, 0, 0, 0),
    (200, 60, 40, 255),
    (60, 140, 60, 255),
    (40, 40, 60, 255),
    (90, 160, 200, 160),
]


def tile(kind: int) -> np.ndarray:
    """Plain, framed, halved or speckled tiles of one ink."""
    ink, how = INKS[kind % len(INKS)], kind // len(INKS) % 4
    pixels = np.tile(np.array(ink, np.uint8), (TILE, TILE, 1))
    if how == 1:
        pixels[[0, -1]] = pixels[:, [0, -1]] = (250, 250, 250, 255)
    elif how == 2:
        pixels[: TILE // 2] = 0
    elif how == 3:
        pixels[::3, ::2] = (250, 230, 120, 255)
    return pixels


SHEETS = st.integers(1, 7).flatmap(
    lambda wide: st.lists(
        st.lists(st.integers(0, 19), min_size=wide, max_size=wide), min_size=1, max_size=7
    )
)


def sheet(kinds: list[list[int]]) -> TileSet:
    rows = [np.concatenate([tile(kind) for kind in row], axis=1) for row in kinds]
    return TileSet("Any", picture_of(np.concatenate(rows)), Cut((TILE, TILE)))


@given(SHEETS)
def test_each_proposal_has_a_free_name_and_tiles_that_are_there(kinds):
    made, taken = sheet(kinds), {"Red", "Green"}
    found = [brush for _, brush in proposed_brushes(made, taken)]
    names = [brush.name for brush in found]
    assert len(names) == len(set(names)) <= MOST_BRUSHES and not taken & set(names)
    there = made.filled_slots()
    assert {ref.slot for brush in found for ref in brush.tiles_used()} <= set(there)


@given(SHEETS)
def test_no_slot_is_proposed_twice(kinds):
    used = [ref.slot for _, brush in proposed_brushes(sheet(kinds), set())
            for ref in set(brush.tiles_used())]  # fmt: skip
    assert len(used) == len(set(used))


@given(SHEETS)
def test_the_same_sheet_is_proposed_the_same(kinds):
    assert proposed_brushes(sheet(kinds), set()) == proposed_brushes(sheet(kinds), set())


@given(SHEETS)
def test_each_proposal_lays_and_is_taken_back(kinds):
    project = scripting.new(None, "P")
    try:
        edit, names = sheet_with_brushes(project.data, sheet(kinds))
    except TopionError:  # a sheet without a pixel
        assert not any(kind % len(INKS) for row in kinds for kind in row)
        return
    project.history.apply(edit)
    room = project.add_room("R", (12, 12))
    for name in names:
        room.lay(name, box=((1, 1), (9, 9)))
        assert not project.check() and room.render()[..., 3].any()
        project.undo()
    project.undo()
    project.undo()
    assert not project.data.tilesets and not set(names) & set(project.data.brushes)


def test_a_drawing_with_a_corner_left_out_leaves_what_stands_there_to_another():
    found = [brush for _, brush in proposed_brushes(sheet([[1, 9], [5, 9]]), set())]
    (corner,) = (
        brush for brush in found if brush.kind == "stamp" and brush.summary()[-3:] == "2×2"
    )
    assert {ref.slot for ref in corner.tiles_used()} == {"0,1", "1,0", "1,1"}
    assert any({ref.slot for ref in brush.tiles_used()} == {"0,0"} for brush in found)


def test_a_sheet_of_very_many_slots_is_not_searched():
    art = flat.tileset(8).sheet.rgba
    many = np.tile(art, (8, 8, 1))
    found = proposed_brushes(TileSet("Many", picture_of(many), Cut((8, 8))), set())
    assert len(found) <= MOST_BRUSHES
