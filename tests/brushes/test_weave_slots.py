"""From marked slots to a weave that covers all 47 cases, whatever order they lie in."""

import numpy as np
import pytest

from topion.brushes.weave_slots import cases_by_pixels, weave_layouts, weave_of
from topion.demo.brinehollow import library
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.grid.neighbours import NAMES_8, cases_47
from topion.model.tileset import Cut, TileSet
from topion.pictures.png import picture_of
from topion.weaving.cover import cover
from topion.weaving.loom import Loom
from topion.weaving.ready import ALL, PARTS, open_in

PX = 16


def drawn_case(mask, seed=0):
    """A tile of mud with a rim of grass where a case is open, and some noise."""
    rng = np.random.default_rng(seed * 1000 + mask)
    tile = np.full((PX, PX, 4), (150, 110, 70, 255), np.uint8)
    sides, corners = open_in(mask)
    rim = np.zeros((PX, PX), bool)
    for name in (*sides, *corners):
        rows = slice(0, 4) if "n" in name else slice(12, 16) if "s" in name else slice(None)
        columns = slice(0, 4) if "w" in name else slice(12, 16) if "e" in name else slice(None)
        rim[rows, columns] = True
    tile[rim, :3] = (60, 130, 70)
    tile[..., :3] += rng.integers(0, 14, (PX, PX, 3), dtype=np.uint8)
    return tile


def sheet_of(masks, columns):
    rows = -(-len(masks) // columns)
    rgba = np.zeros((rows * PX, columns * PX, 4), np.uint8)
    for n, mask in enumerate(masks):
        if mask is not None:
            y, x = divmod(n, columns)
            rgba[y * PX : (y + 1) * PX, x * PX : (x + 1) * PX] = drawn_case(mask, n)
    return TileSet("drawn", picture_of(rgba), Cut((PX, PX)))


def whole(tileset):
    return Box((0, 0), tileset.grid_shape)


def book_of(weave):
    refs = {ref: n for n, ref in enumerate(weave.tiles_used(), 1)}
    return Loom((weave.name,), {weave.name: weave.rules}, {}, refs).book_of(1)


@pytest.mark.parametrize("seed", range(5))
def test_pixels_tell_all_47_cases_in_any_order(seed):
    masks = np.random.default_rng(seed).permutation(cases_47()).tolist()
    assert cases_by_pixels(np.stack([drawn_case(m) for m in masks])) == masks


@pytest.mark.parametrize("names, columns", [
    (["inside"], 1),
    (["inside", "n", "nw", "inner se", "alone"], 5),
    (["inside", "n", "nw", "inner se", "strip w e", "alone"], 3),
    (["nw", "n", "ne", "inner se", "inner sw", "w", "inside", "e", "inner ne", "inner nw",
      "sw", "s", "se", None, None], 5),
    (["nw", "n", "ne", "inner se", "inner sw", "w", "inside", "e", "inner ne", "inner nw",
      "sw", "s", "se", "inner nw se", "inner ne sw"], 5),
    (["nw", "n", "ne", "end n", "w", "inside", "e", "strip n s", "sw", "s", "se", "end s",
      "end w", "strip w e", "end e", "alone"], 4),
])  # fmt: skip
def test_a_known_arrangement_is_guessed_and_covers_all_cases(names, columns):
    tileset = sheet_of([None if name is None else PARTS[name] for name in names], columns)
    best = weave_layouts(tileset, whole(tileset))[0]
    assert best.agrees == 1.0
    filled = [name for name in names if name is not None]
    assert [best.cases[at] for at in sorted(best.cases)] == [PARTS[name] for name in filled]
    weave = weave_of(tileset, whole(tileset), set())
    assert all(case.by != "open" for case in cover(book_of(weave)))
    assert len(weave.rules.rules) == len(filled)


def test_sixteen_corners_in_an_order_nobody_told_are_found_by_their_pixels():
    corners = [0, *(PARTS[n] for n in PARTS if n in NAMES_8 or n.startswith("inner")), ALL]
    masks = np.random.default_rng(3).permutation(corners).tolist()
    tileset = sheet_of(masks, 4)
    best = weave_layouts(tileset, whole(tileset))[0]
    assert best.words.startswith("by their pixels")
    assert [best.cases[at] for at in sorted(best.cases)] == masks


def test_forty_seven_slots_lay_each_case_by_its_own_tile():
    tileset = sheet_of([*cases_47(), None], 8)
    weave = weave_of(tileset, whole(tileset), set())
    answers = cover(book_of(weave))
    assert len({case.number for case in answers}) == 47
    assert {case.by for case in answers} == {"own"}


def test_slots_that_show_the_same_case_are_variants_of_one_rule():
    tileset = sheet_of([ALL, ALL, ALL, PARTS["n"], PARTS["s"]], 5)
    layout = weave_layouts(tileset, whole(tileset))[0]
    assert len(layout.tiles(tileset)[ALL]) == 3


def test_empty_slots_make_no_weave():
    tileset = sheet_of([ALL, None, None, None], 2)
    assert weave_layouts(tileset, Box((1, 0), (2, 2))) == []
    with pytest.raises(BadValue, match="not empty"):
        weave_of(tileset, Box((1, 0), (2, 2)), set())


def test_sides_of_tiles_with_soft_and_ragged_rims_are_seen():
    """Of the demo's own sheet, each tile is named for the case it was drawn for."""
    tileset = library().data.tileset("Saltworks")
    for stem in ("mud", "grass", "deep", "pan", "brick", "slate", "boardwalk"):
        drawn = {}
        for name, slot in tileset.slots.items():
            material, _, rest = name.rpartition(f"{stem} ")
            mask, _, letter = rest.partition(" ")
            if not material and letter == "a" and mask.isdigit():
                drawn[slot.at] = int(mask)
        assert len(drawn) >= 16
        seen = cases_by_pixels(np.stack([tileset.pixels(at) for at in drawn]))
        sides = sum(1 << bit for bit, name in enumerate(NAMES_8) if len(name) == 1)
        assert [mask & sides for mask in seen] == [mask & sides for mask in drawn.values()]
