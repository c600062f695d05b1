"""However a room is woven, each cell shows the tile of the first rule that fits."""

import sys
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import card, one, rule, thirteen, tile
from tests.strategies import materials
from topion.errors import BadValue
from topion.grid.neighbours import case_of, cases_47
from topion.grid.turns import turned
from topion.model.tileset import TileRef
from topion.weaving.automaton import Automaton, first_fits_plainly, row_codes
from topion.weaving.loom import Loom, neighbours
from topion.weaving.ready import ready_rules
from topion.weaving.rules import Rule, RuleBook, Variant, orientations, oriented_marks

NAMES = ("Mud", "Water", "Stone")
WIDE = card("#...o", ".....", "..#..", ".....", "o...#")


def books(beyond="same"):
    general = (
        rule("wide", WIDE, (4, 0), turned=True, mirrored=True),
        rule("by mud", card("...", "M#.", "..."), (4, 1), turned=True, turns_tile=False),
        rule("strip", card(".o.", "#.#", ".o."), (4, 2), turned=True),
    )
    return {
        "Mud": RuleBook(ready_rules(thirteen()), beyond=beyond),
        "Water": RuleBook((*general, *ready_rules(thirteen(2))), beyond=beyond),
        "Stone": RuleBook(ready_rules(thirteen()), joins=("Mud",), beyond=beyond),
    }


def loom_of(these):
    refs = list(dict.fromkeys(ref for book in these.values() for ref in book.tiles_used()))
    return Loom(NAMES, these, {"Mud": 5}, {ref: n for n, ref in enumerate(refs, 1)}), refs


def slow_tiles(cells, these, refs):
    """Every cell by trying rule after rule, mark after mark."""
    out = np.zeros(cells.shape, int)
    for y in range(cells.shape[0]):
        for x in range(cells.shape[1]):
            if cells[y, x]:
                ref = slow_tile(cells, y, x, NAMES[cells[y, x] - 1], these)
                out[y, x] = refs.index(ref) + 1 if ref else 0
    return out


def slow_tile(cells, y, x, name, these):
    book = these[name]
    for r in book.rules:
        for way in orientations(r):
            marks = oriented_marks(r, way)
            if slow_fits(cells, y, x, marks, {name, *book.joins}, book.beyond):
                ref = r.variants[0].tile
                if not r.turns_tile:
                    return ref
                return TileRef(ref.tileset, ref.slot, way.turn, way.mirrored)
    return book.last_resort


def slow_fits(cells, y, x, marks, same, beyond):
    half = len(marks) // 2
    for dy in range(-half, half + 1):
        for dx in range(-half, half + 1):
            mark = marks[dy + half][dx + half]
            if (dy == 0 and dx == 0) or mark == "any":
                continue
            inside = 0 <= y + dy < cells.shape[0] and 0 <= x + dx < cells.shape[1]
            number = int(cells[y + dy, x + dx]) if inside else 0
            name = NAMES[number - 1] if number else ""
            alike = name in same if inside else beyond == "same"
            wanted = alike if mark == "same" else not alike if mark == "open" else name == mark[3:]
            if not wanted:
                return False
    return True


@given(materials(3), st.sampled_from(["same", "open"]))
def test_a_whole_room_equals_the_plain_reading_of_its_rules(cells, beyond):
    these = books(beyond)
    loom, refs = loom_of(these)
    assert np.array_equal(loom.whole(cells), slow_tiles(cells, these, refs))


@given(materials(3))
def test_single_cells_equal_the_whole_room(cells):
    loom, _ = loom_of(books())
    at = np.argwhere(np.ones(cells.shape, bool))
    around = neighbours(cells, at, loom.offsets)
    assert np.array_equal(loom.around(around, at).reshape(cells.shape), loom.whole(cells))


@given(materials(3))
def test_why_names_the_tile_that_is_shown(cells):
    these = books()
    loom, refs = loom_of(these)
    woven = loom.whole(cells)
    for y, x in np.argwhere(cells)[:6]:
        why = loom.why(cells, int(y), int(x))
        assert refs.index(why.tile) + 1 == woven[y, x]
        assert these[why.book].rules[why.number - 1].name == why.rule


