"""Meshes, arrays, slices, heights and rooms of other projects that come in as stamps."""

import pickle

import numpy as np
import pytest
from PIL import Image

from tests.rooms import small_room
from tests.voxel_rooms import isle, library
from topion import scripting
from topion.brushes.marks import Marks, Place
from topion.cli import main
from topion.errors import BadFile, NameTaken, TopionError
from topion.formats.stamps_in import clip_of_file, clip_of_room
from topion.formats.volumes import slices_in, volume_of_heights, volume_of_npy, volume_of_slices
from topion.pictures.png import read_grey


def saved(path, cells):
    np.save(path, cells, allow_pickle=False)
    return path


def png(path, rgba):
    Image.fromarray(np.asarray(rgba, np.uint8)).save(path)
    return path


@pytest.mark.parametrize("dtype", [np.uint8, np.int16, np.uint32, np.int64, np.bool_, ">i2"])
def test_an_array_comes_in_level_by_level_whatever_its_type(tmp_path, dtype):
    cells = np.zeros((3, 4, 5), dtype)
    cells[0], cells[2, 1, 1] = 1, 1
    volume = volume_of_npy(saved(tmp_path / "a.npy", cells))
    assert np.array_equal(volume.cells, cells.astype(np.uint8))


def test_an_array_in_column_order_is_read_as_it_was(tmp_path):
    cells = np.asfortranarray(np.arange(24).reshape(2, 3, 4) % 5)
    assert np.array_equal(volume_of_npy(saved(tmp_path / "f.npy", cells)).cells, cells)


def test_two_sides_are_one_level(tmp_path):
    assert volume_of_npy(saved(tmp_path / "flat.npy", np.eye(4, dtype=np.uint8))).cells.shape == (
        1, 4, 4)  # fmt: skip


def header(text):
    data = text.encode()
    return b"\x93NUMPY\x01\x00" + len(data).to_bytes(2, "little") + data


@pytest.mark.parametrize(("data", "words"), [
    (b"", "is not a NumPy array"),
    (b"\x93NUMPY\x01\x00\xff\xff{........", "header is too long"),
    (header("{'descr': '|O', 'fortran_order': False, 'shape': (1,2), }"), "whole numbers"),
    (header("{'descr': '<f8', 'fortran_order': False, 'shape': (2, 2), }"), "whole numbers"),
    (header("{'descr': '<u1', 'fortran_order': False, 'shape': (9999, 9999, 9999), }"), "more than"),
    (header("{'descr': '<u1', 'fortran_order': False, 'shape': (2, 2), }") + b"abc", "3 bytes"),
    (header("{'descr': '<u1', 'fortran_order': False, 'shape': (2,), }"), "two or three sides"),
    (header("__import__('os').system('true')"), "cannot be read"),
    (pickle.dumps(np.zeros(3)), "is not a NumPy array"),
], ids=range(9))  # fmt: skip
def test_an_array_that_is_not_sound_is_refused_in_one_sentence(tmp_path, data, words):
    (tmp_path / "bad.npy").write_bytes(data)
    with pytest.raises(BadFile, match=r"bad\.npy") as found:
        volume_of_npy(tmp_path / "bad.npy")
    assert words in str(found.value)


def test_an_array_of_nothing_or_of_too_many_kinds_is_refused(tmp_path):
    with pytest.raises(BadFile, match="empty"):
        volume_of_npy(saved(tmp_path / "a.npy", np.zeros((2, 2, 2), np.uint8)))
    with pytest.raises(BadFile, match="99 kinds"):
        volume_of_npy(saved(tmp_path / "a.npy", np.arange(100).reshape(1, 10, 10)))


def test_slices_stand_on_each_other_in_the_order_of_their_numbers(tmp_path):
    for level, colour in ((2, (0, 0, 200, 255)), (10, (0, 200, 0, 255)), (1, (200, 0, 0, 255))):
        rgba = np.zeros((3, 4, 4), np.uint8)
        rgba[: level % 3 + 1] = colour
        png(tmp_path / f"level {level}.png", rgba)
    paths = slices_in(tmp_path)
    assert [path.stem for path in paths] == ["level 1", "level 2", "level 10"]
    volume = volume_of_slices(paths)
    assert volume.cells.shape == (3, 3, 4) and len(volume.colours) == 3
    assert volume.colours[volume.cells[0, 0, 0] - 1] == "#c80000"
    assert [int((level > 0).sum()) for level in volume.cells] == [8, 12, 8]


