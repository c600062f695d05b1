"""What changed between two versions of a project: as data, in words, as pictures."""

from __future__ import annotations

import json

import numpy as np
import pytest

from tests.rooms import small_room, tile
from topion.brushes import Mosaic
from topion.cli import main
from topion.comparing import changes
from topion.comparing.pictures import change_pictures
from topion.comparing.rooms import room_changed
from topion.comparing.words import text_lines
from topion.edit.rooms import set_room
from topion.merging.trees import tree_in_memory
from topion.pictures.png import read_png
from topion.weaving.rules import Variant


@pytest.fixture
def pair():
    return small_room(), small_room()


def told(before, after) -> list[str]:
    found = changes(tree_in_memory(before.project.data), tree_in_memory(after.project.data))
    return [*text_lines(found)]


def test_nothing_is_told_of_what_is_alike(pair):
    assert told(*pair) == []


def test_cells_are_told_by_name_place_and_count(pair):
    pair[1].lay("Stones", box=((3, 4), (3, 6)))
    pair[1].lay("Water", cells=[(9, 9)])
    assert told(*pair) == [
        "room Yard",
        "  Ground: 4 cells at 4, 3 to 9, 9: Mud → Stones 3, Mud → Water 1",
    ]


def test_other_numbers_for_the_same_names_are_no_change(pair):
    for room, names in ((pair[0], "ab"), (pair[1], "ba")):
        for name in names:
            room.project.add_brush(Mosaic(name, (Variant(tile(4, 1)),)))
        room.lay("a", cells=[(1, 1)])
    assert not any("cell" in line for line in told(*pair))


def test_things_are_told_by_what_they_are(pair):
    for room in pair:
        room.lay("Bush", cells=[(2, 2), (4, 4)])
    pair[1].lay("Lamp", cells=[(8, 8)])
    pair[1].lift(cells=[(2, 2)], only="Bush")
    assert told(*pair)[1:] == ["  Things: Lamp 3 new, Bush 1 gone"]


def test_the_library_is_told_by_values(pair):
    pair[1].project.add_brush(pair[1].project.data.brush("Mud").changed(seed=77))
    pair[1].project.rename("prefabs", "Cart", "Wagon")
    lines = told(*pair)
    assert "brush Mud: seed 3 → 77" in lines and "prefab Wagon: name Cart → Wagon" in lines
    assert not any("former" in line for line in lines)


def test_rooms_and_layers_that_come_and_go_are_told_once(pair):
    pair[1].project.add_room("Attic", (5, 6), 4)
    pair[1].remove_layer("Ground")
    pair[1].add_layer("Fog", "things")
    history = pair[1].project.history
    history.apply(set_room(pair[1].project.data, "Yard", notes="wet"))
    assert told(*pair) == [
        "room Attic: new",
        "room Yard: notes – → wet",
        "  layer Ground: gone",
        "  layer Fog: new",
    ]


def test_every_change_is_also_data(pair, tmp_path, capsys):
    pair[1].lay("Stones", box=((3, 4), (3, 6)))
    for room, name in zip(pair, "ab", strict=True):
        room.project.save(tmp_path / f"{name}.topion")
    a, b = str(tmp_path / "a.topion"), str(tmp_path / "b.topion")
    assert main(["diff", a, b, "--json"]) == 1
    plain = json.loads(capsys.readouterr().out)
    cells = next(one for one in plain if one["kind"] == "cells")
    assert cells["count"] == 3 and (cells["lo"], cells["hi"]) == ([3, 4], [4, 7])
    assert cells["turned"] == [["Mud", "Stones", 3]]
    assert main(["diff", a, a]) == 0 and "nothing changed" in capsys.readouterr().out


def test_pictures_show_both_versions_and_mark_what_differs(pair, tmp_path, capsys):
    pair[1].lay("Stones", box=((3, 4), (3, 6)))
    pair[1].project.add_room("Attic", (5, 6), 4)
    found = dict(change_pictures(pair[0].project.data, pair[1].project.data))
    assert sorted(found) == ["Attic.png", "Yard.png"]
    picture = read_png(found["Yard.png"]).rgba
    assert picture.shape[1] > 2 * picture.shape[0]  # one beside the other
    edges = (picture[..., :3] == (35, 120, 111)).all(axis=2)
    assert edges.any() and not edges[:, : picture.shape[1] // 2].any()


def test_marks_follow_a_room_that_grew(pair):
    pair[1].resize((30, 36), (4, 2))
    found = room_changed(*((r.project.data, r.data) for r in pair))
    assert found.box.lo == (0, 0) and not found.cells[4:28, 2:34].any()
    pair[1].lay("Water", cells=[(4, 2)])
    found = room_changed(*((r.project.data, r.data) for r in pair))
    assert np.argwhere(found.cells[4:28, 2:34]).tolist() == [[0, 0]]
    pair[1].lay("Bush", cells=[(10, 10)])
    found = room_changed(*((r.project.data, r.data) for r in pair))
    assert found.marked[10, 10] and not found.cells[10, 10]
