"""Every kind of record writes, inverts, folds, seals and serialises itself."""

import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import small_room
from tests.strategies import fresh_room, strokes
from topion.edit.library import put_brush
from topion.edit.rooms import add_layer, change_things, remove_room, resize_room
from topion.errors import BadValue, TopionError
from topion.model.compare import differences
from topion.model.edit import Edit, folded
from topion.model.layer import LayerInfo
from topion.model.records import (
    RECORDS,
    ItemRecord,
    SizeRecord,
    cells_changed,
    entries_changed,
    record_from_plain,
)

flat = np.arange(4, dtype=np.intp)


def cells(old, new, plane="material"):
    before, after = ({plane: np.array(v, np.uint16)} for v in (old, new))
    return cells_changed("Yard", "ground", (24, 32), flat, before, after)


@given(st.lists(strokes(), min_size=1, max_size=6))
def test_folded_records_do_the_same_as_the_row_they_came_from(some):
    one, other = fresh_room(), fresh_room()
    start = other.project.data.frozen()
    edits = [one.lay(brush, **way) for brush, way in some]
    records = tuple(record for edit in edits for record in edit.records)
    whole = Edit("all", folded(records))
    other.project.history.apply(whole)
    assert differences(one.project.data, other.project.data) == []
    if whole:
        other.project.undo()
    assert differences(other.project.data, start) == []


@given(st.lists(strokes(), min_size=1, max_size=4))
def test_every_record_reads_back_from_its_text(some):
    room = fresh_room()
    edits = [room.lay(brush, **way) for brush, way in some]
    edits.append(resize_room(room.project.data, "Yard", (20, 20), (2, 1)))
    kinds = set()
    for record in (record for edit in edits for record in edit.records):
        text = json.dumps(record.plain())
        again = record_from_plain(json.loads(text))
        assert again.plain() == record.plain() and again.dirty() == record.dirty()
        assert record.inverted().inverted().plain() == record.plain()
        kinds.add(record.kind)
    assert kinds <= set(RECORDS)


def test_twenty_steps_of_a_slider_leave_one_record(room):
    history, data = room.project.history, room.project.data
    mud = data.brush("Mud")
    for seed in range(20):
        history.apply(put_brush(data, replace(mud, seed=seed)), "seed")
    assert len(history.edits[-1].records) == 1
    history.undo()
    assert data.brush("Mud") == mud


def test_cells_laid_and_lifted_in_one_edit_are_no_change():
    (there,), (back,) = cells([0] * 4, [1] * 4), cells([1] * 4, [0] * 4)
    assert folded((there, back)) == ()


def test_records_that_something_needs_between_them_do_not_fold():
    info = LayerInfo("Roof", "tiles")
    there = ItemRecord(("layers", "Yard", "roof"), None, info)
    order = ItemRecord(("order", "Yard"), ("ground",), ("ground", "roof"))
    gone = ItemRecord(("layers", "Yard", "roof"), info, None)
    assert folded((there, order, gone)) == (there, order, gone)


def test_cells_of_other_planes_do_not_fold():
    (one,), (other,) = cells([0] * 4, [1] * 4), cells([0] * 4, [2] * 4, "pinned")
    assert folded((one, other)) == (one, other)


# --- numbers ------------------------------------------------------------------------------


def numbers(room):
    return sorted(room.data.layers["things"].things)


def test_a_number_is_never_given_twice(room):
    room.lay("Lamp", cells=[(3, 3), (9, 9)])
    room.lift(cells=[(9, 9)])
    room.lay("Bush", cells=[(15, 15)])
    assert numbers(room) == [1, 3]
    room.project.undo()
    room.lay("Bush", cells=[(16, 16)])
    assert numbers(room) == [1, 4], "what was undone keeps its number"


def test_layers_of_a_room_share_their_numbers(room):
    room.add_layer("More", "things")
    room.lay("Lamp", cells=[(3, 3)])
    room.lay("Bush", cells=[(9, 9)], layer="Things")
    found = [n for layer in room.data.layers.values() for n in layer.things]
    assert sorted(found) == [1, 2]


def test_undone_to_the_start_the_room_gave_no_number(room):
    start, at = room.project.data.frozen(), room.project.history.at
    room.lay("Lamp", cells=[(3, 3), (9, 9)])
    room.lift(cells=[(9, 9)])
    room.project.remove_room("Yard")
    room.project.history.jump(at)
    assert differences(room.project.data, start) == []


def test_planning_gives_no_number(room):
    one, other = room.plan("Lamp", cells=[(3, 3)]), room.plan("Lamp", cells=[(3, 3)])
    assert one.records[0].after == other.records[0].after and room.data.next_number() == 1


# --- what cannot be written is refused whole ----------------------------------------------


