"""Fields whole: layers of the density, sizes, what they keep clear of, and what they refuse."""

from __future__ import annotations

import hashlib
import itertools
import json
import os
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import cKDTree
from scipy.stats import qmc

from tests.rooms import prefab, small_project, small_room, stand
from tests.voxel_rooms import isle
from topion.brushes import CurveBrush, FieldBrush, Sown
from topion.brushes.gestures import Gesture
from topion.brushes.kind import brush_named
from topion.brushes.marks import Marks, Place
from topion.edit.layers import move_contents
from topion.edit.rooms import move_layer
from topion.edit.sown import held
from topion.errors import BadValue
from topion.formats.bundle import bundle_bytes, read_bundle
from topion.formats.folder import read_project
from topion.grid.boxes import Box
from topion.model.compare import differences
from topion.model.layer import LayerInfo
from topion.model.picture import Picture
from topion.model.prefab import Thing
from topion.pictures.png import picture_of
from topion.things import sowings
from topion.things.densities import FromCurve, FromField, FromMaterial, Noise
from topion.things.densities.from_picture import light_of
from topion.things.density import density_at, steps_of, thumbnails
from topion.things.field import Field
from topion.things.sowing import BANNED, HELD, OBSTACLE, sow
from topion.things.sowings import sowing_of, sown_in

SIZE = (40, 48)


def field(**more):
    values = {"spacing": 0.9, "seed": 11, "density": 1.0, "soft": 0.0, **more}
    return FieldBrush("Growth", values.pop("sown", (Sown("Bush"),)), **values)


def grown(brush=None, box=None, room=None):
    """A room with a field painted over a box, the whole room unless given."""
    room = room or small_room(SIZE)
    brush = brush or field()
    room.project.add_brush(brush)
    room.lay(brush.name, box=box or ((0, 0), (room.size[0] - 1, room.size[1] - 1)))
    layer_id = next(i for i, la in room.data.bottom_up("field") if la.info.brush == brush.name)
    return room, layer_id


def sown(room, layer_id, window=None):
    return sow(room.project.data, room.data, layer_id, window)


def at_all(room, layer_id):
    cells = room.data.plan_box.cells()
    found = density_at(room.project.data, room.data, layer_id, cells)
    return found.reshape(room.data.info.plan)


def put(room, brush):
    room.project.add_brush(brush)


# --- layers of the density ----------------------------------------------------------------


def test_without_layers_the_density_is_what_was_painted():
    room, layer_id = grown(field(density=0.6), ((4, 4), (20, 20)))
    found = at_all(room, layer_id)
    assert found[10, 10] == pytest.approx(0.6, abs=0.01) and found[30, 30] == 0


@given(st.integers(0, 1000), st.floats(2, 40), st.floats(0.1, 0.8))
def test_noise_is_between_nothing_and_all_and_the_same_in_any_window(seed, wide, threshold):
    part = Noise(cells=wide, threshold=threshold, seed=seed)
    room, layer_id = grown(field(parts=(part,)))
    found = at_all(room, layer_id)
    assert found.min() >= 0 and found.max() <= 1
    some = np.array([[3, 7], [20, 20], [39, 47]])
    assert density_at(room.project.data, room.data, layer_id, some) == pytest.approx(
        found[tuple(some.T)])  # fmt: skip


def test_noise_makes_patches_of_its_size_and_another_seed_others():
    wide, _ = grown(field(parts=(Noise(cells=24, threshold=0.5, soft=0.01),)))
    fine, _ = grown(field(parts=(Noise(cells=4, threshold=0.5, soft=0.01),)))
    other, layer_id = grown(field(parts=(Noise(cells=24, threshold=0.5, soft=0.01, seed=2),)))
    edges = [np.abs(np.diff(at_all(r, layer_id) > 0.5, axis=1)).sum() for r in (wide, fine)]
    assert edges[1] > 2 * edges[0]
    assert not np.array_equal(at_all(wide, layer_id), at_all(other, layer_id))


