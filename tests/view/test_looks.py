"""Looks in the window: tint strokes, themes, tint maps, palette and light by pointer and keys."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt

from tests.looks import two_tone_project
from tests.rooms import SHEET, sheet_picture
from topion.brushes import TintBrush
from topion.edit.wear import add_tint_map
from topion.model.light import READY
from topion.pictures.png import png_bytes

LEFT, RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton
CONTROL = Qt.KeyboardModifier.ControlModifier
ALT = Qt.KeyboardModifier.AltModifier


@pytest.fixture
def tinter(designer):
    """A designer with a palette, a two-tone sheet and a tint brush in both hands."""
    two_tone_project(designer.handle)
    designer.handle.add_brush(TintBrush("Tint", 2, 1))
    for hand in ("left", "right"):
        designer.session.hands.take(hand, "Tint")
    designer.settle()
    return designer


def code(designer, cell):
    layer = designer.room.data.worn_tint
    return tuple(int(layer.plane(p)[cell]) for p in ("fore", "back", "bright"))


def click(designer, widget, at, button=LEFT):
    designer.qtbot.mouseClick(widget, button, pos=QPoint(int(at.x()), int(at.y())))
    designer.settle(150)


def test_the_left_button_gives_the_foreground_and_the_right_the_background(tinter):
    tinter.stroke((3, 3), (3, 6))
    tinter.stroke((3, 5), (3, 8), button=RIGHT)
    assert code(tinter, (3, 3)) == (2, 0, 0)
    assert code(tinter, (3, 6)) == (2, 1, 0)
    assert code(tinter, (3, 8)) == (0, 1, 0)


def test_the_ghost_shows_the_colours_before_the_press(tinter):
    tinter.handle.add_brush(TintBrush("Tint", 2, 1, both=True))
    plain = tinter.pixels((5, 5))
    tinter.hover((5, 5))
    ghost = tinter.pixels((5, 5))
    assert ghost != plain
    tinter.stroke((5, 5))
    tinter.hover((5, 5))
    assert tinter.pixels((5, 5)) == ghost


def test_holding_lift_takes_only_what_the_hand_gives(tinter):
    tinter.stroke((4, 4), (4, 7))
    tinter.stroke((4, 4), (4, 7), button=RIGHT)
    tinter.hold(Qt.Key.Key_E)
    tinter.stroke((4, 5))
    tinter.release(Qt.Key.Key_E)
    assert code(tinter, (4, 4)) == (2, 1, 0)
    assert code(tinter, (4, 5)) == (0, 1, 0)


def test_picking_sets_the_brush_to_the_colours_under_the_pointer(tinter):
    tinter.stroke((4, 4))
    tinter.handle.add_brush(TintBrush("Tint", 4, 4))
    tinter.press((4, 4), modifier=ALT)
    tinter.let_go((4, 4))
    brush = tinter.handle.data.brush("Tint")
    assert (brush.fore, brush.back) == (2, 0)


@pytest.mark.parametrize(("key", "cells"), [(Qt.Key.Key_B, 12), (Qt.Key.Key_L, 4)])
def test_tints_go_along_with_every_gesture(tinter, key, cells):
    tinter.key(key)
    tinter.stroke((2, 2), (4, 5) if key == Qt.Key.Key_B else (2, 5))
    assert int(np.count_nonzero(tinter.room.data.worn_tint.plane("fore"))) == cells


def test_a_click_on_a_picture_wears_that_map_and_changes_no_cell(tinter):
    tinter.stroke((3, 3), (3, 9))
    tinter.session.try_(add_tint_map, "Yard")
    revision = tinter.room.data.cell_layers()[0][1].revision
    tinter.window.show_looks()
    looks = tinter.window.looks
    tinter.settle(300)
    assert [c.name for c in looks.tints.choices] == ["None", "Tints", "Tints 2"]
    before = tinter.shown((3, 5))
    click(tinter, looks.tints, looks.tints.tile_rect(1).center())
    assert tinter.room.data.worn_tint.info.name == "Tints"
    click(tinter, looks.tints, looks.tints.tile_rect(0).center())
    assert tinter.room.data.worn_tint is None
    assert tinter.room.data.cell_layers()[0][1].revision == revision
    looks.put_away()
    assert tinter.shown((3, 5)) == before


def test_pictures_of_the_maps_are_drawn_and_differ(tinter):
    tinter.handle.add_brush(TintBrush("Tint", 2, 1, both=True))
    tinter.key(Qt.Key.Key_B)
    tinter.stroke((1, 1), (9, 12))
    tinter.window.show_looks()
    looks = tinter.window.looks
    tinter.qtbot.waitUntil(lambda: looks.tint_picture(looks.tints.choices[1].key) is not None)
    pictures = [looks.tint_picture(choice.key) for choice in looks.tints.choices]
    assert pictures[0] != pictures[1]


def test_the_words_beside_the_maps_copy_clear_and_remove_the_worn_one(tinter):
    tinter.stroke((3, 3), (3, 9))
    tinter.window.show_looks()
    words = tinter.window.looks.map_words
    tinter.qtbot.mouseClick(words["copy"], LEFT)
    assert tinter.room.data.worn_tint.info.name == "Tints copy"
    assert code(tinter, (3, 4)) == (2, 0, 0)
    tinter.qtbot.mouseClick(words["clear"], LEFT)
    assert code(tinter, (3, 4)) == (0, 0, 0)
    tinter.qtbot.mouseClick(words["remove"], LEFT)
    assert tinter.room.data.worn_tint is None
    assert [layer.info.name for _, layer in tinter.room.data.tint_maps()] == ["Tints"]
    tinter.session.undo()
    assert tinter.room.data.worn_tint.info.name == "Tints copy"


def test_a_swatch_goes_to_the_hand_of_the_button(tinter):
    tinter.window.show_looks()
    editor = tinter.window.looks.palette_editor
    click(tinter, editor.swatches, editor.swatches.swatch_rect(2).center())
    click(tinter, editor.swatches, editor.swatches.swatch_rect(3).center(), RIGHT)
    brush = tinter.handle.data.brush("Tint")
    assert (brush.fore, brush.back) == (3, 4)


def test_dragging_a_swatch_reorders_the_palette_and_changes_no_picture(tinter):
    tinter.key(Qt.Key.Key_B)
    tinter.stroke((1, 1), (9, 12))
    before = tinter.room.render()
    tinter.window.show_looks()
    tinter.settle(100)
    swatches = tinter.window.looks.palette_editor.swatches
    places = [swatches.swatch_rect(n).center().toPoint() for n in (0, 2)]
    tinter.qtbot.mousePress(swatches, LEFT, pos=places[0])
    tinter.qtbot.mouseRelease(swatches, LEFT, pos=places[1])
    assert [t.number for t in tinter.handle.data.palette] == [2, 3, 1, 4]
    tinter.settle(100)
    assert np.array_equal(tinter.room.render(), before)


def test_a_colour_is_typed_and_its_bright_form_follows(tinter):
    tinter.window.show_looks()
    editor = tinter.window.looks.palette_editor
    editor.code.setFocus()
    editor.code.selectAll()
    tinter.qtbot.keyClicks(editor.code, "#204080")
    tinter.qtbot.keyClick(editor.code, Qt.Key.Key_Return)
    first = tinter.handle.data.palette[0]
    assert first.colour == "#204080"
    assert first.bright > "#204080"


def test_a_new_colour_a_name_and_its_removal_are_edits(tinter):
    tinter.window.show_looks()
    editor = tinter.window.looks.palette_editor
    tinter.qtbot.mouseClick(editor.add, LEFT)
    tinter.settle(200)
    editor.name.setFocus()
    editor.name.selectAll()
    tinter.qtbot.keyClicks(editor.name, "Dawn")
    tinter.qtbot.keyClick(editor.name, Qt.Key.Key_Return)
    assert [t.name for t in tinter.handle.data.palette][-1] == "Dawn"
    tinter.qtbot.mouseClick(editor.remove, LEFT)
    assert len(tinter.handle.data.palette) == 4
    tinter.session.undo()
    assert [t.name for t in tinter.handle.data.palette][-1] == "Dawn"


def test_the_row_of_a_colour_in_hand_sets_the_brush(tinter):
    row = tinter.window.in_hand.rows["fore"]
    click(tinter, row.grid, row.grid.swatch_rect(3).center())
    assert tinter.handle.data.brush("Tint").fore == 4
    tinter.qtbot.mouseClick(row.words[-1], LEFT)
    assert tinter.handle.data.brush("Tint").fore == -1


def test_a_sheet_brought_in_as_a_theme_is_worn_and_lists_what_it_lacks(tinter, tmp_path):
    path = tmp_path / "ice.png"
    rgba = sheet_picture(columns=6).rgba.copy()
    rgba[..., 2] = 255
    path.write_bytes(png_bytes(rgba))
    before = tinter.shown((10, 10))
    tinter.window.show_looks()
    tinter.window.looks.bring_in(SHEET, path, "Ice")
    tinter.settle(200)
    assert tinter.room.data.info.theme == "Ice"
    assert "As in the first" in tinter.window.looks.missing.text()
    tinter.window.looks.put_away()
    assert tinter.shown((10, 10)) != before


def test_a_light_is_chosen_by_a_click_and_is_kept_with_the_room(modeller):
    hand = modeller
    hand.window.show_looks()
    looks = hand.window.looks
    hand.settle(200)
    night = list(READY).index("Night")
    at = looks.lights.tile_rect(night).center()
    hand.qtbot.mouseClick(looks.lights, LEFT, pos=QPoint(int(at.x()), int(at.y())))
    assert hand.handle.room(hand.session.room_name).data.info.light == READY["Night"]
    hand.settle(300)
    looks.put_away()
    image = hand.table.grabFramebuffer()
    sky = image.pixelColor(3, image.height() // 2)
    assert sky.lightness() < 80
    hand.session.undo()
    assert hand.handle.room(hand.session.room_name).data.info.light == READY["Plain"]


def test_a_tint_stroke_in_a_voxel_room_colours_the_block_that_is_pointed_at(modeller):
    hand = modeller
    hand.handle.add_tint("Signal", "#ff0000")
    hand.handle.add_brush(TintBrush("Red", 1))
    hand.session.hands.take("left", "Red")
    hand.settle(100)
    hand.stroke((2, 5, 5))
    layer = hand.handle.room(hand.session.room_name).data.worn_tint
    assert layer is not None
    cells = np.argwhere(layer.plane("fore") == 1)
    blocks = hand.handle.room(hand.session.room_name).data.cell_layers()[0][1]
    assert len(cells)
    assert all(blocks.plane("material")[tuple(cell)] for cell in cells)


def test_lower_detail_draws_coarser_pixels_and_is_remembered(modeller):
    modeller.away()
    full = modeller.picture()
    for word, pixels in (("half", 2), ("quarter", 4)):
        modeller.window.commands["detail"].does()
        assert modeller.table.detail == word
        coarse = modeller.picture()
        assert coarse.shape == full.shape
        width = coarse.shape[1]
        drawn = ((np.arange(width) + 0.5) * (width // pixels) / width).astype(
            int
        )  # column by column
        same = drawn[1:] == drawn[:-1]
        assert (coarse[:, 1:] == coarse[:, :-1]).all(axis=(0, 2))[same].mean() > 0.98
    assert not np.array_equal(coarse, full)
    from topion.view import settings

    assert settings.detail() == "quarter"
    modeller.window.commands["detail"].does()
    assert np.array_equal(modeller.picture(), full)


def test_a_sheet_is_made_two_tone_from_the_looks(designer):
    designer.handle.add_tint("Lamp", "#e7b45a")
    designer.handle.add_brush(TintBrush("Tint", 1, 1, both=True))
    designer.session.hands.take("left", "Tint")
    designer.hover((5, 5))
    plain = designer.pixels((5, 5))
    designer.stroke((5, 5))
    assert "takes no tints" in designer.window.said.text()
    assert designer.pixels((5, 5)) == plain
    designer.window.show_looks()
    designer.window.looks.switch_two_tone(SHEET)
    designer.window.looks.put_away()
    designer.settle(100)
    assert designer.pixels((5, 5)) != plain
    designer.session.undo()
    assert not designer.handle.data.tilesets[SHEET].two_tone


def test_the_warmth_of_the_sun_is_a_slider(modeller):
    from topion.view.panels.light_rows import warm_colour, warmth_of

    for warmth in (-1.0, -0.4, 0.0, 0.35, 1.0):
        assert warmth_of(warm_colour(warmth)) == pytest.approx(warmth, abs=0.03)
    modeller.window.show_looks()
    modeller.window.looks.light_rows.warmth.changed(0.5)
    light = modeller.handle.room(modeller.session.room_name).data.info.light
    assert light.sun == warm_colour(0.5)


def test_at_cursor_names_the_colours_of_the_cell(tinter):
    from topion.survey.at_cursor import lying_at

    tinter.stroke((4, 4))
    found = lying_at(tinter.handle.data, tinter.room.data, (4, 4))
    assert found[-1].name == "Lamp over own"
    assert found[-1].why == "tint · Tints"
    assert [lying.name for lying in lying_at(tinter.handle.data, tinter.room.data, (9, 9))] == [
        "Mud"
    ]


@pytest.mark.parametrize("key", [(Qt.Key.Key_W, CONTROL), (Qt.Key.Key_F6,)])
def test_the_looks_are_put_away_with_the_table(designer, key):
    designer.key(Qt.Key.Key_F5)
    assert designer.window.looks.isVisible()
    designer.handle.history.mark_saved()
    designer.key(*key)
    assert not designer.window.tables.isVisible() and not designer.window.looks.isVisible()
