"""Versions of a project that real git keeps."""

from __future__ import annotations

import shutil

import pytest

from tests.rooms import small_room
from tests.team.repositories import NAME, Clone
from topion.errors import TopionError
from topion.formats.files import INDEX
from topion.merging import git_trees
from topion.merging.git import GitTrouble
from topion.merging.git_trees import Repository
from topion.merging.naming import project_of
from topion.model.compare import differences

pytestmark = pytest.mark.skipif(shutil.which("git") is None, reason="git is not installed")


@pytest.fixture
def clone(tmp_path) -> Clone:
    found = Clone(tmp_path / "repository")
    found.root.mkdir()
    found.git("init", "-q", "-b", "main")
    (found.root / "notes.txt").write_text("nothing of a project\n")
    small_room((14, 20)).project.save(found.place)
    found.commit("Begin")
    return found


def test_a_revision_is_the_project_as_it_was_then(clone):
    before = clone.read()
    handle = clone.open()
    handle.room("Yard").lay("Water", cells=[(5, 5)])
    clone.save(handle, "Water")
    repository = Repository.of(clone.place)
    assert differences(project_of(repository.tree("HEAD")), handle.data) == []
    assert differences(project_of(repository.tree("HEAD~1")), before) == []


def test_a_project_that_is_the_whole_repository_is_read_alike(tmp_path):
    place = tmp_path / NAME
    small_room((14, 20)).project.save(place)
    whole = Clone(place)
    whole.git("init", "-q", "-b", "main")
    whole.commit()
    assert INDEX in Repository.of(place).tree("HEAD").names


def test_only_files_of_the_project_are_read(clone):
    (clone.place / "draft.txt").write_text("mine")
    (clone.place / "brushes" / "Elsewhere.json").symlink_to("/etc/hostname")
    clone.commit("More")
    names = {*Repository.of(clone.place).tree("HEAD").names}
    assert INDEX in names
    assert not names & {"draft.txt", "brushes/Elsewhere.json", "notes.txt"}


def test_a_revision_too_large_is_refused_before_any_of_it_is_read(clone, monkeypatch):
    def read(*_: object) -> dict[str, bytes]:
        raise AssertionError("it was read")

    monkeypatch.setattr(git_trees, "_contents", read)
    monkeypatch.setattr(git_trees, "MOST_PACKED", 1000)
    with pytest.raises(TopionError, match="HEAD holds more than is read"):
        Repository.of(clone.place).tree("HEAD")
    monkeypatch.setattr(git_trees, "MOST_PACKED", 1 << 40)
    monkeypatch.setattr(git_trees, "MOST_FILES", 3)
    with pytest.raises(TopionError, match="HEAD holds more than is read: 3 files"):
        Repository.of(clone.place).tree("HEAD")


@pytest.mark.parametrize("name", ["nowhere", "--output=x", "HEAD:", ""])
def test_what_is_no_revision_is_said_to_be_none(clone, name):
    with pytest.raises(GitTrouble, match="does not know"):
        Repository.of(clone.place).tree(name)
    assert sorted(path.name for path in clone.root.iterdir()) == [".git", NAME, "notes.txt"]


def test_the_history_is_that_of_the_project_and_begins_with_the_latest(clone):
    (clone.root / "notes.txt").write_text("more\n")
    clone.commit("Notes")
    handle = clone.open()
    handle.room("Yard").lay("Water", cells=[(5, 5)])
    clone.save(handle, "Water: the pool")
    told = [what.split("  ", 1)[1] for _, what in Repository.of(clone.place).history()]
    assert told == ["Water: the pool", "Begin"]


def test_a_folder_outside_of_any_repository_is_said_to_be_so(tmp_path, monkeypatch):
    monkeypatch.setenv("GIT_CEILING_DIRECTORIES", str(tmp_path.parent))
    with pytest.raises(GitTrouble, match="not a git repository"):
        Repository.of(tmp_path)


def test_damage_in_a_repository_is_told_and_not_read_as_empty(clone):
    blob = clone.git("rev-parse", f"HEAD:{NAME}/{INDEX}").stdout.strip()
    repository = Repository.of(clone.place)
    path = clone.root / ".git" / "objects" / blob[:2] / blob[2:]
    path.chmod(0o600)
    path.write_bytes(b"")
    with pytest.raises(TopionError, match=f"git does not give {INDEX} out"):
        repository.tree("HEAD")
