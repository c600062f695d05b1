"""Opening projects: read, and what a journal kept laid again; for threads."""

from __future__ import annotations

import json
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QImage, QPainter

from topion import scripting
from topion.edit.resume import Kept
from topion.edit.serial import edit_from_plain
from topion.edit.whole import project_of
from topion.errors import BadFile, TopionError
from topion.formats.packing import unpack
from topion.merging.git import clone_of
from topion.model.layer import Layer
from topion.model.project import Project
from topion.render.atlas import atlas_of, mean_colours
from topion.render.faces import face_book
from topion.things.field import field_of
from topion.things.sowing import tables_ready
from topion.view.keeper import Keeper
from topion.view.table.camera import Camera
from topion.view.table.chunks import Chunks
from topion.weaving.looms import loom_of

_WINDOW = QSize(1280, 800)
BESIDE = QSize(468, 240)  # what the panels take of it


@dataclass
class Opened:
    """A project, and its keeper where that was begun already.  wrong : with a room of it, or
    with opening what was asked for.  home : nothing was asked for, so Home is shown."""

    handle: scripting.ProjectHandle
    keeper: Keeper | None = None
    wrong: str = ""
    home: bool = False


def opened(
    folder: Path, step: Callable[[str], None], window: QSize = _WINDOW, *, keep: bool = True
) -> Opened:
    """Open a project, a packed one too, and read the first of its rooms that is sound; slow for
    large rooms.

    window : in which it is shown.  keep : begin its keeper.  Raises BadFile where no room is sound.
    """
    if folder.is_file():  # a packed project: what it unpacks to lies beside it from now on
        step(f"unpacking {folder.name}")
        folder = unpack(folder)
    handle = scripting.open(folder, step, clone_of(folder))
    wrong: BadFile | None = None
    for name in handle.rooms():
        try:
            warmed(handle, name, window)
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


def warmed(handle: scripting.ProjectHandle, name: str, window: QSize = _WINDOW) -> None:
    """Make what the first picture of a room needs, so that a window of that size does not wait
    for it: it is drawn once, for nobody, but for fields whose tables are still to be made."""
    room = handle.ready_room(name)
    if handle.data.blocks:
        face_book(handle.data, room.info.theme)
        loom_of(handle.data, "blocks")
    if room.info.axes != 2:
        return
    mean_colours(handle.data, room.info.theme)
    atlas_of(handle.data, room.info.cell_px, room.info.theme)
    image = QImage((window - BESIDE).expandedTo(QSize(1, 1)), QImage.Format.Format_RGB32)
    camera, chunks = Camera(cell_px=room.info.cell_px), Chunks(handle.data, room, _is_ready)
    camera.show_room(room.info.size, QRectF(image.rect()))
    painter = QPainter(image)
    while not chunks.paint(painter, camera, QRectF(image.rect())):
        pass
    painter.end()


def _is_ready(project: Project, layer: Layer) -> bool:
    field = field_of(project, layer)
    return field is None or tables_ready(field)


def blank() -> scripting.ProjectHandle:
    """A new project with one empty room."""
    handle = scripting.new(None, "Untitled")
    handle.add_room("Room 1")
    handle.history = scripting.History(handle.data)
    return handle


def brought_back(kept: Kept, window: QSize = _WINDOW) -> Opened:
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
    for name in handle.rooms()[:1]:
        with suppress(TopionError):
            warmed(handle, name, window)
    return Opened(handle, keeper)
