"""After a crash nothing but the stroke under the pointer is lost; undo reaches past a restart."""

import sqlite3

import pytest

import topion
from tests.rooms import small_room
from topion.edit.journal import Journal, fingerprint
from topion.model.compare import differences


@pytest.fixture
def folder(tmp_path):
    return small_room((12, 12)).project.save(tmp_path / "P.topion")


def opened(folder, tmp_path):
    handle = topion.open(folder)
    journal = Journal(handle.history, folder, tmp_path / "state")
    return handle, journal, journal.start()


def strokes(handle):
    room = handle.room("Yard")
    room.lay("Water", box=((1, 1), (5, 5)))
    room.lay("Lamp", cells=[(8, 8)])
    room.lay("Reeds", box=((6, 6), (11, 11)))
    return room


def test_strokes_that_were_not_saved_come_back_after_a_crash(folder, tmp_path):
    handle, _, _ = opened(folder, tmp_path)
    strokes(handle)
    again, _, recovered = opened(folder, tmp_path)  # the first was never closed
    assert recovered == 3 and again.history.changed
    assert differences(again.data, handle.data) == []


def test_undo_reaches_back_past_a_restart(folder, tmp_path):
    handle, journal, _ = opened(folder, tmp_path)
    start = handle.room("Yard").render(1).tobytes()
    strokes(handle)
    handle.save()
    journal.mark_saved()
    journal.close()
    again, _, recovered = opened(folder, tmp_path)
    assert recovered == 0 and not again.history.changed
    again.history.jump(0)
    assert again.room("Yard").render(1).tobytes() == start
    again.history.jump(3)
    assert differences(again.data, handle.data) == []


def test_strokes_laid_after_undoing_past_a_save_come_back(folder, tmp_path):
    handle, journal, _ = opened(folder, tmp_path)
    room = strokes(handle)
    handle.save()
    journal.mark_saved()
    handle.history.jump(1)
    room.lay("Mud", cells=[(2, 2)])
    handle.history.jump(0)
    room.lay("Water", cells=[(9, 1)])
    again, _, recovered = opened(folder, tmp_path)
    assert recovered and again.history.changed
    assert differences(again.data, handle.data) == []
    third, _, _ = opened(folder, tmp_path)  # also after a second crash
    assert differences(third.data, handle.data) == []
    assert third.undo() and not third.undo()


def test_a_journal_that_cannot_be_laid_leaves_the_project_as_it_was_saved(folder, tmp_path):
    handle, journal, _ = opened(folder, tmp_path)
    strokes(handle)
    journal.close()
    with sqlite3.connect(journal.path) as base:
        (text,) = base.execute("SELECT edit FROM edits WHERE number = 2").fetchone()
        base.execute("UPDATE edits SET edit = ? WHERE number = 2", (text.replace("Yard", "Gone"),))
    again, _, recovered = opened(folder, tmp_path)
    assert recovered == 0 and differences(again.data, topion.open(folder).data) == []


def test_what_was_undone_before_the_crash_stays_undone_and_can_be_redone(folder, tmp_path):
    handle, _, _ = opened(folder, tmp_path)
    strokes(handle)
    handle.undo()
    again, _, _ = opened(folder, tmp_path)
    assert differences(again.data, handle.data) == [] and again.redo()
    handle.redo()
    assert differences(again.data, handle.data) == []


def test_a_new_stroke_after_undo_replaces_what_was_undone(folder, tmp_path):
    handle, _, _ = opened(folder, tmp_path)
    strokes(handle)
    handle.undo()
    handle.room("Yard").lay("Stones", cells=[(0, 0)])
    again, _, _ = opened(folder, tmp_path)
    assert [e.label for e in again.history.edits] == ["Water", "Lamp", "Stones"]
    assert differences(again.data, handle.data) == []


def test_a_folder_changed_elsewhere_is_not_laid_over(folder, tmp_path):
    handle, _, _ = opened(folder, tmp_path)
    strokes(handle)
    before = fingerprint(folder)
    (folder / "notes.txt").write_text("changed by hand")
    assert fingerprint(folder) != before
    again, _, recovered = opened(folder, tmp_path)
    assert recovered == 0 and not again.history.edits


def test_a_damaged_journal_is_let_go(folder, tmp_path):
    handle, journal, _ = opened(folder, tmp_path)
    strokes(handle)
    journal.close()
    with sqlite3.connect(journal.path) as base:
        base.execute("UPDATE edits SET edit = '{}' WHERE number = 1")
    again, _, recovered = opened(folder, tmp_path)
    assert recovered == 0 and not again.history.edits
    journal.path.write_bytes(b"no database at all" * 400)
    assert opened(folder, tmp_path)[2] == 0


def test_a_state_folder_that_cannot_be_written_stops_no_work(folder, tmp_path):
    (tmp_path / "state").write_text("a file where a folder should be")
    handle, _, recovered = opened(folder, tmp_path)
    assert recovered == 0 and strokes(handle).material(2, 2) == "Water"