def test_near_a_material_by_the_distance_to_it():
    room = small_room(SIZE)
    room.lay("Water", box=((0, 0), (39, 9)))
    room, layer_id = grown(field(parts=(FromMaterial("Water", near=1, far=5),)), room=room)
    row = at_all(room, layer_id)[20]
    assert row[9] == row[10] == 1 and row[12] == pytest.approx(0.5, abs=0.3) and row[14] == 0
    put(room, field(parts=(FromMaterial("Water", near=1, far=5, flip=True),)))
    assert at_all(room, layer_id)[20][14] == 1 and at_all(room, layer_id)[20][5] == 0
    room.lay("Mud", box=((0, 0), (39, 9)))  # it follows the ground
    assert at_all(room, layer_id)[20].min() == 1


def test_near_the_curves_of_a_brush_and_it_follows_them():
    room = small_room(SIZE)
    put(room, CurveBrush("Fence"))
    place = Place(room.project.data, room.name)
    line = Gesture("line").marks(np.array([[10.0, 5.0], [10.0, 40.0]]), None)
    room.project.history.apply(brush_named(place.project, "Fence").plan(place, line))
    room, layer_id = grown(field(parts=(FromCurve("Fence", near=1, far=3),)), room=room)
    column = at_all(room, layer_id)[:, 20]
    assert column[10] == column[11] == 1 and 0 < column[12] < 1 and column[14] == 0
    room.project.history.undo()  # the paint
    room.project.history.undo()  # the curve
    room.project.history.redo()
    room.project.history.redo()
    put(room, field(parts=(FromCurve("Other", near=1, far=3),)))
    assert at_all(room, layer_id).max() == 0


def test_a_picture_is_dense_where_it_is_light():
    rgba = np.zeros((4, 4, 4), np.uint8)
    rgba[..., 3] = 255
    rgba[:2, :2, :3] = 255
    room, layer_id = grown(field(parts=(light_of(picture_of(rgba), "quarter"),)))
    found = at_all(room, layer_id)
    assert found[5, 5] == 1 and found[30, 5] == found[5, 40] == 0
    with pytest.raises(BadValue, match="at most 1024 px"):
        replace(light_of(picture_of(rgba), "x"), cells=replace(
            light_of(picture_of(rgba), "x").cells, cells=np.zeros((1, 1100), np.uint16)))  # fmt: skip


def test_large_pictures_are_thinned():
    rgba = np.full((3, 2500, 4), 255, np.uint8)
    assert max(light_of(Picture(rgba, b""), "wide").cells.shape) <= 1024


def test_with_and_against_another_field():
    room, _ = grown(FieldBrush("Other", (Sown("Reed"),), density=1.0, soft=0), ((0, 0), (39, 20)))
    room, layer_id = grown(field(parts=(FromField("Other"),)), room=room)
    assert at_all(room, layer_id)[5, 10] == 1 and at_all(room, layer_id)[5, 40] == 0
    put(room, field(parts=(FromField("Other", flip=True),)))
    assert at_all(room, layer_id)[5, 10] == 0 and at_all(room, layer_id)[5, 40] == 1


def test_fields_that_ask_each_other_come_to_an_end():
    room, _ = grown(FieldBrush("Other", (Sown("Reed"),), density=1.0, soft=0,
                               parts=(FromField("Growth"),)))  # fmt: skip
    room, layer_id = grown(field(parts=(FromField("Other"),)), room=room)
    assert at_all(room, layer_id).shape == SIZE
    assert len(sown(room, layer_id)) >= 0


