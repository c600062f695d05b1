"""The cut of a sheet is seen in the picture, whatever its tiles, gaps and sizes."""

from __future__ import annotations

import numpy as np
import pytest

from tests.sheets import (
    bevel,
    brick,
    diamond,
    figure,
    flat,
    glyph,
    ground,
    loose_sheet,
    mixed_sizes,
    nothing,
    patches,
    sheet,
    sprite,
)
from topion.errors import BadValue
from topion.formats.sheet import count_slots
from topion.formats.sheet_cuts import proposals
from topion.model.tileset import Cut, TileSet
from topion.pictures.png import picture_of

WHITE, PINK, BLACK = (255, 255, 255, 255), (255, 0, 255, 255), (0, 0, 0, 255)
SHEETS = {
    "ground": (sheet((16, 16), 8, 8, ground), Cut((16, 16))),
    "one colour each": (sheet((8, 8), 8, 16, flat), Cut((8, 8))),
    "edges of light and shadow": (sheet((32, 32), 5, 5, bevel), Cut((32, 32))),
    "bricks that repeat in the tile": (sheet((16, 16), 8, 8, brick, ground), Cut((16, 16))),
    "sprites with free rims": (sheet((32, 32), 5, 8, sprite), Cut((32, 32))),
    "sprites and empty slots": (sheet((48, 48), 4, 6, sprite, figure, nothing), Cut((48, 48))),
    "figures taller than wide": (sheet((24, 16), 4, 12, figure), Cut((24, 16))),
    "a strip of ground": (sheet((24, 24), 1, 8, ground), Cut((24, 24))),
    "a strip of figures": (sheet((32, 16), 1, 10, figure), Cut((32, 16))),
    "diamonds": (sheet((32, 64), 4, 6, diamond), Cut((32, 64))),
    "a font": (sheet((8, 8), 16, 16, glyph), Cut((8, 8))),
    "clear gaps and a margin": (
        sheet((16, 16), 6, 9, ground, sprite, margin=1, spacing=1), Cut((16, 16), 1, 1)),
    "clear gaps alone": (sheet((16, 16), 12, 20, ground, sprite, nothing, spacing=1),
                         Cut((16, 16), 0, 1)),
    "pink gaps": (sheet((16, 16), 6, 9, ground, margin=1, spacing=1, fill=PINK),
                  Cut((16, 16), 1, 1)),
    "white gaps": (sheet((24, 24), 6, 9, ground, margin=2, spacing=2, fill=WHITE),
                   Cut((24, 24), 2, 2)),
    "black gaps": (sheet((18, 18), 6, 9, ground, spacing=1, fill=BLACK), Cut((18, 18), 0, 1)),
    "70 px": (sheet((70, 70), 4, 6, ground, sprite, figure, spacing=2), Cut((70, 70), 0, 2)),
    "21 px": (sheet((21, 21), 8, 12, ground, sprite, margin=2, spacing=2), Cut((21, 21), 2, 2)),
    "20 px": (sheet((20, 20), 7, 9, ground, sprite), Cut((20, 20))),
    "100 px": (sheet((100, 100), 3, 5, ground, sprite), Cut((100, 100))),
    "128 px": (sheet((128, 128), 2, 4, ground, sprite), Cut((128, 128))),
    "4 px": (sheet((4, 4), 6, 8, ground), Cut((4, 4))),
    "patches of three by three": (patches(16, 4, 4), Cut((16, 16))),
    "drawings of many tiles": (mixed_sizes(16, 16), Cut((16, 16))),
    "larger drawings of many tiles": (mixed_sizes(32, 8), Cut((32, 32))),
    "half of it empty": (np.pad(sheet((16, 16), 5, 16, ground, sprite),
                                ((0, 144), (0, 0), (0, 0))), Cut((16, 16))),
    "some px left over": (np.pad(sheet((16, 16), 7, 9, ground), ((0, 5), (0, 3), (0, 0))),
                          Cut((16, 16))),
}  # fmt: skip


@pytest.mark.parametrize("name", SHEETS)
def test_the_likeliest_cut_is_the_one_the_sheet_was_drawn_with(name):
    rgba, cut = SHEETS[name]
    assert proposals(rgba)[0].cut == cut


def test_several_cuts_are_proposed_and_no_two_alike():
    found = [proposal.cut for proposal in proposals(SHEETS["bricks that repeat in the tile"][0])]
    assert Cut((8, 8)) in found[1:] and len(set(found)) == len(found) <= 6


def test_drawings_that_lie_loosely_are_cut_one_by_one():
    rgba = loose_sheet()
    cut = proposals(rgba)[0].cut
    assert cut.rects and count_slots(rgba, cut).slots == len(cut.rects)
    for y, x, height, width in cut.rects:
        part = rgba[y : y + height, x : x + width, 3]
        assert part[0].any() and part[-1].any() and part[:, 0].any() and part[:, -1].any()
    covered = np.zeros(rgba.shape[:2], int)
    for y, x, height, width in cut.rects:
        covered[y : y + height, x : x + width] += 1
    assert ((covered == 1) == (covered > 0)).all() and (covered[rgba[..., 3] > 0] == 1).all()
    rows = [rect[0] for rect in cut.rects]
    assert rows == sorted(rows)  # they are numbered as one reads


@pytest.mark.parametrize("shape", [(37, 41), (300, 200)])
def test_noise_has_no_cut(shape):
    noise = np.random.default_rng(1).integers(0, 255, (*shape, 4), np.uint8)
    assert proposals(noise) == []
    assert proposals(np.zeros((*shape, 4), np.uint8)) == []


def test_a_slot_smaller_than_the_tile_stands_in_its_middle_on_its_ground():
    rgba = loose_sheet()
    cut = Cut((40, 30), rects=((3, 3, 12, 20), (60, 10, 40, 30)))
    tileset = TileSet("Loose", picture_of(rgba), cut)
    small = tileset.pixels((0, 0))
    assert small.shape == (40, 30, 4)
    assert np.array_equal(small[28:, 5:25], rgba[3:15, 3:23])
    assert not small[:28].any() and not small[:, :5].any() and not small[:, 25:].any()
    assert np.array_equal(tileset.all_pixels()[0, 1], rgba[60:100, 10:40])
    assert tileset.slot("0,1").at == (0, 1)


@pytest.mark.parametrize("rect", [(0, 0, 41, 10), (0, 0, 10, 31), (-1, 0, 5, 5), (0, 0, 0, 5)])
def test_a_rectangle_that_is_no_part_of_a_tile_is_refused(rect):
    with pytest.raises(BadValue, match="rectangle of the cut"):
        Cut((40, 30), rects=(rect,))


def test_more_rectangles_than_memory_may_hold_are_refused():
    with pytest.raises(BadValue, match="fewer of large tiles"):
        Cut((512, 512), rects=((0, 0, 1, 1),) * 4000)


def test_rectangles_beside_the_sheet_are_refused():
    with pytest.raises(BadValue):
        TileSet("Loose", picture_of(loose_sheet()), Cut((40, 30), rects=((250, 10, 40, 30),)))
