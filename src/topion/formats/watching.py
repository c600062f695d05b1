"""A project folder that is watched: which rooms each save changed."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path

from topion.errors import BadFile
from topion.formats.files import INDEX, PENDING, own_files
from topion.formats.folder import read_index
from topion.formats.room_files import room_path
from topion.pictures.png import read_bytes

_State = dict[str, tuple[int, int, int]]  # size, time and inode of each file


def saves_of(folder: Path, wait: Callable[[], object]) -> Iterator[frozenset[str] | None]:
    """Once at the start, and then after each save the names of the rooms that it changed; None for
    all of them, as at the start and where the library was changed.

    wait : until the next look.  Raises BadFile if there is no project.
    """
    if not (folder / INDEX).is_file():
        raise BadFile(folder, f"is no project folder: it holds no {INDEX}")
    known = _state(folder)
    yield None
    while True:
        wait()
        now = _state(folder)
        if now == known or (folder / PENDING).exists():
            continue
        wait()
        if _state(folder) != now:  # it is being written
            continue
        changed = {name for name in {*known, *now} if known.get(name) != now.get(name)}
        known = now
        yield _rooms(folder, changed)


def _state(folder: Path) -> _State:
    found: _State = {}
    with suppress(OSError):
        for name in own_files(folder):
            with suppress(OSError):
                about = os.lstat(folder / name)
                found[name] = about.st_size, about.st_mtime_ns, about.st_ino
    return found


def _rooms(folder: Path, changed: set[str]) -> frozenset[str] | None:
    """The rooms whose files those are; None where others are among them."""
    try:
        paths = {
            room_path(name): name for name in read_index(read_bytes(folder / INDEX)).values["rooms"]
        }
    except (BadFile, OSError):
        return None
    owners = {name.rpartition("/")[0] for name in changed}
    if not owners <= paths.keys():
        return None
    return frozenset(paths[owner] for owner in owners)