@pytest.mark.parametrize("filled", ["ground", "things"])
def test_a_filled_layer_is_not_taken_away_by_an_item_alone(room, filled):
    room.lay("Lamp", cells=[(3, 3)])
    before = room.project.data.frozen()
    info = room.data.layers[filled].info
    with pytest.raises(BadValue, match="empty to be removed"):
        room.project.history.apply(
            Edit("gone", (ItemRecord(("layers", "Yard", filled), info, None),))
        )
    assert differences(room.project.data, before) == []


def test_a_layer_that_does_not_suit_its_room_is_refused(room):
    """It would be saved, and then the room could not be read."""
    before = room.project.data.frozen()
    with pytest.raises(BadValue, match="must be tiles"):
        room.add_layer("Walls", "blocks")
    assert differences(room.project.data, before) == []


def test_a_room_with_layers_is_not_taken_away_by_an_item_alone(room):
    with pytest.raises(BadValue, match="empty to be removed"):
        room.project.history.apply(
            Edit("gone", (ItemRecord(("rooms", "Yard"), room.data.info, None),))
        )
    assert "Yard" in room.project.data.rooms


def test_an_item_does_not_change_the_size_of_a_room(room):
    info = replace(room.data.info, size=(9, 9))
    with pytest.raises(BadValue, match="changed by its own record"):
        room.project.history.apply(
            Edit("small", (ItemRecord(("rooms", "Yard"), room.data.info, info),))
        )
    room.lay("Water", cells=[(20, 20)])
    assert room.material(20, 20) == "Water"


def test_a_size_that_would_cut_filled_cells_is_refused(room):
    before = room.project.data.frozen()
    record = SizeRecord("Yard", room.size, (8, 8), (0, 0))
    with pytest.raises(BadValue, match="what is cut from layer Ground"):
        room.project.history.apply(Edit("cut", (record,)))
    assert differences(room.project.data, before) == []


sides = st.integers(1, 40)


@given(st.lists(strokes(), max_size=3), st.tuples(sides, sides),
       st.tuples(st.integers(-9, 9), st.integers(-9, 9)))  # fmt: skip
def test_resizing_and_undoing_gives_back_every_cell_and_thing(some, size, shift):
    room = fresh_room()
    for brush, way in some:
        room.lay(brush, **way)
    before, at = room.project.data.frozen(), room.project.history.at
    old = room.data.layers["ground"].plane("material").copy()
    room.resize(size, shift)
    assert room.size == size
    new = room.data.layers["ground"].plane("material")
    for y, x in ((0, 0), (5, 7), (13, 17)):
        ny, nx = y + shift[0], x + shift[1]
        if 0 <= ny < size[0] and 0 <= nx < size[1]:
            assert new[ny, nx] == old[y, x]
    room.lay("Water", box=((0, 0), (size[0] - 1, size[1] - 1)))
    room.project.history.jump(at)
    assert differences(room.project.data, before) == []


def test_a_size_of_other_axes_is_refused(room):
    with pytest.raises(BadValue, match="2 numbers in Yard"):
        room.resize((4, 4, 4))


def test_taking_away_a_layer_whose_plane_was_never_written(room):
    data = room.project.data
    room.project.history.apply(add_layer(data, "Yard", LayerInfo("Bare", "tiles")))
    before = data.frozen()
    room.project.history.apply(remove_room(data, "Yard"))
    room.project.undo()
    assert differences(data, before) == []
    assert not data.room("Yard").layers["bare"].planes, "absent planes read as zeros"


def test_an_unchanged_thing_is_no_record(room):
    room.lay("Lamp", cells=[(3, 3)])
    same = dict(room.data.layers["things"].things)
    assert not change_things(room.project.data, "Yard", "things", same, "nothing")
    assert entries_changed(room.data, "things", "things", {99: None}) == ()


@pytest.mark.parametrize(
    "plain",
    [
        {"record": "cells", "room": "Yard"},
        {"record": "cells", "room": "Yard", "layer": "ground", "shape": [2], "touched": [[0], [1]],
         "count": 1, "planes": ["tile"], "packed": ""},
        {"record": "entries", "room": "Yard", "layer": "things", "table": "cows", "before": {},
         "after": {}},
        {"record": "item", "address": ["nowhere"], "before": None, "after": None},
        {"record": "size", "room": "Yard", "before": [1], "after": "no", "shift": [0]},
        {"record": ["cells"]},
    ],
)  # fmt: skip
def test_what_is_no_record_is_refused(plain):
    with pytest.raises((TopionError, KeyError, ValueError, TypeError)):
        record_from_plain(plain)


def test_a_room_in_use_sees_no_difference_between_loose_and_sealed():
    one, other = small_room(), small_room()
    edit = one.plan("Water", box=((2, 2), (9, 9)))
    one.project.history.apply(edit)
    other.project.history.apply(edit.sealed())
    assert differences(one.project.data, other.project.data) == []
