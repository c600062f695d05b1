"""A designer paints, saves, undoes; the process is killed; nothing that was finished is lost.

The child works through the same keeper as the window.  What it did follows from a seed, so the
parent knows what must be there: after as many steps as the child told of, or one more.
"""

from __future__ import annotations

import os
import random
import signal
import sys
import time
import traceback
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import topion
from tests.rooms import small_room
from topion.edit.history import History
from topion.edit.journals import unsaved
from topion.edit.library import put_brush
from topion.errors import TopionError
from topion.model.compare import differences
from topion.scripting import ProjectHandle
from topion.view.keeper import Keeper
from topion.view.opening import brought_back

STEPS = 40


@dataclass
class Step:
    """One thing a designer does.  kind : lay, slide, undo, redo, jump, save or fail."""

    kind: str
    seed: int


def steps_of(seed: str) -> list[Step]:
    chance = random.Random(seed)
    kinds = ("lay",) * 9 + ("slide",) * 2 + ("undo",) * 4 + ("redo",) * 2 + ("jump", "save", "save",
                                                                            "fail")  # fmt: skip
    return [Step(chance.choice(kinds), chance.randrange(1 << 30)) for _ in range(STEPS)]


def take(handle: ProjectHandle, step: Step) -> None:
    """Do it to a project; saving is somebody else's."""
    chance, history = random.Random(step.seed), handle.history
    room = handle.room("Yard")
    match step.kind:
        case "lay":
            brush = chance.choice(("Mud", "Water", "Stones", "Lamp", "Bush", "Reeds", "Lift"))
            y, x = chance.randrange(12), chance.randrange(12)
            way = (
                {"cells": [(y, x)]} if chance.random() < 0.5 else {"box": ((y, x), (y + 3, x + 4))}
            )
            room.lay(brush, **way)  # type: ignore[arg-type]
        case "slide":
            mud = handle.data.brush("Mud")
            slid = mud.changed(seed=chance.randrange(900))  # type: ignore[attr-defined]
            history.apply(put_brush(handle.data, slid), "slide")  # joins the one before
            return
        case "undo":
            history.undo()
        case "redo":
            history.redo()
        case "jump":
            history.jump(chance.randrange(len(history.edits) + 1))
        case "fail":
            return
    history.seal()


def fresh() -> ProjectHandle:
    """The project every life begins with, not saved yet."""
    handle = small_room((12, 12)).project
    handle.history = History(handle.data)
    handle.data.id = "kills"
    return handle


def save(handle: ProjectHandle, keeper: Keeper, folder: Path, *, fails: bool) -> None:
    """As the window saves; a save that fails is stopped before it is in place."""
    saving, before = handle.saving(folder), handle.folder
    promise = keeper.begin_saving(folder)

    def told(state: str) -> None:
        promise(state)
        if fails:
            raise TopionError("stopped")

    with suppress(TopionError):
        saving.write(promise=told)
        handle.saved(saving)
        keeper.saved(saving, before)


def reopened(folder: Path, place: Path) -> tuple[ProjectHandle, Keeper]:
    """The project as the next run finds it.  Raises AssertionError if it is not there."""
    if (folder / "project.json").exists():
        handle = topion.open(folder)
        return handle, Keeper(handle)
    left = unsaved()
    assert left, "the project is nowhere"
    found = brought_back(left[0].kept)
    assert found.keeper is not None
    return found.handle, found.keeper


def work(handle: ProjectHandle, keeper: Keeper, folder: Path, steps: list[Step], told: int) -> None:
    """The child: take the steps, and tell of each when it is done."""
    for step in steps:
        if step.kind in ("save", "fail"):
            save(handle, keeper, folder, fails=step.kind == "fail")
        else:
            take(handle, step)
        os.write(told, b".")
    time.sleep(60)  # until it is killed


def kill_once(parent: int, heard: int, chance: random.Random) -> int:
    """Let a child work for a while and kill it; how many steps it told of."""
    wanted, got = chance.randrange(STEPS + 1), 0
    while got < wanted:
        more = len(os.read(heard, wanted - got))
        assert more, f"the child ended by itself after {got} steps"
        got += more
    time.sleep(chance.choice((0, 0, 0.0003, 0.001, 0.003, 0.008)))
    os.kill(parent, signal.SIGKILL)
    os.waitpid(parent, 0)
    while more := os.read(heard, 4096):
        got += len(more)
    return got


def life(seed: int, place: Path, rounds: int) -> str:
    """One project through so many kills; what was lost, or nothing.

    XDG_STATE_HOME must be a folder of its own.
    """
    folder = place / "Life.topion"
    expected = fresh()
    for number in range(rounds):
        chance = random.Random(f"life {seed} {number}")
        steps = steps_of(f"steps {seed} {number}")
        heard, told = os.pipe()
        child = os.fork()
        if child == 0:
            os.close(heard)
            try:
                if not _is_anywhere(folder):
                    handle = fresh()
                    keeper = Keeper(handle)
                else:
                    handle, keeper = reopened(folder, place)
                work(handle, keeper, folder, steps, told)
            except BaseException:
                traceback.print_exc(file=sys.stderr)
            finally:
                os._exit(1)
        os.close(told)
        done = kill_once(child, heard, chance)
        os.close(heard)
        for step in steps[:done]:
            take(expected, step)
        if not _is_anywhere(folder) and not expected.history.edits:
            continue  # nothing was laid yet
        handle, keeper = reopened(folder, place)
        try:
            if _differs(handle, expected) and done < STEPS:
                take_in_flight(expected, steps[done], handle.history.at)
            wrong = _differs(handle, expected)
        finally:
            keeper.close()
        if wrong:
            return f"life {seed}, kill {number} after {done} steps: {wrong}"
        expected = handle
    return ""


def take_in_flight(expected: ProjectHandle, step: Step, at: int) -> None:
    """Do what the child was at; a jump goes stroke by stroke and may end on its way."""
    before = expected.history.at
    take(expected, step)
    lo, hi = sorted((before, expected.history.at))
    if step.kind == "jump" and lo <= at <= hi:
        expected.history.jump(at)


def _is_anywhere(folder: Path) -> bool:
    return (folder / "project.json").exists() or bool(unsaved())


def _differs(found: ProjectHandle, expected: ProjectHandle) -> str:
    wrong = differences(found.data, expected.data)
    if wrong:
        return wrong[0]
    mine, theirs = ([edit.label for edit in h.history.edits] for h in (found, expected))
    if mine != theirs:
        return f"strokes {mine[-5:]} instead of {theirs[-5:]}"
    if found.history.at != expected.history.at:
        return f"the playhead is at {found.history.at}, not {expected.history.at}"
    return ""
