"""Repositories of real git in which people work on one project."""

from __future__ import annotations

import os
import random
import subprocess
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from tests.both_kinds import both_kinds
from tests.trust.randoms import take
from topion import scripting
from topion.edit.history import History
from topion.errors import TopionError
from topion.formats.folder import read_project
from topion.git_setup import set_up
from topion.model.project import Project
from topion.scripting import ProjectHandle

NAME = "Game.topion"
_WHO = {f"GIT_{role}_{what}": value for role in ("AUTHOR", "COMMITTER")
        for what, value in (("NAME", "Somebody"), ("EMAIL", "somebody@example.org"))}  # fmt: skip
_QUIET = {"GIT_EDITOR": "true", "GIT_CONFIG_GLOBAL": os.devnull, "GIT_CONFIG_SYSTEM": os.devnull}


@dataclass(frozen=True)
class Clone:
    """One person's copy of the repository."""

    root: Path

    @property
    def place(self) -> Path:
        return self.root / NAME

    def git(self, *words: str, fails: bool = False) -> subprocess.CompletedProcess[str]:
        environment = {**os.environ, **_WHO, **_QUIET}
        done = subprocess.run(["git", "-C", str(self.root), *words], capture_output=True,
                              text=True, env=environment)  # fmt: skip
        assert fails or done.returncode == 0, f"{words}: {done.stdout}{done.stderr}"
        return done

    def commit(self, what: str = "Work") -> None:
        self.git("add", "--all")
        self.git("commit", "-q", "-m", what, fails=True)

    def open(self) -> ProjectHandle:
        handle = scripting.open(self.place)
        handle.history = History(handle.data)
        return handle

    def save(self, handle: ProjectHandle, what: str = "Work") -> None:
        handle.save()
        self.commit(what)

    def take_from(self, other: Clone) -> None:
        """Hear of what another one committed, as `theirs`."""
        self.git("fetch", "-q", str(other.root), "+HEAD:refs/heads/theirs")

    def merges(self) -> bool:
        """Merge with `theirs`; whether it goes through."""
        return self.git("merge", "-q", "--no-edit", "theirs", fails=True).returncode == 0

    def read(self) -> Project:
        """The project as it lies there, with all its rooms."""
        project = read_project(self.place)
        for name in project.rooms:
            project.rooms[name]
        return project


def two_clones(folder: Path, first: ProjectHandle | None = None) -> tuple[Clone, Clone]:
    """Of one repository with one project, set up in both."""
    ours, theirs = Clone(folder / "ours"), Clone(folder / "theirs")
    ours.root.mkdir(parents=True)
    ours.git("init", "-q", "-b", "main")
    (first or both_kinds()).save(ours.place)
    list(set_up(ours.root))
    ours.commit("Begin")
    subprocess.run(["git", "clone", "-q", str(ours.root), str(theirs.root)], check=True)
    list(set_up(theirs.root))
    return ours, theirs


def live(clone: Clone, seed: str, steps: int) -> None:
    """Random edits of every kind, saved and committed."""
    handle, chance = clone.open(), random.Random(seed)
    for _ in range(steps):
        with suppress(TopionError):
            take(handle, chance)
    clone.save(handle, seed)
