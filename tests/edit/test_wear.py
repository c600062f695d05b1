"""Tint maps, palettes and what a room is worn in, as Edits."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.looks import tinted_room, with_palette
from tests.rooms import small_room
from topion.brushes import Stamp, TintBrush
from topion.brushes.marks import Place
from topion.edit.clips import clip_of
from topion.edit.picked import Picks
from topion.edit.picked_moves import moved as moved_picks
from topion.edit.rooms import remove_layer
from topion.edit.wear import set_palette
from topion.errors import BadValue
from topion.formats.clips import clip_text, read_clip
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.model.palette import Tint, changed, moved, with_tint
from topion.scripting import RoomHandle


def codes(room: RoomHandle, cell: tuple[int, int]) -> tuple[int, int, int]:
    layer = room.data.worn_tint
    assert layer is not None
    fore, back, bright = (int(layer.plane(name)[cell]) for name in ("fore", "back", "bright"))
    return fore, back, bright


def test_the_left_hand_gives_the_foreground_and_the_right_the_background():
    room = small_room()
    with_palette(room.project)
    brush = TintBrush("Both", 2, 3)
    room.lay(brush.in_hand("left"), cells=[(2, 2)])
    room.lay(brush.in_hand("right"), cells=[(2, 2), (3, 3)])
    assert codes(room, (2, 2)) == (2, 3, 0)
    assert codes(room, (3, 3)) == (0, 3, 0)


def test_what_is_left_as_it_is_stays():
    room = tinted_room()
    before = codes(room, (2, 2))
    room.lay(TintBrush("B", -1, -1, "bright"), cells=[(2, 2)])
    assert codes(room, (2, 2)) == (*before[:2], 1)


def test_a_brush_that_gives_nothing_says_so():
    room = tinted_room()
    edit = TintBrush("Nothing", -1, -1).plan(Place(room.project.data, "Yard"), marks(room))
    assert not edit
    assert "as they are" in edit.refused[0]


def marks(room: RoomHandle):
    from topion.brushes.marks import Marks

    return Marks(np.array([(1, 1), (2, 2)]))


def test_the_first_stroke_in_a_room_without_a_map_makes_one_and_wears_it():
    room = small_room()
    with_palette(room.project)
    room.lay(TintBrush("Lamp", 2), cells=[(2, 2)])
    assert [layer.info.name for _, layer in room.data.tint_maps()] == ["Tints"]
    assert codes(room, (2, 2)) == (2, 0, 0)
    room.project.undo()
    assert room.data.tint_maps() == []
    assert room.data.info.tint == ""


def test_lifting_a_tint_gives_cells_their_own_colours_again():
    room = tinted_room()
    room.lay(TintBrush("Both", 1, 2, both=True).lifting(), box=((0, 0), (11, 15)))
    layer = room.data.worn_tint
    assert layer is not None
    assert layer.is_empty


def test_a_brush_is_set_to_the_colours_of_a_cell_that_is_pointed_at():
    room = tinted_room()
    place = Place(room.project.data, "Yard")
    found = TintBrush("Any").taken_at(place, (2, 2))
    assert (found.fore, found.back, found.bright) == (1, 2, "plain")
    assert TintBrush("Any").taken_at(place, (9, 12)).bright == "bright"
    room.wear(tint="")
    with pytest.raises(BadValue, match="tint map that is worn"):
        TintBrush("Any").taken_at(Place(room.project.data, "Yard"), (2, 2))


def test_a_map_that_is_taken_away_is_not_worn_any_more_and_undo_puts_it_on():
    room = tinted_room()
    worn = room.data.info.tint
    room.project.history.apply(remove_layer(room.project.data, "Yard", worn))
    assert room.data.info.tint == ""
    room.project.undo()
    assert room.data.info.tint == worn
    assert codes(room, (2, 2)) == (1, 2, 0)


def test_another_order_of_the_palette_changes_no_picture():
    room = tinted_room()
    before = room.render()
    data = room.project.data
    room.project.history.apply(set_palette(data, moved(data.palette, 1, 3)))
    assert [tint.number for tint in data.palette] == [2, 3, 4, 1]
    assert np.array_equal(room.render(), before)


def test_another_colour_shows_at_once_and_undo_brings_the_old_one():
    room = tinted_room()
    before, data = room.render(), room.project.data
    room.project.history.apply(set_palette(data, changed(data.palette, 1, colour="#ff0000")))
    assert not np.array_equal(room.render(), before)
    room.project.undo()
    assert np.array_equal(room.render(), before)


def test_a_colour_of_a_name_that_is_there_gets_another():
    palette = with_tint(with_tint((), "Lamp", "#aabbcc"), "Lamp", "#112233")
    assert [(t.number, t.name) for t in palette] == [(1, "Lamp"), (2, "Lamp 2")]
    with pytest.raises(BadValue, match="each once"):
        changed(palette, 2, name="Lamp")


def test_a_palette_takes_no_more_than_64_colours():
    palette: tuple[Tint, ...] = ()
    for number in range(64):
        palette = with_tint(palette, f"C{number}", "#102030")
    with pytest.raises(BadValue, match="64"):
        with_tint(palette, "More", "#102030")


@settings(max_examples=20, deadline=None)
@given(st.lists(st.tuples(st.integers(-1, 4), st.integers(-1, 4), st.integers(0, 2),
                          st.integers(0, 8), st.integers(0, 8)), min_size=1, max_size=6))  # fmt: skip
def test_undoing_strokes_of_tints_gives_back_every_cell(strokes):
    room = small_room((9, 9))
    with_palette(room.project)
    history = room.project.history
    start = history.at
    before = room.data.revision, room.render()
    for fore, back, form, y, x in strokes:
        word = ("as is", "bright", "plain")[form]
        history.apply(
            TintBrush("T", fore, back, word, both=True).plan(
                Place(room.project.data, "Yard"), cross(y, x)
            )
        )
    history.jump(start)
    assert room.data.tint_maps() == []
    assert np.array_equal(room.render(), before[1])


def cross(y: int, x: int):
    from topion.brushes.marks import Marks

    cells = [(y, x), (min(8, y + 1), x), (y, min(8, x + 1))]
    return Marks(np.unique(np.array(cells), axis=0))


# --- stamps -------------------------------------------------------------------------------


def test_a_stamp_takes_tints_along_with_the_colours_by_name():
    room = tinted_room()
    room.project.history.apply(set_palette(room.project.data, room.project.data.palette))
    room.keep_stamp("Piece", ((1, 1), (3, 3)))
    stamp = room.project.data.brush("Piece")
    assert isinstance(stamp, Stamp)
    assert {tint.name for tint in stamp.content.tints} == {"Night", "Lamp"}
    room.lay("Piece", cells=[(10, 13)])
    tinted = np.argwhere(room.data.worn_tint.plane("fore")[9:, 11:])
    assert len(tinted)


def test_a_stamp_in_another_project_brings_its_colours_into_the_palette():
    room = tinted_room()
    room.keep_stamp("Piece", ((1, 1), (3, 3)))
    other = small_room()
    other.project.add_tint("Own", "#123456")
    other.add_tint_map("Dusk")
    other.project.add_brush(room.project.data.brush("Piece"))
    other.lay("Piece", cells=[(5, 5)])
    names = {tint.name: tint.number for tint in other.project.data.palette}
    assert names == {"Own": 1, "Night": 2, "Lamp": 3}
    layer = other.data.worn_tint
    assert set(np.unique(layer.plane("fore")).tolist()) == {0, 2}
    assert set(np.unique(layer.plane("back")).tolist()) == {0, 3}
    other.project.undo()
    assert [tint.name for tint in other.project.data.palette] == ["Own"]


def test_the_survey_names_colours_and_themes_that_are_not_there():
    room = tinted_room()
    data = room.project.data
    assert not [f for f in room.project.check() if f.check == "unknown look"]
    room.project.history.apply(set_palette(data, data.palette[1:]))
    found = [f for f in room.project.check() if f.check == "unknown look"]
    assert found[0].sentence == "tint map Evening speaks of colour 1, which is not there"
    assert found[0].cell == (1, 1)


def test_what_is_picked_moves_with_its_tints():
    room = tinted_room()
    ids = (*(known for known, _ in room.data.drawn()), room.data.info.tint)
    area = Area.of_box(Box((1, 1), (3, 3)))
    room.project.history.apply(
        moved_picks(room.project.data, "Yard", Picks((), area, ids), (0, 10))
    )
    assert codes(room, (1, 1)) == (0, 0, 0)
    assert codes(room, (1, 11)) == codes(room, (2, 12)) == (1, 2, 0)


def test_tints_cross_the_clipboard_by_name():
    room = tinted_room()
    room.keep_stamp("Piece", ((1, 1), (3, 3)))
    scrap = room.project.data.brush("Piece").content
    text = clip_text(clip_of(room.project.data, scrap, "Piece", (0, 0)))
    found = read_clip(text.encode() if isinstance(text, str) else text)
    assert found.scrap.tints == scrap.tints
    assert found.scrap == scrap


def test_a_room_that_grows_keeps_its_tints_where_they_were():
    room = tinted_room()
    room.resize((14, 18), (2, 1))
    assert codes(room, (4, 3)) == (1, 2, 0)
    assert codes(room, (0, 0)) == (0, 0, 0)
    room.project.undo()
    assert codes(room, (2, 2)) == (1, 2, 0)
