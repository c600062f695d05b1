"""Making git put projects together by cell, thing and item instead of line by line.

git asks two things of us, by the names that `.gitattributes` gives to files: how three versions of
a file become one, and how the change of a file is told.
"""

from __future__ import annotations

import os
import secrets
import shlex
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

from topion.formats.files import INDEX
from topion.formats.store import SUFFIX
from topion.merging.git import GitTrouble, git, git_program

ATTRIBUTES = ".gitattributes"
_BEGIN, _END = "# Topion projects", "# end of Topion projects"
ENDS = ("json", "rows", "png")  # of the files of a project
_DEEPEST = 8  # folders in which projects are looked for


def set_up(folder: Path) -> Iterator[str]:
    """Set a repository up; what was done, a line each.  Raises GitTrouble."""
    if not folder.is_dir():
        raise GitTrouble(f"{folder} is {'no folder' if folder.exists() else 'missing'}")
    root = Path(git(folder, "rev-parse", "--show-toplevel").rstrip("\n"))
    words = _program()
    settings = {
        "merge.topion.name": "Topion: by cell, thing and item",
        "merge.topion.driver": f"{words} merge --file %P %O %A %B",
        "diff.topion.command": f"{words} git-diff",
    }
    for key, value in settings.items():
        git(root, "config", key, value)
    if not _known(root, "topion.clone"):
        git(root, "config", "topion.clone", secrets.token_hex(8))
    yield f"git of {root} asks Topion how its projects are put together, and what changed in them"
    patterns = [f"**/*{SUFFIX}/**/*.{end}" for end in ENDS]
    patterns += (f"{path}/**/*.{end}" for path in _others(root) for end in ENDS)
    changed = _write_attributes(root / ATTRIBUTES, patterns)
    if changed:
        yield f"{ATTRIBUTES} names the files; commit it, so that all who work here have it"
    yield "everybody who has a copy of the repository runs `topion git-setup` in it once"


def merge_lines(base: Path, ours: Path, theirs: Path) -> int:
    """Put files that are none of a project together as git itself does; how many conflicts."""
    words = [git_program(), "merge-file", "-q", str(ours), str(base), str(theirs)]
    return min(1, abs(subprocess.run(words).returncode))


def _known(root: Path, key: str) -> str:
    try:
        return git(root, "config", "--get", key).strip()
    except GitTrouble:
        return ""


def _program() -> str:
    """How git calls us, whatever folder it is in."""
    return f"{shlex.quote(sys.executable)} -m topion"


def _others(root: Path) -> Iterator[str]:
    """Patterns for projects whose folders are not called like projects."""
    for at, names, files in os.walk(root):
        folder = Path(at)
        names[:] = [name for name in names if name != ".git"]
        if len(folder.relative_to(root).parts) >= _DEEPEST:
            names.clear()
        if INDEX in files and (folder / "rooms").is_dir():
            names.clear()
            if not folder.name.endswith(SUFFIX):
                path = folder.relative_to(root).as_posix()
                yield "" if path == "." else f"/{_escaped(path)}"


def _escaped(path: str) -> str:
    """A path as a pattern; any sign stands for one that means something in patterns."""
    return "".join("?" if sign in '\\*?[]!#"\t ' else sign for sign in path)


def _write_attributes(path: Path, patterns: list[str]) -> bool:
    """Put our lines into the file, in the place of those of an earlier time; whether it changed."""
    before = path.read_text(encoding="utf-8", errors="surrogateescape") if path.is_file() else ""
    lines = before.splitlines()
    if _BEGIN in lines and _END in lines[lines.index(_BEGIN) :]:
        first = lines.index(_BEGIN)
        del lines[first : lines.index(_END, first) + 1]
    own = [_BEGIN, *(f"{pattern} merge=topion diff=topion -text" for pattern in patterns), _END]
    after = "\n".join([*lines, *own]) + "\n"
    if after == before:
        return False
    path.write_text(after, encoding="utf-8", errors="surrogateescape")
    return True
