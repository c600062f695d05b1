"""Saving a folder so that a full disk or a pulled plug leaves the old state whole.

New contents are first written beside the old files and flushed.  Then one small file lists
what is to be renamed; from the moment it is on disk the save is done, and whoever opens the
folder next finishes the renaming.
"""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Iterable
from pathlib import Path

from topion.errors import BadFile, TopionError

PENDING = "saving.json"
_ASIDE = ".new"


class CannotSave(TopionError):
    def __init__(self, path: Path, problem: OSError) -> None:
        reason = problem.strerror or str(problem)
        super().__init__(f"{path} cannot be saved: {reason}; what was there is unchanged")


def write_folder(
    folder: Path,
    files: Iterable[tuple[str, bytes]],
    gone: Callable[[], Iterable[str]],
    each: Callable[[str], None] | None = None,
) -> None:
    """Make `folder` hold `files`, by relative path, and no longer what is `gone`, asked for when
    all of them are written aside.

    Files that are already so are not touched.  Raises CannotSave; whatever `each` raises
    between files stops the save with the old state whole.
    """
    written: list[str] = []
    try:
        folder.mkdir(parents=True, exist_ok=True)
        finish_save(folder)
        for name, data in files:
            if each:
                each(name)
            if not _holds(folder / name, data):
                _write_aside(folder / name, data)
                written.append(name)
        removed = sorted(gone())
        if written or removed:
            pending = json.dumps({"rename": written, "remove": removed}).encode()
            _write_aside(folder / PENDING, pending)
            os.replace(folder / (PENDING + _ASIDE), folder / PENDING)
            _flush_folder(folder)
            finish_save(folder)
    except BaseException as problem:
        if not (folder / PENDING).exists():  # once it is there, the new files are the truth
            for name in written:
                (folder / (name + _ASIDE)).unlink(missing_ok=True)
        if isinstance(problem, OSError):
            raise CannotSave(folder, problem) from None
        raise


def finish_save(folder: Path) -> None:
    """Do the renames that a save had listed; nothing to do in most cases."""
    pending = folder / PENDING
    if not pending.exists():
        return
    try:
        listed = json.loads(pending.read_bytes())
        renames, removes = list(listed["rename"]), list(listed["remove"])
    except (ValueError, KeyError, TypeError):
        raise BadFile(PENDING, "is damaged, so an earlier save cannot be finished") from None
    for name in renames:
        target = inside(folder, str(name))
        if target.with_name(target.name + _ASIDE).exists():
            os.replace(target.with_name(target.name + _ASIDE), target)
    for name in removes:
        inside(folder, str(name)).unlink(missing_ok=True)
    _flush_folder(folder)
    pending.unlink()


def inside(folder: Path, name: str) -> Path:
    """The path of `name` in `folder`; raises BadFile if it would lead out of it."""
    path = folder / name
    steps = Path(name).parts
    plain = ".." not in steps and not os.path.isabs(name)
    at = str(folder)
    for step in steps if plain else ():
        at = os.path.join(at, step)
        if os.path.islink(at):
            plain = False
            break
    if not plain and folder.resolve() not in path.resolve().parents:
        raise BadFile(name, "leads out of the project folder")
    return path


def _write_aside(path: Path, data: bytes) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    with open(path.with_name(path.name + _ASIDE), "wb") as out:
        out.write(data)
        out.flush()
        os.fsync(out.fileno())


def _flush_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _holds(path: Path, data: bytes) -> bool:
    try:
        return path.stat().st_size == len(data) and path.read_bytes() == data
    except OSError:
        return False