@pytest.mark.parametrize(("joins", "wanted"), [
    ("times", 0.2), ("plus", 0.9), ("minus", 0.1), ("at most", 0.4), ("at least", 0.5),
])  # fmt: skip
def test_layers_are_joined_as_they_say(joins, wanted):
    rgba = np.full((2, 2, 4), 255, np.uint8)
    rgba[..., :3] = 102  # 0.4
    part = light_of(picture_of(rgba), "grey", joins=joins)
    room, layer_id = grown(field(density=0.5, parts=(part,)))
    assert at_all(room, layer_id)[9, 9] == pytest.approx(wanted, abs=0.02)
    put(room, field(density=0.5, parts=(replace(part, strength=0.0),)))
    assert at_all(room, layer_id)[9, 9] == pytest.approx(0.5, abs=0.01)
    put(room, field(density=0.5, parts=(replace(part, on=False),)))
    assert at_all(room, layer_id)[9, 9] == pytest.approx(0.5, abs=0.01)


def test_a_layer_that_adds_grows_where_nothing_was_painted():
    room, layer_id = grown(field(parts=(Noise(joins="plus", threshold=0.3),)), ((0, 0), (2, 2)))
    at = sown(room, layer_id).positions
    assert len(at) > 200 and at.max() > 40


def test_the_steps_are_what_was_painted_and_each_layer_over_it():
    parts = (Noise(), FromMaterial("Mud", near=0, far=3))
    room, layer_id = grown(field(parts=parts))
    steps = list(steps_of(room.project.data, room.data, layer_id, np.array([[5, 5]])))
    assert [part for part, _ in steps] == [None, *parts]
    assert [p.title() for p in parts] == ["noise", "near Mud"]
    assert parts[0].sentence().startswith("times with noise 12 cells wide")


# --- sizes, turns, strays -----------------------------------------------------------------


def test_a_painted_size_scales_what_stands_there_and_nothing_else():
    room, layer_id = grown()
    before = sown(room, layer_id)
    put(room, field(paints="size", scale=1.8, way="set"))
    room.lay("Growth", box=((0, 0), (39, 20)))
    after = sown(room, layer_id)
    assert after.positions.tolist() == before.positions.tolist()
    west = np.floor(after.positions[:, 1] + 0.5) <= 20
    assert after.scales[west] == pytest.approx(1.8, abs=0.01)
    assert after.scales[~west] == pytest.approx(1.0)
    put(room, field(paints="size", scale=1.0, way="set"))
    room.lay("Growth", box=((0, 0), (39, 20)))
    assert not room.data.layers[layer_id].plane("size").any()  # as if it never was painted


def test_sizes_grow_and_shrink_by_strokes_up_to_what_they_lead_to():
    room, layer_id = grown()
    put(room, field(paints="size", scale=1.5, way="add", strength=0.5))
    sizes = []
    for _ in range(4):
        room.lay("Growth", cells=[(5, 5)])
        sizes.append(int(room.data.layers[layer_id].plane("size")[5, 5]) / 128)
    assert sizes == pytest.approx([1.25, 1.5, 1.5, 1.5], abs=0.01)
    put(room, field(paints="size", scale=1.5, way="thin"))
    room.lay("Growth", cells=[(5, 5)])
    assert int(room.data.layers[layer_id].plane("size")[5, 5]) == 0  # 1.0 again
    room.lay("Growth", cells=[(5, 5)])
    assert room.data.layers[layer_id].plane("size")[5, 5] / 128 == pytest.approx(0.5, abs=0.01)


def test_smoothing_evens_out_and_leaves_even_ground_alone():
    room, layer_id = grown(field(), ((0, 0), (39, 20)))
    before = at_all(room, layer_id)
    put(room, field(way="smooth"))
    room.lay("Growth", box=((0, 0), (39, 47)))
    after = at_all(room, layer_id)
    assert 0 < after[20, 21] < 1 and after[20, 5] == before[20, 5] == 1 and after[20, 40] == 0
    assert np.abs(np.diff(after[20])).max() < np.abs(np.diff(before[20])).max()


