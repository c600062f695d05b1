"""Verdicts say why and where instead; fields keep their spacing and stay where they are."""

import dataclasses

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import prefab, small_room
from topion.brushes import FieldBrush, Sown, ThingsBrush
from topion.errors import BadValue, UnknownName
from topion.grid.boxes import Box
from topion.things.rules import AtMost, ClearOf, KeepsCells, NotOn, On
from topion.things.sowing import sow


def with_prefab(room, *rules, **more):
    made = prefab("It", *rules, **more)
    room.project.add_prefab(made)
    room.project.add_brush(ThingsBrush("It", "It"))
    return room


def test_a_refusal_measures_names_the_thing_and_the_nearest_place(room):
    room.lay("Lamp", cells=[(10, 10)])
    found = room.verdict("Lamp", 11, 11)
    reason = found.reasons[0]
    assert (reason.rule, reason.measured, reason.wanted) == ("clear of", "1.4", "3 cells")
    assert reason.thing == ("things", 1) and found.nearest == (11, 13)
    assert found.way() == "nearest free cell: 2 right"
    assert room.verdict("Lamp", *found.nearest).allowed


def test_the_nearest_place_is_the_nearest(room):
    room.lay("Lamp", cells=[(10, 10)])
    y, x = room.verdict("Lamp", 10, 9).nearest
    far = [
        np.hypot(a - 10, b - 9)
        for a in range(2, 19)
        for b in range(1, 18)
        if room.verdict("Lamp", a, b).allowed
    ]
    assert np.hypot(y - 10, x - 9) == min(far)


def test_on_and_not_on_ask_for_what_lies_uppermost(room):
    with_prefab(room, On(("Water",)))
    assert room.verdict("It", 4, 4).reasons[0].measured == "Mud"
    room.lay("Water", cells=[(4, 4)])
    assert room.verdict("It", 4, 4).allowed
    room.add_layer("Upper", "tiles")
    room.lay("Stones", cells=[(4, 4)], layer="Upper")
    assert room.verdict("It", 4, 4).reasons[0].measured == "Stones"
    with_prefab(room, NotOn(("Stones",)))
    assert not room.verdict("It", 4, 4).allowed and room.verdict("It", 5, 4).allowed


def test_clear_of_a_class_and_of_anything(room):
    room.project.add_prefab(prefab("Lamp", class_name="lights"))
    room.lay("Lamp", cells=[(5, 5)])
    with_prefab(room, ClearOf(2.0, "lights"))
    assert not room.verdict("It", 5, 6).allowed and room.verdict("It", 5, 7).allowed
    room.lay("Bush", cells=[(9, 9)])
    with_prefab(room, ClearOf(2.0, "anything"))
    assert not room.verdict("It", 9, 10).allowed


def test_kept_cells_refuse_others_whoever_came_first(room):
    room.lay("Cart", cells=[(10, 10)])
    assert room.verdict("Bush", 9, 11).reasons[0].rule == "kept cell"
    room.lay("Bush", cells=[(3, 3)])
    assert room.verdict("Cart", 4, 3).reasons[0].rule == "keeps its cells"


def test_at_most_counts_the_room(room):
    with_prefab(room, AtMost(2))
    room.lay("It", cells=[(1, 1), (1, 3), (1, 5)])
    assert len(room.things()) == 2
    assert room.verdict("It", 8, 8).reasons[0].wanted == "2"


def test_beyond_the_room_is_refused(room):
    assert room.verdict("Cart", 0, 0).reasons[0].rule == "inside"


def test_an_override_lays_all_the_same_and_is_remembered(room):
    room.lay("Lamp", cells=[(5, 5)])
    assert not room.lay("Lamp", cells=[(5, 6)])
    room.lay("Lamp", cells=[(5, 6)], override=True)
    assert [t.overridden for t in room.things()] == [False, True]
    assert any("overridden" in f.sentence for f in room.project.check())


