"""What carries things in voxel rooms: seats, footing, headroom, and fields on terraces."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.voxel_rooms import isle, planes
from topion.brushes import FieldBrush, Sown, ThingsBrush
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.model.prefab import Thing, standing_cell, turned_offsets
from topion.survey.at_cursor import lying_at
from topion.things.floor import floor_of
from topion.things.ground import Ground, Spots, body_cells
from topion.things.rules import Headroom, LevelFooting, On
from topion.things.sowing import sow


def terraces():
    """Levels 2, 3, 4 … from west to east, two columns each."""
    room = isle((12, 8, 12), ground=2)
    for step in range(1, 5):
        room.lay("Ground", box=((2, 0, 2 * step), (1 + step, 7, 11)))
    return room


def floor(room):
    return floor_of(room.project.data, room.data)


def test_a_thing_falls_to_the_ground_below_and_rises_out_of_what_fills_it():
    room = isle()
    asked = np.array([[8.0, 4, 4], [3.0, 4, 4], [0.0, 4, 4], [40.0, 4, 4]])
    assert floor(room).seated(asked)[:, 0].tolist() == [3, 3, 3, 3]
    room.lay("Stones", box=((6, 4, 4), (6, 4, 4)))
    assert floor(room).seated(asked)[:, 0].tolist() == [7, 3, 3, 7]
    empty = isle(ground=0)
    assert floor(empty).seated(asked)[:, 0].tolist() == [0, 0, 0, 0]


def test_a_seat_on_a_low_block_lies_at_its_top():
    room = isle()
    room.lay("Slabs", cells=[(3, 4, 4)])
    assert floor(room).seated(np.array([[6.0, 4, 4]]))[0].tolist() == [3.5, 4, 4]
    room.lay("Post", cells=[(6, 4, 4)])
    (thing,) = room.things()
    assert thing.z == 3.5 and standing_cell(thing, 3) == (4, 4, 4)


def test_headroom_is_counted_up_to_the_first_block():
    room = isle()
    room.lay("Stones", cells=[(6, 4, 4)])
    cells = np.array([[3, 4, 4], [5, 4, 4], [7, 4, 4], [3, 1, 1]])
    assert floor(room).headroom(cells).tolist()[:2] == [3, 1]
    assert min(floor(room).headroom(cells).tolist()[2:]) > 100
    found = room.verdict("Tuft", 3, 4, 4)
    assert found and not Headroom(4).check(*asked(room, "Tuft", (3, 4, 4))).allowed[0]


def asked(room, prefab, *at):
    data = room.project.data
    return Ground(data, room.data), Spots(data.prefab(prefab), np.array(at, float))


def test_level_footing_refuses_a_body_over_a_step_and_names_the_column():
    room = terraces()
    wide = room.project.data.prefab("Post")
    room.project.add_prefab(replace(wide, name="Bench", footprint=("##",)))
    level = room.verdict("Bench", 3, 3, 2)
    assert level.allowed
    refused = room.verdict("Bench", 4, 3, 4, turn=0)
    assert refused.allowed
    over = room.verdict("Bench", 4, 3, 4, mirrored=True)  # reaches west, over the lower terrace
    assert [r.rule for r in over.reasons] == ["level footing"]
    assert over.reasons[0].cell == (4, 3, 3) and "1 of 2" in over.reasons[0].measured
    assert over.nearest is not None and "nearest free cell" in over.way()


def test_nothing_stands_in_the_air_or_inside_a_block():
    room = isle()
    floats = room.verdict("Tuft", 6, 4, 4)
    assert [r.sentence for r in floats.reasons] == ["nothing carries it"]
    inside = room.verdict("Tuft", 1, 4, 4)
    assert "Ground fills the cell" in inside.reasons[0].sentence
    assert room.verdict("Tuft", 3, 4, 4) and not room.verdict("Tuft", 3, 4, 40)
    assert floats.way().endswith("3 lower") and floats.nearest == (3.0, 4.0, 4.0)


def test_rules_on_materials_ask_for_what_is_under_the_feet():
    room = isle()
    room.lay("Stones", cells=[(2, 5, 5)])
    rule = On(("Stones",))
    answer = rule.check(*asked(room, "Tuft", (3, 5, 5), (3, 5, 6), (0, 5, 5)))
    assert answer.allowed.tolist() == [True, False, False]
    assert answer.measured[1] == "Ground"


def test_a_thing_may_be_laid_anywhere_against_its_rules_and_the_survey_tells():
    room = isle()
    room.lay("Post", cells=[(7, 4, 4)], override=True)
    (thing,) = room.things()
    assert thing.z == 7 and thing.overridden
    told = [f.text() for f in room.project.check()]
    assert any("4, 4, 7" in text and "nothing carries it" in text for text in told)


def test_things_laid_along_a_stroke_follow_the_steps():
    room = terraces()
    room.lay(ThingsBrush("Tuft", "Tuft"), line=((9, 4, 0), (9, 4, 9)))
    found = {int(t.x): t.z for t in room.things()}
    assert [found[x] for x in range(10)] == [2, 2, 3, 3, 4, 4, 5, 5, 6, 6]


def test_a_body_takes_its_footprint_on_every_level_of_its_height():
    room = isle()
    post = room.project.data.prefab("Post")
    assert post.height == 2 and post.footprint == ("#",)
    cells = body_cells(post, Thing("Post", 4, 5, z=3), 3)
    assert cells == [(3, 4, 5), (4, 4, 5)]
    assert turned_offsets(post, 90, False, 3).tolist() == [[0, 0, 0], [1, 0, 0]]
    assert body_cells(post, Thing("Post", 4, 5.5, z=3.5), 3)[0] == (4, 4, 5)


# --- fields -------------------------------------------------------------------------------


def test_a_field_sows_on_every_terrace_at_its_height():
    room = terraces()
    room.lay("Tufts", box=((0, 0, 0), (0, 7, 11)))
    sown = room.sown("Tufts")
    assert len(sown) > 30
    for thing in sown:
        x = min(4, round(thing.x) // 2)
        assert thing.z == 2 + x, (thing.x, thing.z)
    assert {t.z for t in sown} == {2, 3, 4, 5, 6}


def test_a_field_follows_the_ground_when_it_is_sculpted():
    room = isle((16, 12, 14))
    room.lay("Tufts", box=((0, 0, 0), (0, 11, 13)))
    before = {(t.x, t.y) for t in room.sown("Tufts")}
    room.lay("Ground", box=((3, 0, 0), (4, 11, 13)))
    after = room.sown("Tufts")
    assert {(t.x, t.y) for t in after} == before and {t.z for t in after} == {5}


def test_a_field_leaves_out_what_is_too_low_above_or_of_another_material():
    room = isle()
    room.lay("Stones", box=((2, 0, 0), (2, 11, 4)))
    room.lay("Stones", box=((4, 0, 8), (4, 11, 13)))
    room.lay("Tufts", box=((0, 0, 0), (0, 11, 13)))
    sown = room.sown("Tufts")
    assert all(4 < round(t.x) < 8 for t in sown) and sown
    refused = dict(room.tally("Tufts").refused)
    assert refused["too low above"] > 0 and refused["off the ground"] > 0
    tally = room.tally("Tufts")
    assert tally.wanted == tally.placed + sum(refused.values())


@settings(max_examples=12, deadline=None)
@given(st.integers(0, 9999), st.integers(0, 6), st.integers(0, 6))
def test_a_window_of_a_field_is_the_field_in_that_window(seed, y, x):
    room = terraces()
    brush = FieldBrush("Wild", (Sown("Tuft"), Sown("Post", 1.0, 2.0)), seed=seed, density=1.0)
    room.project.add_brush(brush)
    room.lay("Wild", box=((0, 0, 0), (0, 7, 11)))
    data, layer_id = room.project.data, room.data.id_of("Wild")
    whole = sow(data, room.data, layer_id)
    box = Box((y, x), (min(8, y + 4), min(12, x + 5)))
    part = sow(data, room.data, layer_id, box)
    inside = (whole.positions[:, 1:] + 0.5 >= box.lo) & (whole.positions[:, 1:] + 0.5 < box.hi)
    wanted = {tuple(p) for p in whole.positions[inside.all(axis=1)].round(6).tolist()}
    assert {tuple(p) for p in part.positions.round(6).tolist()} == wanted


def test_no_two_of_a_field_come_closer_than_its_spacing_seen_from_above():
    room = terraces()
    room.project.add_brush(FieldBrush("Sparse", (Sown("Tuft"),), spacing=2.0, density=1.0))
    room.lay("Sparse", box=((0, 0, 0), (0, 7, 11)))
    at = np.array([(t.y, t.x) for t in room.sown("Sparse")])
    gaps = np.hypot(*(at[:, None] - at[None]).transpose(2, 0, 1))
    assert gaps[~np.eye(len(at), dtype=bool)].min() >= 2.0 - 1e-9


def test_thinning_and_lifting_take_density_by_columns():
    room = terraces()
    room.lay("Tufts", box=((5, 0, 0), (5, 7, 11)))
    layer = room.data.layer(room.data.id_of("Tufts"))
    assert layer.planes["density"].shape == (8, 12) and layer.planes["density"].all()
    room.lift(box=((9, 0, 0), (9, 7, 3)))
    assert not layer.planes["density"][:, :4].any() and layer.planes["density"][:, 4:].all()


# --- at cursor ----------------------------------------------------------------------------


def test_at_cursor_names_the_thing_and_the_blocks_below_in_runs():
    room = isle((10, 12, 14), ground=4)
    room.lay("Stones", box=((4, 5, 5), (5, 5, 5)))
    room.lay("Post", cells=[(6, 5, 5)])
    found = lying_at(room.project.data, room.data, (6, 5, 5))
    assert [f.name for f in found] == ["Post", "Stones", "Ground"]
    assert found[0].thing is not None and found[0].brush == "Post"
    assert [f.detail for f in found[1:]] == ["levels 4–5", "levels 0–3"]
    assert "rule" in found[2].why and found[1].tile.is_block
    assert lying_at(room.project.data, room.data, (6, 50, 5)) == []


def test_at_cursor_tells_of_a_field_whose_things_do_not_stand_here():
    room = isle()
    room.lay("Tufts", box=((0, 0, 0), (0, 11, 13)), strength=0.2)
    layer = planes(room)
    assert layer["block"].any()
    bare = next(
        cell
        for cell in np.argwhere(np.ones((12, 14), bool)).tolist()
        if all((round(t.y), round(t.x)) != tuple(cell) for t in room.sown("Tufts"))
    )
    found = lying_at(room.project.data, room.data, (3, *bare))
    assert found[0].name == "Tufts" and found[0].detail == "nothing sown"


def test_rules_with_senseless_numbers_are_refused():
    with pytest.raises(BadValue):
        Headroom(0)
    assert LevelFooting().sentence() and Headroom(3).short() == "too low above"
