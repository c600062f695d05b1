"""Any row of edits, undone, is the start; redone, it is the end; and a record is small."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import planes, small_room
from tests.strategies import fresh_room, strokes
from topion.brushes import Weave
from topion.edit.history import History
from topion.edit.library import put_brush
from topion.edit.rooms import add_layer, move_layer, remove_layer, remove_room, set_layer
from topion.edit.serial import edit_from_plain, edit_to_plain
from topion.model.compare import differences
from topion.model.edit import Edit
from topion.model.layer import LayerInfo
from topion.model.plain import BadPlain
from topion.model.records import ItemRecord
from topion.weaving.looms import loom_of
from topion.weaving.rules import RuleBook, Variant, plain_rule


def snapshot(project):
    return project.frozen()


def same(a, b):
    return differences(a, b) == []


def lay(room, stroke):
    brush, way = stroke
    return room.lay(brush, **way)


@given(st.lists(strokes(), min_size=1, max_size=7))
def test_undone_is_the_start_and_redone_is_the_end(some):
    room = fresh_room()
    data, history = room.project.data, room.project.history
    first, start = history.at, snapshot(data)
    for stroke in some:
        lay(room, stroke)
    end, last = snapshot(data), history.at
    history.jump(first)
    assert same(data, start)
    history.jump(last)
    assert same(data, end)
    while history.at > first:
        assert room.project.undo()
    assert same(data, start)


@given(st.lists(strokes(), min_size=1, max_size=5))
def test_tiles_always_follow_from_materials_and_rules(some):
    room = fresh_room()
    for stroke in some:
        lay(room, stroke)
    shown = planes(room, "Ground")
    woven = loom_of(room.project.data).whole(shown["material"])
    assert (shown["tile"] == np.where(shown["pinned"], shown["pinned"], woven)).all()


@given(strokes())
def test_planning_twice_is_planning_once_and_changes_nothing(stroke):
    room = fresh_room()
    before = snapshot(room.project.data)
    brush, way = stroke
    one, other = room.plan(brush, **way), room.plan(brush, **way)
    assert edit_to_plain(one) == edit_to_plain(other)
    assert same(room.project.data, before)


@given(st.lists(strokes(), min_size=1, max_size=5))
def test_edits_written_and_read_do_the_same(some):
    room, other = fresh_room(), fresh_room()
    for stroke in some:
        edit = lay(room, stroke)
        other.project.history.apply(edit_from_plain(edit_to_plain(edit)))
    assert same(room.project.data, other.project.data)
    other.project.history.jump(0)
    assert not other.project.data.rooms


def test_library_and_layer_edits_are_in_the_same_history(room):
    handle = room.project
    data, history = handle.data, handle.history
    room.lay("Lamp", cells=[(4, 4)])
    start, at = snapshot(data), history.at
    history.apply(add_layer(data, "Yard", LayerInfo("Roof", "tiles")))
    room.lay("Water", box=((2, 2), (6, 6)), layer="Roof")
    history.apply(set_layer(data, "Yard", "roof", opacity=0.5, name="Roofs"))
    history.apply(move_layer(data, "Yard", "roof", 0))
    history.apply(remove_layer(data, "Yard", "roof"))
    history.apply(remove_layer(data, "Yard", "things"))
    history.apply(remove_room(data, "Yard"))
    end = snapshot(data)
    for edit in history.edits:
        assert edit.label and edit_to_plain(edit_from_plain(edit_to_plain(edit))) == edit_to_plain(
            edit
        )
    history.jump(at)
    assert same(data, start)
    history.jump(len(history.edits))
    assert same(data, end)


def test_a_changed_rule_weaves_its_rooms_again_in_the_same_edit(room):
    handle = room.project
    before = snapshot(handle.data)
    mud = handle.data.brushes["Mud"]
    tiles = mud.rules.rules[0].variants[0].tile
    book = RuleBook((plain_rule("all", (Variant(tiles),)),))
    handle.add_brush(Weave("Mud", book))
    assert len(set(planes(room, "Ground")["tile"].ravel().tolist())) == 1
    handle.undo()
    assert same(handle.data, before)


def test_a_drag_of_one_setting_is_one_edit(room):
    history = room.project.history
    count = len(history.edits)
    for nib in (2, 3, 4):
        brush = room.project.data.brushes["Mud"]
        changed = Weave(brush.name, brush.rules, brush.layer, brush.colour, brush.seed, nib)
        history.apply(put_brush(room.project.data, changed), "nib")
    assert len(history.edits) == count + 1
    history.undo()
    assert room.project.data.brushes["Mud"].nib == 1


def test_one_undo_entry_for_a_stroke_and_a_new_stroke_drops_what_was_undone(room):
    history = room.project.history
    count = len(history.edits)
    room.lay("Water", line=((2, 2), (9, 9)))
    assert len(history.edits) == count + 1
    history.undo()
    room.lay("Water", cells=[(3, 3)])
    assert len(history.edits) == count + 1 and not history.redo()


def test_an_edit_that_fails_half_way_leaves_nothing(room):
    data = room.project.data
    before = snapshot(data)
    good = room.plan("Water", box=((1, 1), (3, 3))).records
    bad = ItemRecord(("nowhere", "x"), None, 1)
    with pytest.raises(KeyError):
        room.project.history.apply(Edit("broken", (*good, bad)))
    assert same(data, before)


def test_a_record_of_one_cell_is_small_in_a_large_room():
    room = small_room((512, 512))
    sealed = room.lay("Water", cells=[(300, 300)]).sealed()
    assert sum(len(r.packed) for r in sealed.records) < 200


def test_what_is_no_edit_is_refused():
    with pytest.raises(BadPlain, match="not an edit"):
        edit_from_plain({"label": "x"})
    with pytest.raises(BadPlain, match="not known"):
        edit_from_plain({"label": "x", "colour": "#000000", "records": [{"record": "odd"}]})


def test_saving_marks_where_there_is_nothing_to_save(room):
    history = History(room.project.data)
    assert not history.changed
    history.apply(room.plan("Water", cells=[(1, 1)]))
    assert history.changed
    history.undo()
    assert not history.changed
