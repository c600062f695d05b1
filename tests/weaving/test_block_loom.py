"""Rule cards of three levels, and the blocks they give."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from tests.voxel_rooms import ANYTHING, OPEN_ABOVE, block_at, isle, only
from topion.errors import BadValue
from topion.grid.arrays import BEYOND
from topion.model.layer import Layer, LayerInfo
from topion.model.solid import TURN_BITS
from topion.model.tileset import TileRef
from topion.weaving.block_loom import OFFSETS_27, BlockLoom, block_tile
from topion.weaving.loom import neighbours
from topion.weaving.rules import ANY, NAMED, OPEN, SAME, Rule, RuleBook, Variant, oriented_levels
from topion.weaving.rules import orientations as ways_of
from topion.weaving.settle import tile_planes

MATERIALS = ("Mud", "Rock", "Sea")
NAMES = ("a", "b", "c", "d")
marks = st.sampled_from([SAME, OPEN, ANY, ANY, ANY, f"{NAMED}Rock"])
cards = st.lists(st.lists(marks, min_size=3, max_size=3).map(tuple), min_size=3, max_size=3)
variants = st.lists(
    st.sampled_from(NAMES).map(lambda n: Variant(TileRef("", n))), min_size=1, max_size=2
)
rules = st.builds(
    Rule,
    st.just("r"),
    cards.map(tuple),
    variants.map(tuple),
    turned=st.booleans(),
    mirrored=st.booleans(),
    above=st.one_of(st.just(()), cards.map(tuple)),
    below=st.one_of(st.just(()), cards.map(tuple)),
)
books = st.builds(
    RuleBook,
    st.lists(rules, max_size=3).map(tuple),
    joins=st.sampled_from([(), ("Sea",)]),
    beyond=st.sampled_from(["same", "open"]),
)
rooms = hnp.arrays(
    np.uint16,
    hnp.array_shapes(min_dims=3, max_dims=3, min_side=1, max_side=5),
    elements=st.integers(0, 3),
)


def loom_with(book: RuleBook, seed: int = 0) -> BlockLoom:
    return BlockLoom(MATERIALS, {"Mud": book}, {"Mud": seed}, NAMES)


def fits(mark: str, number: int, book: RuleBook) -> bool:
    """The plain reading of one mark."""
    beyond = number == BEYOND
    name = "" if beyond or not number else MATERIALS[number - 1]
    same = book.beyond == "same" if beyond else name in ("Mud", *book.joins)
    if mark == SAME:
        return same
    if mark == OPEN:
        return not same
    return mark == ANY or name == mark[len(NAMED) :]


def first_rule(cells: np.ndarray, cell: tuple[int, ...], book: RuleBook):
    """(rule number, turn) of the first card that fits, by trying them one by one."""
    around = neighbours(cells, np.array([cell]), OFFSETS_27)[0].reshape(9, 3)
    for number, rule in enumerate(book.rules, 1):
        for way in ways_of(rule):
            card = oriented_levels(rule, way)
            if all(fits(card[r][c], int(around[r, c]), book) for r in range(9) for c in range(3)):
                return number, way.turn
    return None


@given(rooms, books)
def test_the_first_card_that_fits_gives_the_block_in_every_cell(cells, book):
    loom = loom_with(book)
    looks = loom.whole(cells)
    for cell in np.argwhere(cells == 1).tolist():
        found = first_rule(cells, tuple(cell), book)
        look = int(looks[tuple(cell)])
        if found is None:
            assert look == 0
            continue
        rule = book.rules[found[0] - 1]
        blocks = {NAMES.index(v.tile.slot) + 1 for v in rule.variants}
        assert look >> TURN_BITS in blocks and look & 31 == found[1]
    assert not looks[cells != 1].any()


@given(rooms, books)
def test_single_cells_and_windows_show_what_the_whole_room_shows(cells, book):
    loom = loom_with(book, seed=9)
    whole = loom.whole(cells)
    at = np.argwhere(np.ones(cells.shape, bool))
    around = neighbours(cells, at, loom.offsets)
    assert np.array_equal(loom.around(around, at).reshape(cells.shape), whole)
    lo = tuple(side // 2 for side in cells.shape)
    wide = np.pad(cells, 1, constant_values=int(BEYOND))
    window = wide[lo[0] :, lo[1] :, lo[2] :]
    assert np.array_equal(loom.padded(window, lo), whole[lo[0] :, lo[1] :, lo[2] :])


@given(rooms, books)
def test_why_names_the_rule_that_was_used(cells, book):
    loom = loom_with(book)
    for cell in np.argwhere(cells == 1)[:4].tolist():
        why, found = loom.why(cells, *cell), first_rule(cells, tuple(cell), book)
        assert why is not None and (why.number, why.turn) == (found or (0, 0))
    cells[...] = 0
    assert loom.why(cells, 0, 0, 0) is None


@given(rooms, books)
def test_uncovered_cells_are_those_that_no_card_fits(cells, book):
    found = {tuple(c) for c in loom_with(book).uncovered(cells).tolist()}
    wanted = {
        tuple(c) for c in np.argwhere(cells == 1).tolist() if not first_rule(cells, tuple(c), book)
    }
    assert found == wanted


def test_edge_blocks_are_turned_to_face_the_drop():
    room = isle((4, 5, 5), ground=2)
    sides = {(1, 2, 4): 0, (1, 4, 2): 1, (1, 2, 0): 2, (1, 0, 2): 3}  # east, south, west, north
    for cell, turn in sides.items():
        assert block_at(room, *cell) == ("Edge", turn)
    assert block_at(room, 1, 2, 2) == ("Top", 0) and block_at(room, 0, 2, 2) == ("Earth", 0)
    assert room.why(1, 4, 2).rule == "edge" and room.why(0, 0, 0).rule == "inside"


def test_a_block_that_turns_along_starts_from_its_own_turn():
    rule = Rule("edge", ((ANY,) * 3, (ANY, ANY, OPEN), (ANY,) * 3),
                (Variant(TileRef("", "a", 3)),), turned=True)  # fmt: skip
    cells = np.ones((1, 3, 3), np.uint16)
    looks = loom_with(RuleBook((rule,), beyond="open")).whole(cells)
    assert [int(looks[0, 1, 2]) & 31, int(looks[0, 2, 1]) & 31] == [3, 0]


def test_the_number_of_a_laid_block_tells_the_block_and_its_turn():
    layer = Layer.empty(LayerInfo("Blocks", "blocks"), (1, 1, 3))
    tiles = np.array([[[0, block_tile(1, 2), block_tile(3, 23)]]], np.uint16)
    planes = tile_planes(layer, tiles)
    assert planes["block"].tolist() == [[[0, 1, 3]]] and planes["turn"].tolist() == [[[0, 2, 23]]]


def test_cards_of_blocks_have_three_marks_a_side():
    wide = ((ANY,) * 5,) * 5
    with pytest.raises(BadValue, match="3 × 3 marks"):
        Rule("wide", wide, only("a"))
    with pytest.raises(BadValue, match="3 × 3"):
        Rule("tall", ANYTHING, only("a"), above=wide)
    assert Rule("fine", ANYTHING, only("a"), above=OPEN_ABOVE).named == ()
