"""Palettes, tint rows, tile rows and themes as files."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import jsonschema
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.looks import tinted_room, with_palette
from tests.rooms import SHEET, SIDE, sheet_picture, small_room
from tests.voxel_rooms import isle
from topion.brushes import TintBrush
from topion.cli import main
from topion.errors import BadFile
from topion.formats.bundle import bundle_bytes, read_bundle, schema
from topion.formats.palettes import colours_of_gpl, gpl_text
from topion.formats.text_rows import (
    read_tile_rows,
    read_tint_rows,
    tile_text,
    tint_text,
)
from topion.model.compare import differences
from topion.pictures.png import picture_of, png_bytes, read_png_file
from topion.scripting import new
from topion.scripting import open as open_project
from topion.weaving.settle import shown_tiles

GPL = """GIMP Palette
Name: Harbour
Columns: 4
# by hand
 31  42  68	Night
231 180  90\tLamp light
  0   0   0
"""


def test_a_palette_file_gives_names_and_colours():
    found = colours_of_gpl(GPL, "harbour.gpl")
    assert [(t.name, t.colour) for t in found] == [
        ("Night", "#1f2a44"), ("Lamp light", "#e7b45a"), ("#000000", "#000000")
    ]  # fmt: skip
    again = colours_of_gpl(gpl_text("Harbour", found), "again.gpl")
    assert [(t.name, t.colour) for t in again] == [(t.name, t.colour) for t in found]


@pytest.mark.parametrize(("text", "said"), [
    ("JASC-PAL\n", "line 1"),
    ("GIMP Palette\n300 0 0 x\n", "line 2"),
    ("GIMP Palette\n# nothing\n", "holds no colours"),
    ("GIMP Palette\n" + "1 2 3 c\n" * 65, "line 66"),
])  # fmt: skip
def test_a_bad_palette_file_is_refused_with_its_line(text, said):
    with pytest.raises(BadFile, match=said):
        colours_of_gpl(text, "bad.gpl")


def test_tile_rows_say_what_every_cell_shows():
    room = tinted_room()
    data, layer = room.project.data, room.data.cell_layers()[0][1]
    rows = read_tile_rows(tile_text(data, room.data, layer), "yard.txt")
    shown = shown_tiles(data, layer)
    for cell in np.ndindex(shown.shape):
        name = rows.legend[rows.tiles[cell] - 1] if rows.tiles[cell] else ""
        ref = data.tiles[shown[cell] - 1] if shown[cell] else None
        assert name == (f"{ref.tileset} / {ref.slot}" if ref else "")


@settings(max_examples=20, deadline=None)
@given(st.integers(1, 3), st.integers(1, 6), st.integers(1, 6), st.integers(0, 1 << 30))
def test_tint_rows_read_back_equal(levels, high, wide, seed):
    size = (high, wide) if levels == 1 else (levels, high, wide)
    room = with_palette(new(None, "P")).add_room("R", size)
    room.add_tint_map("Dusk")
    random = np.random.default_rng(seed)
    layer = room.data.worn_tint
    planes = {"fore": 5, "back": 5, "bright": 2}
    for name, most in planes.items():
        layer.planes[name] = random.integers(0, most, size).astype(np.uint8)
    rows = read_tint_rows(tint_text(room.project.data, room.data, layer), "r.txt")
    assert (rows.room, rows.map, rows.legend) == ("R", "Dusk", room.project.data.palette)
    for name in planes:
        assert np.array_equal(getattr(rows, name), layer.plane(name))


@pytest.mark.parametrize(("change", "said"), [
    (lambda t: t.replace("topion tint rows 1", "rows"), "line 1"),
    (lambda t: t.replace("size: 4 × 3", "size: 4 x 3"), "line 4"),
    (lambda t: t.replace("size: 4 × 3", "size: 99999 × 99999"), "line 4"),
    (lambda t: t.replace("....- ....-\n", "....-\n", 1), "has 3 cells, not 4"),
    (lambda t: t.replace("0102+", "0902+"), "not in the legend"),
    (lambda t: t.replace("0102+", "01+02"), "no code of a tint"),
])  # fmt: skip
def test_bad_tint_rows_are_refused_with_their_line(change, said):
    room = with_palette(new(None, "P")).add_room("R", (3, 4))
    room.add_tint_map("Dusk")
    room.lay(TintBrush("T", 1, 2, "bright", both=True), cells=[(1, 1)])
    text = tint_text(room.project.data, room.data, room.data.worn_tint)
    assert change(text) != text
    with pytest.raises(BadFile, match=said):
        read_tint_rows(change(text), "r.txt")


def test_a_project_with_tints_and_themes_reads_back_the_same(tmp_path):
    room = tinted_room()
    sheet = tmp_path / "winter.png"
    sheet.write_bytes(png_bytes(sheet_picture().rgba[:, ::-1]))
    room.project.import_theme(SHEET, sheet, "Winter")
    room.wear(theme="Winter")
    room.project.save(tmp_path / "Small.topion")
    again = open_project(tmp_path / "Small.topion")
    assert differences(room.project.data, again.data) == []
    assert np.array_equal(again.room("Yard").render(), room.render())
    names = {p.name for p in (tmp_path / "Small.topion" / "rooms" / "Yard").iterdir()}
    assert {"evening.fore.rows", "evening.back.rows", "evening.bright.rows"} <= names


def test_a_project_without_them_says_nothing_of_a_palette(tmp_path):
    room = small_room()
    room.project.save(tmp_path / "Small.topion")
    text = (tmp_path / "Small.topion" / "project.json").read_text()
    assert "palette" not in text


def run(*words: object) -> int:
    return main([str(word) for word in words])


def test_the_command_line_draws_one_room_in_two_tints(tmp_path, capsys):
    room = tinted_room()
    room.add_tint_map("Flood")
    room.lay(TintBrush("All", 4, 1, both=True), box=((0, 0), (11, 15)))
    folder = tmp_path / "Small.topion"
    room.project.save(folder)
    for name in ("Evening", "Flood", ""):
        out = tmp_path / f"{name or 'none'}.png"
        assert run("render", folder, "Yard", "-o", out, "--tint", name) == 0
        assert np.array_equal(read_png_file(out).rgba, room.render(tint=name))
    assert run("render", folder, "Yard", "-o", tmp_path / "x.png", "--tint", "Dawn") == 2
    assert "Dawn" in capsys.readouterr().err
    assert run("render", folder, "Yard", "-o", tmp_path / "x.png", "--theme", "Ice") == 2


def test_the_command_line_brings_in_palettes_themes_and_tints(tmp_path, capsys):
    room = tinted_room()
    folder = tmp_path / "Small.topion"
    room.project.save(folder)
    palette = tmp_path / "harbour.gpl"
    palette.write_text(GPL)
    assert run("import", "palette", folder, palette) == 0
    small = tmp_path / "ice.png"
    small.write_bytes(png_bytes(sheet_picture(rows=4).rgba))
    assert run("import", "theme", folder, SHEET, small, "--theme", "Ice") == 0
    assert "slots stay as in the first" in capsys.readouterr().out
    assert run("export", folder, "Yard", "--to", "rows", "-o", tmp_path / "out") == 0
    rows = tmp_path / "out" / "Yard.evening.tints.txt"
    assert run("import", "tints", folder, "Yard", rows, "--name", "Again") == 0
    again = open_project(folder).room("Yard")
    assert np.array_equal(again.render(tint="Again"), again.render(tint="Evening"))
    assert run("import", "tints", folder, "Yard", palette) == 2
    assert "line 1" in capsys.readouterr().err


def test_a_sheet_that_cannot_hold_the_slots_is_refused(tmp_path):
    room = small_room()
    odd = tmp_path / "odd.png"
    odd.write_bytes(png_bytes(np.zeros((7, 13, 4), np.uint8)))
    with pytest.raises(BadFile, match=r"odd\.png"):
        room.project.import_theme(SHEET, odd, "Odd")


def test_a_sheet_of_twice_the_size_is_cut_by_twice_as_much(tmp_path):
    room = small_room((4, 4))
    large = tmp_path / "large.png"
    large.write_bytes(png_bytes(sheet_picture(side=2 * SIDE).rgba))
    assert room.project.import_theme(SHEET, large, "Large") == []
    assert room.render(theme="Large").shape == room.render().shape


def test_a_voxel_room_with_tints_is_written_and_read(tmp_path):
    room = isle()
    with_palette(room.project)
    room.lay(TintBrush("Lamp", 2), box=((2, 0, 0), (2, 3, 3)))
    room.project.save(tmp_path / "Isles.topion")
    again = open_project(tmp_path / "Isles.topion").room("Isle")
    assert np.array_equal(again.view(size=(60, 80)), room.view(size=(60, 80)))
    assert not np.array_equal(again.render(0.5), again.render(0.5, tint=""))


def test_a_reader_outside_finds_the_codes_of_a_row(tmp_path):
    """Ten lines of plain Python, with nothing of ours."""
    room = tinted_room()
    text = tint_text(room.project.data, room.data, room.data.worn_tint)
    (tmp_path / "t.txt").write_text(text)
    reader = (
        "import sys\n"
        "lines = open(sys.argv[1], encoding='utf-8').read().split('\\n')\n"
        "legend = int(lines[4].split(': ')[1])\n"
        "rows = [line.split() for line in lines[5 + legend:] if line]\n"
        "print(rows[2][2], rows[9][12], rows[11][0], len(rows), len(rows[0]))\n"
    )
    said = subprocess.run([sys.executable, "-c", reader, str(tmp_path / "t.txt")],
                          capture_output=True, text=True, check=True).stdout  # fmt: skip
    assert said.split() == ["0102-", "03..+", "....-", "12", "16"]


def test_pictures_of_other_programs_stay_to_the_byte(tmp_path):
    room = small_room()
    data = png_bytes(sheet_picture().rgba)
    path: Path = tmp_path / "w.png"
    path.write_bytes(data)
    room.project.import_theme(SHEET, path, "Winter")
    room.project.save(tmp_path / "S.topion")
    kept = [p for p in (tmp_path / "S.topion" / "themes").iterdir() if p.suffix == ".png"]
    assert kept[0].read_bytes() == data
    assert picture_of(sheet_picture().rgba).size_px == read_png_file(kept[0]).size_px


def test_the_bundle_holds_the_looks_keeps_to_its_schema_and_reads_back_equal(tmp_path):
    room = tinted_room()
    path = tmp_path / "winter.png"
    path.write_bytes(png_bytes(sheet_picture().rgba))
    room.project.import_theme(SHEET, path, "Winter")
    room.wear(theme="Winter")
    data = bundle_bytes(room.project.data)
    jsonschema.validate(json.loads(data), schema())
    bundle = tmp_path / "bundle.json"
    bundle.write_bytes(data)
    assert differences(read_bundle(bundle), room.project.data) == []
