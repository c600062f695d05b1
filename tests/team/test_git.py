"""Two people in one project, through real git."""

from __future__ import annotations

import shutil

import pytest

from tests.merging.test_whole import moss
from tests.rooms import small_room
from tests.team.repositories import NAME, Clone, live, two_clones
from topion import scripting
from topion.cli import main
from topion.edit.conflicts import open_conflicts, settled
from topion.git_finish import finish
from topion.git_setup import ATTRIBUTES, set_up
from topion.merging.git import GitTrouble, clone_of
from topion.merging.git_trees import Repository
from topion.merging.naming import project_of
from topion.model.compare import differences
from topion.model.conflict import CellsConflict

pytestmark = pytest.mark.skipif(shutil.which("git") is None, reason="git is not installed")


@pytest.fixture
def clones(tmp_path):
    return two_clones(tmp_path, small_room((14, 20)).project)


def lays(clone: Clone, brush: str, *cells: tuple[int, int]) -> None:
    handle = clone.open()
    handle.room("Yard").lay(brush, cells=list(cells), override=True)
    clone.save(handle)


def material(project, y: int, x: int) -> str:
    return project.material_name(int(project.room("Yard").layers["ground"].plane("material")[y, x]))


def test_two_paint_in_one_room_and_both_strokes_are_there(clones):
    ours, theirs = clones
    lays(ours, "Stones", (2, 2))
    lays(theirs, "Water", (2, 12), (9, 9))
    ours.take_from(theirs)
    assert ours.merges()
    project = ours.read()
    assert [material(project, *at) for at in ((2, 2), (2, 12), (9, 9))] == [
        "Stones",
        "Water",
        "Water",
    ]


def test_new_brushes_of_both_keep_their_cells(clones):
    for number, clone in enumerate(clones, 1):
        handle = clone.open()
        handle.add_brush(moss(number))
        handle.room("Yard").lay(f"Moss {number}", cells=[(number, number)])
        clone.save(handle)
    clones[0].take_from(clones[1])
    assert clones[0].merges()
    project = clones[0].read()
    assert (material(project, 1, 1), material(project, 2, 2)) == ("Moss 1", "Moss 2")


def test_things_of_both_are_there_whatever_their_numbers(clones):
    ours, theirs = clones
    lays(ours, "Bush", (2, 2), (3, 3))
    lays(theirs, "Cart", (9, 9), (12, 15))
    ours.take_from(theirs)
    assert ours.merges()
    things = ours.read().room("Yard").layers["things"].things.values()
    assert sorted(thing.prefab for thing in things) == ["Bush", "Bush", "Cart", "Cart"]


def test_the_same_cells_stop_git_and_wait_in_the_project(clones):
    ours, theirs = clones
    lays(ours, "Stones", (2, 2), (2, 3))
    lays(theirs, "Water", (2, 3), (2, 4))
    ours.take_from(theirs)
    assert not ours.merges()
    project = ours.read()
    assert [material(project, 2, x) for x in (2, 3, 4)] == ["Stones", "Stones", "Water"]
    (open_,) = [
        one for one in open_conflicts(project, "Yard") if isinstance(one.conflict, CellsConflict)
    ]
    handle = ours.open()
    handle.history.apply(settled(handle.data, open_, "theirs"))
    ours.save(handle, "Merge")
    assert material(ours.read(), 2, 3) == "Water" and not ours.read().room("Yard").conflicts
    assert len(ours.git("log", "-1", "--format=%P").stdout.split()) == 2


def test_a_rebase_lays_the_strokes_one_after_the_other(clones):
    ours, theirs = clones
    lays(ours, "Stones", (2, 2))
    lays(theirs, "Water", (2, 12))
    lays(theirs, "Lamp", (9, 9))
    theirs.take_from(ours)
    theirs.git("rebase", "-q", "theirs")
    project = theirs.read()
    assert (material(project, 2, 2), material(project, 2, 12)) == ("Stones", "Water")
    assert len(project.room("Yard").layers["things"].things) == 1
    assert len(theirs.git("log", "--format=%s").stdout.split("\n")) == 5


def test_a_room_that_one_took_away_is_finished_as_a_whole(clones, capsys):
    ours, theirs = clones
    handle = ours.open()
    handle.add_room("Attic", (5, 6), 4)
    handle.remove_room("Yard")
    ours.save(handle)
    lays(theirs, "Water", (2, 12))
    ours.take_from(theirs)
    assert not ours.merges()
    assert main(["git-merge", str(ours.root)]) == 1
    assert "ours took away the room, but theirs changed it" in capsys.readouterr().out
    project = ours.read()
    assert material(project, 2, 12) == "Water" and "Attic" in project.rooms
    ours.git("commit", "-q", "--no-edit")
    with pytest.raises(GitTrouble, match="no merge with conflicts"):
        list(finish(ours.root))