@pytest.mark.parametrize(
    "make",
    [lambda: ClearOf(0), lambda: AtMost(0), lambda: Sown("x", 0), lambda: FieldBrush("f", ())],
)
def test_rules_without_sense_are_refused(make):
    with pytest.raises(BadValue):
        make()


# --- fields -------------------------------------------------------------------------------


def spread(things):
    return np.array([(t.y, t.x) for t in things]).reshape(-1, 2)


def field_room(**changes):
    room = small_room((40, 48))
    brush = room.project.data.brushes["Reeds"]
    values = {f.name: getattr(brush, f.name) for f in dataclasses.fields(brush)}
    room.project.add_brush(FieldBrush(**{**values, **changes}))
    return room


boxes = st.tuples(st.integers(0, 39), st.integers(0, 47), st.integers(0, 39), st.integers(0, 47))


@given(boxes, st.integers(0, 5000), st.floats(0.5, 3.0))
def test_no_two_things_are_closer_than_the_larger_of_their_spacings(box, seed, spacing):
    room = field_room(seed=seed, spacing=spacing, density=1.0)
    room.lay("Reeds", box=((0, 0), (39, 47)))
    things = room.sown("Reeds")
    at = spread(things)
    least = np.array([spacing * (1.5 if t.prefab == "Bush" else 1.0) for t in things])
    gap = np.linalg.norm(at[:, None] - at[None], axis=2)
    wanted = np.maximum(least[:, None], least[None])
    np.fill_diagonal(gap, np.inf)
    assert (gap >= wanted - 1e-9).all() and len(things) > 5


@given(boxes, boxes, st.sampled_from(["add", "thin", "set"]))
def test_things_far_from_a_stroke_stay(first, second, way):
    room = field_room(way=way, density=0.6, spacing=1.0)
    room.lay("Reeds", box=(first[:2], first[2:]))
    room.lay("Water", cells=[(3, 3), (20, 20)])
    before = (
        {(t.prefab, t.y, t.x, t.scale, t.turn) for t in room.sown("Reeds")}
        if room.data.bottom_up("field")
        else set()
    )
    room.lay("Reeds", line=(second[:2], second[2:]))
    if not room.data.bottom_up("field"):
        return
    after = {(t.prefab, t.y, t.x, t.scale, t.turn) for t in room.sown("Reeds")}
    changed = spread([type("T", (), {"y": t[1], "x": t[2]}) for t in before ^ after])
    radius, four = room.project.data.brushes["Reeds"].radius, 4 * 1.5
    a, b = np.array(second[:2], float), np.array(second[2:], float)
    for point in changed:
        t = np.clip(np.dot(point - a, b - a) / max(1e-9, np.dot(b - a, b - a)), 0, 1)
        assert np.linalg.norm(point - (a + t * (b - a))) <= radius + four + 1


@given(boxes)
def test_a_window_sows_what_the_whole_room_sows_there(box):
    room = field_room(density=0.8)
    room.lay("Reeds", box=((2, 2), (36, 40)))
    layer = room.data.bottom_up("field")[0][0]
    lo = (min(box[0], box[2]), min(box[1], box[3]))
    hi = (max(box[0], box[2]) + 1, max(box[1], box[3]) + 1)
    part = sow(room.project.data, room.data, layer, Box(lo, hi))
    whole = sow(room.project.data, room.data, layer)
    inside = ((whole.positions + 0.5 >= lo) & (whole.positions + 0.5 < hi)).all(axis=1)
    assert np.array_equal(np.sort(part.positions, axis=0), np.sort(whole.positions[inside], axis=0))


def test_more_density_only_adds():
    room = field_room(density=0.3)
    room.lay("Reeds", box=((0, 0), (39, 47)))
    few = {(t.y, t.x) for t in room.sown("Reeds")}
    room.project.add_brush(
        FieldBrush(
            "Reeds", (Sown("Reed", 2.0), Sown("Bush", 1.0, 1.5)), spacing=0.8, seed=7, density=0.9
        )
    )
    room.lay("Reeds", box=((0, 0), (39, 47)))
    many = {(t.y, t.x) for t in room.sown("Reeds")}
    assert few < many and len(many) > 1.5 * len(few)