@pytest.mark.parametrize("curve", ["smooth", "straight", "round", "sharp"])
def test_every_falloff_goes_from_full_to_nothing_and_never_up(curve):
    brush = field(radius=8.0, soft=8.0, falloff=curve)
    room = small_room(SIZE)
    put(room, brush)
    place = Place(room.project.data, room.name)
    marks = Marks(np.array([[20, 20]]), np.array([[20.0, 20.0]]))
    room.project.history.apply(brush.plan(place, marks))
    layer_id = next(i for i, _ in room.data.bottom_up("field"))
    row = at_all(room, layer_id)[20, 20:30]
    assert row[0] == 1 and row[9] == 0 and (np.diff(row) <= 0).all()


def test_falloffs_differ_in_the_middle():
    middles = {}
    for curve in ("straight", "round", "sharp"):
        brush = field(radius=8.0, soft=8.0, falloff=curve)
        room = small_room(SIZE)
        put(room, brush)
        marks = Marks(np.array([[20, 20]]), np.array([[20.0, 20.0]]))
        room.project.history.apply(brush.plan(Place(room.project.data, room.name), marks))
        layer_id = next(i for i, _ in room.data.bottom_up("field"))
        middles[curve] = at_all(room, layer_id)[20, 24]
    assert middles["sharp"] < middles["straight"] < middles["round"]


def test_each_prefab_has_its_own_size_turn_and_strays():
    parts = (Sown("Bush", size=(2.0, 2.0), turn=(90.0, 90.0)), Sown("Lamp", strays=0.8))
    project = small_project()
    project.add_prefab(prefab("Lamp"))
    room, layer_id = grown(field(sown=parts, size=(0.5, 0.5), turn=(10.0, 10.0)),
                           room=small_room(SIZE, project))  # fmt: skip
    plain, other = grown(field(sown=(Sown("Bush"), Sown("Lamp"))),
                         room=small_room(SIZE, _without_rules()))  # fmt: skip
    found, base = sown(room, layer_id), sown(plain, other)
    bush = found.prefabs == 0
    assert found.scales[bush] == pytest.approx(1.0) and found.turns[bush].tolist() == [
        90.0] * int(bush.sum())  # fmt: skip
    assert found.scales[~bush] == pytest.approx(0.5) and (found.turns[~bush] == 10).all()
    away = cKDTree(base.positions).query(found.positions[~bush])[0]
    assert away.max() <= 0.8 + 1e-9 and away.max() > 0.3
    assert cKDTree(base.positions).query(found.positions[bush])[0].max() < 1e-9


def _without_rules():
    project = small_project()
    project.add_prefab(prefab("Lamp"))
    return project


@pytest.mark.parametrize("make", [
    lambda: Sown("Bush", size=(2.0, 1.0)), lambda: Sown("Bush", strays=3.0),
    lambda: field(per_100=-1.0), lambda: field(strength=2.0), lambda: field(scale=9.0),
    lambda: Noise(cells=0.0), lambda: Noise(strength=2.0),
])  # fmt: skip
def test_values_without_sense_are_refused(make):
    with pytest.raises(BadValue):
        make()


# --- counts -------------------------------------------------------------------------------


@given(st.floats(1, 60))
def test_so_many_on_100_cells(per_100):
    room, layer_id = grown(field(per_100=per_100), ((0, 0), (29, 29)))
    found = sown(room, layer_id)
    wanted = round(900 * per_100 / 100)
    most = len(sown(*grown(field(), ((0, 0), (29, 29)))))
    assert len(found) == min(wanted, most) and found.tally.wanted == wanted


def test_half_the_density_is_half_of_the_100_cells():
    full = sown(*grown(field(per_100=20)))
    half = sown(*grown(field(per_100=20, density=0.5)))
    assert len(half) == pytest.approx(len(full) / 2, rel=0.02)


# --- held and banned ----------------------------------------------------------------------


def hold(room, layer_id, *rows):
    found = sown(room, layer_id)
    things = [found.thing(row) for row in rows]
    edit, picks = held(room.project.data, room.name, layer_id, things)
    room.project.history.apply(edit)
    return things, picks


