"""Frames: which one shows when, and what cannot be a set."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import SHEET, prefab, small_room
from topion.edit.prefabs import prefab_of_frames, with_frames
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.model.frames import FrameSet
from topion.model.model_frames import FrameAt, ModelSet, with_frame, with_model_frames
from topion.model.plain import from_plain, to_plain
from topion.model.prefab import Prefab
from topion.model.solid import VoxelModel
from topion.pictures.png import picture_of
from topion.render.sprites import set_time, shown_picture

PICTURES = tuple(picture_of(np.full((4, 4, 4), 60 * n + 15, np.uint8)) for n in range(4))


def frames(*ms, plays="loops", name="still"):
    return FrameSet(name, PICTURES[: len(ms)], ms, plays)


def test_frames_follow_each_other_by_their_times():
    loops = frames(100, 50, 200)
    assert [loops.frame_at(t) for t in (0, 99, 100, 149, 150, 349, 350)] == [0, 0, 1, 1, 2, 2, 0]
    back = frames(100, 50, 200, plays="there and back")
    assert back.length_ms == 400 and [back.frame_at(t) for t in (349, 350, 399, 400)] == [
        2,
        1,
        1,
        0,
    ]
    once = frames(100, 50, plays="once")
    assert [once.frame_at(t) for t in (0, 149, 150, 9999)] == [0, 1, 1, 1]


@given(st.lists(st.integers(20, 500), min_size=1, max_size=4),
       st.sampled_from(("loops", "there and back", "once")), st.floats(0, 1e7))  # fmt: skip
def test_a_frame_shows_at_any_time_and_all_show_in_one_round(ms, plays, time):
    made = frames(*ms, plays=plays)
    assert 0 <= made.frame_at(time) < len(ms)
    assert {made.frame_at(t) for t in range(made.length_ms + 1)} == set(range(len(ms)))


def test_what_cannot_be_a_set_is_told():
    with pytest.raises(BadValue, match="one for each"):
        FrameSet("still", PICTURES[:2], (100,))
    with pytest.raises(BadValue, match="20 to 60000"):
        frames(100, 3)
    other = picture_of(np.zeros((2, 2, 4), np.uint8))
    with pytest.raises(BadValue, match="one size"):
        FrameSet("still", (PICTURES[0], other), (100, 100))
    with pytest.raises(BadValue, match="as its picture"):
        prefab("It", frames=(FrameSet("still", (other,), (100,)),))
    with pytest.raises(BadValue, match="name of its own"):
        prefab("It", frames=(frames(100), frames(100)))


def test_sets_are_changed_taken_away_and_read_back():
    sets = with_frames((frames(100, 100),), "open", PICTURES[:3], (50, 50, 50), "once")
    assert [known.name for known in sets] == ["still", "open"]
    sets = with_frames(sets, "still", PICTURES[:1], (80,))
    assert [known.name for known in sets] == ["still", "open"] and sets[0].ms == (80,)
    made = prefab("It", frames=sets)
    assert from_plain(Prefab, to_plain(made)).frames == sets
    assert [known.name for known in with_frames(sets, "still", (), ())] == ["open"]


def test_marked_slots_become_frames():
    sheet = small_room().project.data.tileset(SHEET)
    made = prefab_of_frames(sheet, Box((0, 0), (1, 3)), ())
    still = made.frame_set("still")
    assert len(still.pictures) == 3 and made.picture == still.pictures[0]
    assert (still.pictures[2].rgba == sheet.pixels((0, 2))).all()
    with pytest.raises(BadValue, match="two or more"):
        prefab_of_frames(sheet, Box((0, 0), (1, 1)), ())


def test_prefabs_move_on_with_the_time():
    data = small_room().project.data
    data.put_item(("prefabs", "It"), prefab("It", frames=(frames(100, 100),)))
    it = data.prefab("It")
    assert shown_picture(data, it) == PICTURES[0]
    assert set_time(data, 120) == {"It"} and shown_picture(data, it) == PICTURES[1]
    assert set_time(data, 130) == frozenset()
    assert set_time(data, 220) == {"It"} and shown_picture(data, it) == PICTURES[0]


def model(value: int, size=(2, 2, 2)) -> VoxelModel:
    return VoxelModel(np.full(size, value, np.uint8), ("#ffffff", "#000000"))


def test_models_of_a_set_are_of_one_size_and_play_as_pictures_do():
    found = ModelSet("still", (model(1), model(2)), (100, 50), "there and back")
    assert [found.frame_at(t) for t in (0, 99, 100, 149, 150)] == [0, 0, 1, 1, 0]
    with pytest.raises(BadValue, match="several sizes"):
        ModelSet("still", (model(1), model(1, (3, 2, 2))), (100, 100))
    with pytest.raises(BadValue, match="times"):
        ModelSet("still", (model(1), model(2)), (100,))


def test_a_prefab_has_only_frames_as_large_as_its_model():
    still = ModelSet("still", (model(1),), (100,))
    made = replace(prefab("It"), model=model(1), model_frames=(still,))
    assert made.model_at(0) == model(1) and made.model_at(5) == model(1)
    assert from_plain(Prefab, to_plain(made)) == made
    with pytest.raises(BadValue, match="as large as its model"):
        replace(made, model=model(1, (4, 4, 4)))


def test_one_frame_is_changed_in_its_place():
    sets = with_model_frames((), "open", (model(1), model(1)), (100, 100))
    sets = with_frame(sets, FrameAt("open", 1), model(2))
    assert sets[0].models == (model(1), model(2))
    assert with_model_frames(sets, "open", (), ()) == ()
