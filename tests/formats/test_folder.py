"""A project folder reads back as it was, changes little, and never opens by half."""

import json
import os
import shutil

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import topion
from tests.rooms import small_project, small_room
from tests.strategies import fresh_room, strokes
from topion.brushes import Stamp
from topion.errors import BadFile, Stopped, TopionError
from topion.formats import saving
from topion.formats.folder import read_project
from topion.formats.stems import stem
from topion.formats.store import FORMAT
from topion.formats.text import json_text, line_of
from topion.model.compare import differences


@pytest.fixture
def saved(tmp_path, room):
    room.lay("Water", box=((2, 2), (8, 9)))
    room.lay("Lamp", cells=[(4, 4), (12, 12)])
    room.lay("Reeds", box=((10, 10), (20, 20)))
    room.project.add_brush(Stamp("Pin", ((room.project.data.tiles[0],),)))
    room.lay("Pin", cells=[(15, 15)])
    return room, room.project.save(tmp_path / "Small.topion")


def opened_whole(folder):
    """The project with every room read."""
    handle = topion.open(folder)
    for room in handle.data.rooms.values():
        assert room.layers
    return handle


def files(folder):
    return {
        p.relative_to(folder).as_posix(): p.read_bytes() for p in folder.rglob("*") if p.is_file()
    }


@given(st.lists(strokes(), max_size=5))
def test_what_was_written_reads_back_equal(tmp_path_factory, some):
    room = fresh_room()
    for brush, way in some:
        room.lay(brush, **way)
    folder = room.project.save(tmp_path_factory.mktemp("p") / "A b.topion")
    assert differences(topion.open(folder).data, room.project.data) == []


def test_laying_one_cell_changes_one_line_of_one_file(saved):
    room, folder = saved
    before = files(folder)
    room.lay("Water", cells=[(20, 3)])
    room.project.save()
    after = files(folder)
    changed = [name for name in after if after[name] != before.get(name)]
    assert changed == ["rooms/Yard/ground.material.rows"] and before.keys() == after.keys()
    old, new = before[changed[0]].splitlines(), after[changed[0]].splitlines()
    assert sum(a != b for a, b in zip(old, new, strict=True)) == 1


def test_adding_a_thing_adds_a_line(saved):
    room, folder = saved
    before = files(folder)["rooms/Yard/things.things.json"].splitlines()
    room.lay("Bush", cells=[(1, 1)])
    room.project.save()
    after = files(folder)["rooms/Yard/things.things.json"].splitlines()
    assert len(after) == len(before) + 1


def test_saving_twice_writes_nothing_and_removes_what_is_gone(saved):
    room, folder = saved
    (folder / "notes.txt").write_text("mine")
    times = {p: p.stat().st_mtime_ns for p in folder.rglob("*") if p.is_file()}
    room.project.save()
    assert times == {p: p.stat().st_mtime_ns for p in folder.rglob("*") if p.is_file()}
    room.remove_layer("Things")
    room.project.save()
    assert not (folder / "rooms/Yard/things.things.json").exists()
    assert (folder / "notes.txt").read_text() == "mine"


def test_names_of_any_kind_are_kept(tmp_path):
    project = small_project()
    for name in ("a/b", "..", "Ünïcode · 3", "CON.", "a\\b"):
        project.add_room(name, (3, 3))
    folder = project.save(tmp_path / "p")
    assert set(topion.open(folder).rooms()) == set(project.rooms())
    assert all("/" not in stem(n) and not stem(n).startswith(".") for n in project.rooms())
    assert all(p.is_relative_to(folder) for p in folder.rglob("*"))


def damage(folder, name, change):
    path = folder / name
    path.write_text(change(path.read_text()), encoding="utf-8")


MATERIAL = "rooms/Yard/ground.material.rows"


