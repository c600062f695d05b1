"""The scripting calls and the command line, as a script and a shell use them."""

import json
import subprocess
import sys
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image

import topion
from tests.rooms import SIDE, sheet_picture, small_room
from tests.sheets import loose_sheet
from tests.voxel_rooms import isle
from topion import cli
from topion.errors import BadValue, TopionError, UnknownName
from topion.pictures.png import png_bytes


def test_unknown_names_name_the_nearest_known_ones(room):
    for call, message in (
        (lambda: room.project.room("Yrad"), "no room named “Yrad”; nearest: Yard"),
        (lambda: room.lay("Mudd", cells=[(1, 1)]), "no brush named “Mudd”; nearest: Mud"),
        (lambda: room.verdict("Lmap", 1, 1), "no prefab named “Lmap”; nearest: Lamp"),
        (lambda: room.render(1, layer="Grund"), "nearest: Ground"),
        (lambda: room.lift("Watr", cells=[(1, 1)]), "nearest: Water"),
        (lambda: room.lay("Mud", cells=[(1, 1)], layer="Grnd"), "nearest: Ground"),
    ):
        with pytest.raises(UnknownName) as caught:
            call()
        assert message in str(caught.value)


@pytest.mark.parametrize(
    "way",
    [
        {},
        {"cells": [(1, 1)], "line": ((1, 1), (2, 2))},
        {"cells": "abc"},
        {"cells": [(1, 1)], "strength": 2},
    ],
)
def test_a_stroke_without_sense_is_refused(room, way):
    with pytest.raises(BadValue):
        room.lay("Mud", **way)


def test_what_scripts_have_at_hand_fits(room):
    """Masks, lists and the numbers of NumPy are taken for what they stand for."""
    mask = np.zeros(room.size, bool)
    mask[3:5, 6:9] = True
    room.lay("Water", cells=mask)
    assert all(room.material(y, x) == "Water" for y, x in np.argwhere(mask))
    assert room.material(3.0, np.int64(6)) == "Water" and room.material(2, 6) == "Mud"
    room.project.add_room("Other", [np.int32(4), 5.0])
    assert room.project.room("Other").size == (4, 5)
    room.set_layer("Ground", offset=(0.5, 0.0), opacity=0.5)


@pytest.mark.parametrize(
    ("call", "message"),
    [
        (lambda room: room.project.add_room("Five", size=5), "the size is 5, but it must be"),
        (lambda room: room.material(1.5, 1), "the cell is .1.5, 1., but it must be"),
        (lambda room: room.material("1", 1), "a whole number"),
        (lambda room: room.set_layer("Ground", colour="#aabbcc"), "one of name, shown, locked"),
        (lambda room: room.set_layer("Ground", shown=3), "the shown of Ground is 3"),
        (lambda room: room.lay("Mud", cells=np.ones((3, 3), bool)), "a mask of 24 × 32"),
        (lambda room: room.lay("Mud", cells=[(np.nan, 1)]), r"positions \(y, x\) in cells"),
        (lambda room: room.lay("Mud", box=((1, 1),)), "2 lists of whole numbers"),
        (lambda room: room.lay(7, cells=[(1, 1)]), "the brush is 7"),
        (lambda room: room.project.room(None), "the name is None, but it must be text"),
        (lambda room: room.verdict("Cart", 1, 1, turn="left"), "the turn is 'left'"),
        (lambda room: room.view("top"), "a voxel room"),
        (lambda room: room.project.save(5), "the path is 5"),
        (lambda room: room.project.take_from(object(), "brushes", "Mud"), "other is a object"),
        (lambda room: room.project.room("x" * 55_000), "no room named"),
    ],
)
def test_arguments_without_sense_are_refused_in_one_sentence(room, call, message):
    with pytest.raises(TopionError, match=message) as problem:
        call(room)
    text = str(problem.value)
    assert len(text) <= 620 and "\n" not in text and " at 0x" not in text


def test_a_plan_hears_all_that_the_gesture_says():
    """A flat box drawn in a voxel room keeps the axis across which wide nibs are flat."""
    room = isle((6, 9, 9))
    nib = replace(room.project.data.brush("Stones"), nib=3)
    edit = room.plan(nib, line=((3, 4, 2), (3, 4, 6)))
    room.project.history.apply(edit)
    laid = {(z, y) for z in range(6) for y in range(9) if room.material(z, y, 4) == "Stones"}
    assert {y for _, y in laid if _ == 3} == {3, 4, 5}


def test_a_cell_outside_has_no_why(room):
    with pytest.raises(BadValue, match="inside Yard, 24 × 32 cells"):
        room.why(24, 0)


