"""A save meets what others did: links, changes, moved and foreign folders, and tells."""

import json
import os
import shutil

import pytest

import topion
from tests.rooms import small_room
from topion.edit.lock import InUse, PathLock
from topion.errors import BadFile, TopionError
from topion.formats.files import belongs_to, is_own
from topion.formats.out import write_out
from topion.formats.outside import take_in
from topion.formats.saving import PENDING, CannotSave
from topion.formats.store import put_store
from topion.formats.writing import ChangedOutside, HoldsAnother
from topion.model.compare import differences


@pytest.fixture
def saved(tmp_path):
    room = small_room((8, 10))
    return room, room.project.save(tmp_path / "P.topion")


def stroke(room):
    room.lay("Water", box=((1, 1), (4, 4)))


# --- links and leftovers ------------------------------------------------------------------

MATERIAL = "rooms/Yard/ground.material.rows"


@pytest.mark.parametrize("name", [f"{PENDING}.new", f"{MATERIAL}.new", MATERIAL])
@pytest.mark.parametrize("stale", [False, True])
def test_a_link_in_the_folder_is_replaced_and_never_written_through(saved, tmp_path, name, stale):
    room, folder = saved
    outside = tmp_path / "outside"
    if not stale:
        outside.write_text("somebody's own")
    (folder / name).unlink(missing_ok=True)
    os.symlink(outside, folder / name)
    stroke(room)
    room.project.save(over=True)
    assert outside.exists() is not stale and (stale or outside.read_text() == "somebody's own")
    assert differences(topion.open(folder).data, room.project.data) == []


def test_a_folder_that_is_a_link_is_not_written_into(saved, tmp_path):
    room, folder = saved
    shutil.move(folder / "rooms", tmp_path / "elsewhere")
    os.symlink(tmp_path / "elsewhere", folder / "rooms")
    stroke(room)
    with pytest.raises(CannotSave, match="a link stands where a folder should be"):
        room.project.save(over=True)


def test_what_a_save_has_lost_meanwhile_is_noticed_and_not_mixed(saved):
    _, folder = saved
    (folder / PENDING).write_text(json.dumps({"rename": {MATERIAL: "0" * 64}, "remove": []}))
    with pytest.raises(BadFile, match=r"rows\.new is missing, so an earlier save cannot"):
        topion.open(folder)


def test_a_save_that_was_listed_is_finished_before_anything_is_asked_of_the_folder(saved):
    _, folder = saved
    shutil.move(folder / "project.json", folder / "project.json.new")
    (folder / PENDING).write_text(json.dumps({"rename": ["project.json"], "remove": []}))
    assert topion.open(folder).rooms() == ("Yard",)


def test_the_folder_of_a_room_that_is_gone_goes_too(saved):
    room, folder = saved
    room.project.add_room("Attic", (4, 4), 4)
    room.project.save()
    assert (folder / "rooms/Attic").is_dir()
    room.project.remove_room("Attic")
    room.project.save()
    assert not (folder / "rooms/Attic").exists()


def test_what_could_not_be_opened_again_is_never_written(saved):
    room, folder = saved
    before = differences(topion.open(folder).data, room.project.data)
    brush = room.project.data.brush("Mud")
    object.__setattr__(brush, "seed", -1)  # as a fault of ours would
    room.project.data.library["brushes"]["Mud"] = brush.__class__.__new__(brush.__class__)
    vars(room.project.data.library["brushes"]["Mud"]).update(vars(brush))
    with pytest.raises(CannotSave, match="could not be opened again"):
        room.project.save()
    assert before == [] and topion.open(folder).data.brush("Mud").seed == 3


# --- what others changed ------------------------------------------------------------------


def test_another_project_is_not_written_over_unasked(saved, tmp_path):
    _, folder = saved
    with pytest.raises(HoldsAnother, match="holds another project"):
        small_room((5, 5)).project.save(folder)
    assert topion.open(folder).room("Yard").size == (8, 10)


def test_a_change_of_somebody_else_is_noticed_by_content(saved):
    room, folder = saved
    (folder / MATERIAL).touch()
    (folder / "notes.txt").write_text("mine")
    stroke(room)
    room.project.save()  # neither is a change of ours
    other = topion.open(folder)
    other.room("Yard").lay("Stones", cells=[(7, 7)])
    other.save()
    stroke(room)
    room.lay("Water", cells=[(6, 6)])
    with pytest.raises(ChangedOutside, match="changed elsewhere since it was opened"):
        room.project.save()
    assert topion.open(folder).room("Yard").material(7, 7) == "Stones"


def test_a_change_at_the_very_same_moment_and_size_is_noticed(saved):
    room, folder = saved
    for sign in "12":
        stroke(room)
        room.project.save(over=True)
        path = folder / MATERIAL
        about = os.stat(path)
        path.write_bytes(path.read_bytes().replace(b"1", sign.encode(), 1))
        os.utime(path, ns=(about.st_atime_ns, about.st_mtime_ns))
        room.lay("Stones", cells=[(7, int(sign))])
        if sign == "1":
            room.project.save()
        else:
            with pytest.raises(ChangedOutside):
                room.project.save()