@pytest.mark.parametrize(
    ("name", "change", "message"),
    [
        ("project.json", lambda t: t.replace(f'"format": {FORMAT}', '"format": 99'), "project.json: has format 99"),
        ("project.json", lambda t: t[:-30], "project.json, line .*not sound JSON"),
        ("project.json", lambda t: t.replace('"name": "Small"', '"name": 4'), "line 3: name: must be text"),
        (MATERIAL, lambda t: t.replace("32*1", "31*1", 1), "material.rows, line 2: has 31 cells, but the room is 32 wide"),
        (MATERIAL, lambda t: t.replace("32*1\n", "", 1), "line 25: has 23 rows, but 24 are declared"),
        (MATERIAL, lambda t: t.replace("32*1", "32*9", 1), "line 2: holds 9, but the highest known is"),
        (MATERIAL, lambda t: t.replace("32*1", "32*a", 1), "line 2: holds b'a'"),
        ("rooms/Yard/room.json", lambda t: t.replace("24", "9999999"), "room.json, line 2: room: the room's size"),
        ("rooms/Yard/room.json", lambda t: t.replace('"tiles"', '"tile"'), "layers\\[0\\].layer.kind: must be one of"),
        ("rooms/Yard/things.things.json", lambda t: t.replace('"y": 12.0', '"y": "no"'), "things.json, line 3: \\[1\\].y: must be a number"),
        ("rooms/Yard/things.things.json", lambda t: t.replace('"id": 2', '"id": 1'), "line 3: thing 1 is listed twice"),
        ("rooms/Yard/things.things.json", lambda t: t.replace('"id": 2', '"id": 9999999999'), "is no number for a thing"),
        ("rooms/Yard/things.things.json", lambda t: t.replace('"y": 12.0', '"y": 1e300'), "things.json, line 3: .*a thing's y is"),
        ("brushes/Mud.json", lambda t: t.replace('"weave"', '["odd"]'), "brushes/Mud.json, line 2: kind: .* is not known"),
        ("brushes/Mud.json", lambda t: t.replace('"open"', '"opne"', 1), "rules.rules.*a mark of rule"),
        ("brushes/Reeds.json", lambda t: t.replace('"weight": 2.0', '"weight": -2.0'), "sown\\[0\\]: the weight"),
        ("prefabs/Cart.json", lambda t: t.replace('"##"', '"#x"', 1), "prefabs/Cart.json.*the footprint"),
        ("project.json", lambda t: t.replace('["sheet", "0,0", 0, false]', '["sheet", "0,0", 7, false]').replace('["sheet", "0,0"]', '["sheet", "0,0", 7]'), "is none that there can be"),
        ("tilesets/sheet.json", lambda t: t.replace('"tile": [4, 4]', '"tile": [400, 400]'), "the cut"),
    ],
)  # fmt: skip
def test_a_damaged_file_is_refused_with_file_place_and_reason(saved, name, change, message):
    _, folder = saved
    damage(folder, name, change)
    with pytest.raises(BadFile, match=message) as caught:
        opened_whole(folder)
    assert "\n" not in str(caught.value)


@pytest.mark.parametrize(
    "name", ["tilesets/sheet.png", "prefabs/Lamp.json", MATERIAL, "rooms/Yard/room.json"]
)
def test_a_missing_file_is_named(saved, name):
    _, folder = saved
    (folder / name).unlink()
    with pytest.raises(BadFile, match=f"{name}: is missing"):
        opened_whole(folder)


def test_what_is_no_project_is_said_to_be_none(tmp_path):
    with pytest.raises(BadFile, match="is missing"):
        topion.open(tmp_path / "none")
    with pytest.raises(BadFile, match=r"holds no project\.json"):
        topion.open(tmp_path)


def test_no_path_leads_out_of_the_folder(saved, tmp_path):
    _, folder = saved
    outside = tmp_path / "outside.json"
    shutil.copy(folder / "brushes/Mud.json", outside)
    (folder / "brushes/Mud.json").unlink()
    os.symlink(outside, folder / "brushes/Mud.json")
    with pytest.raises(BadFile, match="leads out of the project folder"):
        topion.open(folder)


def test_a_full_disk_leaves_the_old_project_whole(saved, monkeypatch):
    room, folder = saved
    before = files(folder)
    room.lay("Water", box=((0, 0), (20, 20)))
    room.lay("Bush", cells=[(1, 1)])
    written, write = [], saving.write_new

    def full(path, data):
        if written:
            raise OSError(28, "No space left on device")
        written.append(path)
        write(path, data)

    monkeypatch.setattr(saving, "write_new", full)
    with pytest.raises(
        saving.CannotSave, match=r"No space left on device; what was there is unchanged"
    ):
        room.project.save()
    assert files(folder) == before


def test_a_save_cut_off_while_renaming_is_finished_at_the_next_opening(saved, monkeypatch):
    room, folder = saved
    room.lay("Water", box=((0, 0), (20, 20)))
    room.lay("Bush", cells=[(1, 1)])
    replace, calls = os.replace, []

    def pulled(a, b):
        calls.append(b)
        if len(calls) == 3:
            raise KeyboardInterrupt  # the plug is pulled between two renames
        replace(a, b)

    monkeypatch.setattr(os, "replace", pulled)
    with pytest.raises(KeyboardInterrupt):
        room.project.save()
    monkeypatch.undo()
    assert differences(read_project(folder), room.project.data) == []
    assert not (folder / saving.PENDING).exists()


def test_opening_and_saving_can_be_stopped(saved):
    room, folder = saved

    def stop(_):
        raise Stopped("opening")

    with pytest.raises(Stopped):
        topion.open(folder, stop)
    before = files(folder)
    room.lay("Water", box=((0, 0), (20, 20)))
    with pytest.raises(Stopped):
        room.project.save(each=stop)
    assert files(folder) == before


def test_a_new_project_never_lands_on_another(saved):
    _, folder = saved
    with pytest.raises(TopionError, match="there already"):
        topion.new(folder)


def test_json_text_is_json_and_places_are_found_in_it():
    value = {"a": [1, 2], "b": {"c": [{"d": 'x{,}"y'}, {"e": [[1], [2]]}]}, "f": None}
    text = json_text(value)
    assert json.loads(text) == value
    assert text.split("\n")[line_of(text, ("b", "c", 1, "e")) - 1].strip().startswith('"e"')
    assert line_of(text, ("b", "nothing")) == line_of(text, ("b",))


def test_a_large_room_is_written_and_read_by_strips(tmp_path):
    room = small_room((600, 700))
    cells = np.argwhere(np.random.default_rng(1).random((600, 700)) < 0.3)
    room.lay("Water", cells=cells.tolist())
    folder = room.project.save(tmp_path / "p")
    assert differences(topion.open(folder).data, room.project.data) == []