@given(st.integers(0, 500), st.lists(st.integers(0, 200), min_size=1, max_size=6, unique=True))
def test_held_things_stay_whatever_is_rolled_and_all_keep_clear_of_them(seed, rows):
    room, layer_id = grown()
    things, _ = hold(room, layer_id, *rows)
    put(room, field(seed=seed))
    found = sown(room, layer_id)
    own = [found.thing(row) for row in range(len(found))]
    assert all(thing in own for thing in things)
    at = np.array([t.at[1:] for t in things])
    rest = found.positions[found.held == 0]
    assert cKDTree(at).query(rest)[0].min() >= 0.9 - 1e-9
    assert found.tally.placed == len(found)


def test_held_things_survive_thinning_to_nothing():
    room, layer_id = grown()
    things, _ = hold(room, layer_id, 3, 40)
    put(room, field(way="set", density=0.0))
    room.lay("Growth", box=((0, 0), (39, 47)))
    found = sown(room, layer_id)
    assert [found.thing(n) for n in range(len(found))] == things
    assert dict(found.tally.refused).get(HELD, 0) == 0


def test_holding_changes_nothing_else():
    room, layer_id = grown()
    before = sown(room, layer_id)
    things, _ = hold(room, layer_id, 10, 20, 30)
    after = sown(room, layer_id)
    spots = lambda s: {tuple(p) for p in s.positions.round(6).tolist()}  # noqa: E731
    assert spots(after) == spots(before)
    assert after.tally.wanted == before.tally.wanted
    assert dict(after.tally.refused).get(BANNED, 0) == 0
    assert after.tally.placed == before.tally.placed and len(things) == 3


@given(st.integers(0, 39), st.integers(0, 47))
def test_a_window_holds_what_the_whole_room_holds_there(y, x):
    room, layer_id = grown()
    hold(room, layer_id, *range(0, 400, 25))
    window = Box((y, x), (y + 6, x + 6)).clipped(room.data.plan_box)
    part, whole = sown(room, layer_id, window), sown(room, layer_id)
    lo, hi = np.array(window.lo) - 0.5, np.array(window.hi) - 0.5
    inside = ((whole.positions >= lo) & (whole.positions < hi)).all(axis=1)
    assert {tuple(p) for p in part.positions.round(6).tolist()} == {
        tuple(p) for p in whole.positions[inside].round(6).tolist()}  # fmt: skip


# --- what lies below ----------------------------------------------------------------------


def test_things_below_are_kept_clear_of_and_those_above_are_not():
    room = small_room(SIZE)
    room.add_layer("Posts", "things")
    room.project.add_brush(field(avoids="things", clear=3.0))
    stand(room, Thing("Lamp", 20, 20))
    room, layer_id = grown(field(avoids="things", clear=3.0), room=room)
    order = room.data.order
    near = np.linalg.norm(sown(room, layer_id).positions - 20, axis=1).min()
    below = order.index("things") < order.index(layer_id)
    assert (near >= 3.0) == below
    if not below:
        room.project.history.apply(
            move_layer(room.project.data, room.name, layer_id, len(order)))  # fmt: skip
        assert np.linalg.norm(sown(room, layer_id).positions - 20, axis=1).min() >= 3.0
        assert dict(sown(room, layer_id).tally.refused)[OBSTACLE] > 5


def test_a_field_keeps_clear_of_the_field_below_and_not_the_other_way_round():
    room, lower = grown(FieldBrush("Lower", (Sown("Lamp"),), spacing=4.0, density=1.0, soft=0,
                                   avoids="fields", clear=2.0),
                        room=small_room(SIZE, _without_rules()))  # fmt: skip
    room, upper = grown(field(avoids="things and fields", clear=1.5), room=room)
    order = [i for i in room.data.order if i in (lower, upper)]
    bottom, top = (sown(room, i) for i in order)
    far = 1.5 if order[1] == upper else 2.0
    assert cKDTree(bottom.positions).query(top.positions)[0].min() >= far
    assert OBSTACLE not in dict(bottom.tally.refused) or not dict(bottom.tally.refused)[OBSTACLE]