def test_why_and_material_speak_of_the_uppermost(room):
    room.lay("Water", box=((2, 2), (5, 5)))
    assert room.material(2, 2) == "Water"
    why = room.why(2, 2)
    assert (why.material, why.rule, why.number) == ("Water", "outer corner nw", 1)
    room.lift(cells=[(10, 10)])
    assert room.why(10, 10) is None and room.material(10, 10) == ""


def test_render_shows_each_cell_its_tile(room):
    picture = room.render(1)
    assert picture.shape == (24 * SIDE, 32 * SIDE, 4) and picture.dtype == np.uint8
    tileset = room.project.data.tilesets["sheet"]
    slot = room.why(5, 5).tile.slot
    tile = tileset.pixels(tileset.slot(slot).at)
    assert np.array_equal(picture[5 * SIDE : 6 * SIDE, 5 * SIDE : 6 * SIDE], tile)
    assert room.render(2).shape[0] == 2 * picture.shape[0]
    assert np.array_equal(room.render(2)[::2, ::2], picture)
    assert room.render(0.25).shape == (24, 32, 4)
    for scale in (0, -1, 1000):
        with pytest.raises(BadValue, match="the scale"):
            room.render(scale)


def test_a_layer_alone_is_clear_where_it_is_empty(room):
    room.lay("Lamp", cells=[(4, 4)])
    alone = room.render(1, layer="Things")
    assert alone[4 * SIDE, 4 * SIDE, 3] == 255 and alone[..., 3].mean() < 10
    room.set_layer("Things", shown=False)
    assert np.array_equal(room.render(1), room.render(1, layer="Ground"))


def test_opacity_mixes_with_what_lies_below(room):
    room.add_layer("Upper", "tiles")
    room.lay("Water", box=((0, 0), (9, 9)), layer="Upper")
    over, below = room.render(1), room.render(1, layer="Ground")
    room.set_layer("Upper", opacity=0.5)
    mixed = room.render(1).astype(int)
    assert np.abs(mixed - (over.astype(int) + below) / 2).max() <= 1.5


def test_a_project_of_a_script_is_the_project_of_a_designer(tmp_path):
    project = topion.new(tmp_path / "p.topion", "P")
    project.add_room("One", (8, 9))
    project.save()
    again = topion.open(tmp_path / "p.topion")
    assert again.name == "P" and again.room("One").size == (8, 9)
    assert again.undo() is False and again.redo() is False


# --- command line -------------------------------------------------------------------------


@pytest.fixture
def folder(tmp_path):
    room = small_room()
    room.lay("Water", box=((2, 2), (5, 5)))
    room.lay("Reeds", box=((8, 8), (20, 20)))
    return room.project.save(tmp_path / "Small.topion")


def run(capsys, *arguments):
    code = cli.main([str(a) for a in arguments])
    out, err = capsys.readouterr()
    return code, out, err


def test_new_makes_a_project_that_opens(tmp_path, capsys):
    code, out, _ = run(capsys, "new", tmp_path / "A.topion", "--size", "20x10", "--room", "Hall")
    assert code == 0 and "Hall" in out
    assert topion.open(tmp_path / "A.topion").room("Hall").size == (10, 20)
    assert run(capsys, "new", tmp_path / "A.topion")[0] == 2


def test_import_sheet_says_what_it_found(folder, tmp_path, capsys):
    path = tmp_path / "s.png"
    path.write_bytes(sheet_picture(side=16).png)
    code, out, _ = run(capsys, "import", "sheet", folder, path, "--tile", "16x16", "--name", "More")
    assert code == 0 and "40 slots of 16 × 16 px, 8 empty ones skipped" in out
    assert topion.open(folder).data.tilesets["More"].cut.tile == (16, 16)
    code, _, err = run(capsys, "import", "sheet", folder, path, "--name", "More")
    assert code == 2 and "already a tile set" in err
    code, out, _ = run(capsys, "import", "sheet", folder, path, "--name", "Found")
    assert code == 0 and "16 × 16 px" in out


def test_check_tells_clean_from_findings(folder, capsys):
    assert run(capsys, "check", folder)[:2] == (0, "0 findings\n")
    project = topion.open(folder)
    project.room("Yard").lay("Lamp", cells=[(3, 3), (3, 4)], override=True)
    project.save()
    code, out, _ = run(capsys, "check", folder, "--json")
    findings = json.loads(out)
    assert (
        code == 1
        and findings[0]["check"] == "rule broken: clear of"
        and findings[0]["cell"] == [3, 3]
    )


def test_a_sheet_is_cut_round_its_drawings_when_asked(folder, tmp_path, capsys):
    path = tmp_path / "loose.png"
    path.write_bytes(png_bytes(loose_sheet()))
    code, out, _ = run(capsys, "import", "sheet", folder, path, "--drawings")
    assert code == 0 and " slots of up to " in out
    cut = topion.open(folder).data.tileset("loose").cut
    assert len(cut.rects) > 20 and f"{len(cut.rects)} slots" in out


