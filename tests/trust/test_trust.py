"""What is promised in docs/TRUST.md, in small; `./topion bench trust` runs it for long."""

from __future__ import annotations

import pytest

from tests.trust import faults, kills, mutants

SEED = 8


@pytest.fixture(autouse=True)
def state_of_its_own(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))


@pytest.fixture(scope="module")
def first_save(tmp_path_factory):
    return faults.Scene(tmp_path_factory.mktemp("first"), first=True)


@pytest.fixture(scope="module")
def next_save(tmp_path_factory):
    return faults.Scene(tmp_path_factory.mktemp("next"), first=False)


@pytest.mark.parametrize("fault", [faults.full_disk, faults.killed])
def test_a_save_that_fails_or_is_killed_anywhere_leaves_one_whole_state(next_save, fault):
    found = {at: next_save.meets(fault, at) for at in range(next_save.count)}
    assert [f"{at}: {wrong}" for at, wrong in found.items() if wrong] == []


@pytest.mark.parametrize("fault", [faults.full_disk, faults.killed])
def test_a_first_save_that_fails_or_is_killed_leaves_a_whole_folder_or_none(first_save, fault):
    every = range(SEED % 3, first_save.count + 1, 3)
    found = {at: first_save.meets(fault, at) for at in every}
    assert [f"{at}: {wrong}" for at, wrong in found.items() if wrong] == []


@pytest.mark.parametrize("limit", [0, 30, 100, 300, 1000, 3000])
def test_a_disk_that_is_full_after_some_bytes_leaves_one_whole_state(next_save, limit):
    assert next_save.small_disk(limit) == ""


@pytest.mark.parametrize("seed", range(3))
def test_no_finished_stroke_is_lost_by_a_kill(seed, tmp_path):
    assert kills.life(seed, tmp_path, 8) == ""


@pytest.mark.parametrize(
    ("run", "count"),
    [(mutants.folders, 120), (mutants.bundles, 60), (mutants.meshes, 200), (mutants.journals, 40)],
)
def test_hostile_files_come_to_one_sentence_or_to_a_sound_project(run, count, tmp_path):
    told = []
    assert run(SEED, tmp_path, count, told.append) == 0, told[:5]


def test_hostile_edits_change_nothing_or_can_be_undone():
    told = []
    assert mutants.edits(SEED, 120, told.append) == 0, told[:5]