def test_the_tally_adds_up_and_says_why():
    room = field_room(rules=(NotOn(("Water",)),), density=1.0)
    room.lay("Water", box=((10, 10), (20, 20)))
    room.lay("Lamp", box=((25, 25), (35, 40)))
    room.lay("Reeds", box=((0, 0), (39, 47)))
    tally = room.tally("Reeds")
    refused = dict(tally.refused)
    assert tally.placed == len(room.sown("Reeds")) > 100
    assert tally.placed + sum(refused.values()) == tally.wanted
    assert refused["too close"] > 0 and refused["on water"] > 0 and refused["cell taken"] > 0
    assert all(room.material(*t.cell) != "Water" for t in room.sown("Reeds"))


def test_a_wanted_count_is_not_exceeded_and_a_shortage_is_told():
    room = field_room(wanted=20)
    room.lay("Reeds", box=((0, 0), (39, 47)))
    assert room.tally("Reeds").placed == 20
    poor = field_room(wanted=900)
    poor.lay("Reeds", box=((0, 0), (4, 4)))
    assert poor.tally("Reeds").wanted == 900 and poor.tally("Reeds").placed < 60
    assert any(f.check == "thin field" for f in poor.project.check())


def test_at_most_holds_for_what_a_field_sows():
    room = field_room(density=1.0)
    room.project.add_prefab(prefab("Reed", AtMost(5)))
    room.lay("Reeds", box=((0, 0), (39, 47)))
    assert sum(t.prefab == "Reed" for t in room.sown("Reeds")) == 5


def test_a_dice_sows_elsewhere_and_the_old_seed_brings_it_back():
    room = field_room(seed=1)
    room.lay("Reeds", box=((0, 0), (39, 47)))
    first = spread(room.sown("Reeds"))
    other = field_room(seed=2)
    other.lay("Reeds", box=((0, 0), (39, 47)))
    again = field_room(seed=1)
    again.lay("Reeds", box=((0, 0), (39, 47)))
    assert not np.array_equal(first, spread(other.sown("Reeds")))
    assert np.array_equal(first, spread(again.sown("Reeds")))


def test_a_soft_edge_fades_and_thin_takes_away():
    room = field_room(radius=5.0, soft=4.0, density=1.0)
    room.lay("Reeds", line=((20, 20), (20, 24)))
    density = room.data.layers["reeds"].planes["density"]
    assert density[20, 22] == 255 and 0 < density[24, 22] < 200 and density[26, 22] == 0
    brush = room.project.data.brushes["Reeds"]
    values = {f.name: getattr(brush, f.name) for f in dataclasses.fields(brush)}
    room.project.add_brush(FieldBrush(**{**values, "way": "thin"}))
    room.lay("Reeds", cells=[(20, 22)], strength=0.5)
    assert 120 <= density[20, 22] <= 130


def test_an_unknown_field_names_the_known_ones(room):
    room.lay("Reeds", cells=[(1, 1)])
    with pytest.raises(UnknownName, match="Reeds"):
        room.tally("Reds")


def test_kept_cells_are_free_of_sown_things():
    room = field_room(density=1.0)
    room.project.add_prefab(prefab("Stone", KeepsCells()))
    room.project.add_brush(ThingsBrush("Stone", "Stone"))
    room.lay("Stone", cells=[(10, 10), (11, 10)])
    room.lay("Reeds", box=((0, 0), (39, 47)))
    assert not {t.cell for t in room.sown("Reeds")} & {(10, 10), (11, 10)}


def test_a_field_too_fine_to_sow_says_so_and_takes_no_memory():
    room = small_room((1200, 1200))
    room.project.add_brush(FieldBrush("Dust", (Sown("Bush"),), spacing=0.1, density=1.0))
    room.lay("Dust", box=((0, 0), (1199, 1199)))
    tally = room.tally("Dust")
    assert tally.placed == 0 and "sown at once" in tally.refused[0][0]