def test_the_count_of_files_written_is_true(folder, tmp_path, capsys):
    for kind in ("png", "csv", "json"):
        out = run(capsys, "export", folder, "--to", kind, "-o", tmp_path / kind)[1]
        assert f"wrote {len(list((tmp_path / kind).iterdir()))} file" in out


def test_render_and_export_write_files(folder, tmp_path, capsys):
    target = tmp_path / "yard.png"
    assert run(capsys, "render", folder, "Yard", "-o", target, "--scale", "2")[0] == 0
    assert Image.open(target).size == (32 * SIDE * 2, 24 * SIDE * 2)
    for kind, count in (("json", 1), ("csv", 6), ("png", 4)):
        assert run(capsys, "export", folder, "--to", kind, "-o", tmp_path / kind)[0] == 0
        assert len(list((tmp_path / kind).iterdir())) >= count
    assert run(capsys, "schema")[0] == 0


@pytest.mark.parametrize(
    ("arguments", "message"),
    [
        (("check", "none.topion"), "none.topion: is missing"),
        (("render", "FOLDER", "Yrad", "-o", "x.png"), "nearest: Yard"),
        (("render", "FOLDER", "Yard", "-o", "x.png", "--layer", "Sky"), "no layer"),
        (("render", "FOLDER", "Yard", "-o", "none/x.png"), "No such file"),
        (("render", "FOLDER", "Yard", "-o", "x.png", "--scale", "-2"), "the scale"),
        (("export", "FOLDER", "Attic", "--to", "csv", "-o", "out"), "no room named “Attic”"),
        (("import", "sheet", "FOLDER", "none.png", "--tile", "16x16"), "none.png: is missing"),
        (("import", "sheet", "FOLDER", "none.png", "--tile", "big"), "two numbers such as 16x16"),
        (("new", "y.topion", "--size", "0x4"), "the room's size"),
        (("new", "y.topion", "--size", "99999x99999"), "the room's size"),
        (("open", "none.topion"), "none.topion is missing"),
        (("render", "FOLDER", "Yard", "-o", "x.png", "--scale", "nan"), "the scale is nan"),
        (("render", "FOLDER", "Yard", "-o", "x.png", "--scale", "two"), "must be a number, not"),
        (("render", "FOLDER", "Yard", "-o", "x.png", "--view", "top"), "--view is for voxel rooms"),
        (("render", "FOLDER", "Yard", "-o", "x.png", "--px", "9x9"), "--px is for voxel rooms"),
        (("render", "FOLDER", "Yard", "-o", "x.png", "--perspective"), "Yard is a flat room"),
        (("render", "FOLDER", "Yard", "-o", "x.png", "--colour", "red"), "--colour"),
        (("render", "FOLDER", "Yard", "-o", "a" * 300), "name too long"),
        (("render", "FOLDER", "Yard", "-o", "a\0b"), "is no name for a file"),
        (("export", "FOLDER", "--to", "csv", "-o", "out", "--scale", "2"), "csv has no size"),
        (("export", "FOLDER", "--to", "mp3", "-o", "out"), "'mp3'"),
        (("export", "FOLDER", "--to", "csv", "-o", "x/" * 3000), "name too long"),
        (("import", "sheet", "FOLDER", "s.png", "--margin", "2"), "needs a tile size"),
        (("import", "sheet", "FOLDER", "s.png", "--drawings", "--tile", "9x9"), "--drawings"),
        (("bogus",), "'bogus'"),
        (("new",), "project"),
    ],
)
def test_bad_input_is_one_sentence_and_a_code(
    folder, tmp_path, monkeypatch, capsys, arguments, message
):
    monkeypatch.chdir(tmp_path)
    code, out, err = run(capsys, *(folder if a == "FOLDER" else a for a in arguments))
    assert code == 2 and out == "" and message in err
    assert err.startswith("topion: ") and err.count("\n") == 1


@pytest.mark.parametrize(
    "command",
    ["", "new", "import", "import sheet", "check", "render", "export", "open", "demo", "schema"],
)
def test_help_everywhere(command, capsys):
    with pytest.raises(SystemExit) as stopped:
        cli.main([*command.split(), "--help"])
    assert stopped.value.code == 0 and "usage: topion" in capsys.readouterr().out


def test_version_and_no_heavy_imports_for_it():
    code = "import sys, topion.cli as c\ntry: c.main(['--version'])\nexcept SystemExit: pass\nprint('numpy' in sys.modules)"
    out = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True).stdout
    assert out.split() == ["topion", topion.__version__, "False"]


def test_errors_are_ours():
    with pytest.raises(TopionError):
        topion.open("/nowhere/at all")