def test_what_is_kept_is_sown_anew_when_a_field_below_changes():
    room, lower = grown(FieldBrush("Lower", (Sown("Bush"),), spacing=4.0, density=1.0, soft=0))
    room, upper = grown(field(avoids="fields", clear=1.5), room=room)
    if room.data.order.index(upper) < room.data.order.index(lower):
        lower, upper = upper, lower
        pytest.skip("the new layer came below")
    before = len(sowing_of(room.project.data, room.data, upper))
    put(room, FieldBrush("Lower", (Sown("Bush"),), spacing=4.0, density=1.0, soft=0, way="set"))
    room.project.history.apply(brush_named(room.project.data, "Lower").changed(density=0.0).plan(
        Place(room.project.data, room.name), Marks(room.data.plan_box.cells())))  # fmt: skip
    assert len(sowing_of(room.project.data, room.data, upper)) > before


# --- refused spots ------------------------------------------------------------------------


def test_every_refused_spot_has_its_reason_and_the_counts_add_up():
    room = small_room(SIZE)
    room.lay("Water", box=((0, 0), (39, 15)))
    room, layer_id = grown(FieldBrush("Growth", (Sown("Reed"), Sown("Lamp", 1, 3.0)), spacing=0.9,
                                      density=1.0, soft=0), room=room)  # fmt: skip
    found = sown(room, layer_id)
    counts = np.bincount(found.refused_by, minlength=len(found.tally.refused)).tolist()
    assert counts == [n for _, n in found.tally.refused]
    assert found.tally.placed + sum(counts) == found.tally.wanted
    names = [name for name, _ in found.tally.refused]
    wet = found.refused_at[found.refused_by == next(
        n for n, name in enumerate(names) if name == "off the mud")]  # fmt: skip
    assert len(wet) and (wet[:, 1] < 16).all()


# --- voxel rooms --------------------------------------------------------------------------


def two_storeys():
    """A floor, and another one above the half of it."""
    room = isle((12, 16, 16), 1)
    room.lay("Ground", box=((6, 0, 0), (6, 15, 7)))
    return room


def test_a_storey_has_a_density_of_its_own():
    room = two_storeys()
    prefab_ = next(n for n, p in room.project.data.prefabs.items() if not p.rules)
    brush = FieldBrush("Moss", (Sown(prefab_),), spacing=1.0, density=1.0, soft=0, storey=6)
    room.project.add_brush(brush)
    cells = Box((7, 0, 0), (8, 16, 16)).cells()
    place = Place(room.project.data, room.name)
    room.project.history.apply(brush.plan(place, Marks(cells)))
    (layer_id,) = [i for i, _ in room.data.bottom_up("field")]
    assert room.data.layers[layer_id].info.levels == (6, 12)
    found = sown(room, layer_id)
    assert len(found) and (found.positions[:, 0] == 7).all()
    low = Box((1, 0, 0), (2, 16, 16)).cells()
    room.project.history.apply(brush.plan(Place(room.project.data, room.name), Marks(low)))
    layers = [la.info for _, la in room.data.bottom_up("field")]
    assert sorted(info.levels for info in layers) == [(0, 6), (6, 12)]
    assert {info.name for info in layers} == {"Moss · levels 0–5", "Moss · levels 6–11"}


# --- moved along, determinism, quality ----------------------------------------------------


@given(st.integers(-6, 6), st.integers(-6, 6))
def test_a_field_that_is_moved_with_its_ground_takes_its_plants_along(dy, dx):
    room, layer_id = grown(box=((10, 12), (28, 34)))
    hold(room, layer_id, 2, 9)
    before = sown(room, layer_id)
    if not (dy or dx):
        return
    room.project.history.apply(move_contents(room.project.data, room.name, layer_id, (dy, dx)))
    after = sown(room, layer_id)
    spots = lambda s, by: {tuple(p) for p in (s.positions + by).round(4).tolist()}  # noqa: E731
    assert spots(after, (0, 0)) == spots(before, (dy, dx))
    room.project.history.undo()
    assert spots(sown(room, layer_id), (0, 0)) == spots(before, (0, 0))


