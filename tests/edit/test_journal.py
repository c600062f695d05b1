"""After a crash nothing but the stroke under the pointer is lost; undo reaches past a restart."""

import json
import shutil
import sqlite3

import pytest

import topion
from tests.rooms import small_room
from tests.trust.runs import Run, about
from topion.edit.journal import Journal
from topion.edit.journals import unsaved
from topion.edit.library import put_brush
from topion.edit.resume import BASE, Kept, lay_onto
from topion.edit.serial import edit_from_plain, edit_to_plain
from topion.edit.whole import project_of, whole
from topion.model.compare import differences
from topion.scripting import ProjectHandle


@pytest.fixture
def folder(tmp_path):
    return small_room((12, 12)).project.save(tmp_path / "P.topion")


@pytest.fixture
def run(folder, tmp_path):
    return lambda: Run(folder, tmp_path / "state")


def same(a, b):
    return differences(a.handle.data, b.handle.data) == []


def test_strokes_that_were_not_saved_come_back_after_a_crash(run):
    first = run()
    first.strokes()
    again = run()
    assert again.resumed.strokes == 3 and again.handle.history.changed and same(again, first)


def test_undo_reaches_back_past_a_restart(run):
    first = run()
    start = first.room.render(1).tobytes()
    first.strokes()
    first.save()
    first.journal.close()
    again = run()
    assert again.resumed.strokes == 0 and not again.handle.history.changed
    again.handle.history.jump(0)
    assert again.room.render(1).tobytes() == start
    again.handle.history.jump(3)
    assert same(again, first)


def test_strokes_laid_after_undoing_past_a_save_come_back(run):
    first = run()
    first.strokes()
    first.save()
    first.handle.history.jump(1)
    first.room.lay("Mud", cells=[(2, 2)])
    first.handle.history.jump(0)
    first.room.lay("Water", cells=[(9, 1)])
    again = run()
    assert again.resumed.strokes and again.handle.history.changed and same(again, first)
    third = run()  # also after a second crash
    assert same(third, first)
    assert third.handle.undo() and not third.handle.undo()


def test_a_save_after_undoing_past_a_save_is_known(run):
    first = run()
    first.strokes()
    first.save()
    first.handle.undo()
    first.room.lay("Mud", cells=[(2, 2)])
    first.save()
    first.room.lay("Water", cells=[(9, 1)])
    again = run()
    assert again.resumed.strokes == 1 and same(again, first)
    assert again.handle.history.saved_at == 3


def test_a_kill_between_the_save_and_its_confirmation_loses_nothing(run):
    first = run()
    first.strokes()
    first.save(confirmed=False)
    first.room.lay("Mud", cells=[(2, 2)])
    again = run()
    assert again.resumed.strokes == 1 and same(again, first)
    assert again.handle.history.saved_at == 3


def test_a_save_that_failed_leaves_the_strokes_since_the_last_one(run, folder, tmp_path):
    before = shutil.copytree(folder, tmp_path / "copy")
    first = run()
    first.strokes()
    first.save(confirmed=False)
    shutil.rmtree(folder)
    shutil.copytree(before, folder)  # as if none of it had come to the disk
    again = run()
    assert again.resumed.strokes == 3 and same(again, first)


def test_what_was_undone_before_the_crash_stays_undone_and_can_be_redone(run):
    first = run()
    first.strokes()
    first.handle.undo()
    again = run()
    assert same(again, first) and again.handle.redo()
    first.handle.redo()
    assert same(again, first)


def test_named_moments_come_back_with_the_strokes(run):
    first = run()
    first.strokes()
    first.handle.history.mark(1, "before the flood")
    first.handle.history.mark(3, "end")
    first.handle.history.mark(3, "")
    again = run()
    assert again.handle.history.marks == {1: "before the flood"}
    again.save()
    assert run().handle.history.marks == {1: "before the flood"}


def test_a_new_stroke_after_undo_replaces_what_was_undone(run):
    first = run()
    first.strokes()
    first.handle.undo()
    first.room.lay("Stones", cells=[(0, 0)])
    again = run()
    assert [e.label for e in again.handle.history.edits] == ["Water", "Lamp", "Stones"]
    assert same(again, first)


def test_pulls_of_a_slider_come_back_as_one(run):
    first = run()
    mud = first.handle.data.brush("Mud")
    for seed in range(5):
        edit = put_brush(first.handle.data, mud.changed(seed=seed + 90))
        first.handle.history.apply(edit, "seed")
    again = run()
    assert again.resumed.strokes == 1 and again.handle.data.brush("Mud").seed == 94