def test_what_only_others_changed_is_taken_in(saved):
    room, folder = saved
    other = topion.open(folder)
    other.add_room("Attic", (4, 4), 4)
    other.room("Yard").lay("Lamp", cells=[(2, 2)])
    other.add_brush(other.data.brush("Mud").changed(seed=99))
    other.save()
    stroke(room)  # on another layer
    found = take_in(room.project.data.frozen())
    assert found.both == [] and found.mixes
    room.project.history.apply(found.taken)
    put_store(room.project.data, found.store)
    room.project.save()
    again = topion.open(folder)
    assert again.room("Yard").material(2, 2) == "Water" and again.rooms() == ("Yard", "Attic")
    assert [t.prefab for t in again.room("Yard").things()] == ["Lamp"]
    assert again.data.brush("Mud").seed == 99
    room.project.undo()  # taking it in is a stroke as any other
    assert room.project.rooms() == ("Yard",)


def test_what_both_changed_is_named_and_can_be_taken_either_way(saved):
    room, folder = saved
    other = topion.open(folder)
    other.room("Yard").lay("Stones", cells=[(7, 7)])
    other.save()
    stroke(room)
    found = take_in(room.project.data.frozen())
    assert found.both == ["layer Ground of Yard"] and not found.taken
    room.project.history.apply(found.theirs)
    assert room.material(7, 7) == "Stones" and room.material(2, 2) == "Mud"
    room.project.undo()
    assert room.material(2, 2) == "Water"


def test_a_room_that_was_removed_elsewhere_goes_and_one_that_we_changed_is_asked_about(tmp_path):
    room = small_room((8, 10))
    room.project.add_room("Attic", (4, 4), 4)
    folder = room.project.save(tmp_path / "P.topion")
    other = topion.open(folder)
    other.remove_room("Attic")
    other.save()
    assert "Attic" not in _with_taken(room)
    room.project.undo()
    room.project.room("Attic").lay("Mud", cells=[(1, 1)])
    assert take_in(room.project.data.frozen()).both == ["room Attic"]


def test_a_room_that_was_removed_elsewhere_before_it_was_read_here_is_let_go(tmp_path):
    room = small_room((8, 10))
    room.project.add_room("Attic", (4, 4), 4)
    folder = room.project.save(tmp_path / "P.topion")
    project = topion.open(folder)
    project.room("Yard").lay("Water", box=((1, 1), (4, 4)))
    other = topion.open(folder)
    other.remove_room("Attic")
    other.save()
    found = take_in(project.data.frozen())
    assert found.dropped == ("Attic",) and not found.taken and found.both == []
    found.drop(project.data)
    put_store(project.data, found.store)
    project.save()
    assert topion.open(folder).rooms() == ("Yard",)


def _with_taken(room):
    room.project.history.apply(take_in(room.project.data.frozen()).taken)
    return room.project.rooms()


def test_names_that_got_other_numbers_cannot_be_mixed(saved):
    room, folder = saved
    other = topion.open(folder)
    stones = other.data.brush("Stones")
    other.add_brush(type(stones)("Theirs", stones.tiles))
    other.save()
    room.project.add_brush(type(stones)("Ours", stones.tiles))
    found = take_in(room.project.data.frozen())
    assert not found.mixes and "the list of materials" in found.both and not found.taken


# --- locks, outputs -----------------------------------------------------------------------


def test_the_command_line_does_not_write_what_a_window_has_open(saved):
    room, folder = saved
    lock = PathLock(folder)
    assert lock.take()
    with pytest.raises(InUse, match="is open in a window"):
        room.project.save()
    lock.release()
    room.project.save()


def test_a_lock_knows_where_its_folder_was_moved(saved, tmp_path):
    _, folder = saved
    lock = PathLock(folder)
    lock.take()
    moved = folder.rename(tmp_path / "Moved.topion")
    assert lock.place() == moved.resolve()
    shutil.rmtree(moved)
    assert lock.place() is None
    lock.release()


@pytest.mark.parametrize("name", ["project.json", MATERIAL, "tilesets/new.png", f"{MATERIAL}.new"])
def test_an_export_never_replaces_a_file_of_a_project(saved, name):
    _, folder = saved
    with pytest.raises(TopionError, match=r"is a file of the project P\.topion"):
        write_out(folder / name, b"a picture")
    assert belongs_to(folder / "Yard.csv") is None and not is_own("notes/project.json")


def test_an_export_is_whole_or_not_there(tmp_path, monkeypatch):
    path = tmp_path / "out.png"
    write_out(path, b"first")

    def full(a, b):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "replace", full)
    with pytest.raises(OSError, match="No space"):
        write_out(path, b"second")
    assert path.read_bytes() == b"first" and list(tmp_path.iterdir()) == [path]


def test_names_that_are_long_in_files_stay_apart(tmp_path):
    room = small_room((5, 5))
    for sign in "äö":
        room.project.add_room(sign * 190, (3, 3), 4)
    folder = room.project.save(tmp_path / "Long.topion")
    assert topion.open(folder).rooms() == ("Yard", "ä" * 190, "ö" * 190)
