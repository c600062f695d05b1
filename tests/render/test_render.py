"""Pixels: what is premultiplied, scaled and laid over comes out right."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import SHEET, SIDE, small_room, tile
from topion.brushes import Stamp
from topion.demo.brinehollow import ROOM, brinehollow
from topion.grid.boxes import Box
from topion.model.edit import Edit
from topion.model.tileset import Cut, Slot, TileRef, TileSet
from topion.render.atlas import atlas_of, tile_picture
from topion.render.cards import card_picture, thumbnail
from topion.render.pixels import as_rgba, as_words, lay_over, resized
from topion.render.scene import render_box
from topion.render.shadow import Shadow


def test_solid_pixels_survive_the_way_through_words():
    rgba = np.random.default_rng(1).integers(0, 256, (9, 9, 4), np.uint8)
    rgba[..., 3] = 255
    assert np.array_equal(as_rgba(as_words(rgba)), rgba)


def test_half_clear_red_over_blue_is_purple():
    below = as_words(np.array([[[0, 0, 255, 255]]], np.uint8))
    lay_over(below, as_words(np.array([[[255, 0, 0, 128]]], np.uint8)))
    assert np.abs(as_rgba(below)[0, 0].astype(int) - [128, 0, 127, 255]).max() <= 1


@given(st.integers(1, 9), st.integers(1, 9))
def test_scaling_keeps_a_plain_colour_plain(height, width):
    words = np.full((6, 5), 0xFF336699, np.uint32)
    assert (resized(words, height, width) == 0xFF336699).all()


def test_scaling_down_averages():
    words = as_words(np.array([[[0, 0, 0, 255], [200, 100, 50, 255]]], np.uint8))
    assert as_rgba(resized(words, 1, 1))[0, 0].tolist() == [100, 50, 25, 255]


def test_an_atlas_copies_turns_tileed_and_mirrored():
    room = small_room((6, 6))
    turned = TileRef(SHEET, "0,0", 2, True)
    room.project.add_brush(Stamp("Turned", ((turned,),)))
    room.lay("Turned", cells=[(2, 3)])
    here = room.render(1)[2 * SIDE : 3 * SIDE, 3 * SIDE : 4 * SIDE]
    plain = tile_picture(room.project.data, tile(0, 0))
    assert np.array_equal(here, np.rot90(plain, -2)[:, ::-1]) and not np.array_equal(here, plain)


def test_an_animated_tile_shows_its_frame_of_the_time():
    room = small_room((4, 4))
    sheet = room.project.data.tilesets[SHEET].sheet
    slots = {"wave": Slot((0, 0), frames=((1, 1), (2, 2)), frame_ms=100)}
    room.project.add_tileset(TileSet("sea", sheet, Cut((SIDE, SIDE)), slots))
    room.project.add_brush(Stamp("Wave", ((TileRef("sea", "wave"),),)))
    atlas = atlas_of(room.project.data, SIDE)
    number = len(room.project.data.tiles)
    tileset = room.project.data.tilesets["sea"]
    out = np.empty((SIDE, SIDE), np.uint32)
    for time_ms, at in ((0, (0, 0)), (150, (1, 1)), (250, (2, 2)), (300, (0, 0))):
        atlas.set_time(time_ms)
        atlas.into(out, np.array([[number]], np.uint16))
        assert np.array_equal(as_rgba(out), tileset.pixels(at))
    assert atlas.set_time(310) is False and atlas.animated[number]


def test_part_of_a_room_is_drawn_as_in_the_whole():
    room = brinehollow().room(ROOM)
    whole = render_box(room.project.data, room.data, room.data.box, 8)
    part = render_box(room.project.data, room.data, Box((10, 20), (40, 60)), 8)
    assert np.array_equal(part, whole[80:320, 160:480])


def test_a_layer_offset_moves_its_picture(room):
    room.add_layer("Upper", "tiles")
    room.lay("Water", cells=[(4, 4)], layer="Upper")
    before = room.render(1, layer="Upper")
    room.set_layer("Upper", offset=(1.5, -0.5))
    after = room.render(1, layer="Upper")
    assert np.array_equal(np.roll(before, (6, -2), (0, 1)), after)


def test_a_shadow_shows_an_edit_and_leaves_the_room_as_it_is(room):
    before = room.render(1)
    shadow = Shadow(room.project.data, "Yard")
    for brush, way in (
        ("Water", {"box": ((2, 2), (6, 6))}),
        ("Lamp", {"cells": [(9, 9)]}),
        ("Reeds", {"box": ((3, 3), (20, 20))}),
        ("Stones", {"cells": [(2, 2)]}),
    ):
        edit = room.plan(brush, **way)
        shadow.show(edit)
        ghost = render_box(shadow.project, shadow.room, shadow.room.box, SIDE)
        assert np.array_equal(room.render(1), before)
        room.project.history.apply(edit)
        assert np.array_equal(as_rgba(ghost), room.render(1))
        room.project.undo()
    shadow.show(Edit("nothing"))
    assert np.array_equal(
        as_rgba(render_box(shadow.project, shadow.room, shadow.room.box, SIDE)), before
    )


def test_every_card_of_the_demo_shows_what_its_brush_lays():
    project = brinehollow().data
    pictures = {b.name: card_picture(project, b) for b in project.brushes.values()}
    for name in ("Pump stand", "Brine pump parts"):
        assert pictures.pop(name).shape == (128, 80, 4), "as tall as what it lays"
    assert pictures.pop("Brine pump").shape == (160, 192, 4), "seen whole"
    assert {p.shape for p in pictures.values()} == {
        (64, 80, 4), (61, 83, 4), (80, 80, 4), (96, 128, 4),
    }  # fmt: skip
    alike = len(pictures) - len({p.tobytes() for p in pictures.values()})
    assert alike == 0 and pictures["Tower brick"].shape == (61, 83, 4)


def test_a_thumbnail_of_a_large_room_stays_small():
    room = small_room((900, 700))
    assert max(thumbnail(room.project.data, room.data, "ground", 100).shape) <= 100
    assert atlas_of(room.project.data, 1).side == 1


def test_from_afar_things_are_dots_of_their_own_colour():
    room = small_room((20, 20))
    room.lay("Bush", cells=[(4, 7)])
    near = room.render(1, layer="Things")[4 * SIDE + 2, 7 * SIDE + 2]
    far = room.render(0.25, layer="Things")
    assert np.argwhere(far[..., 3]).tolist() == [[4, 7]]
    assert np.abs(far[4, 7].astype(int) - near).max() <= 2
