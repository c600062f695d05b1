"""Whatever stands in a file of symbols: it reads, or is refused in a sentence."""

from __future__ import annotations

import json
import unicodedata
from itertools import groupby

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from topion import scripting
from topion.edit.symbols import Wanted, rooms_from_symbols
from topion.errors import BadFile, BadValue
from topion.formats.symbols import texts
from topion.formats.symbols.decoding import decoded, signs_of
from topion.formats.symbols.forms import form_of
from topion.formats.symbols.legend_files import FORMAT, VERSION, legend_of
from topion.formats.symbols.text_out import room_text
from topion.formats.symbols.texts import read_text_grids
from topion.grid.symbols import SymbolGrid
from topion.model.legend import Legend, Meaning, Reading
from topion.model.room import LONGEST_SIDE, MOST_CELLS

SIGNS = ".#~@^+"
FORMS = ("auto", "signs", "codes", "runs")
GRIDS = st.integers(2, 9).flatmap(
    lambda width: st.lists(
        st.lists(st.sampled_from(SIGNS), min_size=width, max_size=width), min_size=2, max_size=9
    )
)
MESS = st.text(st.sampled_from("#.~ 0129²٣*$|/;,\t\n\r-:\"'aB=é漢"), max_size=120)


def read(text: str, **reading: object) -> list[list[str]]:
    """The rows of the only room of a text."""
    (grid,) = read_text_grids(text.encode(), "any.txt", Reading(**reading)).grids  # type: ignore[arg-type]
    return grid.rows()


def runs(row: list[str]) -> list[tuple[str, int]]:
    return [(sign, len(list(same))) for sign, same in groupby(row)]


# --- written in any form, the same room is read -----------------------------------------------


@given(GRIDS)
def test_signs_read_as_they_were_written(grid):
    text = "\n".join(map("".join, grid))
    assert read(text, form="signs", parts="none", comments="%%") == grid


@given(GRIDS, st.sampled_from([",", ";", "\t", "|"]))
def test_codes_read_whatever_stands_between(grid, sign):
    text = "\n".join(map(sign.join, grid))
    assert read(text, form="codes", parts="none", comments="%%") == grid


@given(GRIDS)
def test_runs_with_counts_before_the_sign_read_back(grid):
    text = "\n".join("".join(f"{count}{sign}" for sign, count in runs(row)) for row in grid)
    assert read(text, form="runs", parts="none", comments="%%") == grid


@given(GRIDS)
def test_runs_with_counts_behind_the_sign_read_back(grid):
    text = "\n".join("".join(f"{sign}{count}" for sign, count in runs(row)) for row in grid)
    assert read(text, form="runs", parts="none", comments="%%") == grid


@given(GRIDS)
def test_starred_runs_read_back(grid):
    text = "\n".join(" ".join(f"{count}*{sign}" for sign, count in runs(row)) for row in grid)
    assert read(text, form="runs", parts="none", comments="%%") == grid


@given(st.lists(GRIDS, min_size=1, max_size=5))
def test_each_room_between_titles_is_found_by_its_title(grids):
    parts = [f"Title: Room {n}\n" + "\n".join(map("".join, g)) for n, g in enumerate(grids)]
    found = read_text_grids("\n\n".join(parts).encode(), "any.txt", Reading(form="signs"))
    assert [grid.title for grid in found.grids] == [f"Room {n}" for n in range(len(grids))]
    assert [grid.rows() for grid in found.grids] == grids


# --- encodings --------------------------------------------------------------------------------


@given(st.text(st.characters(exclude_characters="\0\r", exclude_categories=["Cs"])))
def test_a_text_is_the_same_in_every_encoding_that_marks_itself(text):
    assume(not text.startswith("\ufeff"))
    assert decoded(text.encode("utf-8-sig"), "any.txt") == (text, "utf-8")
    for mark, codec in ((b"\xff\xfe", "utf-16-le"), (b"\xfe\xff", "utf-16-be")):
        assert decoded(mark + text.encode(codec), "any.txt") == (text, codec)


@given(st.binary(max_size=200))
def test_any_bytes_are_a_text_or_are_refused(data):
    try:
        text, encoding = decoded(data, "any.txt")
    except BadFile as refused:
        assert str(refused).startswith("any.txt") and "\n" not in str(refused)
    else:
        assert "\r" not in text and "\0" not in text and encoding


