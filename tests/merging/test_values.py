"""Three versions of JSON values, put together."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from topion.merging.values import (
    MISSING,
    Both,
    Three,
    merged_order,
    merged_values,
    others_of,
    with_value,
)

PLAIN = st.recursive(
    st.none() | st.booleans() | st.integers(-3, 3) | st.sampled_from(["a", "b", "c"]),
    lambda inner: (
        st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from("pqr"), inner, max_size=3)
    ),
    max_leaves=8,
)


@given(PLAIN, PLAIN)
def test_what_one_side_alone_changed_is_taken(base, other):
    assert merged_values(Three(base, other, base)) == (other, [])
    assert merged_values(Three(base, base, other)) == (other, [])
    assert merged_values(Three(base, other, other)) == (other, [])


@given(PLAIN, PLAIN, PLAIN)
def test_a_version_that_does_not_stand_is_always_named(base, ours, theirs):
    made, both = merged_values(Three(base, ours, theirs))
    for one in both:
        put = with_value(made, one.path, one.value)
        assert one.path == () or put != made or one.value is MISSING


def test_values_of_a_record_are_merged_one_by_one():
    base = {"seed": 1, "colour": "red", "soft": 2}
    ours, theirs = {"seed": 5, "colour": "red", "soft": 2}, {"seed": 1, "colour": "blue"}
    assert merged_values(Three(base, ours, theirs)) == ({"seed": 5, "colour": "blue"}, [])


def test_what_both_set_otherwise_stays_ours_and_is_named():
    made, both = merged_values(Three({"seed": 1}, {"seed": 5}, {"seed": 9}))
    assert made == {"seed": 5} and both == [Both(("seed",), 9)]
    assert others_of(made, both, "theirs") == {"seed": 9}


def test_what_one_took_away_while_the_other_changed_it_is_kept():
    made, both = merged_values(Three({"a": {"n": 1}}, {}, {"a": {"n": 2}}))
    assert made == {"a": {"n": 2}} and both == [Both(("a",), MISSING, "ours")]
    made, both = merged_values(Three({"a": {"n": 1}}, {"a": {"n": 2}}, {}))
    assert made == {"a": {"n": 2}} and both == [Both(("a",), MISSING, "theirs")]


def test_records_of_another_kind_are_not_mixed():
    base = {"kind": "weave", "seed": 1}
    made, both = merged_values(Three(base, {"kind": "mosaic", "seed": 1}, {**base, "seed": 2}))
    assert made == {"kind": "mosaic", "seed": 1} and len(both) == 1


def test_named_records_of_a_list_are_merged_by_name():
    base = [{"name": "a", "n": 1}, {"name": "b", "n": 1}]
    ours = [{"name": "a", "n": 2}, {"name": "b", "n": 1}, {"name": "c", "n": 1}]
    theirs = [{"name": "b", "n": 5}, {"name": "a", "n": 1}]
    made, both = merged_values(Three(base, ours, theirs))
    assert [(item["name"], item["n"]) for item in made] == [("b", 5), ("a", 2), ("c", 1)]
    assert both == []


def test_a_place_of_numbers_is_one_value():
    made, both = merged_values(Three([1, 2], [3, 2], [1, 5]))
    assert made == [3, 2] and both == [Both((), [1, 5])]


def test_rows_of_text_are_merged_row_by_row():
    made, both = merged_values(Three(["4*0", "4*0"], ["4*1", "4*0"], ["4*0", "4*2"]))
    assert made == ["4*1", "4*2"] and both == []


def test_lists_without_names_are_merged_like_lines():
    base = [["a", 1], ["b", 1], ["c", 1]]
    made, both = merged_values(Three(base, [["a", 2], *base[1:]], [*base, ["d", 1]]))
    assert made == [["a", 2], ["b", 1], ["c", 1], ["d", 1]] and both == []
    _, both = merged_values(Three(base, [["a", 2], *base[1:]], [["a", 3], *base[1:]]))
    assert len(both) == 1


@pytest.mark.parametrize(
    ("base", "ours", "theirs", "wanted"),
    [
        ("abc", "abcx", "abcy", "abcxy"),
        ("abc", "acb", "abcd", "acbd"),
        ("abc", "bc", "xabc", "xbc"),
        ("abc", "abc", "cab", "cab"),
        ("abc", "axbc", "aybc", "axybc"),
        ("", "p", "q", "pq"),
    ],
)
def test_orders_are_those_of_the_side_that_changed_them(base, ours, theirs, wanted):
    assert "".join(merged_order(Three([*base], [*ours], [*theirs]))) == wanted


@given(*[st.lists(st.sampled_from("abcdef"), unique=True)] * 3)
def test_no_name_is_lost_or_stands_twice(base, ours, theirs):
    made = merged_order(Three(base, ours, theirs))
    gone = {*base} - ({*ours} & {*theirs})
    assert sorted(made) == sorted(({*ours} | {*theirs}) - gone)
    assert sorted(merged_order(Three(base, ours, theirs), every=True)) == sorted(
        {*base, *ours, *theirs}
    )
