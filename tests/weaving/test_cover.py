"""Cover: which rule answers each case, which can never answer, and what rules do in a room."""

import itertools
from collections import Counter
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import card, one, rule, thirteen
from tests.weaving.test_loom import NAMES, loom_of
from topion.grid.neighbours import bits_of, case_of, cases_47
from topion.model.tileset import TileRef
from topion.weaving.block_loom import BlockLoom
from topion.weaving.cover import card_of_faces, cover, hidden_rules
from topion.weaving.hits import hits, near_misses
from topion.weaving.ready import (
    ALL,
    PARTS,
    card_of_case,
    case_name,
    open_in,
    ready_rules,
    rules_for_cases,
)
from topion.weaving.rules import Rule, RuleBook, Variant


def mud(*rules, **more):
    loom, _ = loom_of({"Mud": RuleBook(rules, **more), "Stone": RuleBook(ready_rules(thirteen()))})
    return loom


def by_mask(loom):
    return {case.mask: case for case in cover(loom.book_of(1))}


def blob(mask):
    """(5, 5) mud with the neighbours of a case round its middle."""
    cells = np.zeros((5, 5), np.uint16)
    cells[1:4, 1:4] = bits_of(mask)
    return cells


# --- ready rules --------------------------------------------------------------------------


def test_each_case_has_a_name_of_its_own():
    assert len({case_name(mask) for mask in cases_47()}) == 47
    assert case_name(PARTS["nw"]) == "outer corner nw"
    assert case_name(PARTS["end n"]) == "end n"
    assert open_in(PARTS["end n"])[0] == ("n", "w", "e")


