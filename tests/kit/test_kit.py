"""The blockout kit, and how projects begin."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image

from tests.rooms import small_room
from topion import scripting
from topion.brushes import Mosaic, Weave
from topion.brushes.proposing import colour_word, proposed_brushes
from topion.cli import main
from topion.edit.proposed import put_proposed, sheet_with_brushes, told_of
from topion.errors import BadFile
from topion.grid.neighbours import cases_47
from topion.kit import flat
from topion.kit.art import pictures
from topion.kit.blockout import FirstRoom, blockout
from topion.kit.starting import begun, of_sheet
from topion.model.tileset import Cut, TileSet
from topion.pictures.png import picture_of
from topion.weaving.ready import case_name

KINDS = {
    "side": FirstRoom(),
    "top": FirstRoom(seen="top"),
    "voxel": FirstRoom(size=(10, 14, 18)),
}


@pytest.mark.parametrize("kind", KINDS)
def test_a_kit_room_begins_with_ground_and_nothing_to_mend(kind):
    project = blockout("Kiln Row", KINDS[kind])
    assert [finding.text() for finding in project.check()] == []
    assert not project.history.edits  # nobody painted in it yet


@pytest.mark.parametrize("kind", KINDS)
def test_the_first_room_can_be_walked_from_start_to_goal(kind):
    project = blockout("Kiln Row", KINDS[kind])
    roles = [
        project.data.prefabs[thing.prefab].role.kind
        for _, layer in project.data.room("Room 1").bottom_up("things")
        for thing in layer.things.values()
    ]
    assert sorted(roles) == ["goal", "start"]
    assert not any("no way" in finding.text() for finding in project.check())


@pytest.mark.parametrize("look", ["Ground", "Floor", "Wall"])
def test_each_weave_of_the_kit_covers_every_case_by_a_rule_of_its_own(look):
    project = blockout("Kiln Row").data
    rules = project.brushes[look].book().rules
    names = {case_name(mask) for mask in cases_47()}
    assert {rule.name for rule in rules} == names


@pytest.mark.parametrize("px", [8, 16, 24, 32])
def test_the_kit_is_drawn_for_any_tile_size(px):
    tileset = flat.tileset(px)
    assert tileset.cut.tile == (px, px)
    assert tileset.filled.sum() >= len(list(pictures()))


def test_slopes_meet_from_tile_to_tile():
    tileset = flat.tileset(16)
    low, high = (tileset.pixels(tileset.slot(f"slope 2 {n}").at) for n in (1, 2))
    tops = [int(np.argmax(column > 0)) for column in (low[:, -1, 3], high[:, 0, 3])]
    assert abs(tops[0] - tops[1]) <= 1


def test_ramps_and_ways_of_the_kit_lie_in_both_kinds_of_rooms():
    side = blockout("A").room("Room 1")
    side.lay("Ramp 2 : 1", box=((26, 10), (23, 17)))
    side.lay("Plank", curve=[(12, 20), (12, 30)])
    deep = blockout("B", KINDS["voxel"]).room("Room 1")
    deep.lay("Slope 1 : 1", box=((2, 3, 3), (4, 4, 5)))
    deep.lay("Plank way", curve=[(3, 8, 3), (3, 8, 10)])
    assert side.render().shape == (480, 768, 4)
    assert len(deep.project.history.edits) == 2


# --- how projects begin -----------------------------------------------------------------------


def test_an_empty_project_has_one_open_room():
    project = begun("empty", "Bare", FirstRoom(size=(20, 30), cell_px=24))
    assert project.rooms() == ("Room 1",)
    assert project.data.room("Room 1").info.cell_px == 24
    assert not project.data.tilesets


def test_the_library_of_another_project_comes_without_its_rooms(tmp_path):
    room = small_room((8, 8))
    room.lay("Mud", cells=[(2, 2)])
    room.project.save(tmp_path / "theirs.topion")
    project = begun("library", "Ours", FirstRoom(), tmp_path / "theirs.topion")
    assert project.name == "Ours" and project.rooms() == ("Room 1",)
    assert project.data.brushes.keys() == room.project.data.brushes.keys()
    project.room("Room 1").lay("Mud", cells=[(1, 1)])
    project.save(tmp_path / "ours.topion")
    assert scripting.open(tmp_path / "ours.topion").data.id != room.project.data.id


# --- a sheet ----------------------------------------------------------------------------------


def nine_part(px: int, colour: tuple[int, int, int]) -> np.ndarray:
    """A block of three by three tiles: a colour with a dark rim round all of it."""
    block = np.zeros((3 * px, 3 * px, 4), np.uint8)
    block[...] = (*colour, 255)
    rng = np.random.default_rng(sum(colour))
    noise = rng.integers(-6, 7, (px, px, 1)).repeat(3, axis=2)
    block[..., :3] = np.clip(block[..., :3].astype(int) + np.tile(noise, (3, 3, 1)), 0, 255)
    for where in (np.s_[:3], np.s_[-3:], np.s_[:, :3], np.s_[:, -3:]):
        block[where] = (20, 20, 30, 255)
    return block


def sheet() -> TileSet:
    """A nine-part block, two grounds alike, and a picture of two by two tiles."""
    px = 16
    rgba = np.zeros((3 * px, 8 * px, 4), np.uint8)
    rgba[:, : 3 * px] = nine_part(px, (90, 150, 60))
    for n in range(2):
        rgba[:px, (4 + n) * px : (5 + n) * px] = (150, 110, 70, 255)
        rgba[5 + n : 7 + n, (4 + n) * px + 5 : (4 + n) * px + 8] = (140, 100, 60, 255)
    y, x = np.ogrid[: 2 * px, : 2 * px]
    tree = np.hypot(y - px, x - px) < px * 0.9
    rgba[px:, 6 * px :][tree] = (30, 90, 40, 255)
    return TileSet("Yard", picture_of(rgba), Cut((px, px)))


def test_a_nine_part_block_becomes_a_weave_and_grounds_a_mosaic():
    found = proposed_brushes(sheet(), set())
    weave, mosaic, *stamps = (brush for _, brush in found)
    assert isinstance(weave, Weave) and weave.name == "Green"
    assert {ref.slot for ref in weave.tiles_used()} == {f"{y},{x}" for y in range(3)
                                                        for x in range(3)}  # fmt: skip
    assert isinstance(mosaic, Mosaic) and {ref.slot for ref in mosaic.tiles_used()} == {
        "0,4",
        "0,5",
    }
    assert [stamp.summary() for stamp in stamps] == ["stamp · 2×2"]


def test_what_is_proposed_lays_the_block_as_it_is_drawn():
    project = scripting.new(None, "P")
    edit, names = sheet_with_brushes(project.data, sheet())
    project.history.apply(edit)
    assert told_of(project.data, names) == "1 weave, 1 mosaic, 1 stamp"
    room = project.add_room("R", (9, 9))
    room.lay("Green", box=((2, 2), (6, 6)))
    picture = room.render()[2 * 16 : 7 * 16, 2 * 16 : 7 * 16, :3]
    assert (picture[0] == (20, 20, 30)).all() and (picture[:, -1] == (20, 20, 30)).all()
    assert (picture[40, 40] != (20, 20, 30)).any()
    project.undo()
    project.undo()
    project.undo()
    assert not project.data.tilesets and not any(n in project.data.brushes for n in names)


def test_brushes_are_proposed_for_a_sheet_that_is_there_already():
    project = scripting.new(None, "P")
    project.add_tileset(sheet())
    edit, names = put_proposed(project.data, sheet())
    project.history.apply(edit)
    assert names[0] == "Green" and "Green" in project.data.materials


def test_a_project_begins_with_a_sheet(tmp_path):
    path = tmp_path / "yard.png"
    path.write_bytes(flat.tileset(16).sheet.png)
    project, names = of_sheet(path)
    assert project.name == "yard"
    assert project.data.tilesets["yard"].cut.tile == (16, 16)
    assert told_of(project.data, names).startswith("3 weaves")
    room = project.room("Room 1")
    room.lay(names[0], box=((1, 1), (4, 4)))
    assert room.data.info.cell_px == 16 and not project.check()


def test_a_picture_in_which_nothing_repeats_is_refused(tmp_path):
    path = tmp_path / "dot.png"
    Image.fromarray(np.full((3, 3, 4), 200, np.uint8)).save(path)
    with pytest.raises(BadFile, match=r"dot\.png"):
        of_sheet(path)


@pytest.mark.parametrize(
    ("colour", "word"),
    [("#8f8d87", "Grey"), ("#94744e", "Brown"), ("#5a963c", "Green"), ("#3b8793", "Teal"),
     ("#cf4a25", "Red"), ("#fdfdfd", "White"), ("#050505", "Black"), ("#d8c39a", "Sand")],
)  # fmt: skip
def test_colours_have_plain_words(colour, word):
    assert colour_word(colour) == word


def test_the_command_line_begins_projects_in_every_way(tmp_path, capsys):
    path = tmp_path / "yard.png"
    path.write_bytes(flat.tileset(16).sheet.png)
    for name, more in (("kit", ["--kit", "--seen", "side"]), ("sheet", ["--sheet", str(path)]),
                       ("again", ["--library", str(tmp_path / "kit.topion")])):  # fmt: skip
        assert main(["new", str(tmp_path / f"{name}.topion"), *more]) == 0
    said = capsys.readouterr().out
    assert "brushes of yard.png: 3 weaves" in said
    again = scripting.open(tmp_path / "again.topion")
    assert "Ramp 1 : 1" in again.data.brushes
