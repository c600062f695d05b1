"""Curves in a room: every Edit brings along what is attached, and undoes as one."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import prefab, small_project, small_room, stand
from tests.shapes import shape_room
from tests.voxel_rooms import isle
from topion.brushes import CurveBrush, Lift, Stamp, ThingsBrush
from topion.brushes.along import marks_along
from topion.brushes.gestures import Gesture
from topion.brushes.kind import brush_named
from topion.brushes.marks import Marks, Place
from topion.edit import along
from topion.edit import curves as edits
from topion.edit.arranging import attach_things
from topion.edit.layers import duplicate_layer, merge_down
from topion.edit.picked import Picks, removed, scrap_of
from topion.edit.picked_moves import duplicated, moved
from topion.edit.picked_turns import turned
from topion.edit.pieces import Pick
from topion.edit.rooms import resize_room, shift_contents
from topion.errors import BadValue
from topion.formats.bundle import bundle_bytes, read_bundle
from topion.formats.folder import read_project
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.grid.ways import Way
from topion.model.compare import differences
from topion.model.curve import Along, CurvePart, Fill
from topion.model.prefab import Thing
from topion.scripting import open as open_project
from topion.things.along import grounded

WAVE = ((5.0, 3.0), (9.0, 9.0), (4.0, 18.0), (10.0, 26.0))


def fence(**more):
    return CurveBrush("Fence", (CurvePart("Bush"),), **more)


def drawn(room, brush=None, points=WAVE, gesture="curve"):
    """A curve drawn by a brush; what it is picked by."""
    room.project.add_brush(brush or fence(pitch=2.0))
    place = Place(room.project.data, room.name)
    edit = brush_named(place.project, "Fence").plan(
        place, Gesture(gesture).marks(np.array(points, float), None)
    )
    room.project.history.apply(edit)
    layer = room.data.layers["things"]
    return Pick("things", max(layer.curves))


def curve(room, pick):
    return room.data.layers[pick.layer].curves[pick.number]


def riders(room, pick):
    return [thing for _, thing in edits.things_along(room.data, pick)]


def apply(room, edit):
    assert edit.records, edit.refused
    room.project.history.apply(edit)
    return edit


def on_it(room, pick, tolerance=0.02):
    """Whether all that belongs to a curve stands where it belongs."""
    known = curve(room, pick)
    for thing in riders(room, pick):
        place, way = known.line.places(np.array([thing.along.share * known.length]))
        goal = place[0][-2:] + thing.along.aside * np.array([way[0][-1], -way[0][-2]])
        if np.linalg.norm(goal - (thing.y, thing.x)) > tolerance:
            return False
    return True


def both_ways(room, edit):
    """Apply, undo, redo: what is there is as it was, and comes to be the same."""
    before = room.data.frozen()
    apply(room, edit)
    after = room.data.frozen()
    room.project.history.undo()
    for layer_id, layer in before.layers.items():
        assert room.data.layers[layer_id].tables == dict(layer.tables.items())
    room.project.history.redo()
    for layer_id, layer in after.layers.items():
        assert room.data.layers[layer_id].tables == layer.tables


# --- drawn --------------------------------------------------------------------------------


def test_a_curve_is_laid_with_what_stands_along_it_in_one_edit(room):
    pick = drawn(room)
    found = riders(room, pick)
    assert len(found) == round(curve(room, pick).length / 2) + 1 and on_it(room, pick)
    assert all(t.along.filled and t.attached == tuple(pick) for t in found)
    room.project.history.undo()
    assert not room.data.layers["things"].curves and not room.things()


@pytest.mark.parametrize(("shape", "closed", "points"), [
    ("as drawn", False, 4), ("circle", True, 4), ("arc", False, 3), ("rectangle", True, 8),
])  # fmt: skip
def test_plain_shapes_are_drawn_by_any_drag(room, shape, closed, points):
    brush = CurveBrush("Fence", shape=shape)
    gesture = "curve" if shape == "as drawn" else "line"
    way = WAVE if shape == "as drawn" else ((5, 5), (15, 20))
    made = curve(room, drawn(room, brush, way, gesture))
    assert (made.closed, len(made.points)) == (closed, points)


def test_a_box_is_a_rectangle_and_a_drag_is_drawn_freely(room):
    box = curve(room, drawn(room, CurveBrush("Fence", round=0), ((3, 4), (9, 14)), "box"))
    assert [p.at for p in box.points] == [(3, 4), (3, 14), (9, 14), (9, 4)]
    way = [(8 + 3 * np.sin(x / 3), x) for x in np.arange(2, 28, 0.5)]
    free = curve(room, drawn(room, CurveBrush("Fence"), way, "drag"))
    assert 3 < len(free.points) < 20 and not free.closed


def test_a_press_that_moves_nowhere_draws_nothing(room):
    room.project.add_brush(CurveBrush("Fence"))
    place = Place(room.project.data, room.name)
    for kind in ("drag", "line", "box", "curve"):
        marks = Gesture(kind).marks(np.array([[4.0, 4.0]]), None)
        assert not brush_named(place.project, "Fence").plan(place, marks)


def test_an_outline_is_that_of_a_prefab(room):
    brush = CurveBrush("Fence", shape="outline", outline_of="Bush")
    made = curve(room, drawn(room, brush, ((10, 10), (10, 12)), "line"))
    assert made.closed and made.length == pytest.approx(4, abs=0.2)
    room.project.add_brush(replace(brush, outline_of=""))
    place = Place(room.project.data, room.name)
    edit = brush_named(place.project, "Fence").plan(
        place, Gesture("line").marks(np.array([[4.0, 4.0], [4.0, 9.0]]), None))  # fmt: skip
    assert not edit and "prefab" in edit.refused[0]


def test_rules_refuse_parts_of_a_fill_and_the_ghost_says_how_many():
    room = small_room()
    room.lay("Water", box=((0, 14), (23, 31)))
    room.project.add_prefab(prefab("Bush", *room.project.data.prefabs["Reed"].rules))
    room.project.add_brush(fence(pitch=1.0))
    place = Place(room.project.data, room.name)
    edit = brush_named(place.project, "Fence").plan(
        place, Gesture("line").marks(np.array([[5.0, 4.0], [5.0, 24.0]]), None))  # fmt: skip
    assert edit.notes == ("11 of 21 refused along it",)


def test_things_along_keep_the_rules_between_themselves(room):
    room.project.add_brush(fence())
    pick = drawn(room, CurveBrush("Fence", (CurvePart("Lamp"),), pitch=1.0), ((5, 2), (5, 28)),
                 "line")  # fmt: skip
    at = np.array([(t.y, t.x) for t in riders(room, pick)])
    assert len(at) > 6 and np.linalg.norm(np.diff(at, axis=0), axis=1).min() >= 3 - 1e-6


# --- changed ------------------------------------------------------------------------------


CHANGES = {
    "move point": lambda p, r, k: edits.point_moved(p, r, k, 1, (2.0, 1.0)),
    "bend": lambda p, r, k: edits.handle_moved(p, r, k, 1, "after", (1.0, 2.0)),
    "corner": lambda p, r, k: edits.bent(p, r, k, (1, 2), "corner"),
    "add point": lambda p, r, k: edits.with_point(p, r, k, 9.0)[0],
    "remove point": lambda p, r, k: edits.without_points(p, r, k, (1,)),
    "reverse": lambda p, r, k: edits.turned_round(p, r, k),
    "close": lambda p, r, k: edits.closed(p, r, k, on=True),
    "fill": lambda p, r, k: edits.with_fill(p, r, k, Fill((CurvePart("Reed"),), pitch=3)),
    "empty": lambda p, r, k: edits.with_fill(p, r, k, None),
    "move": lambda p, r, k: moved(p, r, Picks((k,)), (1.0, 1.5)),
    "detach": lambda p, r, k: edits.all_detached(p, r, k),
    "remove": lambda p, r, k: removed(p, r, Picks((k,))),
}  # fmt: skip


@pytest.mark.parametrize("name", CHANGES)
def test_every_change_brings_all_along_and_comes_back_as_one(room, name):
    pick = drawn(room)
    hold = stand(room, Thing("Lamp", 8, 12))
    apply(room, along.attached(room.project.data, room.name, [Pick("things", hold[0])], pick))
    both_ways(room, CHANGES[name](room.project.data, room.name, pick))
    if name not in ("detach", "remove"):
        assert on_it(room, pick) and Thing("Lamp", 0, 0).prefab in {
            t.prefab for t in riders(room, pick)}  # fmt: skip


@given(st.integers(0, 3), st.floats(-6, 6), st.floats(-6, 6))
def test_a_pulled_point_refills_at_the_same_pitch(number, dy, dx):
    room = small_room((40, 44))
    pick = drawn(room, points=tuple((y + 10, x + 8) for y, x in WAVE))
    room.project.history.apply(
        edits.point_moved(room.project.data, room.name, pick, number, (dy, dx)))  # fmt: skip
    known = curve(room, pick)
    shares = [t.along.share * known.length for t in riders(room, pick)]
    assert on_it(room, pick) and np.ptp(np.diff(shares)) < 1e-4
    assert np.diff(shares)[0] == pytest.approx(2.0, rel=0.35)


def test_attached_things_keep_their_side_and_turn():
    room = small_room()
    room.project.add_prefab(prefab("Sign", turns="any"))
    pick = drawn(room, CurveBrush("Fence"), ((5, 4), (5, 24)), "line")
    (number,) = stand(room, Thing("Sign", 8, 10, turn=30.0))
    own = Pick("things", number)
    apply(room, along.attached(room.project.data, room.name, [own], pick))
    thing = room.data.layers["things"].things[number]
    assert (thing.y, thing.x, thing.turn) == (8, 10, 30)  # it does not jump
    assert (thing.along.aside, thing.along.turn) == (3, 30)
    apply(room, edits.point_moved(room.project.data, room.name, pick, 1, (20.0, -20.0)))
    thing = room.data.layers["things"].things[number]  # the curve goes south now
    assert thing.turn == pytest.approx(120) and thing.x == pytest.approx(1, abs=0.01)
    apply(room, along.put_along(room.project.data, room.name, [own], turns=False, turn=15.0))
    assert room.data.layers["things"].things[number].turn == 15


def test_a_thing_is_slid_by_lengths_and_typed_by_length_or_share(room):
    pick = drawn(room, CurveBrush("Fence"), ((5, 4), (5, 24)), "line")
    (number,) = stand(room, Thing("Lamp", 5, 8))
    own, project = Pick("things", number), room.project.data
    apply(room, along.attached(project, room.name, [own], pick))
    at = lambda: room.data.layers["things"].things[number].x  # noqa: E731
    apply(room, along.slid_along(project, room.name, [own], 2.5))
    assert at() == pytest.approx(10.5, abs=1e-3)
    apply(room, along.put_along(project, room.name, [own], length=3.0))
    assert at() == pytest.approx(7, abs=1e-3)
    apply(room, along.put_along(project, room.name, [own], share=0.5))
    assert at() == pytest.approx(14)
    apply(room, moved(project, room.name, Picks((own,)), (4.0, 3.0)))
    thing = room.data.layers["things"].things[number]
    assert (thing.y, thing.x) == (5, pytest.approx(17))  # dragged along, not off it
    apply(room, along.detached(project, room.name, [own]))
    apply(room, moved(project, room.name, Picks((own,)), (4.0, 0.0)))
    assert room.data.layers["things"].things[number].y == 9


def test_a_thing_put_along_by_hand_takes_the_place_of_a_filled_one(room):
    pick = drawn(room, fence(pitch=4.0, fits=False), ((5, 2), (5, 22)), "line")
    own = edits.things_along(room.data, pick)[2][0]
    apply(room, along.slid_along(room.project.data, room.name, [own], 0.5))
    apply(room, edits.with_fill(room.project.data, room.name, pick,
                                replace(curve(room, pick).fill, seed=9)))  # fmt: skip
    shares = sorted(t.along.share * 20 for t in riders(room, pick))
    assert shares == pytest.approx([0, 4, 8.5, 12, 16, 20], abs=0.01)


@given(st.integers(1, 2), st.booleans())
def test_split_and_joined_what_was_attached_stays_where_it_stood(number, ring):
    room = small_room()
    pick = drawn(room, CurveBrush("Fence", closed=ring))
    first = stand(room, Thing("Lamp", 8, 8), Thing("Lamp", 5, 17), Thing("Lamp", 10, 24))
    own = [Pick("things", n) for n in first]
    project = room.project.data
    apply(room, along.attached(project, room.name, own, pick, onto=True))
    before = {n: room.data.layers["things"].things[n].at for n in first}
    apply(room, edits.split(project, room.name, pick, number))
    things = room.data.layers["things"].things
    assert all(np.allclose(things[n].at, before[n], atol=0.05) for n in first)
    assert len(room.data.layers["things"].curves) == (1 if ring else 2)
    if not ring:
        other = Pick("things", max(room.data.layers["things"].curves))
        apply(room, edits.joined(project, room.name, [pick, other]))
        things = room.data.layers["things"].things
        assert all(np.allclose(things[n].at, before[n], atol=0.05) for n in first)
        assert {things[n].attached for n in first} == {tuple(pick)}


def test_a_point_too_few_takes_the_curve_away_and_frees_what_was_attached(room):
    pick = drawn(room, points=WAVE[:2])
    (number,) = stand(room, Thing("Lamp", 12, 12))
    apply(room, along.attached(room.project.data, room.name, [Pick("things", number)], pick))
    apply(room, edits.without_points(room.project.data, room.name, pick, (0,)))
    assert not room.data.layers["things"].curves
    assert [(t.prefab, t.attached, t.along) for t in room.things()] == [("Lamp", None, None)]


def test_an_offset_lies_beside_it_and_holds_nothing(room):
    pick = drawn(room)
    apply(room, edits.offset(room.project.data, room.name, pick, 1.5))
    made = room.data.layers["things"].curves[max(room.data.layers["things"].curves)]
    assert made.fill is None and made.length != curve(room, pick).length


def test_what_cannot_be_is_refused_with_a_reason(room):
    project = room.project.data
    pick = drawn(room)
    with pytest.raises(BadValue, match="the curves to join"):
        edits.joined(project, room.name, [pick])
    with pytest.raises(BadValue, match="the point to split at"):
        edits.split(project, room.name, pick, 0)
    with pytest.raises(BadValue, match="the curve"):
        edits.closed(project, room.name, Pick("things", 999), on=True)
    room.set_layer("Things", locked=True)
    refused = edits.closed(project, room.name, pick, on=True)
    assert not refused and "locked" in refused.refused[0]


# --- copied, turned, stamped --------------------------------------------------------------


def test_a_copy_has_a_curve_of_its_own_with_its_own_things(room):
    pick = drawn(room)
    count = len(riders(room, pick))
    edit, picks = duplicated(room.project.data, room.name, Picks((pick,)), (6.0, 2.0))
    apply(room, edit)
    (other,) = [p for p in picks.entries if p.number in room.data.layers["things"].curves]
    assert len(riders(room, other)) == len(riders(room, pick)) == count and on_it(room, other)
    apply(room, edits.point_moved(room.project.data, room.name, other, 0, (2.0, 2.0)))
    assert on_it(room, pick) and on_it(room, other)


@pytest.mark.parametrize("way", [Way(2, 1), Way(2, 2), Way(2, 0, True), Way(2, 3, True)])
def test_turned_and_mirrored_the_things_still_belong(way):
    room = small_room((40, 44))
    pick = drawn(room, fence(pitch=2.0, aside=1.0), tuple((y + 12, x + 8) for y, x in WAVE))
    edit, picks = turned(room.project.data, room.name, Picks((pick,)), way)
    apply(room, edit)
    (after,) = [p for p in picks.entries if p.number in room.data.layers["things"].curves]
    assert len(riders(room, after)) > 10 and on_it(room, after, 0.05)
    assert len(room.data.layers["things"].curves) == 1


def test_a_stamp_lays_the_curve_and_what_belongs_to_it(room):
    pick = drawn(room, points=((2, 2), (4, 6), (2, 10)))
    scrap = scrap_of(room.project.data, room.name, Picks((pick,)))
    assert scrap.holds().endswith("1 curve")
    room.project.add_brush(Stamp("Row", scrap=scrap))
    room.lay("Row", cells=[(12, 4), (18, 4)])
    picks = [Pick("things", n) for n in room.data.layers["things"].curves]
    assert len(picks) == 3
    assert [len(riders(room, p)) for p in picks] == [len(riders(room, pick))] * 3
    assert all(on_it(room, p) for p in picks)


def test_layers_are_copied_and_merged_with_curves_that_hold_their_things(room):
    pick = drawn(room)
    count = len(riders(room, pick))
    apply(room, duplicate_layer(room.project.data, room.name, "things"))
    copy = next(i for i, la in room.data.bottom_up("things") if i != "things")
    (number,) = room.data.layers[copy].curves
    assert len(riders(room, Pick(copy, number))) == len(riders(room, pick)) == count
    apply(room, merge_down(room.project.data, room.name, copy))
    assert [len(riders(room, Pick("things", n))) for n in room.data.layers["things"].curves] == (
        [count] * 2)  # fmt: skip


def test_a_room_that_is_shifted_or_grown_takes_its_curves_along(room):
    pick = drawn(room)
    apply(room, shift_contents(room.project.data, room.name, (1, 2)))
    assert curve(room, pick).points[0].at == (6, 5) and on_it(room, pick)
    apply(room, resize_room(room.project.data, room.name, (30, 40), (4, 4)))
    assert curve(room, pick).points[0].at == (10, 9) and on_it(room, pick)


def test_what_is_written_reads_back(room, tmp_path):
    pick = drawn(room)
    apply(room, edits.bent(room.project.data, room.name, pick, (1,), "free"))
    room.project.save(tmp_path / "c.topion")
    again = read_project(tmp_path / "c.topion")
    assert differences(room.project.data, again) == []
    (tmp_path / "b.json").write_bytes(bundle_bytes(room.project.data))
    assert differences(room.project.data, read_bundle(tmp_path / "b.json")) == []


def test_a_room_without_curves_is_written_as_before(room, tmp_path):
    room.project.save(tmp_path / "plain.topion")
    assert not list((tmp_path / "plain.topion").rglob("*.curves.json"))
    assert open_project(tmp_path / "plain.topion").data.rooms


# --- brushes laid along -------------------------------------------------------------------


def test_any_brush_is_laid_along_and_a_trail_stays_a_piece():
    room = shape_room()
    pick = drawn(room, CurveBrush("Fence"))
    place = Place(room.project.data, room.name)
    water = brush_named(place.project, "Water")
    before = room.data.layers["ground"].plane("material").copy()
    apply(room, water.plan(place, marks_along(place, curve(room, pick), water)))
    cells = np.argwhere(room.data.layers["ground"].plane("material") != before)
    base = curve(room, pick).line.samples(0.05)
    assert len(cells) > 10
    assert max(np.linalg.norm(c - base, axis=1).min() for c in cells) < 0.8
    walk = brush_named(place.project, "Walk")
    apply(room, walk.plan(place, marks_along(place, curve(room, pick), walk)))
    assert [p.brush for p in room.data.layers["ground"].pieces.values()] == ["Walk"]


def test_a_picture_gives_curves_round_what_is_seen_in_it(room):
    picture = room.project.data.prefabs["Bush"].picture
    place = Place(room.project.data, room.name)
    edit = edits.from_picture(room.project.data, place, picture, (8.0, 8.0))
    apply(room, edit)
    (number,) = room.data.layers["things"].curves
    assert curve(room, Pick("things", number)).closed


def test_things_are_attached_to_a_curve_like_to_anything(room):
    pick = drawn(room, CurveBrush("Fence"))
    (number,) = stand(room, Thing("Lamp", 12, 12))
    own = Pick("things", number)
    things = {own: room.data.layers["things"].things[number]}
    apply(room, attach_things(room.project.data, room.name, things, tuple(pick)))
    assert riders(room, pick)[0].at == (0, 12, 12)


# --- voxel rooms --------------------------------------------------------------------------


def test_on_the_ground_a_curve_follows_the_heights_in_space_it_does_not():
    room = isle()
    project = room.project
    name = next(n for n, p in project.data.prefabs.items() if not p.rules)
    size = room.data.info.size
    points = np.array([[size[0] - 1.0, 1.0, 1.0], [size[0] - 1.0, size[1] - 2.0, size[2] - 2.0]])
    project.add_brush(CurveBrush("Fence", (CurvePart(name),), pitch=1.0))
    place = Place(project.data, room.name)
    brush = brush_named(project.data, "Fence")
    apply(room, brush.plan(place, Gesture("line").marks(points, None)))
    layer_id = next(i for i, la in room.data.bottom_up("things") if la.curves)
    pick = Pick(layer_id, max(room.data.layers[layer_id].curves))
    found = riders(room, pick)
    ground = grounded(project.data, room.data, np.array([t.at for t in found]))
    assert found and [t.z for t in found] == ground[:, 0].tolist()
    before = curve(room, pick).length
    apply(room, edits.on_ground(project.data, room.name, pick, on=False))
    assert all(t.z == size[0] - 1 for t in riders(room, pick))
    assert curve(room, pick).length == pytest.approx(before)


def test_a_project_without_things_layers_says_that_a_curve_needs_one():
    room = small_project().add_room("Bare", (8, 8), 4, (("Ground", "tiles"),))
    room.project.add_brush(CurveBrush("Fence"))
    with pytest.raises(Exception, match="things"):
        brush_named(room.project.data, "Fence").plan(
            Place(room.project.data, "Bare"),
            Gesture("line").marks(np.array([[1.0, 1.0], [1.0, 5.0]]), None))  # fmt: skip


def test_a_curve_that_leaves_the_picked_area_is_not_drawn(room):
    room.project.add_brush(fence())
    place = Place(room.project.data, room.name)
    line = Gesture("line").marks(np.array([[5.0, 4.0], [5.0, 20.0]]), None)
    inside = Area.of_box(Box((3, 3), (8, 15)))
    edit = brush_named(place.project, "Fence").plan(place, replace(line, within=inside))
    assert not edit and edit.refused == ("the curve leaves the picked area",)
    wider = Area.of_box(Box((3, 3), (8, 25)))
    assert brush_named(place.project, "Fence").plan(place, replace(line, within=wider))


def _lifted(room, cell, only="", **more):
    place = Place(room.project.data, room.name)
    edit = Lift("Lift", only=only, **more).plan(place, Marks(np.array([cell])))
    if edit.records:
        room.project.history.apply(edit)
    return edit


def test_a_curve_is_lifted_with_what_fills_it_and_leaves_what_is_attached(room):
    pick = drawn(room, fence(pitch=4.0, fits=False), ((5, 2), (5, 22)), "line")
    own = edits.things_along(room.data, pick)[2][0]
    apply(room, along.slid_along(room.project.data, room.name, [own], 0.5))
    before = room.project.data
    _lifted(room, (6, 12))
    assert room.data.layers["things"].curves
    _lifted(room, (5, 12), only="Fence")
    assert not room.data.layers["things"].curves
    (left,) = room.things()
    assert left.along is None and left.attached is None
    room.project.history.undo()
    assert not differences(before, room.project.data)


def test_another_brush_lifts_only_what_it_laid_itself(room):
    room.project.add_brush(ThingsBrush("Bushes", "Bush"))
    pick = drawn(room, fence(pitch=4.0, fits=False), ((5, 2), (5, 22)), "line")
    count = len(riders(room, pick))
    stand(room, Thing("Bush", 9, 9))
    _lifted(room, (5, 2), only="Bushes")
    assert len(riders(room, pick)) == count
    _lifted(room, (9, 9), only="Fence")
    assert len(room.things()) == count + 1
    _lifted(room, (9, 9), only="Bushes")
    assert len(room.things()) == count
    _lifted(room, (5, 2))
    assert not room.things() and not room.data.layers["things"].curves


def test_a_curve_in_a_locked_layer_is_not_lifted(room):
    drawn(room, points=((5, 2), (5, 22)), gesture="line")
    room.set_layer("Things", locked=True)
    edit = _lifted(room, (5, 12))
    assert edit.refused and room.data.layers["things"].curves


def test_a_thing_whose_curve_is_gone_is_lifted_by_itself(room):
    (there,) = stand(room, Thing("Bush", 9, 9, attached=("things", 99),
                                 along=Along(filled=True)))  # fmt: skip
    _lifted(room, (9, 9))
    assert there not in room.data.layers["things"].things