def test_a_tile_for_each_case_is_laid_exactly_there():
    tiles = {mask: one(n // 8, n % 8) for n, mask in enumerate(cases_47())}
    loom, refs = loom_of({"Mud": RuleBook(rules_for_cases(tiles), beyond="open")})
    for mask, (variant,) in tiles.items():
        assert refs[loom.whole(blob(mask))[2, 2] - 1] == variant.tile


@given(st.sets(st.sampled_from(cases_47()), min_size=1), st.booleans())
def test_ready_rules_of_any_cases_cover_all_47(masks, turned):
    tiles = {mask: one(n // 8, n % 8) for n, mask in enumerate(sorted(masks))}
    loom = mud(*rules_for_cases(tiles, turned=turned))
    assert all(case.by in ("own", "turned") for case in by_mask(loom).values())


def test_five_tiles_turned_lay_every_outer_and_inner_corner():
    tiles = {PARTS[n]: one(0, i) for i, n in enumerate(("inside", "n", "nw", "inner se", "alone"))}
    loom, refs = loom_of({"Mud": RuleBook(rules_for_cases(tiles, turned=True))})
    laid = refs[loom.whole(blob(PARTS["se"]))[2, 2] - 1]
    assert (laid.slot, laid.turn) == ("0,2", 2)


# --- cover --------------------------------------------------------------------------------


def test_cover_says_by_what_each_case_is_answered():
    rules = (
        rule("alone", card_of_case(0), (0, 0)),
        rule("edge", card_of_case(PARTS["n"]), (0, 1), turned=True),
    )
    found = by_mask(mud(*rules, falls_back_to=""))
    assert (found[0].by, found[0].number) == ("own", 1)
    assert found[PARTS["n"]].by == "own"
    assert (found[PARTS["e"]].by, found[PARTS["e"]].number) == ("turned", 2)
    assert found[ALL].by == "open"
    falling = by_mask(mud(*rules, falls_back_to="Stone"))
    assert (falling[ALL].by, falling[ALL].book) == ("falls back", "Stone")


def test_a_rule_that_asks_for_more_than_a_case_tells_does_not_count():
    named = rule("by stone", card("...", "..M", "..."), (0, 0))
    named = replace(named, marks=(named.marks[0], ("any", "any", "is Stone"), named.marks[2]))
    wide = rule("wide", card("#....", ".....", ".....", ".....", "....."), (0, 1))
    assert {case.by for case in by_mask(mud(named, wide)).values()} == {"open"}


def test_a_rule_that_is_off_is_not_tried():
    plain = rule("plain", card("...", "...", "..."), (0, 0))
    assert by_mask(mud(plain))[0].by == "own"
    assert by_mask(mud(replace(plain, on=False)))[0].by == "open"
    off = by_mask(mud(replace(plain, on=False), rule("second", plain.marks, (0, 1))))
    assert off[0].number == 2


@given(st.sampled_from(cases_47()))
def test_the_card_of_a_case_answers_it_and_no_other(mask):
    found = by_mask(mud(Rule("one", card_of_case(mask, whole=True), one(0, 0))))
    assert {m for m, case in found.items() if case.by == "own"} == {mask}


def block_loom(*rules):
    book = RuleBook(rules)
    return BlockLoom(("Rock",), {"Rock": book}, {}, ("a", "b"))


def block_rule(name, cards, **more):
    level, above, below = cards
    return Rule(name, level, (Variant(TileRef("", "a")),), above=above, below=below, **more)


def test_the_64_cases_of_faces_are_each_answered_by_their_own_card():
    for mask in (0, 5, 33, 63):
        found = cover(block_loom(block_rule("one", card_of_faces(mask))).book_of(1))
        assert len(found) == 64
        assert {case.mask for case in found if case.by == "own"} == {mask}


# --- rules that never fire ----------------------------------------------------------------

MARKS = st.sampled_from(("same", "open", "any", "any"))
CARDS = st.lists(MARKS, min_size=9, max_size=9).map(
    lambda marks: tuple(tuple(marks[i : i + 3]) for i in (0, 3, 6))
)


@settings(max_examples=60)
@given(st.lists(st.tuples(CARDS, st.booleans()), min_size=1, max_size=6))
def test_hidden_rules_are_those_that_fire_in_none_of_256_surroundings(cards):
    rules = [rule(str(i), marks, (0, i), turned=turned) for i, (marks, turned) in enumerate(cards)]
    book = mud(*rules).book_of(1)
    around = np.array(
        [np.insert(np.array(bits), 4, 1) for bits in itertools.product((0, 1), repeat=8)]
    )
    fired = {book.rules[at].number for at in book.first_rules(around.astype(np.uint16)) if at >= 0}
    hidden = {found.number: found.by for found in hidden_rules(book)}
    assert set(hidden) == set(range(1, len(rules) + 1)) - fired
    assert all(by and max(by) < number for number, by in hidden.items())


def test_a_rule_for_a_material_that_is_nowhere_is_hidden_by_none():
    lost = Rule("lost", (("any",) * 3, ("is Lava", "any", "any"), ("any",) * 3), one(0, 0))
    found = hidden_rules(mud(lost, rule("plain", card("...", "...", "..."), (0, 1))).book_of(1))
    assert [(hidden.number, hidden.by) for hidden in found] == [(1, ())]


# --- what rules do in a room --------------------------------------------------------------


@given(st.integers(0, 2**32 - 1), st.integers(1, 24), st.integers(1, 24))
def test_hits_count_every_cell_once_as_why_tells_it(seed, high, wide):
    cells = (np.random.default_rng(seed).random((high, wide)) < 0.6).astype(np.uint16)
    loom = mud(*ready_rules(thirteen())[:6])
    told = Counter()
    for cell in np.argwhere(cells == 1):
        why = loom.why(cells, *cell.tolist())
        told[("Mud", why.number) if why.number else ("", 0)] += 1
    assert hits(loom.book_of(1), cells, 1) == told


def test_near_misses_name_the_mark_that_failed():
    loom = mud(*ready_rules(thirteen()))
    cells = blob(PARTS["n"])
    found = near_misses(loom.book_of(1), cells, (2, 2), most_failed=1)
    by_name = {NAMES[0] + str(near.number): near for near in found}
    corner = by_name["Mud1"]  # outer corner nw: only west is not open
    assert corner.failed == ((2, 1),)
    assert by_name["Mud13"].behind  # inside fits anywhere, but an earlier rule fired


def test_a_miss_is_told_on_the_card_as_it_is_turned():
    turned = rule("edge", card_of_case(PARTS["n"], whole=True), (0, 1), turned=True)
    cells = blob(case_of(PARTS["e"]))
    cells[1, 1] = 0
    (found,) = near_misses(mud(turned).book_of(1), cells, (2, 2))
    assert found.orientation.turn == 1
    assert found.failed == ((1, 1),)