@pytest.mark.parametrize("name", ["notes.txt", "Yard.ground.csv", "rooms/Yard/room.json.new"])
def test_files_that_are_not_ours_change_nothing(run, folder, name):
    first = run()
    first.strokes()
    (folder / name).write_text("left over, or of somebody else")
    (folder / "project.json").touch()
    assert run().resumed.strokes == 3


def test_a_folder_that_was_moved_is_found_by_its_id(run, folder, tmp_path):
    first = run()
    first.strokes()
    moved = folder.rename(tmp_path / "Elsewhere.topion")
    again = Run(moved, tmp_path / "state")
    assert again.resumed.strokes == 3 and same(again, first)


def test_a_copy_of_a_folder_does_not_take_the_strokes_of_the_first(run, folder, tmp_path):
    first = run()
    first.strokes()
    copy = shutil.copytree(folder, tmp_path / "Copy.topion")
    assert Run(copy, tmp_path / "state").resumed is None
    assert run().resumed.strokes == 3


def test_strokes_can_be_laid_on_files_that_were_changed_meanwhile(run, folder):
    first = run()
    first.strokes()
    other = topion.open(folder)
    other.room("Yard").lay("Stones", box=((0, 0), (2, 2)))
    other.save()
    again = run()
    assert again.resumed is None and again.left.unsaved() == 3
    found = lay_onto(again.handle.history, again.left, again.left.saved_at)
    assert (found.strokes, found.lost) == (3, 0)
    yard = again.room
    assert yard.material(0, 0) == "Stones" and yard.material(4, 4) == "Water"
    assert [thing.prefab for thing in yard.things()] == ["Lamp"]
    again.handle.history.jump(0)
    assert differences(again.handle.data, topion.open(folder).data) == []


def test_what_was_discarded_does_not_come_back(run):
    first = run()
    first.strokes()
    first.save()
    first.room.lay("Mud", cells=[(2, 2)])
    first.journal.discard()
    first.journal.close()
    again = run()
    assert again.resumed.strokes == 0 and len(again.handle.history.edits) == 3


# --- damage -------------------------------------------------------------------------------


def change(journal, sql, *values):
    with sqlite3.connect(journal.path) as base:
        base.execute(sql, values)


def test_edits_before_a_damaged_one_are_laid_and_count_as_not_saved(run):
    first = run()
    first.strokes()
    first.journal.close()
    (number,) = (
        sqlite3.connect(first.journal.path)
        .execute("SELECT max(seq) FROM log WHERE edit IS NOT NULL")
        .fetchone()
    )
    change(first.journal, "UPDATE log SET edit = '{}' WHERE seq = ?", number)
    again = run()
    assert again.resumed.strokes == 2 and again.resumed.lost == 1
    assert again.handle.history.changed and again.handle.history.at == 2
    assert first.journal.path.with_suffix(".aside").exists()
    again.handle.history.jump(0)
    assert not again.handle.history.changed


def test_an_edit_that_does_not_fit_leaves_what_was_laid_before(run):
    first = run()
    first.strokes()
    first.journal.close()
    with sqlite3.connect(first.journal.path) as base:
        rows = base.execute("SELECT seq, edit FROM log WHERE edit IS NOT NULL").fetchall()
        seq, text = rows[1]
        base.execute("UPDATE log SET edit = ? WHERE seq = ?", (text.replace("Yard", "Gone"), seq))
    again = run()
    assert (again.resumed.strokes, again.resumed.lost) == (1, 2)


def test_a_file_that_is_no_journal_is_passed_by(run, tmp_path):
    first = run()
    first.strokes()
    first.journal.close()
    first.journal.path.write_bytes(b"no database at all" * 400)
    assert run().resumed is None


@pytest.mark.parametrize("broken", ["folder", "file"])
def test_a_journal_that_cannot_be_written_is_said_and_tried_again(folder, tmp_path, broken):
    place = tmp_path / "state"
    if broken == "file":
        place.write_text("a file where a folder should be")
    first = Run(folder, place)
    if broken == "folder":
        shutil.rmtree(place)
        place.write_text("gone, and something else there")
    first.strokes()
    assert "not kept safe" in first.journal.problem
    place.unlink()
    heard = []
    first.journal.on_problem = heard.append
    first.room.lay("Mud", cells=[(2, 2)])
    assert heard == [""]
    again = Run(folder, place)
    assert again.resumed.strokes == 4 and same(again, first)