def test_a_room_larger_than_a_strip_is_woven_without_seams():
    rng = np.random.default_rng(2)
    cells = np.kron(rng.integers(0, 3, (60, 50)), np.ones((6, 9))).astype(np.uint16)
    loom, _ = loom_of(books())
    padded = np.full((cells.shape[0] + 4, cells.shape[1] + 4), 0xFFFF, np.uint16)
    padded[2:-2, 2:-2] = cells
    part = loom.padded(np.ascontiguousarray(padded[40:104, 60:124]), (40, 60))
    assert np.array_equal(part, loom.whole(cells)[40:100, 60:120])


def test_variants_come_as_often_as_their_weights_say_and_a_dice_changes_them():
    book = {
        "Mud": RuleBook(
            (
                Rule(
                    "any",
                    card("...", "...", "..."),
                    (Variant(tile(0, 0), 3), Variant(tile(0, 1), 1)),
                ),
            )
        )
    }
    ids = {tile(0, 0): 1, tile(0, 1): 2}
    cells = np.ones((200, 200), np.uint16)
    first = Loom(("Mud",), book, {"Mud": 1}, ids).whole(cells)
    again = Loom(("Mud",), book, {"Mud": 2}, ids).whole(cells)
    assert 0.23 < (first == 2).mean() < 0.27
    assert (first != again).mean() > 0.2


def test_a_loom_that_takes_over_books_weaves_like_a_fresh_one():
    cells = np.random.default_rng(8).integers(0, 4, (40, 40)).astype(np.uint16)
    old, refs = loom_of(books())
    ids = {ref: n for n, ref in enumerate(refs, 1)}
    changed = {**books(), "Stone": replace(books()["Stone"], beyond="open")}
    seeds = {"Mud": 5, "Water": 3}
    taken = Loom(NAMES, changed, seeds, ids, older=old).whole(cells)
    assert np.array_equal(taken, Loom(NAMES, changed, seeds, ids).whole(cells))
    assert not np.array_equal(taken, old.whole(cells))


def test_threads_that_share_a_loom_weave_what_one_would():
    cells = np.random.default_rng(9).integers(0, 4, (120, 90)).astype(np.uint16)
    alone = loom_of(books())[0].whole(cells)
    often = sys.getswitchinterval()
    sys.setswitchinterval(1e-6)
    try:
        for _ in range(12):
            loom, _ = loom_of(books())
            with ThreadPoolExecutor(4) as threads:
                woven = list(threads.map(loom.whole, [cells] * 4))
            assert all(np.array_equal(one, alone) for one in woven)
    finally:
        sys.setswitchinterval(often)


def test_a_large_room_is_woven_as_its_windows_are():
    patches = np.random.default_rng(3).integers(0, 4, (140, 110)).astype(np.uint16)
    cells = patches.repeat(9, axis=0).repeat(10, axis=1)  # so many rows that two threads share them
    loom, _ = loom_of(books("open"))
    whole = loom.whole(cells)
    for top in range(0, 1260, 97):
        window = np.ascontiguousarray(cells[top : top + 60, 300:420])
        woven = loom.padded(window, (top + 2, 302), rim=False)
        assert np.array_equal(woven, whole[top + 2 : top + 2 + len(woven), 302:418])


def test_the_ready_rules_cover_all_47_cases():
    assert len(cases_47()) == 47 and {case_of(m) for m in range(256)} == set(cases_47())
    loom, _ = loom_of(books())
    cells = np.random.default_rng(1).integers(0, 2, (80, 80)).astype(np.uint16)
    assert len(loom.uncovered(cells)) == 0