PROGRAM = """
import sys
sys.path[:0] = sys.argv[1:]
from tests.things.test_fields import digest
print(digest())
"""


def digest():
    """What a field with everything sows, in a line."""
    room, layer_id = grown(field(
        sown=(Sown("Bush", 2, size=(0.5, 2.0), strays=0.4), Sown("Reed", 1, 1.7)), turn=(0, 360),
        parts=(Noise(cells=9), FromMaterial("Mud", joins="at most")), per_100=60,
    ))  # fmt: skip
    found = sown(room, layer_id)
    data = (found.positions, found.prefabs, found.scales, found.turns, found.mirrored)
    return hashlib.sha256(b"".join(np.round(a * 1.0, 9).tobytes() for a in data)).hexdigest()


def test_another_process_sows_the_very_same():
    root = Path(__file__).parents[2]
    env = {**os.environ, "PYTHONHASHSEED": "77"}
    out = subprocess.run([sys.executable, "-c", PROGRAM, str(root), str(root / "src")], env=env,
                         capture_output=True, text=True, check=True, timeout=120)  # fmt: skip
    assert out.stdout.strip() == digest()


def radial(points, size, bins=24):
    """The mean power of a set of points by the length of the wave, from a periodogram."""
    count = len(points)
    freq = np.arange(-32, 33)
    fy, fx = np.meshgrid(freq, freq, indexing="ij")
    waves = np.exp(-2j * np.pi * (points[:, 0, None] / size * fy.reshape(1, -1)
                                  + points[:, 1, None] / size * fx.reshape(1, -1)))  # fmt: skip
    power = np.abs(waves.sum(axis=0)) ** 2 / count
    far = np.hypot(fy, fx).reshape(-1)
    edges = np.linspace(1, 32, bins + 1)
    return np.array([power[(far >= a) & (far < b)].mean()
                     for a, b in itertools.pairwise(edges)])  # fmt: skip


def test_the_spectrum_is_as_blue_as_that_of_a_poisson_disk_sampler():
    size, spacing = 40, 1.0
    room, layer_id = grown(field(spacing=spacing, seed=3), room=small_room((size, size)))
    ours = sown(room, layer_id).positions + 0.5
    other = qmc.PoissonDisk(2, radius=spacing / size, rng=np.random.default_rng(1)).fill_space()
    mine, theirs = radial(ours, size), radial(other * size, size)
    assert mine[1:8].mean() < 1.3 * theirs[1:8].mean()  # long waves are quiet
    assert mine[1:8].mean() < 0.25 and mine.max() < 4 * np.median(mine[16:])  # and none sticks out
    assert len(ours) > 1.1 * len(other)
    assert cKDTree(ours).query(ours, k=2)[0][:, 1].min() >= spacing - 1e-9


@given(st.integers(3, 30), st.integers(3, 38), st.sampled_from(["add", "thin", "smooth", "set"]))
def test_painting_in_one_corner_leaves_the_rest_where_it_is(y, x, way):
    parts = (Noise(cells=8), FromMaterial("Mud"))
    room, layer_id = grown(field(density=0.7, parts=parts))
    hold(room, layer_id, 5, 60)
    before = sown(room, layer_id)
    put(room, field(density=0.7, parts=parts, way=way))
    room.lay("Growth", box=((y, x), (y + 5, x + 5)))
    after = sown(room, layer_id)

    def far(found):
        (ys, xs) = found.positions.T
        off = (ys < y - 3) | (ys > y + 9) | (xs < x - 3) | (xs > x + 9)
        return {tuple(p) for p in found.positions[off].round(6).tolist()}

    assert far(before) == far(after)


