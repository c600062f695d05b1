"""Two people paint in one room, and git puts it together."""

from __future__ import annotations

import shutil
import subprocess
import sys

import pytest

import topion
from tests.journeys.newcomer import Newcomer
from tests.team.repositories import Clone

pytestmark = pytest.mark.skipif(shutil.which("git") is None, reason="git is not installed")


def test_two_people_paint_in_one_room_through_git(newcomer: Newcomer):
    newcomer.begin("Game")
    newcomer.save()
    newcomer.key("Ctrl+W")
    newcomer.find("Projects to go on with")
    mine, yours = Clone(newcomer.home), Clone(newcomer.home / "yours")
    mine.git("init", "-q", "-b", "main")
    _set_up(mine)
    (mine.root / ".gitignore").write_text("yours\n")
    mine.commit("Begin")
    mine.git("clone", "-q", str(mine.root), str(yours.root))
    _set_up(yours)

    _paint(newcomer, yours, "Wall, weave", ((5, 30), (9, 38)), ((12, 18), (14, 24)))
    yours.commit("A wall in the east")
    _paint(newcomer, mine, "Ground, weave", ((5, 5), (9, 12)), ((12, 16), (14, 22)))
    mine.commit("Ground in the west")

    mine.git("fetch", "-q", str(yours.root), "+HEAD:refs/heads/theirs")
    assert mine.git("merge", "theirs", fails=True).returncode != 0  # both changed some cells
    _open(newcomer, mine)
    room = topion.open(mine.place).room("Room 1")
    assert (room.material(7, 8), room.material(7, 34)) == ("Ground", "Wall")
    newcomer.await_words("ours stands")
    newcomer.click("Theirs")
    newcomer.until(lambda: not newcomer.sees("ours stands"))
    newcomer.save()
    mine.git("add", "--all")
    mine.git("commit", "-q", "-m", "Together")
    after = topion.open(mine.place).room("Room 1")
    assert after.material(13, 20) == "Wall" and after.material(13, 17) == "Ground"
    assert mine.git("status", "--porcelain").stdout == ""


def _set_up(clone: Clone) -> None:
    command = [sys.executable, "-m", "topion", "git-setup", str(clone.root)]
    subprocess.run(command, check=True, capture_output=True)


def _open(newcomer: Newcomer, clone: Clone) -> None:
    newcomer.key("Ctrl+O")
    newcomer.answer_file(clone.place)
    newcomer.until(lambda: newcomer.window.session.handle.folder == clone.place)


def _paint(newcomer: Newcomer, clone: Clone, card: str, *boxes) -> None:
    _open(newcomer, clone)
    newcomer.click(card)
    newcomer.key("B")
    for first, last in boxes:
        newcomer.stroke(first, last)
    newcomer.save()