def test_a_case_without_a_rule_falls_back_and_then_shows_the_last_resort():
    lone = rule("alone", card("ooo", "o.o", "ooo"), (0, 1))
    these = {
        "Mud": RuleBook((lone,), beyond="open", falls_back_to="Water"),
        "Water": RuleBook(
            (rule("row", card("...", "#..", "..."), (0, 2)),), last_resort=tile(0, 4)
        ),
        "Stone": RuleBook((lone,), beyond="open", last_resort=tile(0, 5)),
    }
    loom, refs = loom_of(these)
    cells = np.array([[1, 0, 1, 1, 0, 3, 3]], np.uint16)
    shown = [refs[t - 1].slot if t else "" for t in loom.whole(cells)[0]]
    assert shown == ["0,1", "", "", "0,2", "", "0,5", "0,5"]
    assert loom.why(cells, 0, 3).book == "Water"
    assert loom.uncovered(cells).tolist() == [[0, 2], [0, 5], [0, 6]]


@given(st.integers(0, 2**32 - 1))
def test_the_automaton_finds_the_first_pattern_that_fits(seed):
    rng = np.random.default_rng(seed)
    patterns = rng.random((int(rng.integers(1, 30)), 5, 5, 3)) < 0.93
    cells = rng.integers(0, 3, (12, 13)).astype(np.uint8)
    around = np.lib.stride_tricks.sliding_window_view(cells, (5, 5)).reshape(-1, 5, 5)
    machine = Automaton(patterns)
    codes = row_codes(cells, 3)
    rows = [np.ascontiguousarray(codes[r : r + 8]).reshape(-1) for r in machine.rows]
    assert np.array_equal(machine.first_fits(rows), first_fits_plainly(patterns, around))


def test_turned_copies_that_look_alike_count_once():
    assert (
        len(
            orientations(
                rule("cross", card(".#.", "#.#", ".#."), (0, 0), turned=True, mirrored=True)
            )
        )
        == 1
    )
    assert (
        len(
            orientations(
                rule("edge", card(".o.", "#.#", ".#."), (0, 0), turned=True, mirrored=True)
            )
        )
        == 4
    )


def test_turning_runs_clockwise():
    assert turned(np.array([[1, 2], [3, 4]]), 1, False).tolist() == [[3, 1], [4, 2]]
    assert turned(np.array([[1, 2], [3, 4]]), 0, True).tolist() == [[2, 1], [4, 3]]


@pytest.mark.parametrize(
    "marks", [(("any",) * 3,) * 4, (("any", "any", "odd"),) * 3, (("any", "is ", "any"),) * 3]
)
def test_a_card_that_is_none_is_refused(marks):
    with pytest.raises(BadValue, match="rule broken"):
        Rule("broken", marks, one(0, 0))


# --- patterns -----------------------------------------------------------------------------


PATTERN = tuple(tuple(tile(y, x) for x in range(3)) for y in (0, 1))


@given(materials(), st.integers(0, 40), st.integers(0, 40))
def test_a_pattern_shows_by_its_place_in_the_room_however_it_is_woven(cells, y, x):
    plain = Rule("inside", card("...", "...", "..."), one(3, 3), pattern=PATTERN)
    edge = rule("edge", card(".o.", "...", "..."), (2, 2))
    these = {**books(), "Mud": RuleBook((edge, plain), beyond="open")}
    loom, refs = loom_of(these)
    whole = loom.whole(cells)
    for at in np.argwhere(cells == 1).tolist():
        above = cells[at[0] - 1, at[1]] if at[0] else 0
        wanted = PATTERN[at[0] % 2][at[1] % 3] if above == 1 else tile(2, 2)
        assert refs[whole[tuple(at)] - 1] == wanted
    cell = np.array([[y % cells.shape[0], x % cells.shape[1]]])
    around = neighbours(cells, cell, loom.offsets)
    assert loom.around(around, cell)[0] == whole[tuple(cell[0])]


def test_the_tiles_of_a_pattern_are_among_those_of_its_brush():
    used = set(
        RuleBook((Rule("p", card("...", "...", "..."), one(0, 0), pattern=PATTERN),)).tiles_used()
    )
    assert used >= {ref for row in PATTERN for ref in row}
    with pytest.raises(BadValue, match="same length"):
        Rule("p", card("...", "...", "..."), one(0, 0), pattern=((tile(0, 0),), ()))
