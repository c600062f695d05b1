"""Opening reads no room; using one reads that; saving writes what changed."""

import json
import os

import pytest

import topion
from tests.rooms import small_project
from topion.errors import BadFile
from topion.formats import folder as folder_module
from topion.model.compare import differences
from topion.pictures import png


@pytest.fixture
def world(tmp_path):
    project = small_project()
    for number in range(6):
        room = project.add_room(f"Room {number}", (20, 20), 4)
        room.lay("Mud", box=((0, 0), (19, 19)))
        room.lay("Lamp", cells=[(4, 4), (12, 12)])
    return project.save(tmp_path / "World.topion")


@pytest.fixture
def reads(monkeypatch):
    """The names of the files that are read."""
    found = []
    original = png.read_bytes

    def read_bytes(path, *more):
        found.append(path.as_posix().split(".topion/")[-1])
        return original(path, *more)

    monkeypatch.setattr(folder_module, "read_bytes", read_bytes)
    return found


def rooms_of(reads):
    return {name.split("/")[1] for name in reads if name.startswith("rooms/")}


def files(folder):
    return {p: (p.stat().st_mtime_ns, p.read_bytes()) for p in folder.rglob("*") if p.is_file()}


def test_opening_reads_no_room_and_the_first_use_reads_one(world, reads):
    project = topion.open(world)
    assert project.rooms() == tuple(f"Room {n}" for n in range(6)) and not rooms_of(reads)
    project.room("Room 3").render(0.5)
    assert rooms_of(reads) == {"Room 3"}
    count = len(reads)
    project.room("Room 3").lay("Water", cells=[(1, 1)])
    assert len(reads) == count


def test_the_survey_reads_rooms_in_passing_and_keeps_none(world, reads):
    project = topion.open(world)
    project.check()
    assert len(rooms_of(reads)) == 6
    assert all(project.data.rooms.peek(name) is None for name in project.rooms())


def test_a_stroke_writes_its_layer_and_nothing_else(world, reads, monkeypatch):
    project = topion.open(world)
    project.room("Room 2").lay("Water", cells=[(1, 1)])
    before = files(world)
    reads.clear()
    synced = []
    monkeypatch.setattr(os, "fsync", lambda handle: synced.append(handle))
    project.save()
    changed = [p for p, state in files(world).items() if before.get(p) != state]
    assert [p.name for p in changed] == ["ground.material.rows"] and not reads
    assert len(synced) <= 5


def test_rooms_that_were_read_in_passing_stay_in_the_folder(world):
    project = topion.open(world)
    project.check()
    project.room("Room 2").lay("Water", cells=[(1, 1)])
    before = set(files(world))
    project.save()
    assert set(files(world)) == before
    project.check()
    project.save()
    assert differences(topion.open(world).data, project.data) == []


def test_reading_a_room_does_not_make_it_changed(world):
    project = topion.open(world)
    revision = project.data.rooms.revision("Room 1")
    project.room("Room 1").render(0.5)
    assert project.data.rooms.revision("Room 1") == revision
    before = files(world)
    project.save()
    assert files(world) == before
    project.room("Room 1").lay("Water", cells=[(3, 3)])
    assert project.data.rooms.revision("Room 1") != revision


def test_what_was_read_is_what_was_written(world):
    project, again = topion.open(world), topion.open(world)
    for name in reversed(project.rooms()):
        assert len(project.room(name).things()) == 2
    assert differences(project.data, again.data) == []


def test_a_removed_room_is_gone_from_the_folder_and_the_others_stay_unread(world, reads):
    project = topion.open(world)
    project.remove_room("Room 4")
    project.save()
    assert rooms_of(reads) == {"Room 4"} and not (world / "rooms/Room 4/room.json").exists()
    project.undo()
    project.save()
    assert differences(topion.open(world).data, project.data) == []


def test_saving_elsewhere_takes_unread_rooms_along_and_reads_them_from_there(world, tmp_path):
    project = topion.open(world)
    project.room("Room 0").lay("Water", cells=[(1, 1)])
    other = project.save(tmp_path / "Other.topion")
    for path in world.rglob("*.rows"):
        path.unlink()
    assert project.room("Room 5").material(3, 3) == "Mud"
    assert differences(topion.open(other).data, project.data) == []


def test_a_room_that_cannot_be_read_is_a_sentence_when_it_is_used(world):
    (world / "rooms/Room 2/room.json").write_text("{}")
    project = topion.open(world)
    assert project.room("Room 1").material(3, 3) == "Mud"
    with pytest.raises(BadFile, match=r"Room 2/room\.json"):
        project.room("Room 2")
    (finding,) = (f for f in project.check() if f.room == "Room 2")
    assert finding.check == "room cannot be read" and "room.json" in finding.sentence


@pytest.mark.parametrize("key", ["rooms", "brushes", "materials"])
def test_a_name_listed_twice_is_refused(world, key):
    path = world / "project.json"
    index = json.loads(path.read_text())
    index[key].append(index[key][0])
    path.write_text(json.dumps(index))
    with pytest.raises(BadFile, match=f"twice under {key}"):
        topion.open(world)


def test_undo_reaches_rooms_that_were_not_read(world, tmp_path):
    project = topion.open(world)
    project.room("Room 1").lay("Water", cells=[(1, 1)])
    project.save()
    again = topion.open(world)
    again.history.edits[:] = project.history.edits
    again.history.at = project.history.at
    again.undo()
    assert again.room("Room 1").material(1, 1) == "Mud"
