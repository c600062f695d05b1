"""Files of a project folder: read whole and bounded, never through links that lead out of it."""

from __future__ import annotations

import hashlib
import json
import os
import re
import stat
import time
from collections.abc import Iterable, Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

from topion.errors import BadFile, TopionError
from topion.model.shelves import SHELVES, TABLES
from topion.pictures.png import read_bytes

ASIDE = ".new"  # behind the name of a file that is written beside the old one
PENDING = "saving.json"
INDEX = "project.json"
FOREIGN = re.compile(r"[a-z][a-z_]{0,40}")  # how a shelf of an extension may be called
_MOST_INDEX = 1 << 24  # bytes
_COARSE_NS = 50_000_000  # within which two changes may bear the same time


@dataclass(frozen=True)
class FileMark:
    """What a file held when it was last read or written, and how to tell that it still does.

    noted_ns : when; times of files are coarse, so one that was changed just before may be changed
    again and look the same.
    """

    size: int
    mtime_ns: int
    ctime_ns: int
    inode: int
    digest: str
    noted_ns: int = field(default=0, compare=False)

    @classmethod
    def of(cls, about: os.stat_result, digest: str) -> FileMark:
        times = about.st_mtime_ns, about.st_ctime_ns
        return cls(about.st_size, *times, about.st_ino, digest, time.time_ns())

    def fits(self, about: os.stat_result) -> bool:
        """Whether a file so described holds the same, without reading it."""
        settled = self.noted_ns - max(self.mtime_ns, self.ctime_ns) > _COARSE_NS
        return settled and FileMark.of(about, self.digest) == self


Marks = dict[str, FileMark]


def digest_of(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def state_of(digests: Iterable[tuple[str, str]]) -> str:
    """One text for what a folder holds, from (name, digest) of its own files in any order."""
    whole = hashlib.sha256()
    for name, digest in sorted(digests):
        whole.update(f"{name}\0{digest}\n".encode())
    return whole.hexdigest()


def marks_of(folder: Path, known: Marks) -> Marks:
    """Marks of all own files of a folder; those that did not change are not read again."""
    found: Marks = {}
    for name in own_files(folder):
        about = os.lstat(folder / name)
        mark = known.get(name)
        if mark is None or not mark.fits(about):
            mark = FileMark.of(about, digest_of(read_bytes(inside(folder, name))))
        found[name] = mark
    return found


def mark_of(folder: Path, name: str, known: FileMark | None) -> FileMark | None:
    """The mark of one file as it is now; None if it is not there, or no plain file."""
    try:
        about = os.lstat(folder / name)
        if not stat.S_ISREG(about.st_mode):
            return None
        if known is not None and known.fits(about):
            return known
        return FileMark.of(about, digest_of(read_bytes(folder / name)))
    except (OSError, TopionError):
        return None


def own_files(folder: Path) -> Iterator[str]:
    """Plain files that are ours by their place and name, as paths in the folder."""
    more = foreign_shelves(folder)
    for name in (INDEX, *_below(folder, (*SHELVES, *sorted(more))), *_rooms(folder)):
        try:
            if is_own(name, more) and stat.S_ISREG(os.lstat(folder / name).st_mode):
                yield name
        except OSError:
            continue


def foreign_shelves(folder: Path) -> frozenset[str]:
    """The shelves that the index of a project folder lists and nobody here knows: those of
    extensions that are missing."""
    with suppress(OSError, TopionError):
        return foreign_in(read_bytes(inside(folder, INDEX), _MOST_INDEX))
    return frozenset()


def foreign_in(index: bytes) -> frozenset[str]:
    """The same from the bytes of project.json; none where it is not sound."""
    try:
        plain = json.loads(index)
    except (ValueError, RecursionError):
        return frozenset()
    known = {*SHELVES, *TABLES, "rooms", "unsettled"}
    return frozenset(
        key for key, value in (plain.items() if isinstance(plain, dict) else ())
        if key not in known and FOREIGN.fullmatch(key) and isinstance(value, list)
    )  # fmt: skip


def _below(folder: Path, parts: Iterable[str]) -> Iterator[str]:
    for part in parts:
        if not os.path.islink(folder / part) and os.path.isdir(folder / part):
            yield from (f"{part}/{entry}" for entry in os.listdir(folder / part))


def _rooms(folder: Path) -> Iterator[str]:
    yield from _below(folder, list(_below(folder, ("rooms",))))


def is_own(name: str, more: Iterable[str] = ()) -> bool:
    """Whether a path in a project folder is that of a file of ours.  more : shelves beside those
    that are known here."""
    shelves = "|".join(re.escape(shelf) for shelf in (*SHELVES, *more))
    ours = rf"project\.json|({shelves})/[^/]+\.(json|png)|rooms/[^/]+/[^/]+\.(json|rows)"
    return re.fullmatch(ours, name) is not None


def own_path(path: str) -> str | None:
    """The part of a path that leads to a file of ours within its project; None for any other."""
    parts = [part for part in path.replace("\\", "/").split("/") if part]
    for first in range(len(parts)):
        name = "/".join(parts[first:])
        if is_own(name):
            return name
    return None


def inside(folder: Path, name: str) -> Path:
    """The path of `name` in `folder`; raises BadFile if it would lead out of it."""
    path = folder / name
    steps = Path(name).parts
    plain = ".." not in steps and not os.path.isabs(name) and "\0" not in name
    at = str(folder)
    for step in steps if plain else ():
        at = os.path.join(at, step)
        if os.path.islink(at):
            plain = False
            break
    if not plain and not _leads_inside(folder, path):
        raise BadFile(name, "leads out of the project folder")
    return path


def place_in(folder: Path, name: str) -> Path:
    """The same for a file that is replaced or removed: a link in its place goes, unfollowed."""
    path = Path(name)
    if path.name in ("", "..") or path.is_absolute():
        raise BadFile(name, "leads out of the project folder")
    parent = folder if path.parent == Path() else inside(folder, str(path.parent))
    return parent / path.name


def _leads_inside(folder: Path, path: Path) -> bool:
    try:
        return folder.resolve() in path.resolve().parents
    except (OSError, RuntimeError, ValueError):  # links in a ring, or no path at all
        return False


def belongs_to(path: Path) -> Path | None:
    """The project folder that a file at `path` would be a part of, as one of its own files."""
    try:
        place = path.parent.resolve() / path.name
    except (OSError, RuntimeError):
        return None
    for folder in place.parents:
        name = place.relative_to(folder).as_posix()
        own = is_own(name) or name == PENDING or name.endswith(ASIDE)
        if own and (folder / INDEX).exists():
            return folder
    return None