def test_slices_of_other_sizes_are_named(tmp_path):
    png(tmp_path / "a1.png", np.full((3, 4, 4), 255))
    png(tmp_path / "a2.png", np.full((3, 5, 4), 255))
    with pytest.raises(BadFile, match=r"a2\.png"):
        volume_of_slices(slices_in(tmp_path))


def test_grey_is_height_and_clear_is_none(tmp_path):
    rgba = np.full((1, 3, 4), 255, np.uint8)
    rgba[0, 1, :3], rgba[0, 2, 3] = 51, 0
    cells = volume_of_heights(png(tmp_path / "h.png", rgba), 10).cells
    assert cells.sum(axis=0).tolist() == [[10, 2, 0]]


def test_a_volume_brings_its_colours_as_blocks(tmp_path):
    project = library()
    cells = np.zeros((2, 3, 3), np.uint8)
    cells[0], cells[1, 1, 1] = 1, 2
    brush = project.import_stamp(saved(tmp_path / "hut.npy", cells), "Hut")
    assert brush.scrap.materials == ("Hut 1", "Hut 2") and brush.anchor == (0, 1, 1)
    assert len(project.history.edits) and project.data.block("Hut 2")
    room = project.add_room("Isle", (8, 9, 9))
    room.project.history.apply(
        brush.plan(Place(project.data, "Isle"), Marks(np.array([(0, 4, 4)])))
    )
    assert room.material(1, 4, 4) == "Hut 2" and room.material(0, 3, 3) == "Hut 1"


def test_heights_can_be_of_a_material_that_is_there(tmp_path):
    room = isle(ground=0)
    path = png(tmp_path / "hill.png", np.full((4, 4, 4), 255))
    brush = room.project.import_stamp(path, "Hill", levels=3, material="Ground")
    assert brush.scrap.materials == ("Ground",) and brush.scrap.size == (3, 4, 4)


def test_a_room_of_another_project_comes_with_all_it_needs(tmp_path):
    theirs = small_room((8, 9))
    theirs.lay("Bush", cells=[(2, 3)])
    theirs.project.save(tmp_path / "theirs.topion")
    clip = clip_of_room(tmp_path / "theirs.topion", "Yard")
    assert clip.scrap.size == (8, 9) and "Bush" in clip.library["prefabs"]
    ours = library()
    ours.import_stamp(tmp_path / "theirs.topion", "Their yard", room="Yard")
    assert "Mud" in ours.data.brushes and ours.data.brush("Their yard").axes == 2
    with pytest.raises(NameTaken):
        ours.import_stamp(tmp_path / "theirs.topion", "Their yard", room="Yard")


def test_what_becomes_no_stamp_is_refused(tmp_path):
    (tmp_path / "a.txt").write_text("hello")
    for path in (tmp_path / "a.txt", tmp_path / "none.npy", tmp_path):
        with pytest.raises(TopionError):
            clip_of_file(path, "A")


def test_the_command_line_brings_in_stamps(tmp_path, capsys):
    project = tmp_path / "isles.topion"
    library().save(project)
    cells = np.ones((2, 2, 2), np.uint8)
    assert main(["import", "stamp", str(project), str(saved(tmp_path / "a.npy", cells)),
                 "--name", "Cube"]) == 0  # fmt: skip
    assert "brought in Cube, stamp · 2×2×2: 8 cells" in capsys.readouterr().out
    assert main(["import", "stamp", str(project), str(tmp_path / "no.npy"), "--name", "B"]) == 2
    assert len(capsys.readouterr().err.splitlines()) == 1


def test_an_array_becomes_a_room_as_well(tmp_path):
    cells = np.zeros((2, 3, 4), np.uint8)
    cells[0], cells[1, 1, 2] = 1, 7
    project = scripting.new(None, "P")
    assert project.import_room(saved(tmp_path / "hut.npy", cells), "Hut") == "13 cells"
    room = project.data.room("Hut")
    ((_, layer),) = room.cell_layers()
    assert room.info.size == (2, 3, 4)
    assert np.array_equal(layer.plane("material"), np.where(cells == 7, 2, cells))
    with pytest.raises(NameTaken, match="room"):
        project.import_room(tmp_path / "hut.npy", "Hut", material="Hut 1")


def test_heights_of_16_bits_tell_more_than_256_steps(tmp_path):
    light = np.array([[0, 100, 150, 65535]], np.uint16)
    path = tmp_path / "hill.png"
    Image.fromarray(light).save(path)
    assert read_grey(path.read_bytes()).tolist()[0] == [0, 100 / 65535, 150 / 65535, 1]
    volume = volume_of_heights(path, 512)
    assert volume.cells.sum(axis=0).tolist() == [[0, 1, 1, 512]]
