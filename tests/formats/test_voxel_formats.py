"""Voxel rooms in project folders, bundles, CSV and pictures."""

from __future__ import annotations

import csv
import io
import json
import shutil

import jsonschema
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.voxel_rooms import isle, library, planes, post
from topion.cli import main
from topion.demo.brinehollow import brinehollow
from topion.demo.island import ROOM
from topion.errors import BadFile, BadValue
from topion.formats.bundle import bundle_bytes, bundle_plain, read_bundle, schema
from topion.formats.csv_layers import csv_files
from topion.formats.exports import export_files
from topion.formats.folder import read_project
from topion.model.compare import differences
from topion.model.layer import LayerInfo
from topion.model.plain import BadPlain, from_plain, to_plain
from topion.model.prefab import Prefab
from topion.model.room import RoomInfo
from topion.model.solid import Block, VoxelModel
from topion.scripting import open as open_project

cells3 = st.tuples(st.integers(0, 5), st.integers(0, 6), st.integers(0, 7))


def laid():
    room = isle((6, 7, 8), ground=2)
    room.lay("Box", box=((2, 2, 2), (3, 4, 4)))
    room.lay(room.project.data.brush("Box").changed(stays=False), box=((2, 2, 6), (3, 4, 6)))
    room.lay("Slabs", cells=[(2, 6, 6)])
    room.lay("Post", cells=[(5, 1, 6)])
    room.lay("Tufts", box=((0, 4, 0), (0, 6, 3)))
    return room


@settings(max_examples=15, deadline=None)
@given(st.lists(st.tuples(st.sampled_from(("Ground", "Stones", "Box", "Slabs", "Lift")),
                          cells3, cells3), max_size=5))  # fmt: skip
def test_what_is_saved_reads_back_the_same(tmp_path_factory, boxes):
    room = isle((6, 7, 8), ground=2)
    for brush, a, b in boxes:
        room.lay(brush, box=(a, b))
    folder = tmp_path_factory.mktemp("p") / "A.topion"
    room.project.save(folder)
    assert differences(read_project(folder), room.project.data) == []
    shutil.rmtree(folder)


def test_the_whole_demo_reads_back_the_same(tmp_path):
    project = brinehollow()
    project.save(tmp_path / "B.topion")
    again = open_project(tmp_path / "B.topion")
    assert differences(again.data, project.data) == []
    assert again.room(ROOM).sown("Reed fringe") == project.room(ROOM).sown("Reed fringe")


def test_laying_one_cell_changes_one_line_of_one_file(tmp_path):
    room = laid()
    folder = room.project.save(tmp_path / "A.topion")
    before = {p: p.read_bytes() for p in folder.rglob("*") if p.is_file()}
    room.lay("Stones", cells=[(4, 3, 1)])
    room.project.save()
    changed = [p for p, data in before.items() if p.read_bytes() != data]
    assert [p.name for p in changed] == ["blocks.material.rows"]
    lines = [changed[0].read_bytes().split(b"\n"), before[changed[0]].split(b"\n")]
    head, *rows = zip(*lines, strict=True)  # the head names the stones, which are new here
    assert head[0] != head[1] and sum(a != b for a, b in rows) == 1
    assert len(rows) == 6 * 7 + 1


def test_a_bundle_keeps_to_the_schema_and_reads_back_the_same(tmp_path):
    room = laid()
    plain = bundle_plain(room.project.data)
    jsonschema.validate(plain, schema())
    path = tmp_path / "a.json"
    path.write_bytes(bundle_bytes(room.project.data))
    assert differences(read_bundle(path), room.project.data) == []
    layer = plain["rooms"][0]["layers"][0]
    assert layer["layer"]["kind"] == "blocks" and len(layer["turn"]) == 42
    assert len(plain["rooms"][0]["layers"][-1].get("density", [])) in (0, 7)


def test_csv_has_a_table_for_each_level_that_is_not_empty():
    room = laid()
    files = dict(csv_files(room.project.data, room.data))
    levels = [name for name in files if name.endswith(".block.csv")]
    assert levels == [f"Isle.blocks.{z:03}.block.csv" for z in range(4)]
    rows = list(csv.reader(io.StringIO(files["Isle.blocks.002.block.csv"].decode())))
    assert np.array_equal(np.array(rows, int), planes(room)["block"][2])
    turns = list(csv.reader(io.StringIO(files["Isle.blocks.003.turn.csv"].decode())))
    assert np.array_equal(np.array(turns, int), planes(room)["turn"][3])
    assert b"1,Earth" in files["blocks.csv"]
    things = list(csv.DictReader(io.StringIO(files["Isle.things.csv"].decode())))
    assert things[0]["z"] == "2.0" and things[0]["prefab"] == "Post"


