"""Every file operation of a save fails, or is the last thing the process does."""

from __future__ import annotations

import os
import resource
import shutil
import signal
import sys
import traceback
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import topion
from tests.rooms import small_room
from topion.errors import TopionError
from topion.model.compare import differences
from topion.model.project import Project

OPERATIONS = ("open", "fsync", "replace", "rename", "unlink", "mkdir", "rmdir")
Fault = Callable[[], None]


@contextmanager
def operations(fault: Fault, at: int) -> Iterator[list[str]]:
    """Call `fault` instead of the operation number `at`; gives the names of those that came."""
    seen: list[str] = []
    real = {name: getattr(os, name) for name in OPERATIONS}

    def watched(name: str) -> Callable[..., object]:
        def operation(*args: object, **named: object) -> object:
            reads = name == "open" and not _writes(args, named)
            if not reads:
                seen.append(name)
                if len(seen) - 1 == at:
                    fault()
            return real[name](*args, **named)

        return operation

    for name in OPERATIONS:
        setattr(os, name, watched(name))
    try:
        yield seen
    finally:
        for name in OPERATIONS:
            setattr(os, name, real[name])


def _writes(args: tuple[object, ...], named: dict[str, object]) -> bool:
    flags = named.get("flags", args[1] if len(args) > 1 else 0)
    return isinstance(flags, int) and bool(flags & (os.O_WRONLY | os.O_RDWR | os.O_CREAT))


def full_disk() -> None:
    raise OSError(28, "No space left on device")


def killed() -> None:
    os._exit(9)


def in_child(work: Callable[[], None]) -> int:
    """Run something in a process of its own; 0 done, 9 killed, 1 an error nobody expects."""
    child = os.fork()
    if child == 0:
        try:
            work()
            os._exit(0)
        except TopionError:
            os._exit(0)
        except BaseException:
            traceback.print_exc(file=sys.stderr)
            os._exit(1)
    _, status = os.waitpid(child, 0)
    return os.waitstatus_to_exitcode(status)


class Scene:
    """A project saved once and changed since: cells, things, an item, a room that came, one that
    went.  Each fault meets a process of its own, so the scene is set once.

    first : the folder is not there yet.
    """

    def __init__(self, place: Path, *, first: bool) -> None:
        self.folder, self.kept = place / "Scene.topion", place / "Kept.topion"
        self.known: dict[str, Project] = {}
        room = small_room((8, 10))
        self.handle = room.project
        self.handle.add_room("Attic", (5, 5), 4)
        if not first:
            self.known["before"] = self.handle.data.frozen()
            self.handle.save(self.folder)
            shutil.copytree(self.folder, self.kept)
            self._change()
        self.known["after"] = self.handle.data.frozen()
        self.count = self._count()

    def _change(self) -> None:
        handle = self.handle
        handle.room("Yard").lay("Water", box=((1, 1), (4, 4)))
        handle.room("Yard").lay("Lamp", cells=[(6, 6)])
        handle.add_brush(handle.data.brush("Mud").changed(seed=77))
        handle.remove_room("Attic")
        handle.add_room("Loft", (6, 6), 4)

    def reset(self) -> None:
        """The folder is as it was before the save."""
        shutil.rmtree(self.folder, ignore_errors=True)
        if self.kept.exists():
            shutil.copytree(self.kept, self.folder)

    def _count(self) -> int:
        """How many operations the save has."""
        self.reset()
        counted = self.folder.parent / "count"

        def save() -> None:
            with operations(full_disk, -1) as seen:
                self.handle.save(self.folder)
            counted.write_text(str(len(seen)))

        assert in_child(save) == 0
        return int(counted.read_text())

    def state(self) -> str:
        """Which of the known projects the folder holds; "none" where there is no folder."""
        if not self.folder.exists() and "before" not in self.known:
            return "none"
        found = topion.open(self.folder).data
        for name, project in self.known.items():
            if differences(found, project) == []:
                return name
        return "neither"

    def meets(self, fault: Fault, at: int) -> str:
        """What is wrong after a save that met a fault, or nothing."""

        def save() -> None:
            with operations(fault, at):
                self.handle.save(self.folder)

        return self.judged(save)

    def small_disk(self, limit: int) -> str:
        """The same, where no file may grow beyond so many bytes."""

        def save() -> None:
            signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
            resource.setrlimit(resource.RLIMIT_FSIZE, (limit, limit))
            self.handle.save(self.folder)

        return self.judged(save)

    def judged(self, save: Callable[[], None]) -> str:
        self.reset()
        if in_child(save) == 1:
            return "an error nobody expects"
        try:
            if self.state() == "neither":
                return "a folder that holds neither state"
        except TopionError as problem:
            return f"a folder that cannot be opened: {problem}"

        def again() -> None:
            self.handle.save(self.folder, over=True)
            assert self.state() == "after"
            left = [
                p for p in self.folder.parent.rglob("*") if p.name.endswith((".new", ".saving"))
            ]
            assert not left, left

        return "" if in_child(again) == 0 else "the next save is wrong"
