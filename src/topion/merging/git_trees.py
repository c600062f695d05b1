"""Versions of a project that git keeps."""

from __future__ import annotations

import subprocess
from dataclasses import dataclass
from pathlib import Path

from topion.errors import TopionError
from topion.formats.files import INDEX, foreign_in, is_own
from topion.formats.packing import MOST_FILES, MOST_PACKED
from topion.merging.git import GitTrouble, git, git_program
from topion.merging.trees import FilesTree


@dataclass(frozen=True)
class Repository:
    """root : the folder git works in.  path : of the project in it, with a / behind, or empty."""

    root: Path
    path: str

    @classmethod
    def of(cls, folder: Path) -> Repository:
        """That in which a project folder lies.  Raises GitTrouble."""
        root = Path(git(folder, "rev-parse", "--show-toplevel").rstrip("\n"))
        path = folder.resolve().relative_to(root.resolve()).as_posix()
        return cls(root, "" if path == "." else f"{path}/")

    def tree(self, revision: str) -> FilesTree:
        """The project as it is in a revision.  Raises GitTrouble."""
        listed = git(self.root, "ls-tree", "-r", "-l", "-z", "--full-tree", self.commit(revision),
                     "--", self.path or ".")  # fmt: skip
        blobs: dict[str, str] = {}
        size = 0
        more = foreign_in(self._index(revision))
        for line in listed.split("\0"):
            about, _, name = line.partition("\t")
            own = name.removeprefix(self.path)
            mode, kind, blob, many = (*about.split(), "", "", "", "")[:4]
            if kind == "blob" and mode != "120000" and is_own(own, more):
                if not many.isdecimal():
                    raise TopionError(_not_given(own))
                blobs[own] = blob
                size += int(many)
        if len(blobs) > MOST_FILES or size > MOST_PACKED:
            most = f"{MOST_FILES:,} files or {MOST_PACKED >> 30} GiB"
            raise TopionError(f"{revision} holds more than is read: {most}")
        return FilesTree(_contents(self.root, blobs))

    def _index(self, revision: str) -> bytes:
        """project.json there; nothing where there is none."""
        try:
            return git(self.root, "show", f"{self.commit(revision)}:{self.path}{INDEX}").encode()
        except GitTrouble:
            return b""

    def commit(self, revision: str) -> str:
        """The full name of a revision.  Raises GitTrouble for what is none."""
        return git(self.root, "rev-parse", "--verify", "--quiet", "--end-of-options",
                   f"{revision}^{{commit}}").strip()  # fmt: skip

    def history(self, most: int = 50) -> list[tuple[str, str]]:
        """(short name, day and subject) of the latest revisions that changed the project."""
        told = git(self.root, "log", f"-{most}", "--format=%h%x09%cs  %s", "--",
                   self.path or ".")  # fmt: skip
        lines = (line.split("\t", 1) for line in told.splitlines())
        return [(line[0], line[1]) for line in lines if len(line) == 2]


def _contents(root: Path, blobs: dict[str, str]) -> dict[str, bytes]:
    """What blobs hold, by the names they go by."""
    if not blobs:
        return {}
    asked = "".join(f"{blob}\n" for blob in blobs.values()).encode()
    done = subprocess.run([git_program(), "-C", str(root), "cat-file", "--batch"],
                          input=asked, capture_output=True)  # fmt: skip
    found: dict[str, bytes] = {}
    data, at = done.stdout, 0
    for name in blobs:
        end = data.find(b"\n", at)
        words = data[at:end].split()
        if len(words) != 3:
            raise TopionError(_not_given(name))
        size = int(words[2])
        found[name] = data[end + 1 : end + 1 + size]
        at = end + 2 + size
    return found


def _not_given(name: str) -> str:
    return f"git does not give {name} out: its object is missing or damaged"