def test_exports_of_voxel_rooms_are_a_picture_and_a_glb():
    room = laid()
    assert [n for n, _ in export_files(room.project.data, ("Isle",), "png")] == ["Isle.png"]
    assert [n for n, _ in export_files(room.project.data, ("Isle",), "gltf")] == ["Isle.glb"]
    room.project.add_room("Flat", (3, 3))
    with pytest.raises(BadValue, match="voxel rooms"):
        list(export_files(room.project.data, ("Flat",), "gltf"))


# --- what is not sound --------------------------------------------------------------------


def damaged(tmp_path, name: str, change) -> BadFile:
    folder = laid().project.save(tmp_path / "A.topion")
    path = folder / name
    path.write_text(change(path.read_text()))
    with pytest.raises(BadFile) as problem:
        list(read_project(folder).rooms.values())
    return problem.value


def test_a_pinned_number_that_is_no_block_names_file_and_line(tmp_path):
    name = "rooms/Isle/blocks.pinned.rows"

    def change(text: str) -> str:
        lines = text.split("\n")
        lines[3] = "8*31"
        return "\n".join(lines)

    told = str(damaged(tmp_path, name, change))
    assert name in told and "line 4" in told and "31" in told


def test_a_block_that_is_used_must_be_listed(tmp_path):
    def change(text: str) -> str:
        plain = json.loads(text)
        plain["block_names"].remove("Top")
        return json.dumps(plain)

    assert "Top" in str(damaged(tmp_path, "project.json", change))


def test_a_layer_of_tiles_in_a_voxel_room_is_refused(tmp_path):
    told = damaged(tmp_path, "rooms/Isle/room.json", lambda t: t.replace('"blocks"}', '"tiles"}')
                   .replace('"kind": "blocks"', '"kind": "tiles"'))  # fmt: skip
    assert "room.json" in str(told) and "tiles" in str(told)


def test_too_few_rows_of_a_voxel_room_are_refused(tmp_path):
    name = "rooms/Isle/blocks.material.rows"
    told = damaged(tmp_path, name, lambda text: "\n".join(text.split("\n")[:-9]) + "\n")
    assert name in str(told)


def test_a_voxel_room_too_large_is_refused_before_memory_is_taken(tmp_path):
    def change(text: str) -> str:
        plain = json.loads(text)
        plain["room"]["size"] = [512, 512, 512]
        return json.dumps(plain)

    assert "cells" in str(damaged(tmp_path, "rooms/Isle/room.json", change))


MODEL = to_plain(VoxelModel(np.ones((2, 3, 4), np.uint8), ("#102030",)))


@pytest.mark.parametrize(("change", "words"), [
    ({"size": [2, 3]}, "3 parts"), ({"size": [2, 3, 999]}, "1 to 256"),
    ({"size": [2, 3, 5]}, "rows"), ({"palette": []}, "rows"), ({"palette": ["red"]}, "#a5533b"),
    ({"rows": ["4*1"]}, "rows"), ({"rows": ["4*2"] * 6}, "rows"), ({"rows": 5}, "list"),
    ({"per_cell": 0}, "1 to 64"), ({"spin": 1}, "not known"), ({"rows": None}, "list"),
])  # fmt: skip
def test_models_that_are_not_sound_are_refused_with_their_place(change, words):
    with pytest.raises(BadPlain, match=words):
        from_plain(VoxelModel, {**MODEL, **change})


def test_models_blocks_and_prefabs_read_back_the_same():
    project = library()
    for block in project.data.blocks.values():
        assert from_plain(Block, to_plain(block)) == block
    prefab = project.data.prefab("Post")
    assert from_plain(Prefab, to_plain(prefab)) == prefab
    assert from_plain(VoxelModel, to_plain(post())) == post()
    with pytest.raises(BadPlain):
        from_plain(VoxelModel, "none")
    with pytest.raises(BadPlain, match="missing"):
        from_plain(VoxelModel, {"size": [1, 1, 1]})


