"""One history for flat and voxel rooms."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.both_kinds import both_kinds
from tests.rooms import planes
from tests.voxel_rooms import isle
from topion.brushes import Sculpt
from topion.edit.history import History
from topion.edit.journal import Journal
from topion.edit.journals import journals_of
from topion.edit.serial import edit_from_plain, edit_to_plain
from topion.formats.folder import read_project
from topion.model.compare import differences
from topion.model.records import EntriesRecord
from topion.model.solid import Block
from topion.scripting import ProjectHandle

flat_cell = st.tuples(st.integers(0, 9), st.integers(0, 11))
deep_cell = st.tuples(st.integers(0, 7), st.integers(0, 8), st.integers(0, 9))
flat_steps = st.tuples(st.just("Yard"), st.sampled_from(("Mud", "Water", "Stones", "Lift")),
                       flat_cell, flat_cell)  # fmt: skip
deep_steps = st.tuples(
    st.just("Isle"),
    st.sampled_from(("Ground", "Rock", "Box", "Slabs", "Heap", "Post", "Tufts", "Lift")),
    deep_cell,
    deep_cell,
)
library_steps = st.tuples(st.just("library"), st.sampled_from(("block", "brush")),
                          st.integers(0, 3), st.integers(0, 0xFFFFFF))  # fmt: skip
steps = st.lists(st.one_of(flat_steps, deep_steps, library_steps), min_size=1, max_size=7)


def take(project: ProjectHandle, step) -> None:
    room, brush, a, b = step
    if room == "library":
        if brush == "block":
            project.add_block(Block(f"New {a}", f"#{b:06x}"))
        else:
            project.add_brush(Sculpt("Heap", "lower" if a % 2 else "raise", 1 + a, fill="Ground"))
        return
    project.room(room).lay(brush, box=(a, b))


@settings(max_examples=40, deadline=None)
@given(steps)
def test_undoing_all_gives_back_every_cell_of_every_room(done):
    project, untouched = both_kinds(), both_kinds()
    for step in done:
        take(project, step)
    after = both_kinds()
    for step in done:
        take(after, step)
    assert differences(project.data, after.data) == []
    while project.undo():
        pass
    assert differences(project.data, untouched.data) == []
    while project.redo():
        pass
    assert differences(project.data, after.data) == []


@settings(max_examples=25, deadline=None)
@given(steps)
def test_edits_sent_as_text_do_the_same_elsewhere(done):
    here, there = both_kinds(), both_kinds()
    for step in done:
        take(here, step)
    for edit in here.history.edits:
        text = json.dumps(edit_to_plain(edit))
        there.history.apply(edit_from_plain(json.loads(text)))
    assert differences(here.data, there.data) == []


@settings(max_examples=15, deadline=None)
@given(steps, st.integers(0, 6))
def test_jumping_about_in_the_strokes_is_like_laying_them_so_far(done, target):
    project, other = both_kinds(), both_kinds()
    for step in done:
        take(project, step)
    at = min(target, len(project.history.edits))
    project.history.jump(0)
    project.history.jump(at)
    laid = 0
    for step in done:
        if laid == at:
            break
        take(other, step)
        laid = len(other.history.edits)
    assert differences(project.data, other.data) == []


def test_a_crash_brings_back_strokes_in_both_kinds_of_rooms(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    project = both_kinds()
    folder = project.save(tmp_path / "Both.topion")
    about = {"id": "both", "name": "Both", "folder": str(folder), "base": "", "promised": ""}
    project.history = History(project.data)
    Journal(project.history, about).begin("as it is")
    project.room("Isle").lay("Box", box=((3, 2, 2), (5, 4, 4)))
    project.room("Yard").lay("Water", box=((1, 1), (3, 3)))
    project.room("Isle").lay("Post", cells=[(7, 6, 6)])
    again = ProjectHandle(read_project(folder), folder)
    (kept,) = journals_of("both", folder)
    assert Journal(again.history, about).resume(kept, kept.saved_at, "as it is").strokes == 3
    assert differences(again.data, project.data) == []


def test_a_record_of_things_names_columns_and_keeps_their_height():
    room = isle()
    edit = room.lay("Post", cells=[(9, 4, 5)])
    (record,) = edit.records
    assert isinstance(record, EntriesRecord) and record.dirty().box.lo == (4, 5)
    assert next(iter(record.after.values())).at == (3.0, 4.0, 5.0)


def test_removing_a_voxel_room_and_taking_it_back_is_one_edit():
    project = both_kinds()
    room = project.room("Isle")
    room.lay("Tufts", box=((0, 0, 0), (0, 8, 9)))
    room.lay("Post", cells=[(9, 4, 5)])
    before = {name: p.copy() for name, p in planes(room).items()}
    project.remove_room("Isle")
    assert project.rooms() == ("Yard",)
    project.undo()
    for name, plane in before.items():
        assert np.array_equal(planes(project.room("Isle"))[name], plane)
    assert len(project.room("Isle").things()) == 1 and project.room("Isle").sown("Tufts")


def test_changing_a_rule_book_weaves_voxel_rooms_again():
    project = both_kinds()
    room = project.room("Isle")
    brush = project.data.brush("Ground")
    shown = planes(room)["block"].copy()
    project.add_brush(replace(brush, rules=replace(brush.rules, rules=brush.rules.rules[-1:])))
    assert room.why(2, 4, 4).rule == "inside"
    project.undo()
    assert np.array_equal(planes(room)["block"], shown)


@pytest.mark.parametrize("box", [((3, 0, 0), (5, 8, 9)), ((0, 0, 0), (7, 8, 9))])
def test_a_sealed_record_is_far_smaller_than_what_it_covers(box):
    project = both_kinds()
    edit = project.room("Isle").plan("Rock", box=box)
    packed = sum(len(r.packed) for r in edit.sealed().records)
    loose = sum(r.cells.nbytes + sum(a.nbytes for a in r.after.values()) for r in edit.records)
    assert packed * 8 < loose
