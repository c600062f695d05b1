"""The program git, asked for what it knows."""

from __future__ import annotations

import shutil
import subprocess
from pathlib import Path

from topion.errors import TopionError


class GitTrouble(TopionError):
    def __init__(self, reason: str) -> None:
        super().__init__(f"git cannot be used: {reason}")


def git_program() -> str:
    """Where it is.  Raises GitTrouble."""
    program = shutil.which("git")
    if program is None:
        raise GitTrouble("the program git is not installed")
    return program


def clone_of(folder: Path) -> str:
    """What tells the copy of a repository in which a folder lies from others; empty where none
    was set up."""
    if not any(
        (above / ".git").exists() for above in (folder.resolve(), *folder.resolve().parents)
    ):
        return ""
    try:
        return git(folder, "config", "--get", "topion.clone").strip()[:64]
    except GitTrouble:
        return ""


def git(folder: Path, *words: str) -> str:
    """What git says.  Raises GitTrouble."""
    try:
        done = subprocess.run([git_program(), "-C", str(folder), *words], capture_output=True)
    except OSError as problem:
        raise GitTrouble(problem.strerror or str(problem)) from None
    if done.returncode:
        told = done.stderr.decode(errors="replace").strip().splitlines()
        asked = (
            f"it does not know {words[-1].removesuffix('^{commit}')}"
            if "--verify" in words
            else f"exit {done.returncode}"
        )
        raise GitTrouble(told[0].removeprefix("fatal: ") if told else asked)
    return done.stdout.decode(errors="replace")