def test_a_journal_that_somebody_removed_is_written_anew(run):
    first = run()
    first.strokes()
    for path in first.journal.path.parent.iterdir():
        path.unlink()
    first.room.lay("Mud", cells=[(2, 2)])
    assert run().resumed.strokes == 4


# --- projects without a folder -------------------------------------------------------------


def begun(tmp_path):
    handle = small_room((12, 12)).project
    handle.history = topion.scripting.History(handle.data)
    handle.data.id = "unsaved"
    base = json.dumps(edit_to_plain(whole(handle.data)))
    journal = Journal(handle.history, {**about(handle), "base": base}, tmp_path / "state")
    journal.begin(BASE)
    return handle, journal


def test_a_project_that_was_never_saved_comes_back(tmp_path):
    handle, _ = begun(tmp_path)
    handle.room("Yard").lay("Water", box=((1, 1), (5, 5)))
    handle.undo()
    handle.room("Yard").lay("Lamp", cells=[(8, 8)])
    (left,) = unsaved(tmp_path / "state")
    assert (left.name, left.strokes) == ("Small", 1)
    again = ProjectHandle(project_of(edit_from_plain(json.loads(left.kept.about["base"]))))
    journal = Journal(again.history, left.kept.about, tmp_path / "state")
    assert journal.resume(left.kept, left.kept.base_at, BASE).strokes == 1
    assert differences(again.data, handle.data) == []
    assert again.undo() and not again.undo()


def test_a_whole_project_fits_into_one_edit(room):
    room.lay("Lamp", cells=[(4, 4)])
    room.lay("Reeds", box=((6, 6), (11, 11)))
    room.project.undo()
    text = json.dumps(edit_to_plain(whole(room.project.data)))
    again = project_of(edit_from_plain(json.loads(text)))
    assert differences(again, room.project.data) == []


def test_strokes_that_are_in_the_base_are_not_laid_twice(tmp_path):
    handle = small_room((12, 12)).project  # as the demo: its history starts with strokes
    handle.data.id = "demo"
    base = json.dumps(edit_to_plain(whole(handle.data)))
    Journal(handle.history, {**about(handle), "base": base}, tmp_path / "state").begin(BASE)
    handle.room("Yard").lay("Water", box=((1, 1), (5, 5)))
    (left,) = unsaved(tmp_path / "state")
    again = ProjectHandle(project_of(edit_from_plain(json.loads(left.kept.about["base"]))))
    journal = Journal(again.history, left.kept.about, tmp_path / "state")
    found = journal.resume(left.kept, left.kept.base_at, BASE)
    assert (left.strokes, found.strokes, found.lost) == (1, 1, 0)
    assert differences(again.data, handle.data) == []
    again.history.jump(1)
    assert again.rooms() == () or again.history.at == 1


def test_a_project_without_strokes_leaves_no_journal(tmp_path):
    _, journal = begun(tmp_path)
    journal.close()
    assert unsaved(tmp_path / "state") == [] and not journal.path.exists()


def test_a_first_save_that_was_cut_off_after_its_rename_belongs_to_the_folder(tmp_path):
    handle, journal = begun(tmp_path)
    handle.room("Yard").lay("Lamp", cells=[(8, 8)])
    mark, target = journal.mark(), tmp_path / "New.topion"
    handle.saving(target).write(promise=lambda s: journal.promise(mark, s, str(target)))
    assert unsaved(tmp_path / "state") == []
    again = Run(target, tmp_path / "state")
    assert again.resumed.strokes == 0 and differences(again.handle.data, handle.data) == []


def test_a_journal_from_a_stranger_cannot_make_a_project_unsound(run):
    first = run()
    first.strokes()
    first.journal.close()
    kept = Kept.read(first.journal.path)
    row = next(row for row in kept.rows if row.edit)
    bad = json.loads(row.edit)
    bad["records"].append({"record": "item", "address": ["order", "Yard"],
                           "before": ["ground", "things"], "after": ["ground"]})  # fmt: skip
    change(first.journal, "UPDATE log SET edit = ? WHERE seq = ?", json.dumps(bad), row.seq)
    again = run()
    assert again.resumed.strokes == 0 and again.resumed.lost == 3
    assert again.handle.data.room("Yard").order == ("ground", "things")
