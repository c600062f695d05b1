"""Saving a folder so that a full disk or a pulled plug leaves the old state whole.

A first save is written into a folder beside the wanted one, which then gets its name.  Later ones
write new contents beside the old files and flush them; then one small file lists what is to be
renamed.  From the moment that is on disk the save is done, and whoever opens the folder next
finishes the renaming.
"""

from __future__ import annotations

import fcntl
import json
import os
import shutil
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from uuid import uuid4

from topion.errors import BadFile, TopionError
from topion.formats.files import ASIDE, PENDING, digest_of, inside, mark_of, place_in
from topion.formats.text import parse_json
from topion.pictures.png import read_bytes


class CannotSave(TopionError):
    def __init__(self, path: Path, reason: str, *, done: bool = False) -> None:
        rest = "the next opening puts it in place" if done else "what was there is unchanged"
        super().__init__(f"{path} cannot be saved: {reason}; {rest}")


@dataclass
class Staged:
    """Files that are written but not in place yet.

    folder : the one that is to hold them.  at : where they are written; another folder for a
    first save.  digests : of those written, by name.  gone : names that are to go.
    """

    folder: Path
    at: Path
    digests: dict[str, str] = field(default_factory=dict)
    gone: list[str] = field(default_factory=list)
    _lock: int = -1
    _listed: bool = False

    @property
    def is_first(self) -> bool:
        return self.at != self.folder

    def path(self, name: str) -> Path:
        """Where the file lies until it is in place."""
        return self.at / name if self.is_first else self.at / (name + ASIDE)

    def put(self, name: str, data: bytes) -> None:
        """Write a file and flush it."""
        path = self.path(name)
        _make_folders(self.at, Path(name).parent)
        write_new(path, data)
        self.digests[name] = digest_of(data)

    def drop(self) -> None:
        """Take away what was written; the folder is as it was."""
        if self.is_first:
            shutil.rmtree(self.at, ignore_errors=True)
        else:
            for name in self.digests:
                with suppress(OSError):
                    self.path(name).unlink(missing_ok=True)
        self.close()

    def place(self) -> None:
        """Put all of it in place; after an error the folder holds the old state or the new one,
        or is finished by whoever opens it next."""
        if self.is_first:
            _flush_below(self.at)
            os.rename(self.at, self.folder)
            self._listed = True
            _flush(self.folder.parent)
        elif self.digests or self.gone:
            for parent in {Path(name).parent for name in self.digests}:
                _flush(self.folder / parent)
            listed = {"rename": self.digests, "remove": sorted(self.gone)}
            pending = self.folder / (PENDING + ASIDE)
            write_new(pending, json.dumps(listed).encode())
            os.replace(pending, self.folder / PENDING)
            self._listed = True
            _flush(self.folder)
            finish_save(self.folder)
        self.close()

    @property
    def is_listed(self) -> bool:
        """Whether the save is done but for the renaming, which the next opening finishes."""
        return self._listed

    def close(self) -> None:
        if self._lock >= 0:
            os.close(self._lock)
        self._lock = -1


