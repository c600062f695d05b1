"""The last stroke stays warm; long strokes are kept in slices."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.looks import with_palette
from tests.rooms import small_room
from tests.shapes import shape_room
from tests.voxel_rooms import isle
from topion.brushes import Lift, TintBrush
from topion.brushes.drawn import Drawn
from topion.brushes.gestures import Gesture
from topion.edit.library import put_brush
from topion.edit.warm import Warm, laid_again, plan_drawn, slices
from topion.errors import TopionError
from topion.model.compare import differences
from topion.scripting import RoomHandle

WAY = [(3.0, 3.0), (4.0, 6.0), (6.0, 9.0), (9.0, 9.5), (12.0, 14.0)]


def flat(brush: str, gesture: Gesture | None = None) -> tuple[RoomHandle, Warm]:
    """A room in which a stroke of that brush was laid last."""
    room = small_room()
    with_palette(room.project)
    room.project.add_brush(TintBrush("Tint", 1, 2, both=True))
    return room, laid(room, brush, np.array(WAY), gesture or Gesture())


def deep(brush: str) -> tuple[RoomHandle, Warm]:
    room = isle()
    way = np.array([(3.0, 2.0, 2.0), (3.0, 5.0, 6.0), (3.0, 8.0, 9.0)])
    return room, laid(room, brush, way, Gesture(across=0))


def laid(room: RoomHandle, brush: str, way: np.ndarray, gesture: Gesture) -> Warm:
    history, given = room.project.history, room.data.highest_given
    at = history.at
    warm = Warm(at, (), room.name, "", brush, Drawn(way, gesture), given=given)
    history.apply(plan_drawn(history, warm))
    return Warm(
        at, tuple(history.edits[at:]), room.name, "", brush, Drawn(way, gesture), given=given
    )


CHANGES = {
    "Water": {"seed": st.integers(0, 50), "nib": st.integers(1, 5)},
    "Stones": {"seed": st.integers(0, 50), "nib": st.integers(1, 5), "turns": st.booleans()},
    "Reeds": {"density": st.floats(0.05, 1.0), "radius": st.floats(0.5, 6.0),
              "seed": st.integers(0, 50), "way": st.sampled_from(["add", "set"])},
    "Lamp": {"cell_parts": st.sampled_from([1, 2])},
    "Tint": {"fore": st.integers(-1, 4), "back": st.integers(-1, 4), "nib": st.integers(1, 4),
             "bright": st.sampled_from(["as is", "bright", "plain"])},
}  # fmt: skip
DEEP = {
    "Stones": {"seed": st.integers(0, 50), "nib": st.integers(1, 4)},
    "Heap": {"radius": st.floats(1.0, 4.0), "levels": st.integers(1, 4)},
    "Post": {"cell_parts": st.sampled_from([1, 2])},
}  # fmt: skip


def check_as_laid_at_once(make, brush: str, kinds, data) -> None:
    """Fifty changes, one upon the other, leave what the last one would have laid at once."""
    room, warm = make(brush)
    history = room.project.history
    before = history.at
    changed = room.project.data.brush(brush)
    for _ in range(50):
        field = data.draw(st.sampled_from(sorted(kinds[brush])))
        changed = changed.changed(**{field: data.draw(kinds[brush][field])})
        warm = laid_again(history, warm, changed)
        assert warm.is_last(history)
        assert history.at - warm.at <= 1
    assert history.at <= before
    fresh, stroke = make(brush)
    fresh.project.undo()
    fresh.data.take_numbers_back(stroke.given)
    fresh.project.history.apply(put_brush(fresh.project.data, changed))
    again = laid(fresh, brush, stroke.drawn.points, stroke.drawn.gesture)
    assert differences(room.project.data, fresh.project.data) == []
    assert np.array_equal(room.render(0.5), fresh.render(0.5))
    history.jump(warm.at)
    fresh.project.history.jump(again.at - 1 if history.at < again.at else again.at)
    fresh.project.history.jump(warm.at)
    assert differences(room.project.data, fresh.project.data) == []


@pytest.mark.parametrize("brush", sorted(CHANGES))
@settings(max_examples=4, deadline=None)
@given(data=st.data())
def test_a_warm_stroke_changed_fifty_times_is_as_if_laid_so_at_once(brush, data):
    check_as_laid_at_once(flat, brush, CHANGES, data)


@pytest.mark.parametrize("brush", sorted(DEEP))
@settings(max_examples=2, deadline=None)
@given(data=st.data())
def test_the_same_holds_in_a_voxel_room(brush, data):
    check_as_laid_at_once(deep, brush, DEEP, data)


def test_another_brush_lays_the_same_way_as_the_same_edit():
    room, warm = flat("Water")
    assert room.material(3, 3) == "Water"
    warm = laid_again(room.project.history, replace(warm, brush="Stones"))
    assert room.material(3, 3) == "Stones"
    assert len(warm.edits) == 1
    assert room.project.history.edits[-1].label == "Stones"
    room.project.undo()
    assert room.material(3, 3) == "Mud"


def test_undo_takes_it_away_whole_with_the_setting_that_was_changed():
    room, warm = flat("Water")
    water = room.project.data.brush("Water")
    laid_again(room.project.history, warm, water.changed(nib=5))
    assert room.material(3, 4) == "Water"
    room.project.undo()
    assert room.material(3, 3) == "Mud"
    assert room.project.data.brush("Water") == water
    room.project.redo()
    assert room.material(3, 4) == "Water"
    assert room.project.data.brush("Water").nib == 5


def test_an_option_of_the_gesture_lays_it_anew():
    room, warm = flat("Water", Gesture("box"))
    assert room.material(6, 8) == "Water"
    outline = replace(warm, drawn=replace(warm.drawn, gesture=Gesture("box", outline=True)))
    laid_again(room.project.history, outline)
    assert room.material(6, 8) == "Mud"
    assert room.material(3, 3) == "Water"


def test_a_stroke_that_lays_nothing_stays_warm_and_comes_back():
    room, warm = flat("Tint")
    history, tint = room.project.history, room.project.data.brush("Tint")
    warm = laid_again(history, warm, tint.changed(fore=-1, back=-1))
    assert room.data.tint_maps() == []
    warm = laid_again(history, warm, tint.changed(fore=3))
    assert room.data.worn_tint is not None
    assert len(warm.edits) == 1


def test_what_fails_leaves_all_as_it_was():
    room, warm = flat("Water")
    edits, cells = list(room.project.history.edits), room.render()

    def broken(brush):
        raise TopionError("no")

    with pytest.raises(TopionError, match="no"):
        laid_again(room.project.history, replace(warm, form=broken))
    assert room.project.history.edits == edits
    assert np.array_equal(room.render(), cells)
    assert warm.is_last(room.project.history)


def test_a_stroke_is_no_longer_the_last_after_another_edit():
    room, warm = flat("Water")
    assert warm.is_last(room.project.history)
    room.lay("Stones", cells=[(20, 20)])
    assert not warm.is_last(room.project.history)
    room.project.undo()
    assert warm.is_last(room.project.history)
    room.project.undo()
    assert not warm.is_last(room.project.history)


def test_a_shape_is_laid_again_by_another_shape_brush_as_one_piece():
    room = shape_room()
    warm = laid(room, "Wall", np.array([(2.0, 2.0), (9.0, 12.0)]), Gesture("box"))
    number = next(iter(room.data.cell_layers()[0][1].pieces))
    warm = laid_again(room.project.history, replace(warm, brush="Brick"))
    pieces = room.data.cell_layers()[0][1].pieces
    assert {n: piece.brush for n, piece in pieces.items()} == {number: "Brick"}
    fresh = shape_room()
    laid(fresh, "Brick", np.array([(2.0, 2.0), (9.0, 12.0)]), Gesture("box"))
    assert np.array_equal(room.render(), fresh.render())


def test_a_stamp_is_laid_again_turned():
    room = small_room()
    room.lay("Water", box=((2, 2), (3, 5)))
    room.keep_stamp("Pond", ((2, 2), (3, 5)), anchor=(2, 2))
    warm = laid(room, "Pond", np.array([(10.0, 10.0)]), Gesture())
    assert room.material(10, 13) == "Water"
    stamp = room.project.data.brush("Pond")
    laid_again(room.project.history, warm, stamp.turned(room.project.data))
    assert room.material(13, 10) == "Water"
    assert room.material(10, 13) == "Mud"


def test_lifting_is_laid_again_with_another_width():
    room = small_room()
    room.project.add_brush(Lift("Wipe"))
    warm = laid(room, "Wipe", np.array([(8.0, 4.0), (8.0, 12.0)]), Gesture())
    assert room.material(7, 6) == "Mud"
    laid_again(room.project.history, warm, Lift("Wipe", nib=3))
    assert room.material(7, 6) == ""


# --- slices -------------------------------------------------------------------------------


def sliced(make, brush: str, cuts):
    room, warm = make(brush)
    history = room.project.history
    whole_after = room.render(0.5)
    history.undo()
    room.data.take_numbers_back(warm.given)
    found = slices(
        lambda drawn: plan_drawn(history, replace(warm, drawn=drawn)), warm.drawn, cuts,
        plan_drawn(history, warm),
    )  # fmt: skip
    return room, found, whole_after, warm


@pytest.mark.parametrize("brush", sorted(CHANGES))
def test_slices_together_are_the_stroke_and_come_off_one_by_one(brush):
    room, found, whole_after, warm = sliced(flat, brush, [1, 2, 3, 4])
    history = room.project.history
    before, pictures = history.at, [room.render(0.5)]
    assert 2 <= len(found) <= 5
    for edit in found:
        history.apply(edit)
        pictures.append(room.render(0.5))
    assert np.array_equal(pictures[-1], whole_after)
    assert [edit.part for edit in history.edits[before:]] == [
        (n, len(found)) for n in range(1, len(found) + 1)
    ]
    for picture in reversed(pictures[:-1]):
        history.undo()
        assert np.array_equal(room.render(0.5), picture)
    assert history.at == warm.at


def test_slices_of_a_voxel_stroke_come_off_one_by_one():
    room, found, whole_after, _ = sliced(deep, "Heap", [1, 2])
    before = room.render(0.5)
    for edit in found:
        room.project.history.apply(edit)
    assert np.array_equal(room.render(0.5), whole_after)
    for _ in found:
        room.project.undo()
    assert np.array_equal(room.render(0.5), before)


def test_a_stroke_without_cuts_is_one_edit():
    found = sliced(flat, "Water", [])[1]
    assert len(found) == 1
    assert found[0].part == (1, 1)
