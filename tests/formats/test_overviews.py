"""Pictures of rooms kept on disk: as long as nothing that they show changes."""

from __future__ import annotations

import os
from dataclasses import replace

import numpy as np
import pytest

import topion
from tests.rooms import small_room
from tests.voxel_rooms import isle
from topion.formats import overviews
from topion.formats.overviews import Shelved, library_print, room_print
from topion.render.overview import overview, size_of, worn_as


@pytest.fixture
def saved(tmp_path, monkeypatch):
    """A project of two rooms, saved and opened again."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    room = small_room((12, 20))
    room.lay("Mud", box=((2, 2), (6, 9)))
    room.project.add_room("Attic", (6, 6))
    room.project.save(tmp_path / "P.topion")
    return topion.open(tmp_path / "P.topion")


def prints(project):
    return library_print(project.data), room_print(project.data, "Attic")


def test_the_print_of_a_room_that_is_not_read_needs_no_reading(saved):
    assert saved.data.rooms.peek("Attic") is None
    assert None not in prints(saved)
    assert saved.data.rooms.peek("Attic") is None


def test_it_is_the_same_once_the_room_was_read(saved):
    before = prints(saved)
    saved.room("Attic")
    assert prints(saved) == before


def test_a_stroke_takes_it_away_until_the_room_is_saved_otherwise(saved):
    before = prints(saved)
    saved.room("Attic").lay("Stones", cells=[(1, 1)])
    assert prints(saved)[1] is None
    saved.save()
    after = prints(saved)
    assert after[1] not in (None, before[1]) and after[0] == before[0]


def test_a_change_of_the_library_takes_all_away(saved):
    mud = saved.data.brush("Mud")
    saved.add_brush(replace(mud, seed=mud.seed + 1))
    assert prints(saved)[0] is None


def test_a_project_without_a_folder_has_none():
    room = small_room((6, 6))
    assert library_print(room.project.data) is None
    assert room_print(room.project.data, room.name) is None
    shelved = Shelved(room.project.data)
    picture = np.zeros((2, 2, 4), np.uint8)
    shelved.write(picture, "a", "b")
    shelved.tidy()
    assert shelved.read("a", "b") is None


def test_what_is_written_reads_back_and_other_keys_do_not(saved):
    shelved, picture = Shelved(saved.data), overview(saved.data, saved.data.room("Attic"), 60)
    shelved.write(picture, *prints(saved), 60, None)
    assert np.array_equal(shelved.read(*prints(saved), 60, None), picture)
    assert shelved.read(*prints(saved), 60, "Night") is None
    assert shelved.read(None, prints(saved)[1], 60, None) is None


def test_a_damaged_picture_is_as_none(saved):
    shelved = Shelved(saved.data)
    shelved.write(np.zeros((2, 2, 4), np.uint8), "a", "b")
    (path,) = shelved.folder.iterdir()
    path.write_bytes(b"no picture")
    assert shelved.read("a", "b") is None


def test_where_nothing_can_be_written_nothing_is_kept(saved, tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "P.topion" / "project.json"))
    shelved = Shelved(saved.data)
    shelved.write(np.zeros((2, 2, 4), np.uint8), "a", "b")
    shelved.tidy()
    assert shelved.read("a", "b") is None


def test_only_so_many_are_kept_and_the_oldest_go(saved, monkeypatch):
    monkeypatch.setattr(overviews, "MOST_FILES", 6)
    monkeypatch.setattr(overviews, "_LIFTED", 2)
    shelved = Shelved(saved.data)
    for number in range(9):
        shelved.write(np.zeros((2, 2, 4), np.uint8), "a", "b", number)
        os.utime(shelved.path_of("a", "b", number), (number, number))
    shelved.tidy()
    left = [n for n in range(9) if shelved.read("a", "b", n) is not None]
    assert left == [5, 6, 7, 8]


# --- the pictures themselves ----------------------------------------------------------------


def test_an_overview_shows_all_of_a_room_to_scale():
    room = small_room((12, 20))
    room.lay("Stones", box=((0, 0), (11, 9)))
    picture = overview(room.project.data, room.data, 100)
    assert picture.shape[:2] == (60, 100) == size_of((12, 20), 100)
    assert not np.array_equal(picture[:, :50], picture[:, 50:])


def test_a_room_longer_than_the_picture_is_not_nothing():
    assert size_of((1, 16_000), 160) == (1, 160)


def test_a_voxel_room_is_seen_from_above_to_scale():
    room = isle((10, 12, 24), ground=3)
    room.lay("Stones", box=((3, 2, 2), (3, 4, 9)))
    picture = overview(room.project.data, room.data, 240)
    assert picture.shape[:2] == (120, 240) and (picture[..., 3] == 255).all()
    on, off = picture[30, 50], picture[100, 200]
    assert not np.array_equal(on, off)


def test_a_wear_that_is_not_there_is_that_of_the_room():
    room = small_room((6, 6))
    shown = worn_as(room.project.data, room.data, "No theme", "No map")
    assert (shown.info.theme, shown.info.tint) == (room.data.info.theme, room.data.info.tint)