@given(st.text(max_size=60))
def test_the_signs_of_a_line_are_all_of_it_and_none_begins_with_a_mark(line):
    signs = signs_of(line)
    assert "".join(signs) == line
    assert not any(unicodedata.combining(sign[0]) for sign in signs[1:])


# --- what nobody meant ------------------------------------------------------------------------


@pytest.mark.parametrize("form", FORMS)
@given(text=MESS)
def test_any_text_is_rooms_or_is_refused_in_one_sentence(form, text):
    try:
        found = read_text_grids(text.encode(), "any.txt", Reading(form=form))
    except BadFile as refused:
        assert str(refused).startswith("any.txt") and "\n" not in str(refused)
    else:
        for grid in found.grids:
            assert grid.cells.size and grid.cells.max() < len(grid.symbols)
            assert max(grid.size) <= LONGEST_SIDE


@given(MESS)
def test_the_likeliest_form_of_a_text_is_always_one_of_them(text):
    assert form_of(text.split("\n")) in FORMS[1:]


def test_a_count_of_thousands_of_digits_is_no_number():
    with pytest.raises(BadFile, match=r"any\.txt"):
        read_text_grids(("4" * 5000 + "#$3#$").encode(), "any.txt", Reading(form="runs"))


def test_a_short_text_cannot_ask_for_more_cells_than_any_room_holds():
    rows = MOST_CELLS // LONGEST_SIDE + 1
    with pytest.raises(BadFile, match="over 64 million cells"):
        read_text_grids(b"16384#\n" * rows, "any.txt", Reading(form="runs"))


def test_rooms_of_a_text_are_counted_together_before_they_take_memory(monkeypatch):
    monkeypatch.setattr(texts, "MOST_CELLS", 100)  # 64 million as it is
    half = b"30#\n30#\n"
    assert len(read_text_grids(half, "any.txt", Reading(form="runs")).grids) == 1
    with pytest.raises(BadFile, match=r"line 4: holds over .* cells in all"):
        read_text_grids(half + b"\n" + half, "any.txt", Reading(form="runs"))


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | st.text(max_size=8),
    lambda inner: (
        st.lists(inner, max_size=4)
        | st.dictionaries(
            st.sampled_from(["name", "symbols", "reading", "#", "material", "version", "cell"]),
            inner,
            max_size=4,
        )
    ),
    max_leaves=12,
)


@given(JSON)
def test_any_json_is_a_legend_or_is_refused_in_one_sentence(value):
    headed = {"format": FORMAT, "version": VERSION}
    for plain in (value, headed | value if isinstance(value, dict) else headed):
        try:
            legend = legend_of(json.dumps(plain).encode(), "any.json")
        except BadFile as refused:
            assert str(refused).startswith("any.json") and "\n" not in str(refused)
        else:
            assert legend.name == plain["name"]


# --- written by any legend --------------------------------------------------------------------

SYMBOLS = st.text(st.sampled_from('#.,;| "/a1é漢e\u0301'), min_size=1, max_size=3).filter(
    lambda symbol: not unicodedata.combining(symbol[0])
)


@given(st.lists(SYMBOLS, min_size=1, max_size=4, unique=True), st.data())
def test_what_any_legend_writes_reads_back_equal_or_is_refused(symbols, data):
    legend = Legend("any", tuple(Meaning(s, f"M{n}") for n, s in enumerate(symbols)))
    wide, high = data.draw(st.integers(1, 5)), data.draw(st.integers(1, 5))
    numbers = data.draw(st.lists(st.integers(0, len(symbols) - 1), min_size=wide * high,
                                 max_size=wide * high))  # fmt: skip
    cells = np.array(numbers, np.uint16).reshape(high, wide)
    project = scripting.new(None, "P")
    grid = SymbolGrid("a.txt", "Yard", cells, tuple(symbols))
    project.history.apply(rooms_from_symbols(project.data, [grid], legend, Wanted(make=True)))
    try:
        made = room_text(project.data, project.data.room("Yard"), legend)
    except BadValue as refused:
        assert "the symbols of any" in str(refused)
        assert any(len(s) > 1 or s in ",;|" for s in symbols)
    else:
        again = read_text_grids(made.text.encode(), "a.txt", made.legend.reading).grids
        assert [one.rows() for one in again] == [grid.rows()]