def staged(folder: Path) -> Staged:
    """Begin a save into a folder, which may not be there yet.  Raises OSError, BadFile."""
    folder = folder.resolve()
    if folder.is_dir() and any(folder.iterdir()):
        finish_save(folder)
        return Staged(folder, folder)
    folder.parent.mkdir(parents=True, exist_ok=True)
    for left in folder.parent.glob(f".{_escaped(folder.name[:80])}.*.saving"):
        _remove_left(left)
    at = folder.parent / f".{folder.name[:80]}.{uuid4().hex[:8]}.saving"
    try:
        at.mkdir()
    except PermissionError:
        if folder.is_dir():  # an empty folder where no other may be made beside it
            return Staged(folder, folder)
        raise
    made = Staged(folder, at, _lock=os.open(at, os.O_RDONLY | os.O_CLOEXEC))
    with suppress(OSError):
        fcntl.flock(made._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    return made


def _escaped(name: str) -> str:
    return "".join(f"[{sign}]" if sign in "*?[" else sign for sign in name)


def _remove_left(left: Path) -> None:
    """What a first save that was cut off had written; nobody else is at it."""
    with suppress(OSError):
        handle = os.open(left, os.O_RDONLY | os.O_DIRECTORY | os.O_NOFOLLOW)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            shutil.rmtree(left, ignore_errors=True)
        finally:
            os.close(handle)


def finish_save(folder: Path) -> None:
    """Do the renames that a save had listed; nothing to do in most cases.

    Raises BadFile where a file of it is missing: the folder then holds neither state.
    """
    pending = folder / PENDING
    if not os.path.lexists(pending):
        return
    renames, removes = _listed(folder)
    for name, digest in renames.items():
        target = place_in(folder, name)
        aside = target.with_name(target.name + ASIDE)
        if mark_of(folder, name + ASIDE, None) is None:
            there = mark_of(folder, name, None)
            if there is None or (digest and there.digest != digest):
                reason = f"{name}{ASIDE} is missing, so an earlier save cannot be finished"
                raise BadFile(folder.name, reason)
            continue
        os.replace(aside, target)
    gone = [place_in(folder, name) for name in removes]
    for path in gone:
        path.unlink(missing_ok=True)
    for path in gone:
        if path.parent.parent.name == "rooms":
            with suppress(OSError):
                path.parent.rmdir()  # the folder of a room that is no more
    for parent in {Path(name).parent for name in (*renames, *removes)}:
        if (folder / parent).is_dir():
            _flush(folder / parent)
    pending.unlink()  # should it come back, all that it lists is in place


def _listed(folder: Path) -> tuple[dict[str, str], list[str]]:
    """What is to be renamed, with the digest of its contents, and what is to be removed."""
    damaged = BadFile(PENDING, "is damaged, so an earlier save cannot be finished")
    found = parse_json(read_bytes(inside(folder, PENDING), 1 << 26), PENDING)
    if not isinstance(found, dict):
        raise damaged
    renames, removes = found.get("rename"), found.get("remove")
    if isinstance(renames, list):  # as it was written before digests stood there
        renames = dict.fromkeys((str(name) for name in renames), "")
    if not isinstance(renames, dict) or not isinstance(removes, list):
        raise damaged
    names = (*renames, *renames.values(), *removes)
    if not all(isinstance(name, str) and "\0" not in name and len(name) < 4096 for name in names):
        raise damaged
    for name in (*renames, *removes):
        if not name or name in (".", PENDING):
            raise damaged
    return renames, removes


def _make_folders(folder: Path, below: Path) -> None:
    """The folders of a path, none of them through a link.  Raises OSError."""
    at = folder
    for step in below.parts:
        at = at / step
        if at.is_symlink():
            raise OSError(20, "a link stands where a folder should be", str(at))
        at.mkdir(exist_ok=True)


def write_new(path: Path, data: bytes) -> None:
    """Write and flush a file; what stands in its place is removed, never followed."""
    if os.path.lexists(path):
        if path.is_dir() and not path.is_symlink():
            shutil.rmtree(path)
        else:
            path.unlink()
    flags = os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW | os.O_CLOEXEC
    with open(os.open(path, flags, 0o666), "wb") as out:
        out.write(data)
        out.flush()
        os.fsync(out.fileno())


def _flush(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _flush_below(folder: Path) -> None:
    for at, _, _ in os.walk(folder):
        _flush(Path(at))


def holds(path: Path, data: bytes) -> bool:
    """Whether a plain file holds exactly that."""
    try:
        if path.is_symlink() or path.stat().st_size != len(data):
            return False
        return read_bytes(path) == data
    except (OSError, BadFile):
        return False


__all__ = ["PENDING", "CannotSave", "Staged", "finish_save", "holds", "staged"]
