"""Rooms of others as symbols: read, counted, mapped, and written again."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from tests.rooms import small_room
from topion import scripting
from topion.edit.symbols import Wanted, drafted, rooms_from_symbols
from topion.errors import BadFile, BadValue, NameTaken, UnknownName
from topion.formats.symbols.batch import read_batch
from topion.formats.symbols.legend_files import (
    fit_of,
    fits,
    keep_legend,
    kept_legends,
    legend_text,
    read_legend,
)
from topion.formats.symbols.pictures import read_picture_grid
from topion.formats.symbols.text_out import room_text
from topion.formats.symbols.texts import read_text_grids
from topion.grid.symbols import counted, shrunk
from topion.model.legend import Legend, Meaning, Reading

SMALL = "####\n#@.#\n####\n"


@pytest.fixture(autouse=True)
def legends_of_its_own(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))


def rooms(text: str | bytes, file: str = "pack.txt", **reading: object) -> list[list[str]]:
    """The rows of each room of a text."""
    data = text if isinstance(text, bytes) else text.encode()
    found = read_text_grids(data, file, Reading(**reading))  # type: ignore[arg-type]
    return [["".join(row) for row in grid.rows()] for grid in found.grids]


def titles(text: str) -> list[str]:
    return [grid.title for grid in read_text_grids(text.encode(), "pack.txt").grids]


# --- encodings --------------------------------------------------------------------------------


@pytest.mark.parametrize("codec", ["utf-8", "utf-8-sig", "utf-16"])
def test_a_text_is_read_with_and_without_a_mark_of_its_encoding(codec):
    assert rooms("壁壁壁\n壁é壁\n".encode(codec)) == [["壁壁壁", "壁é壁"]]


def test_what_is_not_utf_8_is_latin_1_and_named_so():
    found = read_text_grids("éé\né.\n".encode("latin-1"), "old.txt")
    assert found.encoding == "latin-1"
    assert found.grids[0].rows() == [["é", "é"], ["é", "."]]


def test_an_encoding_that_was_asked_for_is_insisted_on():
    with pytest.raises(BadFile, match=r"old.txt, line 2: is not UTF-8 text"):
        rooms("ab\néé\n".encode("latin-1"), "old.txt", encoding="utf-8")


def test_lines_may_end_as_on_any_machine():
    assert rooms("##\r\n#.\r\n") == rooms("##\r#.\r") == [["##", "#."]]


def test_bytes_that_are_no_text_are_refused_by_line():
    with pytest.raises(BadFile, match=r"x.txt, line 2: is no text"):
        rooms("ab\nc\0d\n", "x.txt")


def test_letters_with_marks_are_one_symbol():
    assert read_text_grids("ae\u0301\nbb\n".encode(), "x.txt").grids[0].size == (2, 2)


# --- what parts rooms -------------------------------------------------------------------------


def test_blank_lines_part_rooms():
    assert rooms(f"{SMALL}\n##\n##\n") == [["####", "#@.#", "####"], ["##", "##"]]


def test_a_blank_line_inside_a_room_is_an_open_row_of_it():
    assert rooms("#..#\n\n#..#\n####\n") == [["#..#", "    ", "#..#", "####"]]


def test_titles_above_rooms_name_them():
    assert titles(f"Level 1\n\n{SMALL}\nLevel 2\n\n{SMALL}") == ["Level 1", "Level 2"]


def test_titles_below_rooms_name_them():
    assert titles(f"{SMALL}Title: Cellar\n\n{SMALL}Title: Loft\n") == ["Cellar", "Loft"]


def test_comment_lines_are_no_rows():
    assert rooms(f"; drawn by hand\n{SMALL}") == rooms(SMALL)


def test_a_sign_that_rooms_are_drawn_with_begins_no_comment():
    assert rooms(";;;;\n;..;\n;;;;\n") == [[";;;;", ";..;", ";;;;"]]


def test_signs_of_comments_can_be_asked_for():
    assert rooms("! old\n###\n#.#\n", comments="!") == [["###", "#.#"]]


def test_letters_that_draw_a_room_are_no_title():
    assert rooms("WWWW\nWFDW\nWFFW\nWWWW\n") == [["WWWW", "WFDW", "WFFW", "WWWW"]]


def test_a_whole_file_is_one_room_where_that_is_asked_for():
    assert rooms("##\n\n##\n", parts="none") == [["##", "  ", "##"]]


# --- forms ------------------------------------------------------------------------------------


def test_blanks_that_go_past_the_room_are_cut_off():
    assert rooms("###  \n#.#\n### \n") == [["###", "#.#", "###"]]


def test_short_rows_are_filled_up():
    assert rooms("####\n#\n####\n") == [["####", "#   ", "####"]]


def test_tabs_are_columns_between_signs():
    assert rooms("a\tb\nccccc\n", tab=4, form="signs") == [["a   b", "ccccc"]]


@pytest.mark.parametrize(
    ("text", "file"),
    [("1,2\n3,10\n", "a.csv"), ("1;2\n3;10\n", "a.csv"), ("1\t2\n3\t10\n", "a.tsv"),
     ("1 2\n3 10\n", "a.txt"), ('"1",2\r\n3,10\r\n', "a.csv")],
)  # fmt: skip
def test_codes_may_be_parted_by_anything_usual(text, file):
    assert read_text_grids(text.encode(), file).grids[0].rows() == [["1", "2"], ["3", "10"]]


def test_an_open_place_between_commas_is_a_blank():
    assert read_text_grids(b"1,,2\n,,\n", "a.csv").grids[0].rows() == [
        ["1", " ", "2"], [" ", " ", " "]]  # fmt: skip


@pytest.mark.parametrize(
    "text",
    ["4#\n#2.#\n4#\n", "#4\n#.2#\n#4\n", "4#|#2.#|4#\n"],
    ids=["before", "after", "one line"],
)
def test_runs_are_read_whichever_side_their_counts_stand_on(text):
    assert rooms(text) == [["####", "#..#", "####"]]


def test_starred_runs_are_read():
    assert rooms("3*0 2*1\n5*1\n") == [["00011", "11111"]]


def test_digits_that_draw_a_room_are_no_counts():
    assert rooms("00100\n01210\n11111\n") == [["00100", "01210", "11111"]]


def test_a_run_that_no_room_can_hold_is_refused_before_it_takes_memory():
    with pytest.raises(BadFile, match="line 1: has a row of over 16384 cells"):
        rooms("99999#\n3#\n", form="runs")


# --- pictures ---------------------------------------------------------------------------------


def png(pixels: np.ndarray) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels.astype(np.uint8)).save(out, "png")
    return out.getvalue()


COLOURS = np.array([[200, 0, 0], [0, 200, 0], [0, 0, 0]])


def test_each_colour_of_a_picture_is_a_symbol():
    grid = read_picture_grid(png(COLOURS[[[0, 1], [2, 2]]]), "map.png")
    assert grid.rows() == [["#c80000", "#00c800"], ["#000000", "#000000"]]


def test_squares_of_one_colour_are_one_cell():
    small = COLOURS[[[0, 1, 0], [2, 2, 1]]]
    grid = read_picture_grid(png(np.kron(small, np.ones((6, 6, 1)))), "map.png")
    assert grid.size == (2, 3)


def test_near_colours_are_joined_only_when_asked_for():
    pixels = np.array([[[100, 100, 100], [103, 100, 100], [100, 100, 100], [200, 0, 0]]])
    assert len(read_picture_grid(png(pixels), "a.png").symbols) == 3
    joined = read_picture_grid(png(pixels), "a.png", Reading(near=4))
    assert joined.rows() == [["#646464"] * 3 + ["#c80000"]]


def test_a_picture_of_very_many_colours_says_that_near_ones_can_be_joined():
    noise = np.random.default_rng(1).integers(0, 256, (128, 128, 3))
    with pytest.raises(BadFile, match=r"photo.png: holds 1\d,\d+ colours.*can be joined"):
        read_picture_grid(png(noise), "photo.png")
    assert len(read_picture_grid(png(noise), "photo.png", Reading(near=80)).symbols) < 200


def test_clear_pixels_are_a_symbol_of_their_own():
    pixels = np.array([[[9, 9, 9, 255], [9, 9, 9, 0]]])
    assert read_picture_grid(png(pixels), "a.png").rows() == [["#090909", "clear"]]


# --- counted ----------------------------------------------------------------------------------


def test_symbols_are_counted_over_all_rooms():
    grids = read_text_grids(f"{SMALL}\n##\n##\n".encode(), "a.txt").grids
    counts = counted(grids)
    assert list(counts) == ["#", ".", "@"]
    assert (counts["#"].cells, counts["#"].rooms, counts["#"].most) == (14, 2, (0, 10))


def test_where_a_symbol_stands_is_shown_small():
    mask = np.zeros((40, 40), bool)
    mask[:20, :20] = True
    assert shrunk(mask, (2, 4)).tolist() == [[1, 1, 0, 0], [0, 0, 0, 0]]


# --- legends ----------------------------------------------------------------------------------

LEGEND = Legend("pack", (Meaning("#", "Brick"), Meaning("."), Meaning("@", "Floor", "Start")))


def test_a_legend_reads_back_equal(tmp_path):
    path = tmp_path / "l.json"
    path.write_text(legend_text(LEGEND))
    assert read_legend(path) == LEGEND


def test_a_file_that_is_no_legend_is_refused(tmp_path):
    path = tmp_path / "l.json"
    path.write_text('{"name": "x"}')
    with pytest.raises(BadFile, match=r"l\.json: is no legend"):
        read_legend(path)


def test_a_legend_says_each_symbol_once():
    with pytest.raises(BadValue, match="each once"):
        Legend("twice", (Meaning("#"), Meaning("#", "Brick")))


def test_the_legend_that_knows_more_cells_fits_better():
    counts = counted(read_text_grids(SMALL.encode(), "a.txt").grids)
    poor = fit_of(Legend("poor", (Meaning("@"),)), counts)
    good = fit_of(LEGEND, counts)
    assert good.share == 1 and good.whole
    assert 0 < poor.share < 0.5 and poor.unknown == ("#", ".")


def test_kept_legends_are_proposed_in_other_projects(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    keep_legend(LEGEND)
    keep_legend(Legend("other", (Meaning("x"),)))
    assert {legend.name for legend in kept_legends()} == {"pack", "other"}
    counts = counted(read_text_grids(SMALL.encode(), "a.txt").grids)
    assert [f.legend.name for f in fits(scripting.new().data, counts)] == ["pack", "other"]


# --- brought in -------------------------------------------------------------------------------


def brought(text: str, legend: Legend | None = None, **wanted: object) -> scripting.ProjectHandle:
    handle = scripting.new(None, "Test")
    grids = read_text_grids(text.encode(), "pack.txt").grids
    legend = legend or drafted("pack", counted(grids))
    handle.history.apply(
        rooms_from_symbols(handle.data, grids, legend, Wanted(make=True, **wanted))  # type: ignore[arg-type]
    )
    return handle


def test_a_symbol_may_be_floor_and_thing_at_once():
    room = brought(SMALL, LEGEND).room("pack")
    ((_, ground),) = room.data.cell_layers()
    things = dict(room.data.bottom_up("things"))
    names = ("", *room.project.data.materials)
    assert [names[n] for n in ground.plane("material")[1]] == ["Brick", "Floor", "", "Brick"]
    assert [(t.prefab, t.cell) for la in things.values() for t in la.things.values()] == [
        ("Start", (1, 1))]  # fmt: skip


def test_all_rooms_of_a_run_come_in_as_one_edit():
    handle = brought(f"{SMALL}\n{SMALL}\n{SMALL}")
    assert len(handle.rooms()) == 3
    handle.undo()
    assert handle.rooms() == () and not handle.data.shelf("legends")


def test_a_name_that_the_project_lacks_is_refused_unless_it_shall_be_made():
    handle = scripting.new(None, "Test")
    grids = read_text_grids(SMALL.encode(), "pack.txt").grids
    with pytest.raises(UnknownName, match="no material named “Brick”"):
        rooms_from_symbols(handle.data, grids, LEGEND)


def test_codes_that_the_project_knows_are_drafted_as_what_they_are_called():
    project = small_room((4, 4)).project
    found = drafted("codes", ["Water", "Bush", "Lift", "Rope", "ab", " "], None, project.data)
    assert [meaning.parts for meaning in found.meanings] == [
        ("Water", "", ""), ("", "Bush", ""), ("Symbol Lift", "", ""), ("Rope", "", ""),
        ("Symbol ab", "", ""), ("", "", ""),
    ]  # fmt: skip


def test_a_brush_that_is_there_makes_way_for_no_plain_one():
    project = small_room((4, 4)).project
    legend = Legend("l", (Meaning("#", "Lift"), Meaning("."), Meaning("@")))
    grids = read_text_grids(SMALL.encode(), "a.txt").grids
    with pytest.raises(NameTaken, match="there is already a brush named “Lift”"):
        rooms_from_symbols(project.data, grids, legend, Wanted(make=True))


def test_thousands_of_symbols_are_made_at_once():
    """Each brush on its own would count all before it again."""
    text = "\n".join("".join(chr(0x4E00 + 60 * y + x) for x in range(60)) for y in range(40))
    project = scripting.new(None, "P")
    (grid,) = read_text_grids(text.encode(), "a.txt").grids
    legend = drafted("many", grid.symbols, None, project.data)
    edit = rooms_from_symbols(project.data, [grid], legend, Wanted(make=True))
    assert len(edit.records) < 2 * 2400 + 100
    project.history.apply(edit)
    (room,) = (project.data.room(name) for name in project.rooms())
    assert len(np.unique(room.cell_layers()[0][1].plane("material"))) == 2400


def test_a_tint_of_a_legend_is_worn():
    legend = Legend("t", (Meaning("#", "Brick", tint="Rust"), Meaning("."), Meaning("@")))
    room = brought(SMALL, legend).room("pack").data
    assert room.worn_tint is not None
    assert room.worn_tint.plane("fore").tolist() == [[1] * 4, [1, 0, 0, 1], [1] * 4]


def test_a_room_that_was_brought_in_weaves_and_draws():
    picture = brought(SMALL).room("pack").render()
    assert picture.shape == (3 * 16, 4 * 16, 4) and picture[0, 0, 3] == 255


@given(
    st.lists(st.text("#.@ ~", min_size=1, max_size=12), min_size=1, max_size=10),
    st.booleans(),
)
def test_what_is_written_by_a_legend_reads_back_equal(rows, given_one):
    wide = max(map(len, rows))
    text = "\n".join(row.ljust(wide, ".") for row in rows) + "\n"
    first = read_text_grids(text.encode(), "a.txt", Reading("utf-8", "signs", "none", "§"))
    legend = drafted("a", counted(first.grids))
    handle = scripting.new(None, "Test")
    handle.history.apply(rooms_from_symbols(handle.data, first.grids, legend, Wanted(make=True)))
    room = handle.data.room(handle.rooms()[0])
    made = room_text(handle.data, room, legend if given_one else None)
    again = read_text_grids(made.text.encode(), "a.txt", made.legend.reading)
    edit = rooms_from_symbols(handle.data, again.grids, made.legend)
    handle.history.apply(edit)
    second = handle.data.room(handle.rooms()[1])
    for (_, a), (_, b) in zip(room.cell_layers(), second.cell_layers(), strict=True):
        assert np.array_equal(a.plane("material"), b.plane("material"))
    if given_one:
        assert made.text == text


def test_a_cell_that_a_legend_cannot_say_is_named():
    handle = brought(SMALL)
    with pytest.raises(BadValue, match="the cell 0, 0 of pack is 'Symbol #'"):
        room_text(handle.data, handle.data.room("pack"), Legend("empty", (Meaning("."),)))


# --- many files -------------------------------------------------------------------------------


def test_files_that_cannot_be_read_are_left_out_and_named(tmp_path: Path):
    (tmp_path / "a.txt").write_text(SMALL)
    (tmp_path / "b.txt").write_bytes(b"a\0b")
    (tmp_path / "c.png").write_bytes(png(COLOURS[[[0, 1], [2, 2]]]))
    (tmp_path / "ignored.pdf").write_bytes(b"?")
    batch = read_batch([tmp_path])
    assert [grid.file for grid in batch.grids] == ["a.txt", "c.png"]
    assert batch.problems == [("b.txt", "b.txt, line 1: is no text: it holds zero bytes")]
    assert batch.text() == "3 files, 2 rooms, 16 cells, 1 left out"


def test_a_file_with_whose_symbols_there_are_too_many_is_left_out(tmp_path):
    for name, first in (("a.txt", 0x4E00), ("b.txt", 0x6E00), ("c.txt", 0x4E00)):
        rows = ("".join(chr(first + 60 * y + x) for x in range(60)) for y in range(50))
        (tmp_path / name).write_text("\n".join(rows), encoding="utf-8")
    batch = read_batch([tmp_path])
    assert [grid.file for grid in batch.grids] == ["a.txt", "c.txt"]
    ((file, why),) = batch.problems
    assert file == "b.txt" and "more than 4096 different symbols" in why


def test_a_file_may_have_any_name(tmp_path):
    path = tmp_path / f"{'long ' * 49}\x07.txt"
    path.write_text(SMALL)
    project = scripting.new(None, "P")
    batch, legend = project.import_symbols([path])
    assert len(batch.grids) == 1 and legend.name.startswith("long long") and len(legend.name) <= 80
    assert len(project.rooms()) == 1


def test_a_file_that_is_missing_stops_the_run(tmp_path):
    with pytest.raises(BadFile, match="is missing"):
        read_batch([tmp_path / "nothing.txt"])


def test_rows_of_letters_with_a_sign_between_are_no_titles():
    drawn = "WWW=WWW\nWFF:FFW\nWFFFFFW\nWWWWWWW\n"
    assert rooms(drawn) == [drawn.split()]


def test_several_lines_may_speak_of_one_room():
    text = f"{SMALL}Title: Mill\nAuthor: me\nDate: today\n\n{SMALL}Title: Loft\nAuthor: me\n"
    assert rooms(text) == rooms(f"{SMALL}\n{SMALL}")
    assert titles(text) == ["Mill", "Loft"]


@pytest.mark.parametrize(
    "text",
    ["----\n-XX-\nX--X\n", "X--X\n----\n-SS-\n", '"""".\n"..".\n"""".\n', "''..\n'.'.\n....\n"],
)
def test_rooms_may_be_drawn_with_the_signs_that_comments_begin_with(text):
    assert rooms(text) == [text.split()]


def test_a_row_that_alone_has_some_letter_is_no_title():
    drawn = "WWEWW\nWFFFW\nWFFFW\nWWDWW\n"
    assert rooms(drawn) == [drawn.split()]


def test_a_head_of_several_lines_is_no_part_of_a_room():
    assert rooms("# drawn by hand\n# long ago\n....\n.oo.\n....\n") == [["....", ".oo.", "...."]]