@pytest.mark.parametrize("make", [
    lambda: Block(" "), lambda: Block("A", "blue"), lambda: Block("A", top=1.5),
    lambda: Block("A", faces=(None, None)),  # type: ignore[arg-type]
    lambda: Block("A", model=VoxelModel(np.ones((17, 1, 1), np.uint8), ("#000000",))),
    lambda: VoxelModel(np.ones((2, 2), np.uint8), ("#000000",)),
    lambda: VoxelModel(np.full((1, 1, 1), 3, np.uint8), ("#000000",)),
    lambda: RoomInfo("R", (5,)), lambda: RoomInfo("R", (1, 1, 513)),
    lambda: RoomInfo("R", (2, 2, 2), metres=0.0), lambda: LayerInfo("L", "cubes"),  # type: ignore
])  # fmt: skip
def test_senseless_parts_are_refused(make):
    with pytest.raises(BadValue):
        make()


# --- command line -------------------------------------------------------------------------


def test_the_command_line_makes_fills_draws_and_exports_a_voxel_room(tmp_path, capsys):
    import trimesh

    folder, mesh = tmp_path / "Isles.topion", tmp_path / "ball.stl"
    assert main(["new", str(folder), "--room", "Bay", "--size", "12x10x8"]) == 0
    assert "12 × 10 × 8 cells" in capsys.readouterr().out
    mesh.write_bytes(trimesh.creation.icosphere(2).export(file_type="stl"))
    common = ["import", "mesh", str(folder), str(mesh), "--size", "12"]
    assert main([*common, "--name", "Buoy"]) == 0
    assert main([*common, "--name", "Ball", "--into", "block"]) == 0
    assert main([*common, "--name", "Hall", "--into", "room"]) == 0
    assert "as a room: 12 × 12 × 12 voxels" in capsys.readouterr().out
    handle = open_project(folder)
    assert handle.rooms() == ("Bay", "Hall") and handle.data.room("Bay").info.size == (8, 10, 12)
    handle.room("Bay").lay("Ball", cells=[(0, 4, 4)])
    handle.save()
    out = tmp_path / "out"
    assert main(["export", str(folder), "--to", "gltf", "-o", str(out)]) == 0
    assert sorted(p.name for p in out.iterdir()) == ["Bay.glb", "Hall.glb"]
    picture = tmp_path / "hall.png"
    draw = ["render", str(folder), "Hall", "-o", str(picture)]
    assert main([*draw, "--px", "320x200", "--view", "north-west", "--perspective"]) == 0
    assert "320 × 200 px" in capsys.readouterr().out and picture.stat().st_size > 500
    assert main([*draw, "--scale", "0.5"]) == 0
    assert main(["check", str(folder)]) == 0


@pytest.mark.parametrize(("arguments", "words"), [
    (["new", "X.topion", "--size", "12x10x8x2"], "two or three numbers"),
    (["new", "X.topion", "--size", "12x10x900"], "1 to 512"),
    (["import", "mesh", "{p}", "{bad}", "--name", "A", "--size", "9"], "broken.stl"),
    (["import", "mesh", "{p}", "{bad}", "--name", "A", "--size", "9999"], "broken.stl"),
    (["import"], "say what to import"),
    (["render", "{p}", "Isle", "-o", "x.png", "--view", "below"], "view"),
    (["render", "{p}", "Isle", "-o", "x.png", "--px", "big"], "size"),
    (["render", "{p}", "Isle", "-o", "x.png", "--px", "90000x90000"], "size"),
    (["render", "{p}", "Isle", "-o", "x.png", "--scale", "-1"], "scale"),
])  # fmt: skip
def test_bad_input_gets_one_sentence_and_exit_2(tmp_path, monkeypatch, capsys, arguments, words):
    monkeypatch.chdir(tmp_path)
    folder = laid().project.save(tmp_path / "A.topion")
    (tmp_path / "broken.stl").write_bytes(b"\0" * 90)
    known = {"{p}": str(folder), "{bad}": "broken.stl"}
    assert main([known.get(a, a) for a in arguments]) == 2
    told = capsys.readouterr().err.strip()
    assert words in told and "\n" not in told and "Traceback" not in told
