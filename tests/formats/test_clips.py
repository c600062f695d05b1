"""What is copied: as text, between projects, and what comes along."""

import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.brushes.test_stamps import PART, everything, lay, yard  # noqa: F401
from tests.rooms import small_project, small_room
from topion.edit.clips import Clip, clip_of, conflicts, stamp_of, taken_in
from topion.errors import BadFile
from topion.formats.clips import clip_text, read_clip
from topion.grid.boxes import Box
from topion.model.compare import differences
from topion.scripting import new


@pytest.fixture
def clip(yard):  # noqa: F811
    return clip_of(yard.project.data, everything(yard, PART), anchor=(2, 3))


def paste(project, clip, prefers="ours"):
    project.history.apply(taken_in(project.data, clip, prefers))


def test_a_clip_reads_back_from_its_text(clip):
    found = read_clip(clip_text(clip))
    assert (found.scrap, found.anchor, found.name) == (clip.scrap, clip.anchor, clip.name)
    assert {shelf: dict(items) for shelf, items in found.library.items()} == clip.library


def test_the_text_is_json_that_can_be_read(clip):
    plain = json.loads(clip_text(clip))
    assert plain["format"] == "topion-clip" and plain["scrap"]["materials"][0] == "Mud"
    assert len(max(clip_text(clip).splitlines()[:40], key=len)) < 200


def test_all_that_it_needs_comes_along_and_nothing_else(clip):
    assert set(clip.library) == {"tilesets", "prefabs", "brushes"}
    assert set(clip.library["prefabs"]) == {"Bush", "Cart", "Reed"}
    assert set(clip.library["brushes"]) == {"Mud", "Pin", "Wall", "Pipe", "Quay", "Reeds"}


def test_an_empty_project_can_lay_it_after_a_paste(clip, yard):  # noqa: F811
    project = new(None, "Empty")
    paste(project, read_clip(clip_text(clip)))
    room = project.add_room("Room", (24, 32), 4)
    room.add_layer("Reeds", "field")
    room.set_layer("Reeds", brush="Reeds")
    edit = lay(room, project.data.brush("Pasted"), (13, 4), override=True)
    assert not edit.refused
    ours, theirs = (r.render(1)[PART.lo[0] * 4 : PART.hi[0] * 4, 4:48] for r in (yard, room))
    assert np.array_equal(ours[4:-4, 4:-4], theirs[4:-4, 4:-4])
    assert project.undo() and project.undo() and project.undo() and project.undo()


def test_what_is_there_and_equal_is_used_as_it_is(clip, yard):  # noqa: F811
    before = dict(yard.project.data.brushes)
    assert conflicts(yard.project.data, clip) == []
    paste(yard.project, clip)
    assert dict(yard.project.data.brushes) == {**before, "Pasted": stamp_of(clip, "Pasted")}


def test_what_is_another_thing_is_named(clip):
    other = small_project()
    other.add_prefab(replace(other.data.prefab("Bush"), class_name="green"))
    assert conflicts(other.data, clip) == [("prefabs", "Bush")]


def test_theirs_come_under_other_names_where_that_is_wanted(clip):
    other = small_room()
    project = other.project
    project.add_brush(replace(project.data.brush("Mud"), colour="#101010"))
    project.add_prefab(replace(project.data.prefab("Bush"), class_name="green"))
    paste(project, clip, "theirs")
    stamp = project.data.brush("Pasted")
    assert stamp.scrap.materials[0] == "Mud 2" and "Mud 2" in project.data.materials
    assert project.data.prefab("Bush 2").class_name == ""
    assert {t.prefab for la in stamp.scrap.layers for t in la.things} == {"Bush 2", "Cart"}
    assert project.data.brush("Reeds 2").sown[1].prefab == "Bush 2"


def test_ours_are_used_where_that_is_wanted(clip):
    other = small_room()
    other.project.add_prefab(replace(other.project.data.prefab("Bush"), class_name="green"))
    before = dict(other.project.data.prefabs)
    paste(other.project, clip, "ours")
    assert dict(other.project.data.prefabs) == before


def test_a_paste_is_one_edit(clip):
    project = new(None, "Empty")
    before = project.data.frozen()
    paste(project, clip)
    assert len(project.history.edits) == 1
    project.undo()
    assert differences(before, project.data) == []


@pytest.mark.parametrize("text", [
    "", "hello", "{", "[1, 2]", "{}", '{"format": "topion-clip"}', "\ud800", "{" * 5000,
    '{"format": "topion-clip", "version": 2, "scrap": {}}',
    '{"format": "topion-clip", "version": 1, "scrap": {"size": [1e9, 2]}}',
    '{"format": "topion-clip", "version": 1, "scrap": {"size": [4000, 16000]}}',
    '{"format": "topion-clip", "version": 1, "scrap": {"size": [2, 2], "layers": [{"name": "a",'
    ' "kind": "tiles", "planes": {"material": {"size": [2, 2], "rows": ["99999999*1"]}}}]}}',
    '{"format": "topion-clip", "version": 1, "scrap": {"size": [2, 2]}, "library": {"rooms": []}}',
    '{"format": "topion-clip", "version": 1, "scrap": {"size": [2, 2]}, "library": []}',
    '{"format": "topion-clip", "version": 1, "scrap": {"size": [2, 2]}, "anchor": [1, 2, 3]}',
    '{"format": "topion-clip", "version": 1, "scrap": {"size": [2, 2]}, "eval": 1}',
], ids=range(16))  # fmt: skip
def test_what_is_no_clip_is_refused_in_one_sentence(text):
    with pytest.raises(BadFile) as found:
        read_clip(text)
    assert str(found.value).startswith("what was pasted") and len(str(found.value)) < 400
    assert "\n" not in str(found.value)


@given(st.integers(0, 20_000), st.binary(min_size=1, max_size=3))
def test_a_damaged_clip_is_read_or_refused(at, junk):
    text = _TEXT
    place = at % len(text)
    try:
        found = read_clip(text[:place] + junk + text[place + len(junk) :])
    except BadFile:
        return
    assert isinstance(found, Clip)


def _one():
    room = small_room((6, 6))
    room.lay("Bush", cells=[(2, 2)])
    return clip_text(clip_of(room.project.data, everything(room, Box((1, 1), (4, 4)))))


_TEXT = _one().encode()
