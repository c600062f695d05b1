"""Opening projects: read, and what a journal kept laid again; for threads."""

from __future__ import annotations

import json
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from topion import scripting
from topion.edit.resume import Kept
from topion.edit.serial import edit_from_plain
from topion.edit.whole import project_of
from topion.errors import BadFile, TopionError
from topion.formats.packing import unpack
from topion.merging.git import clone_of
from topion.render.atlas import atlas_of, mean_colours
from topion.view.keeper import Keeper


@dataclass
class Opened:
    """A project, and its keeper where that was begun already.  wrong : with a room of it, or
    with opening what was asked for.  home : nothing was asked for, so Home is shown."""

    handle: scripting.ProjectHandle
    keeper: Keeper | None = None
    wrong: str = ""
    home: bool = False


def opened(folder: Path, step: Callable[[str], None], *, keep: bool = True) -> Opened:
    """Open a project, a packed one too, and read the first of its rooms that is sound; slow for
    large rooms.

    keep : begin its keeper.  Raises BadFile where no room is sound.
    """
    if folder.is_file():  # a packed project: what it unpacks to lies beside it from now on
        step(f"unpacking {folder.name}")
        folder = unpack(folder)
    handle = scripting.open(folder, step, clone_of(folder))
    wrong: BadFile | None = None
    for name in handle.rooms():
        try:
            warmed(handle, name)
        except BadFile as problem:
            wrong = wrong or problem
        else:
            break
    else:
        if wrong:
            raise wrong
    if keep:
        step("what was not saved")
    return Opened(handle, Keeper(handle) if keep else None, str(wrong or ""))


def warmed(handle: scripting.ProjectHandle, name: str) -> None:
    """Make what the first picture of a room needs, so that the window does not wait for it."""
    room = handle.ready_room(name)
    if room.info.axes == 2:
        mean_colours(handle.data, room.info.theme)
        atlas_of(handle.data, room.info.cell_px, room.info.theme)


def blank() -> scripting.ProjectHandle:
    """A new project with one empty room."""
    handle = scripting.new(None, "Untitled")
    handle.add_room("Room 1")
    handle.history = scripting.History(handle.data)
    return handle


def brought_back(kept: Kept) -> Opened:
    """A project that was never saved, as far as its journal goes.  Raises TopionError."""
    try:
        data = project_of(edit_from_plain(json.loads(kept.about.get("base", ""))))
    except (ValueError, RecursionError) as problem:
        raise BadFile(kept.path.name, f"cannot be read: {problem}") from None
    data.name = data.name or kept.about.get("name", "Untitled")
    data.id = kept.about.get("id", "")[:32]
    handle = scripting.ProjectHandle(data)
    keeper = Keeper(handle, kept)
    for name in handle.rooms():
        with suppress(TopionError):
            handle.ready_room(name)
    return Opened(handle, keeper)
