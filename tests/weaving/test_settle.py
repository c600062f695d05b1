"""What shows always follows from what is stored, whenever and wherever somebody looks."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import card, one, planes, rule, small_project, small_room
from tests.strategies import SIZE, fresh_room, strokes
from topion.brushes import Weave
from topion.edit.serial import edit_to_plain
from topion.grid.boxes import Box
from topion.model.layer import BLOCK_SIDES
from topion.weaving.looms import loom_of
from topion.weaving.rules import RuleBook, plain_rule
from topion.weaving.settle import filled, settled, shown_at, shown_tiles

boxes = st.tuples(
    st.integers(0, SIZE[0] - 1), st.integers(0, SIZE[1] - 1), st.integers(1, 9), st.integers(1, 9)
).map(lambda b: Box((b[0], b[1]), (b[0] + b[2], b[1] + b[3])))


def plainly(room, layer):
    """The tiles of a layer, woven whole from what it stores."""
    woven = loom_of(room.project.data, layer.info.kind).whole(layer.plane("material"))
    return np.where(layer.plane("pinned"), layer.plane("pinned"), woven)


@given(st.lists(st.tuples(strokes(), boxes), min_size=1, max_size=6))
def test_any_window_at_any_time_shows_what_the_whole_would(some):
    room = fresh_room()
    layer = room.data.layers["ground"]
    for (brush, way), box in some:
        room.lay(brush, **way)
        box = box.clipped(room.data.box)
        alone = shown_at(room.project.data, layer, box.cells())
        seen = shown_tiles(room.project.data, layer, box)
        assert np.array_equal(alone, seen.reshape(-1))
        assert np.array_equal(seen, plainly(room, layer)[box.slices])
    room.project.history.jump(2)
    assert np.array_equal(shown_tiles(room.project.data, layer), plainly(room, layer))


@given(st.lists(strokes(), min_size=1, max_size=5), st.sampled_from(["none", "some", "all"]))
def test_cells_count_as_filled_where_something_shows(some, fits):
    room = fresh_room()
    if fits != "all":
        lone = rule("lone", card("...", "o.o" if fits == "some" else "#..", "..."), (0, 1))
        room.project.add_brush(Weave("Water", RuleBook((lone,))))
    for brush, way in some:
        room.lay(brush, **way)
    layer = room.data.layers["ground"]
    shows = filled(room.project.data, layer)
    assert np.array_equal(shows, shown_tiles(room.project.data, layer) > 0)


@given(st.integers(0, 2**32 - 1), st.integers(1, 40))
def test_scattered_cells_in_a_large_room_are_settled_where_they_lie(seed, count):
    rng = np.random.default_rng(seed)
    side = BLOCK_SIDES[2]
    project = small_project()
    wide = rule("wide", card("#...o", ".....", "..#..", ".....", "....."), (4, 1), turned=True)
    project.add_brush(Weave("Mud", RuleBook((wide, plain_rule("all", one(4, 0))))))
    room = small_room((3 * side + 7, 2 * side + 5), project)
    layer = room.data.layers["ground"]
    shown_tiles(project.data, layer)
    cells = np.stack([rng.integers(0, n, count) for n in room.size], axis=1)
    room.lay("Water", cells=cells.tolist())
    assert np.array_equal(shown_tiles(project.data, layer), plainly(room, layer))


@given(boxes)
def test_settling_a_box_reads_stored_planes_alone(box):
    room = fresh_room()
    room.lay("Water", line=((0, 0), (13, 17)))
    layer, box = room.data.layers["ground"], box.clipped(room.data.box)
    loom = loom_of(room.project.data)
    one_way, other = (settled(room.project.data, loom, layer, box) for _ in range(2))
    assert layer.shown is None and np.array_equal(one_way.tile, other.tile)


def test_another_seed_in_many_rooms_is_one_small_record_and_waits_to_be_seen():
    project = small_project()
    for number in range(60):
        room = project.add_room(f"Room {number}", (30, 30))
        room.lay("Stones", box=((0, 0), (29, 29)))
        shown_tiles(project.data, room.data.layers["ground"])
    seen, unseen = (project.room(f"Room {n}") for n in (3, 4))
    before = planes(seen, "Ground")["tile"].copy()
    stones = project.data.brush("Stones")
    project.add_brush(replace(stones, seed=stones.seed + 1))
    (record,) = project.history.edits[-1].records
    assert len(str(edit_to_plain(project.history.edits[-1]))) < 1024
    assert record.target == ("item", "brushes", "Stones")
    after = shown_tiles(project.data, seen.data.layers["ground"])
    assert not np.array_equal(after, before)
    assert np.array_equal(after, plainly(seen, seen.data.layers["ground"]))
    assert unseen.data.layers["ground"].shown.by is not seen.data.layers["ground"].shown.by
    project.undo()
    assert np.array_equal(planes(seen, "Ground")["tile"], before)


def test_only_the_part_that_is_seen_is_woven_anew():
    room = small_room((400, 400))
    layer = room.data.layers["ground"]
    shown_tiles(room.project.data, layer)
    mud = room.project.data.brush("Mud")
    room.project.add_brush(replace(mud, seed=99))
    shown_tiles(room.project.data, layer, Box((0, 0), (40, 40)))
    assert not layer.shown.stale[0, 0] and layer.shown.stale[-1, -1]


def test_a_new_brush_leaves_all_tiles_as_they_are(room):
    layer = room.data.layers["ground"]
    before = shown_tiles(room.project.data, layer)
    room.project.add_brush(Weave("Moss", RuleBook((plain_rule("all", one(4, 2)),))))
    assert shown_tiles(room.project.data, layer).base is before.base
    assert not layer.shown.stale.any()


def test_journals_and_undo_hold_no_woven_tile(room):
    edit = room.lay("Water", box=((3, 3), (9, 9)))
    for record in edit.records:
        assert set(record.planes) <= {"material", "pinned"}


def test_nothing_shows_in_a_layer_of_things(room):
    with pytest.raises(KeyError):
        shown_tiles(room.project.data, room.data.layers["things"])