def test_git_tells_changes_in_our_words(clones):
    ours, _ = clones
    handle = ours.open()
    handle.room("Yard").lay("Stones", cells=[(2, 2)])
    handle.save()
    told = ours.git("diff").stdout
    assert "ground: 1 cell at 2, 2: Mud → Stones 1" in told and "@@" not in told


def test_setting_up_twice_changes_nothing_and_keeps_what_stands_there(tmp_path):
    clone = Clone(tmp_path)
    clone.git("init", "-q")
    (tmp_path / ATTRIBUTES).write_text("*.txt text\n")
    small_room((5, 5)).project.save(tmp_path / "deep" / "Plain Folder")
    list(set_up(tmp_path))
    first = (tmp_path / ATTRIBUTES).read_text()
    list(set_up(tmp_path))
    assert (tmp_path / ATTRIBUTES).read_text() == first and first.startswith("*.txt text\n")
    for path in (f"a/{NAME}/rooms/Y/room.json", "deep/Plain Folder/project.json"):
        assert "merge: topion" in clone.git("check-attr", "merge", "--", path).stdout
    for path in ("notes.json", "a/b.rows"):
        assert "unspecified" in clone.git("check-attr", "merge", "--", path).stdout


def test_files_of_others_among_ours_are_merged_as_git_does(clones):
    ours, theirs = clones
    lines = "".join(f"{n}\n" for n in range(9))
    (ours.place / "notes.json").write_text(lines)
    ours.commit()
    theirs.take_from(ours)
    assert theirs.merges()
    for clone, old, new in ((ours, "0\n", "top\n"), (theirs, "8\n", "end\n")):
        (clone.place / "notes.json").write_text(lines.replace(old, new))
        clone.commit()
    ours.take_from(theirs)
    assert ours.merges()
    assert (ours.place / "notes.json").read_text().split() == ["top", *"1234567", "end"]


def test_a_revision_is_read_as_it_was(clones):
    ours, _ = clones
    before = ours.read()
    lays(ours, "Stones", (2, 2))
    repository = Repository.of(ours.place)
    assert differences(project_of(repository.tree("HEAD")), ours.read()) == []
    assert differences(project_of(repository.tree("HEAD~1")), before) == []
    assert [subject.split("  ")[1] for _, subject in repository.history()] == ["Work", "Begin"]
    with pytest.raises(GitTrouble, match="nowhere"):
        repository.tree("nowhere")
    with pytest.raises(GitTrouble):
        repository.tree("--output=x")


def test_outside_a_repository_it_is_said(tmp_path, capsys):
    assert main(["git-setup", str(tmp_path)]) == 2
    assert "git cannot be used: not a git repository" in capsys.readouterr().err
    assert main(["git-setup", str(tmp_path / "no")]) == 2


@pytest.mark.parametrize("seed", range(3))
def test_random_lives_go_through_git_and_stay_sound(tmp_path, seed):
    ours, theirs = two_clones(tmp_path)
    for turn in range(4):
        live(ours, f"ours {seed} {turn}", 3)
        live(theirs, f"theirs {seed} {turn}", 3)
        theirs.take_from(ours)
        how = ("merge", "rebase")[turn % 2]
        words = ("merge", "-q", "--no-edit") if how == "merge" else ("rebase", "-q")
        done = theirs.git(*words, "theirs", fails=True)
        for _ in range(9):
            if done.returncode == 0:
                break
            if "modify/delete" in done.stdout or "rename" in done.stdout:
                main(["git-merge", str(theirs.root)])
            theirs.read()
            theirs.git("add", "--all")
            rest = ("commit", "-q", "--no-edit") if how == "merge" else ("rebase", "--continue")
            done = theirs.git(*rest, fails=True)
        project = theirs.read()
        ours.git("fetch", "-q", str(theirs.root), "HEAD")
        ours.git("reset", "-q", "--hard", "FETCH_HEAD")
        assert differences(ours.read(), project) == []


def test_copies_of_a_repository_give_numbers_of_their_own(clones):
    given = []
    for clone in clones:
        handle = scripting.open(clone.place, clone=clone_of(clone.place))
        room = handle.room("Yard")
        room.lay("Bush", cells=[(2, 2)])
        room.lay("Bush", cells=[(5, 5)])
        given.append({*room.data.layers["things"].things})
        clone.save(handle)
    assert given[0].isdisjoint(given[1]) and all(max(own) - min(own) == 1 for own in given)
    assert [{*clone.read().room("Yard").layers["things"].things} for clone in clones] == given
    assert clone_of(clones[0].root.parent) == ""


def test_one_renames_a_brush_while_the_other_changes_it(clones):
    ours, theirs = clones
    handle = ours.open()
    handle.rename("brushes", "Stones", "Pebbles")
    ours.save(handle)
    handle = theirs.open()
    handle.add_brush(handle.data.brush("Stones").changed(seed=77))
    theirs.save(handle)
    theirs.take_from(ours)
    theirs.git("rebase", "-q", "theirs")
    assert theirs.read().brush("Pebbles").seed == 77
    assert list(theirs.read().shelf("conflicts")) == []