def test_fields_are_written_and_read_back_with_all_of_it(tmp_path):
    rgba = np.full((2, 3, 4), 255, np.uint8)
    parts = (Noise(joins="plus"), FromMaterial("Mud"), FromCurve(joins="plus"),
             FromField("Reeds", joins="plus"), light_of(picture_of(rgba), "white"))  # fmt: skip
    room, layer_id = grown(field(parts=parts, sown=(Sown("Bush", turn=(0.0, 90.0)),)))
    hold(room, layer_id, 1, 2)
    put(room, field(parts=parts, paints="size", scale=0.5))
    room.lay("Growth", cells=[(4, 4)])
    room.project.save(tmp_path / "f.topion")
    again = read_project(tmp_path / "f.topion")
    assert differences(room.project.data, again) == []
    (tmp_path / "f.json").write_bytes(bundle_bytes(room.project.data))
    assert differences(room.project.data, read_bundle(tmp_path / "f.json")) == []


def test_a_density_layer_that_nobody_knows_is_kept_and_changes_nothing(tmp_path):
    room, layer_id = grown(field(parts=(Noise(),)))
    room.project.save(tmp_path / "u.topion")
    file = next((tmp_path / "u.topion" / "brushes").glob("Growth.json"))
    told = json.loads(file.read_text())
    told["parts"] = [{"kind": "tide", "moon": 3}]
    file.write_text(json.dumps(told))
    again = read_project(tmp_path / "u.topion")
    found = density_at(again, again.room("Yard"), layer_id, np.array([[3, 3]]))
    assert found.tolist() == [1.0]
    assert again.brushes["Growth"].field.parts[0].unread == {"moon": 3}


def test_field_holds_only_what_decides_what_grows():
    brush = field(paints="size", falloff="round", strength=0.5)
    assert brush.field == field().field and isinstance(brush.field, Field)
    assert LayerInfo("x", "field").levels is None


@given(st.integers(0, 39), st.integers(0, 47), st.floats(0, 6), st.floats(0, 9))
def test_near_a_material_a_window_says_what_the_whole_room_says(y, x, near, far):
    room = small_room(SIZE)
    room.lay("Water", cells=[(4, 6), (20, 30), (21, 30), (36, 2)])
    room, layer_id = grown(field(parts=(FromMaterial("Water", near=near, far=far),)), room=room)
    cells = Box((y, x), (y + 3, x + 3)).clipped(room.data.plan_box).cells()
    part = density_at(room.project.data, room.data, layer_id, cells)
    assert part == pytest.approx(at_all(room, layer_id)[tuple(cells.T)], abs=1e-6)


def test_pictures_of_a_density_are_one_for_each_layer_that_is_on():
    parts = (Noise(), FromMaterial("Mud", on=False), FromMaterial("Mud", near=1, far=2))
    room, layer_id = grown(field(parts=parts))
    made = thumbnails(room.project.data, room.data, layer_id, (10, 12))
    assert [shares.shape for shares in made] == [(10, 12)] * 3
    assert made[0].min() == 1 and made[1].max() <= 1


def test_what_is_sown_in_a_window_is_kept_until_it_would_be_another(monkeypatch):
    room, layer_id = grown()
    project, window, sown = room.project.data, Box((4, 4), (20, 20)), []
    real = sowings.sow
    monkeypatch.setattr(sowings, "sow", lambda *args: sown.append(args[3]) or real(*args))
    first = sown_in(project, room.data, layer_id, window)
    assert sown_in(project, room.data, layer_id, window) is first and len(sown) == 1
    room.lift(box=((0, 0), (9, 9)))
    fewer = sown_in(project, room.data, layer_id, window)
    assert len(sown) == 2 and len(fewer) < len(first)
    room.project.undo()
    assert same_spots(sown_in(project, room.data, layer_id, window), first)


def test_a_window_shows_of_a_field_what_is_known_of_the_whole(monkeypatch):
    room, layer_id = grown()
    whole = sowing_of(room.project.data, room.data, layer_id)
    monkeypatch.setattr(sowings, "sow", None)
    assert sown_in(room.project.data, room.data, layer_id, Box((4, 4), (9, 9))) is whole


def same_spots(one, other):
    return np.array_equal(one.positions, other.positions)
