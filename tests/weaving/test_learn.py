"""Learning: rules that reproduce what an example shows, and say what it does not tell."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import card, rule
from topion.grid.hashing import unit
from topion.grid.neighbours import cases_47
from topion.grid.turns import turned
from topion.model.tileset import TileRef
from topion.weaving.contents import INVERSE, ORIENTATIONS, Contents
from topion.weaving.example import Example
from topion.weaving.grouping import groups_of, who_beside_whom
from topion.weaving.learn import learn
from topion.weaving.loom import Loom
from topion.weaving.ready import PARTS, rules_for_cases
from topion.weaving.rules import Rule, RuleBook, Variant

NAMES = ("Mud", "Water")
PX = 4


def ref(number):
    return TileRef("sheet", f"0,{number}")


def picture(tile):
    """Noise of its own for each slot, standing as the tile does."""
    number = int(tile.slot.split(",")[1])
    noise = np.random.default_rng(number).integers(1, 255, (PX, PX, 4), np.uint8)
    return turned(noise, tile.turn, tile.mirrored)


def patches(seed, shape=(48, 48), share=0.5, water=0.0):
    """Blots of mud, and of water in what is left."""
    from scipy import ndimage

    noise = np.random.default_rng(seed).random((2, *shape))
    soft = np.stack([ndimage.gaussian_filter(plane, 1.2, mode="wrap") for plane in noise])
    cells = (soft[0] > np.quantile(soft[0], 1 - share)).astype(np.uint16)
    cells[(cells == 0) & (soft[1] > np.quantile(soft[1], 1 - water))] = 2
    return cells


def woven(cells, book):
    """The tiles of mud by a book, as an example, and what the tiles are."""
    refs = list(dict.fromkeys(book.tiles_used()))
    loom = Loom(NAMES, {"Mud": book}, {"Mud": 3}, {r: n for n, r in enumerate(refs, 1)})
    tiles = loom.whole(cells).astype(np.intp) - 1
    return Example(cells, tiles, Contents([picture(r) for r in refs])), refs


def laid_again(cells, learned, refs):
    """(h, w) looks that the learned rules lay, among those of the example and new ones."""
    again = list(dict.fromkeys(learned.book.tiles_used()))
    loom = Loom(NAMES, {"Mud": learned.book}, {"Mud": 3}, {r: n for n, r in enumerate(again, 1)})
    contents = Contents([picture(r) for r in [*refs, *again]])
    table = np.concatenate([[-1], contents.of[len(refs) :]])
    return table[loom.whole(cells)], contents


def reproduces(cells, example, refs, learned):
    looks, contents = laid_again(cells, learned, refs)
    mud = (cells == 1) & (example.tile >= 0)
    return bool((looks[mud] == contents.of[example.tile[mud]]).all())


# --- pictures -----------------------------------------------------------------------------


def test_a_picture_and_its_turned_copies_are_told_as_one():
    first = picture(ref(0))
    contents = Contents([first, *(turned(first, *way) for way in ORIENTATIONS)])
    assert contents.oriented[contents.of[0]].tolist() == contents.of[1:].tolist()
    for way in range(8):
        assert contents.oriented[contents.oriented[0, way], INVERSE[way]] == 0


def test_a_tile_that_is_not_square_does_not_stand_on_its_side():
    oblong = np.random.default_rng(1).integers(1, 255, (4, 6, 4), np.uint8)
    assert (Contents([oblong]).oriented[0] >= 0).tolist() == [True, False] * 4


# --- rules --------------------------------------------------------------------------------


@given(st.sets(st.sampled_from(cases_47()), min_size=1, max_size=14), st.integers(0, 99))
@settings(max_examples=25, deadline=None)
def test_what_known_rules_laid_is_reproduced_cell_by_cell(masks, seed):
    tiles = {mask: (Variant(ref(n)),) for n, mask in enumerate(sorted(masks))}
    cells = patches(seed)
    example, refs = woven(cells, RuleBook(rules_for_cases(tiles), beyond="open"))
    learned = learn(example, refs, NAMES, 1)
    assert learned.reproduced == learned.cells == (cells == 1).sum()
    assert reproduces(cells, example, refs, learned)
    assert not learned.contradictions


def test_thirteen_tiles_come_back_as_at_most_thirteen_rules():
    names = [n for n in PARTS if n in ("inside", "n", "s", "w", "e", "nw", "ne", "sw", "se")]
    names += [f"inner {n}" for n in ("nw", "ne", "sw", "se")]
    tiles = {PARTS[name]: (Variant(ref(n)),) for n, name in enumerate(names)}
    cells = patches(7, (96, 96))
    example, refs = woven(cells, RuleBook(rules_for_cases(tiles)))
    assert len(learn(example, refs, NAMES, 1).book.rules) <= 13


def test_tiles_that_are_one_picture_turned_become_one_rule_that_turns():
    parts = ("inside", "n", "nw", "inner se", "alone")
    tiles = {PARTS[name]: (Variant(ref(n)),) for n, name in enumerate(parts)}
    cells = patches(3, (96, 96))
    example, refs = woven(cells, RuleBook(rules_for_cases(tiles, turned=True)))
    learned = learn(example, refs, NAMES, 1)
    assert reproduces(cells, example, refs, learned)
    assert len(learned.book.rules) <= 7
    assert any(r.turned for r in learned.book.rules)


def test_named_materials_and_wide_cards_are_found_where_tiles_follow_from_them():
    wide = rule("wide", card(".....", ".....", "o....", ".....", "....."), (0, 0))
    by_water = Rule(
        "by water", (("any",) * 3, ("any", "any", "is Water"), ("any",) * 3), (Variant(ref(1)),)
    )
    plain = Rule("plain", (("any",) * 3,) * 3, (Variant(ref(2)),))
    cells = patches(11, (96, 96), water=0.5)
    for first in (Rule("wide", wide.marks, (Variant(ref(0)),)), by_water):
        example, refs = woven(cells, RuleBook((first, plain)))
        learned = learn(example, refs, NAMES, 1)
        assert reproduces(cells, example, refs, learned)
        assert len(learned.book.rules) == 2
    assert learned.book.rules[0].named == ("Water",)


def test_variants_come_back_with_their_weights():
    weights = (6.0, 3.0, 1.0)
    variants = tuple(Variant(ref(n), w) for n, w in enumerate(weights))
    tiles = {PARTS["inside"]: variants, PARTS["n"]: (Variant(ref(5)), Variant(ref(6)))}
    cells = patches(5, (128, 128))
    example, refs = woven(cells, RuleBook(rules_for_cases(tiles)))
    learned = learn(example, refs, NAMES, 1)
    assert learned.reproduced == learned.cells
    inside = {v.tile: v.weight for v in learned.book.rules[-1].variants}
    total = sum(inside.values())
    assert [inside[ref(n)] / total for n in range(3)] == pytest.approx([0.6, 0.3, 0.1], abs=0.03)
    assert len(learned.book.rules) == 2


def test_a_tile_that_strayed_is_named_as_a_contradiction():
    tiles = {PARTS["inside"]: (Variant(ref(0)),), PARTS["n"]: (Variant(ref(1)),)}
    cells = patches(5, (96, 96))
    example, refs = woven(cells, RuleBook(rules_for_cases(tiles)))
    inside = np.argwhere(example.tile == refs.index(ref(0)))
    y, x = inside[40].tolist()
    example.tile[y, x] = refs.index(ref(1))
    learned = learn(example, refs, NAMES, 1)
    (found,) = learned.contradictions
    assert (found.cell, found.tile, found.instead) == ((y, x), ref(1), ref(0))
    assert learned.reproduced == learned.cells - 1


def test_cases_that_were_never_shown_are_told():
    cells = np.zeros((9, 9), np.uint16)
    cells[2:7, 2:7] = 1
    tiles = {mask: (Variant(ref(n)),) for n, mask in enumerate(cases_47())}
    example, refs = woven(cells, RuleBook(rules_for_cases(tiles)))
    learned = learn(example, refs, NAMES, 1)
    shown = {PARTS[n] for n in ("inside", "n", "s", "w", "e", "nw", "ne", "sw", "se")}
    assert set(learned.unseen) == set(cases_47()) - shown


def test_an_area_of_the_same_kind_that_was_not_seen_is_laid_right():
    """All cases that were shown; few cells lie in others."""
    tiles = {mask: (Variant(ref(n)),) for n, mask in enumerate(cases_47())}
    book = RuleBook(rules_for_cases(tiles), beyond="open")
    example, refs = woven(patches(1, (96, 96)), book)
    learned = learn(example, refs, NAMES, 1)
    cells = patches(2, (96, 96))
    other, _ = woven(cells, book)
    looks, contents = laid_again(cells, learned, refs)
    mud = cells == 1
    share = (looks[mud] == contents.of[other.tile[mud]]).mean()
    assert share > 0.99


def test_nothing_shown_is_nothing_learned():
    example = Example(np.zeros((4, 4), np.uint16), np.full((4, 4), -1), Contents([]))
    assert learn(example, [], NAMES, 1).unseen == cases_47()


# --- materials of a picture ---------------------------------------------------------------


def test_tiles_are_grouped_by_who_stands_beside_whom():
    """Mud with all its rims is one material, water with its variants another."""
    names = [n for n in PARTS if " " not in n and n != "alone"]  # which could be either
    tiles = {PARTS[name]: (Variant(ref(n)),) for n, name in enumerate(names)}
    cells = patches(9, (96, 96), share=0.45)
    example, refs = woven(cells, RuleBook(rules_for_cases(tiles)))
    picture_of_tiles = example.tile.copy()
    ys, xs = np.nonzero(cells == 0)
    picture_of_tiles[ys, xs] = len(refs) + (unit(1, ys, xs) < 0.4)
    group = groups_of(who_beside_whom(picture_of_tiles, len(refs) + 2))
    assert len(set(group[: len(refs)].tolist())) == 1
    assert len(set(group[len(refs) :].tolist())) == 1
    assert group[0] != group[-1]
